"""Clocks tied by what two units both felt, or honestly not at all."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from agile_strike.core.recording import Event, UnitSignal
from agile_strike.core.student.clocks import Pairs, UnitClock, tie
from agile_strike.core.student.jolts import contact_shifts, jolts
from agile_strike.core.student.net import adjusted
from agile_strike.core.student.stamps import DELAY_S, felt_by, reference_stamps

Floats = NDArray[np.float64]
G = 9.80665


def strikes(rng: np.random.Generator, count: int, gap: float = 3.0) -> Floats:
    return 8.0 + np.cumsum(gap * rng.uniform(0.8, 1.25, count))


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.floats(-3.0, 3.0), st.floats(-200.0, 200.0))
def test_offset_and_drift_come_back_among_jolts_that_are_no_contacts(seed: int, offset: float, drift: float) -> None:
    rng = np.random.default_rng(seed)
    contacts = strikes(rng, 40)
    mine = contacts[rng.random(40) < 0.6]
    own = (mine - offset) / (1 + 1e-6 * drift) + 0.0004 * rng.standard_normal(len(mine))
    others = rng.uniform(0, own.max(), 40)
    found = tie(
        contacts, np.sort(np.concatenate([own, others])), float(np.clip(offset + rng.uniform(-0.5, 0.5), -3, 3))
    )
    assert found is not None
    for at in (contacts[0], contacts[-1]):
        true = (at - offset) / (1 + 1e-6 * drift)
        assert abs(found[0] + true * (1 + 1e-6 * found[1]) - at) < 0.002


def test_unrelated_events_are_refused() -> None:
    refused = 0
    for seed in range(60):
        rng = np.random.default_rng(seed)
        refused += tie(strikes(rng, 25), np.sort(rng.uniform(0, 90, 60)), 0.0) is None
    assert refused >= 57


@pytest.mark.parametrize("count", [0, 1])
def test_one_event_ties_nothing(count: int) -> None:
    assert tie(np.arange(count, dtype=np.float64), np.array([1.0, 2.0, 3.0]), 0.0) is None


def test_a_short_stretch_leaves_the_drift_near_zero_and_stamps_bring_it() -> None:
    drift = 150.0
    own = np.array([50.0, 51.1, 52.3, 53.2])
    contacts = Pairs(own, 0.3 + own * (1 + 1e-6 * drift), np.ones(4))
    assert abs(contacts.clock("leftankle", "contacts").drift_ppm) < 25.0
    stamps = np.array([2.0, 2.7, 3.5, 98.0, 98.8, 99.7])
    joined = contacts.joined(stamps, 0.3 + stamps * (1 + 1e-6 * drift), 0.25).clock("leftankle", "contacts")
    assert joined.drift_ppm == pytest.approx(drift, abs=5.0)
    assert joined.reference(joined.own(np.array(70.0))) == pytest.approx(70.0, abs=1e-9)


def worn(unit: str, rate: float, shocks: list[float], size: float, length: float = 60.0, seed: int = 1) -> UnitSignal:
    """A unit at rest that feels shocks: a damped swing of 26 Hz, mostly upward."""
    rng = np.random.default_rng(seed)
    t = np.arange(int(length * rate)) / rate
    accel = np.tile([0.0, 0.0, G], (len(t), 1)) + 0.05 * rng.standard_normal((len(t), 3))
    for at in shocks:
        since = np.maximum(t - at, 0.0)
        accel[:, 2] += size * np.exp(-since / 0.012) * np.sin(2 * np.pi * 26.0 * since)
    return UnitSignal(unit, rate, accel.astype(np.float32), np.zeros((len(t), 3), np.float32), 157.0, 35.0)


def test_jolts_are_found_once_each_at_their_onset() -> None:
    at = [5.0, 9.3, 30.123]
    found = jolts(worn("leftwrist", 1000.0, at, 60.0), 5.0)
    assert found.at_s == pytest.approx(at, abs=0.003)
    only = jolts(worn("leftwrist", 1000.0, at, 60.0), 5.0, [(8.0, 12.0)])
    assert only.at_s == pytest.approx([9.3], abs=0.003)


def test_a_contact_begins_where_the_limb_leaves_its_own_course() -> None:
    unit = worn("rightwrist", 1000.0, [], 0.0)
    t = np.arange(len(unit.accel_m_s2)) / 1000.0
    true = 20.0004
    pushed = np.where(t > true, 700.0 * np.sin(np.pi * np.clip((t - true) / 0.016 + 0.045, 0, 1)) ** 1.5, 0.0)
    accel = unit.accel_m_s2.copy()
    accel[:, 0] -= pushed.astype(np.float32)
    felt = UnitSignal("rightwrist", 1000.0, np.clip(accel, -157, 157), unit.gyro_rad_s, 157.0)
    for off in (-0.002, 0.0, 0.002):
        assert contact_shifts(felt, np.array([true + off]))[0] == pytest.approx(-off, abs=0.0012)
    assert np.isnan(contact_shifts(unit, np.array([20.0]))[0])


def test_stamps_tie_a_pelvis_unit_whose_clock_is_seconds_off() -> None:
    stamps, late = [3.0, 3.7, 4.6, 54.0, 54.8, 55.5], 1.7
    wrist = worn("leftwrist", 1000.0, [s + 0.005 for s in stamps], 30.0)
    pelvis = worn("pelvis", 400.0, [s + 0.002 - late for s in stamps], 30.0, 56.0, seed=2)
    clock = UnitClock("leftwrist", 0.0, 0.0, 0.1, "contacts", True)
    contacts = np.linspace(10.0, 45.0, 12)
    start, end = reference_stamps({"leftwrist": wrist}, {"leftwrist": clock}, (), contacts, 60.0)
    assert start == pytest.approx(stamps[:3], abs=0.004)
    felt = felt_by(pelvis, start, end, 0.0, 3.6)
    assert felt is not None
    tied = Pairs(*felt, np.ones(6)).clock("pelvis", "stamps")
    assert tied.offset_s == pytest.approx(late, abs=0.005)


def test_two_stamps_or_evenly_wrong_ones_tie_nothing() -> None:
    stamps = np.array([3.0, 3.7, 4.6])
    two = worn("pelvis", 400.0, [3.0, 3.7], 30.0)
    other = worn("pelvis", 400.0, [3.0, 4.1, 5.9], 30.0)
    assert felt_by(two, stamps, np.zeros(0), 0.0, 3.6) is None
    assert felt_by(other, stamps, np.zeros(0), 0.0, 3.6) is None


def test_told_stamps_are_looked_for_where_they_were_told() -> None:
    wrist = worn("leftwrist", 1000.0, [3.0, 3.7, 4.6, 7.0, 7.6, 8.3], 30.0)
    clock = UnitClock("leftwrist", 0.0, 0.0, 0.1, "contacts", True)
    told = (Event(6.8, 2.0, "stamps", ""),)
    start, _ = reference_stamps({"leftwrist": wrist}, {"leftwrist": clock}, told, np.array([12.0, 40.0]), 60.0)
    assert start == pytest.approx([6.995, 7.595, 8.295], abs=0.004)


def test_stamps_and_contacts_of_all_units_together_place_the_ends_of_an_evening() -> None:
    """Each limb strikes in its own part of the evening and feels its contacts a little late, each otherwise: alone it
    knows the other end badly. Stamps at both ends, felt by all, are not any one limb's."""
    rng = np.random.default_rng(11)
    spans = {"rightwrist": (10.0, 30.0), "leftwrist": (45.0, 95.0), "rightankle": (110.0, 125.0), "pelvis": (0.0, 0.0)}
    at = np.array([3.0, 3.7, 4.4, 131.0, 131.8, 132.5])
    units, clocks, pairs, felt, true = {}, {}, {}, {}, {}
    for name, (first, last) in spans.items():
        drift = float(rng.uniform(-100.0, 100.0))
        offset = float(rng.uniform(-0.5, 0.5))
        true[name] = UnitClock(name, offset, drift, 0.0, "", True)
        units[name] = UnitSignal(name, 400.0, np.zeros((400, 3), np.float32), np.zeros((400, 3), np.float32))
        when = at + DELAY_S[units[name].kind]
        felt[name] = (true[name].own(when) + 0.0003 * rng.standard_normal(6), when)
        if last:
            struck = np.linspace(first, last, 8)
            late = 0.001 * rng.standard_normal() + 0.0004 * rng.standard_normal(8)
            pairs[name] = Pairs(true[name].own(struck) + late, struck, np.ones(8))
            clocks[name] = pairs[name].clock(name, "contacts")
        else:
            clocks[name] = Pairs(*felt[name], np.ones(6)).clock(name, "stamps")
    together = adjusted(units, clocks, pairs, felt, np.array([10.0, 125.0]), 135.0)
    alone = max(np.abs(clocks[n].reference(true[n].own(at)) - at).max() for n in pairs)
    assert alone > 0.003
    for name, clock in together.items():
        off = np.abs(clock.reference(true[name].own(at)) - at).max()
        assert off < 0.0015, name
    assert 1.0 <= together["pelvis"].residual_ms < 3.0
