"""Every worn unit's clock against the bag's: limb units by the contacts that both feel, the rest by stamps, and the
trunk's without any by what jolts all of a body, or by what strikes send through it."""

from dataclasses import replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.student import clocks as ck
from agile_strike.core.student import stamps
from agile_strike.core.student.alike import CRYSTAL_PPM, alike
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.jolts import contact_shifts, jolts
from agile_strike.core.student.recoil import by_strikes

Floats = NDArray[np.float64]

LIMB_KINDS = ("wrist", "forearm", "ankle")
TRUNK = ("pelvis", "torso")
CONTACT_JOLT_M_S2 = 45.0
MOST_JOLTS_PER_CONTACT = 4
SETTLING = 40
NEAR_TIED_S = 0.1  # of a clock that contacts have tied already
STAMP_WEIGHT = 0.25  # against a contact's onset, which is sharper


def align(recording: Recording, contact_s: Floats) -> tuple[dict[str, UnitClock], Floats]:
    """Every worn unit's clock, limb units by contacts and the rest by stamps; and when the stamps were, reference
    clock (up to six)."""
    units = {n: u for n, u in recording.units.items() if n != "bag"}
    out: dict[str, UnitClock] = {}
    pairs: dict[str, ck.Pairs] = {}
    by_stamps: dict[str, tuple[Floats, Floats]] = {}
    for name, unit in units.items():
        if unit.kind not in LIMB_KINDS:
            continue
        felt = jolts(unit, CONTACT_JOLT_M_S2)
        most = MOST_JOLTS_PER_CONTACT * len(contact_s) + 20
        keep = np.sort(np.argsort(felt.size)[-most:])
        tied = ck.tie(contact_s, felt.at_s[keep], unit.starts_s or 0.0)
        if tied is None:
            out[name] = ck.not_aligned(name)
            continue
        pairs[name] = ck.sharpened(tied, contact_s[tied[3]], partial(contact_shifts, unit))
        out[name] = pairs[name].clock(name, "contacts")
    bag = recording.units.get("bag")
    start, end = stamps.reference_stamps(units, out, recording.events, contact_s, bag.length_s if bag else 0.0)
    start, end = _settled(units, out, pairs, start, end)
    for name, unit in units.items():
        if name in pairs or unit.kind not in stamps.DELAY_S:
            continue
        felt_stamps = stamps.felt_by(unit, start, end, unit.starts_s or 0.0, ck.SEARCH_S)
        if felt_stamps is not None:
            out[name] = ck.Pairs(*felt_stamps, np.ones(len(felt_stamps[0]))).clock(name, "stamps")
            by_stamps[name] = felt_stamps
    limbs = [(units[n], out[n]) for n in pairs]
    for name, unit in units.items():
        if bag is not None:
            half = name in by_stamps and one_end(by_stamps[name])
            tied_so = None
            if limbs and unit.kind in TRUNK and (half or name not in out):
                tied_so = alike(unit, limbs, contact_s, bag.length_s) or by_strikes(unit, contact_s, bag.length_s)
            if half:
                out[name] = from_one_end(out[name], by_stamps[name], tied_so, bag.length_s)
            elif tied_so is not None and name not in out:
                out[name] = tied_so
        out.setdefault(name, ck.not_aligned(name))
    return out, np.concatenate([start, end])


def one_end(felt: tuple[Floats, Floats]) -> bool:
    """Whether stamps that a unit felt, by its clock and the reference, are those of one end of the evening alone."""
    return float(np.ptp(felt[1])) < ck.LEAST_SPAN_S


def from_one_end(clock: UnitClock, felt: tuple[Floats, Floats], other: UnitClock | None, length_s: float) -> UnitClock:
    """A clock by the stamps of one end alone, and by what else ties the unit at the other; where nothing does, a
    crystal's run through the evening is in its residual."""
    own, wanted = felt
    far_s = 0.0 if float(wanted.mean()) > 0.5 * length_s else length_s
    if other is not None:
        there = np.array([far_s])
        joined = ck.Pairs(own, wanted, np.ones(len(own))).joined(other.own(there), there, float(len(own)))
        told = joined.clock(clock.unit, clock.aligned_by)
        return replace(told, residual_ms=float(np.hypot(clock.residual_ms, other.residual_ms)))
    runs_ms = 1e-3 * CRYSTAL_PPM * abs(far_s - float(wanted.mean()))
    return replace(clock, residual_ms=float(np.hypot(clock.residual_ms, runs_ms)))


def _settled(
    units: dict[str, UnitSignal],
    out: dict[str, UnitClock],
    pairs: dict[str, ck.Pairs],
    start_s: Floats,
    end_s: Floats,
) -> tuple[Floats, Floats]:
    """Stamps (3,) at the start and the end, and the limb units' clocks in `out`, by least squares over contacts and
    stamps: a unit that felt contacts for a short while only learns its drift from the stamps that the others place."""
    felt = {}
    for name in pairs:
        found = stamps.felt_by(units[name], start_s, end_s, out[name].offset_s, NEAR_TIED_S)
        if found is not None and len(found[0]) == len(start_s) + len(end_s):
            felt[name] = found[0]
    if not felt:
        return start_s, end_s
    when = np.concatenate([start_s, end_s])
    for _ in range(SETTLING):  # alternating least squares: the clocks, given the stamps; the stamps, given the clocks
        for name, own in felt.items():
            wanted = when + stamps.DELAY_S[units[name].kind]
            out[name] = pairs[name].joined(own, wanted, STAMP_WEIGHT).clock(name, "contacts")
        when = np.mean([out[n].reference(own) - stamps.DELAY_S[units[n].kind] for n, own in felt.items()], axis=0)
    return when[: len(start_s)], when[len(start_s) :]
