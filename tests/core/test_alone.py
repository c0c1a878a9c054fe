"""Strikes that no bag felt: on pads and in the air, from the units on wrists and ankles alone."""

from dataclasses import dataclass, replace

import numpy as np
import pytest
from kept import simulate_free
from makers import dressed, play

from agile_strike.core.analysis import Analysis, analyse
from agile_strike.core.measured import Measured
from agile_strike.core.recording import reference_of
from agile_strike.core.simulation.bagless import DAILY, Free, FreeSet, daily
from agile_strike.core.simulation.student import KICK, Body, Technique
from agile_strike.core.simulation.wear import WearMess
from agile_strike.core.student.alone import Blow, _merged, doubted
from agile_strike.core.student.behind import behind, estimated
from agile_strike.core.student.clocks import UnitClock

SAME_S = 0.05
SLOW = Technique(reach_m=0.55, climb=2.0, pullback_m=0.04, return_s=0.4)
SETS = (
    FreeSet("met"),
    FreeSet("air"),
    FreeSet("met", "left_hand", "lead-hook", speed_m_s=5.0),
    FreeSet("air", "left_hand", "lead-straight", speed_m_s=3.6, technique=SLOW),
    FreeSet("met", "right_foot", "rear-round", 8, 9.0, 3.5, technique=KICK),
    FreeSet("air", "right_foot", "rear-round", 8, 8.0, 3.5, technique=KICK),
)
#: a calm guard and a restless one that is put elsewhere; quick units that end at 16 g and slow ones
WORLDS = (
    (Body(bounce_m=0.001, sway_m=0.004), WearMess()),
    (Body(moves_m=0.2), WearMess(wrist_rate_hz=400.0, wobble_hz=45.0, full_scale_m_s2=314.0)),
)


@dataclass
class Told:
    played: Free
    analysis: Analysis
    pairs: list[tuple[int, int]]  #: strikes found, and thrown

    def errors(self, measure: str, kind: str = "") -> np.ndarray:
        """(n, 2) of what is told less what is true, and its doubt."""
        rows = []
        for f, t in self.pairs:
            true, got = self.played.truths[t].get(measure), self.analysis.strikes[f].measures.get(measure)
            if true is not None and got is not None and (not kind or self.played.kinds[t] == kind):
                rows.append((got.value - true, got.sd))
        return np.array(rows)


def told(played: Free) -> Told:
    analysis = analyse(played.recording)
    reference = reference_of(played.recording.units)
    assert reference is not None
    offset, drift = played.worn.clocks[reference]
    pairs = []
    for f, s in enumerate(analysis.strikes):
        at = offset + s.contact_s * (1.0 + 1e-6 * drift)
        t = int(np.argmin(np.abs(np.array(played.contact_s) - at)))
        if abs(played.contact_s[t] - at) < SAME_S and played.limbs[t] == s.limb and t not in {p[1] for p in pairs}:
            pairs.append((f, t))
    return Told(played, analysis, pairs)


@pytest.fixture(scope="module")
def evenings() -> list[Told]:
    units = ("leftwrist", "rightwrist", "rightankle", "pelvis")
    return [told(simulate_free(SETS, units, np.random.default_rng(k), *world)) for k, world in enumerate(WORLDS, 41)]


def test_strikes_on_pads_and_in_the_air_are_found_and_told_apart(evenings: list[Told]) -> None:
    thrown = sum(len(e.played.kinds) for e in evenings)
    right = sum(e.analysis.strikes[f].kind == e.played.kinds[t] for e in evenings for f, t in e.pairs)
    assert right >= 0.97 * thrown
    assert sum(len(e.analysis.strikes) - len(e.pairs) for e in evenings) <= 0.02 * thrown


@pytest.mark.parametrize(
    ("measure", "kind", "median", "worst"),
    [
        ("peak_speed_m_s", "met", 0.06, 0.3),
        ("peak_speed_m_s", "air", 0.06, 0.3),
        ("contact_speed_m_s", "met", 0.1, 0.5),
        ("flight_ms", "met", 2.0, 8.0),
        ("flight_ms", "air", 2.0, 8.0),
        ("turnover_deg", "", 4.0, 8.0),
        ("pelvis_before_ms", "", 3.0, 6.0),
    ],
)
def test_what_the_limb_did_is_told_as_with_a_bag(
    evenings: list[Told], measure: str, kind: str, median: float, worst: float
) -> None:
    off = np.concatenate([e.errors(measure, kind) for e in evenings])
    assert np.median(np.abs(off[:, 0])) < median
    assert np.percentile(np.abs(off[:, 0]), 95) < worst
    assert np.mean(np.abs(off[:, 0]) <= 2.0 * off[:, 1]) >= 0.86


