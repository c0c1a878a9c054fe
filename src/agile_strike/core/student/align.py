"""Every worn unit's clock against the bag's: limb units by the contacts that both feel, the rest by stamps, and the
trunk's without any by what jolts all of a body, or by what strikes send through it."""

from dataclasses import replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import Event, Recording, UnitSignal
from agile_strike.core.student import clocks as ck
from agile_strike.core.student import stamps
from agile_strike.core.student.alike import CRYSTAL_PPM, alike
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.jolts import contact_shifts, jolts
from agile_strike.core.student.net import adjusted
from agile_strike.core.student.recoil import by_strikes
from agile_strike.core.student.underfoot import TRUNK, soles_by_load

Floats = NDArray[np.float64]

LIMB_KINDS = ("wrist", "forearm", "ankle")
ORDER = {"pelvis": 0, "torso": 0, "ankle": 1}  # in which clocks are tied by what is between strikes
CONTACT_JOLT_M_S2 = 45.0
MOST_JOLTS_PER_CONTACT = 4
NEAR_TIED_S = 0.1  # of a clock that contacts have tied already


def align(recording: Recording, contact_s: Floats) -> tuple[dict[str, UnitClock], Floats]:
    """Every worn unit's clock, limb units by contacts, the rest by stamps or by what the body does between strikes;
    and when the stamps were, reference clock (up to six)."""
    units = {n: u for n, u in recording.units.items() if n != "bag"}
    bag = recording.units.get("bag")
    length_s = bag.length_s if bag else 0.0
    out: dict[str, UnitClock] = {}
    pairs: dict[str, ck.Pairs] = {}
    for name, unit in units.items():
        if unit.kind not in LIMB_KINDS:
            continue
        jolted = jolts(unit, CONTACT_JOLT_M_S2)
        most = MOST_JOLTS_PER_CONTACT * len(contact_s) + 20
        keep = np.sort(np.argsort(jolted.size)[-most:])
        tied = ck.tie(contact_s, jolted.at_s[keep], unit.starts_s or 0.0)
        if tied is not None:
            pairs[name] = ck.sharpened(tied, contact_s[tied[3]], partial(contact_shifts, unit))
            out[name] = pairs[name].clock(name, "contacts")
    start, end = stamps.reference_stamps(units, out, recording.events, contact_s, length_s)
    # a limb that hardly felt them is known near enough to look for them faintly
    felt: dict[str, tuple[Floats, Floats]] = {}
    for name, unit in units.items():
        if unit.kind not in stamps.DELAY_S or not len(start) + len(end):
            continue
        if name in pairs:
            by_stamps = stamps.felt_by(unit, start, end, out[name].offset_s, NEAR_TIED_S, stamps.FAINT_M_S2)
        else:
            by_stamps = stamps.felt_by(unit, start, end, unit.starts_s or 0.0, ck.SEARCH_S)
        if by_stamps is not None:
            felt[name] = by_stamps
            if name not in pairs:
                out[name] = ck.Pairs(*by_stamps, np.ones(len(by_stamps[0]))).clock(name, "stamps")
    if bag is not None and pairs:
        _between_strikes(units, out, pairs, felt, recording.events, contact_s, length_s)
    return out | {n: ck.not_aligned(n) for n in units if n not in out}, np.concatenate([start, end])


def _between_strikes(
    units: dict[str, UnitSignal],
    out: dict[str, UnitClock],
    pairs: dict[str, ck.Pairs],
    felt: dict[str, tuple[Floats, Floats]],
    events: tuple[Event, ...],
    contact_s: Floats,
    length_s: float,
) -> None:
    """Adds to `out` the clocks that stamps did not tie, the trunk's first, then ankles; moves all to where contacts,
    stamps and what jolts a body agree; then soles that stamps of both ends did not tie, by what they carry."""
    firm = {n for n, (_, when) in felt.items() if not one_end(when)}
    known = [n for n in out if units[n].kind != "sole"]
    for name in sorted(
        (n for n in units if units[n].kind in ORDER and n not in out), key=lambda n: ORDER[units[n].kind]
    ):
        # a walk sets one foot after the other, each as the other was: an ankle is not held against an ankle
        others = [n for n in known if units[n].kind != "ankle" or units[name].kind != "ankle"]
        moved = alike(units[name], [(units[n], out[n]) for n in others], contact_s, length_s)
        if moved is not None:
            out[name] = moved
            known.append(name)
        elif units[name].kind in TRUNK and (struck := by_strikes(units[name], contact_s, length_s)) is not None:
            out[name] = struck
    tied = {n: c for n, c in out.items() if n in known or n in firm}
    out |= adjusted(units, tied, pairs, {n: f for n, f in felt.items() if n in tied}, contact_s, length_s)
    soles = [n for n in units if units[n].kind == "sole"]
    if not firm.issuperset(soles):
        found = soles_by_load(units, soles, out, events, contact_s, length_s)
        out |= {n: running(out[n], felt[n][1], length_s) for n in soles if n in out and n not in firm}
        out |= {n: clock for n, clock in found.items() if n not in firm}


def one_end(when_s: Floats) -> bool:
    """Whether stamps that a unit felt, by the reference clock, are those of one end of the evening alone."""
    return float(np.ptp(when_s)) < ck.LEAST_SPAN_S


def running(clock: UnitClock, when_s: Floats, length_s: float) -> UnitClock:
    """A clock by the stamps of one end alone: a crystal's run through the evening is in its residual."""
    away_s = float(np.abs(np.array([0.0, length_s]) - when_s.mean()).max())
    return replace(clock, residual_ms=float(np.hypot(clock.residual_ms, 1e-3 * CRYSTAL_PPM * away_s)))