def test_in_the_air_nothing_is_told_of_a_contact_and_no_force_anywhere(evenings: list[Told]) -> None:
    for strike in evenings[0].analysis.strikes:
        assert ("contact_speed_m_s" in strike.measures) == (strike.kind == "met")
        assert not {"impulse_n_s", "effective_mass_kg", "peak_force_n"} & strike.measures.keys()
    why = {n.measure: n.why for n in evenings[0].analysis.not_measured}
    assert why["impulse_n_s"] == "no bag unit in this recording"


def test_all_is_told_on_one_units_clock(evenings: list[Told]) -> None:
    clocks = {u.unit: u for u in evenings[0].analysis.units}
    assert clocks["rightwrist"].aligned_by == "reference"
    for name, (offset, _) in evenings[0].played.worn.clocks.items():
        assert clocks[name].aligned
        apart = offset - evenings[0].played.worn.clocks["rightwrist"][0]
        assert abs(clocks[name].offset_s - apart) < 0.006


@pytest.mark.parametrize("kind", list(DAILY))
def test_hands_and_feet_that_strike_nobody_are_no_strikes(kind: str) -> None:
    minute = daily(kind, 60.0, np.random.default_rng(7), units=("leftwrist", "rightwrist", "leftankle", "rightankle"))
    assert len(analyse(minute).strikes) <= (1 if kind == "guarding" else 0)


def test_units_that_are_too_slow_to_tell_a_strike_from_a_clap_say_so(evenings: list[Told]) -> None:
    made = evenings[0].played.recording
    slow = {
        n: replace(u, rate_hz=u.rate_hz / 40, accel_m_s2=u.accel_m_s2[::40], gyro_rad_s=u.gyro_rad_s[::40])
        for n, u in made.units.items()
    }
    told = analyse(replace(made, units=slow))
    assert told.strikes == []
    assert any("samples a second" in n.why for n in told.not_measured)


def test_a_bag_that_nobody_put_a_unit_on_is_struck_all_the_same() -> None:
    played = play(dressed(), seed=17)
    with_bag = played.analyses[0]
    bare = replace(
        with_bag.recording, bag=None, units={n: u for n, u in with_bag.recording.units.items() if n != "bag"}
    )
    alone = analyse(bare)
    assert {s.kind for s in alone.strikes} == {"met"}
    assert abs(len(alone.strikes) - len(with_bag.strikes)) <= 0.05 * len(with_bag.strikes)


def test_a_contact_whose_instant_is_unsure_leaves_its_speed_unsure(evenings: list[Told]) -> None:
    measures = evenings[0].analysis.strikes[0].measures
    for name in ("contact_speed_m_s", "flight_ms", "speed_held_pct"):
        assert doubted(measures, 0.005, 0.0)[name].sd > 1.4 * measures[name].sd
    assert doubted(measures, 0.005, 0.01)["path_ratio"] == measures["path_ratio"]


# --- what is behind a strike, from bag evenings


def test_what_a_bag_would_have_felt_is_within_the_doubt_of_it() -> None:
    """Students whose evenings differ by 2 to 10 %, of whom two to eight evenings are known."""
    rng = np.random.default_rng(9)
    inside, wide = [], []
    for _ in range(400):
        between, within, n = rng.uniform(0.02, 0.1), rng.uniform(0.05, 0.12), int(rng.integers(2, 9))
        usual = 3.5 * (1.0 + between * rng.standard_normal(n + 1))
        evenings = [k * (1.0 + within * rng.standard_normal(10)) for k in usual[:-1]]
        share = behind(evenings)
        assert share is not None
        speed = 6.0
        true = usual[-1] * (1.0 + within * rng.standard_normal()) * speed
        told = estimated(Measured(speed * (1.0 + 0.015 * rng.standard_normal()), 0.09), share)
        inside.append(abs(told.value - true) <= 2.0 * told.sd)
        wide.append(told.sd / told.value)
    assert 0.90 <= np.mean(inside) <= 0.99
    assert np.median(wide) < 0.15
    assert behind([np.array([3.5, 3.6, 3.4])]) is None


def test_one_arms_two_units_are_one_strike_and_a_hand_and_a_foot_are_two() -> None:
    def blow(unit: str, at: float) -> Blow:
        return Blow(unit=unit, kind="met", at_s=at, length_s=0.02, top_m_s=6.0, at_sd_s=0.002, speed_sd_share=0.01)

    each = {n: [blow(n, at)] for n, at in (("rightforearm", 2.0), ("rightwrist", 2.01), ("rightankle", 2.03))}
    clocks = {n: UnitClock(n, 0.0, 0.0, 0.0, "stamps", True) for n in each}
    assert [b.unit for b in _merged(each, clocks, np.zeros(0)).blows] == ["rightwrist", "rightankle"]
