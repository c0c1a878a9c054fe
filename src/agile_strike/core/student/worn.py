"""Worn units with their attitude, and which of them made each contact: of a whole evening, or of a piece of it."""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.measured import Measured
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.strikes import AIR, BAG
from agile_strike.core.student.align import LIMB_KINDS, align
from agile_strike.core.student.alone import Found
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.course import Course, course_of
from agile_strike.core.student.feet import Soles, sole_state, soles
from agile_strike.core.student.gravity import (
    Gravity,
    attitude_in,
    covers,
    gravity_beyond,
    gravity_of,
    wandered,
    wanders,
)
from agile_strike.core.student.grid import Neighbours
from agile_strike.core.student.limbs import Limbs, limbs, of_units
from agile_strike.core.student.state import BodyState
from agile_strike.core.student.stretch import Contacts, Tracked
from agile_strike.core.student.unclip import Clipped
from agile_strike.core.student.underfoot import TRUNK

Floats = NDArray[np.float64]
Places = NDArray[np.int64]

SHANKS = ("leftankle", "rightankle")
TYPICAL_CONTACT_S = 0.016
LEAST_S = 1.0  # of a unit in a piece of an evening: less says nothing of a strike
QUIET_S = 0.66  # of every strike: further off, a gyro shows its bias


@dataclass(frozen=True, slots=True)
class Contact:
    """What the bag knew of one strike, or the unit of the limb that made it where there was no bag."""

    at_s: float
    length_s: float | None
    impulse: Measured | None
    planned: str  #: limb that the running set named, or `unknown`
    kind: str = BAG
    at_sd_s: float = 0.0  #: nothing to speak of where the bag felt it, nor of the next
    speed_sd_share: float = 0.0


@dataclass(frozen=True, slots=True)
class Limb:
    """One limb's unit, and the contacts that it made."""

    tracked: Tracked
    mine: Places  #: (k,) among all contacts
    contacts: Contacts


@dataclass(frozen=True, slots=True)
class Worn:
    """A student's units through an evening, or a piece of it."""

    at_s: Floats  #: (s,) contacts on the reference clock
    lengths_s: Floats
    found: Limbs
    limbs: dict[str, Limb]  #: units that made at least one contact
    trunk: dict[str, Tracked]  #: pelvis, torso and ankles, through all contacts
    soles: Soles | None


def evening(recording: Recording, contacts: list[Contact]) -> tuple[Worn, BodyState]:
    """An evening's units, and all that is slow about them but the forearms' axes, which are learnt from its strikes."""
    at, _ = _times(contacts)
    clocks, stamped = align(recording, at)
    units = {n: u for n, u in recording.units.items() if n != "bag"}
    found = limbs(units, clocks, at, [c.planned for c in contacts])
    return _evening(recording, contacts, clocks, stamped, found)


def evening_alone(recording: Recording, contacts: list[Contact], alone: Found) -> tuple[Worn, BodyState]:
    """The same where the units themselves found the strikes and tied their clocks."""
    found = of_units(recording.units, [b.unit for b in alone.blows], [c.planned for c in contacts])
    return _evening(recording, contacts, alone.clocks, alone.stamps_s, found)


def _evening(
    recording: Recording, contacts: list[Contact], clocks: dict[str, UnitClock], stamped: Floats, found: Limbs
) -> tuple[Worn, BodyState]:
    at, lengths = _times(contacts)
    units = {n: u for n, u in recording.units.items() if n != "bag"}
    made: dict[str, Limb] = {}
    quiet: dict[str, list[tuple[float, float]]] = {}
    carried: dict[str, Floats] = {}
    for name, mine in _makers(units, found).items():
        own = _own(clocks[name], at[mine], lengths[mine])
        others = np.array([bool(u) and not _one_limb(units[u], units[name]) for u in found.unit])
        carried[name] = clocks[name].own(at[others])
        course, clipped = course_of(units[name], own.at_s)
        # what no unit felt may be this limb's as well
        jolts = clocks[name].own(np.concatenate([at[~others], stamped]))
        quiet[name] = _quiet(jolts, units[name].length_s)
        gravity, attitude = gravity_of(course, quiet[name], carried[name])
        made[name] = Limb(Tracked(course, attitude, gravity), mine, replace(own, clipped=clipped))
    made |= _put_elsewhere(units, made, quiet, carried)
    known = {n: limb.tracked.known for n, limb in made.items()}
    trunk: dict[str, Tracked] = {}
    jolted_s = np.concatenate([at, stamped])
    for name in _through_all(units, clocks):
        course, _ = course_of(units[name], np.zeros(0))
        jolted = clocks[name].own(jolted_s)
        gravity, attitude = gravity_of(course, _quiet(jolted, units[name].length_s), np.zeros(0), faces=True)
        trunk[name] = Tracked(course, attitude, gravity)
        known[name if name in TRUNK else f"{name} standing"] = gravity
    person = recording.participant
    lead = "right" if person.stance == "southpaw" else "left"
    feet = sole_state(units, clocks, lead, person.mass_kg)
    under = soles(units, clocks, feet) if feet else None
    state = BodyState(clocks, known, swapped=found.swapped, soles=feet, stance=person.stance, mass_kg=person.mass_kg)
    return Worn(at, lengths, found, made, trunk, under), state


def _put_elsewhere(
    units: dict[str, UnitSignal],
    made: dict[str, Limb],
    quiet: dict[str, list[tuple[float, float]]],
    carried: dict[str, Floats],
) -> dict[str, Limb]:
    """Limbs that are put elsewhere between strikes, with gravity as that leaves it known. Who moves one hand so moves
    the other: the one that shows it more speaks for both."""
    tracked = {n: limb.tracked for n, limb in made.items()}
    far = {n: wanders(t.course, t.track, t.known, quiet[n]) for n, t in tracked.items()}
    out = {}
    for name, t in tracked.items():
        farthest = max(f for other, f in far.items() if units[other].kind == units[name].kind)
        if farthest:
            gravity = wandered(t.track, t.known, quiet[name], carried[name], farthest)
            out[name] = replace(made[name], tracked=replace(t, known=gravity))
    return out


def piece(units: dict[str, UnitSignal], contacts: list[Contact], state: BodyState) -> Worn:
    """The same of a piece of an evening, from what is known of it."""
    at, lengths = _times(contacts)
    clocks = {n: state.clocks[n] for n in units}
    found = limbs(units, clocks, at, [c.planned for c in contacts], state.swapped)
    made: dict[str, Limb] = {}
    for name, mine in _makers(units, found).items():
        if name not in state.gravity:
            continue  # it had struck nothing when this was learnt: the next learning knows it
        own = _own(clocks[name], at[mine], lengths[mine])
        course, clipped = course_of(units[name], own.at_s)
        others = np.array([bool(u) and not _one_limb(units[u], units[name]) for u in found.unit])
        jolts, carried = clocks[name].own(at[~others]), clocks[name].own(at[others])
        tracked = _tracked(course, state.gravity[name], jolts, carried)
        made[name] = Limb(tracked, mine, replace(own, clipped=clipped))
    trunk = {}
    through = {n: u for n, u in units.items() if u.length_s >= LEAST_S}  # one that fell silent before says nothing here
    for name in _through_all(through, clocks):
        known = state.gravity.get(name if name in TRUNK else f"{name} standing")
        if known is None:
            continue
        course, _ = course_of(units[name], np.zeros(0))
        trunk[name] = _tracked(course, known, clocks[name].own(at), np.zeros(0))
    both = all(f"{side}sole" in through for side in ("left", "right"))
    under = soles(through, clocks, state.soles) if state.soles and both else None
    return Worn(at, lengths, found, made, trunk, under)


def _tracked(course: Course, known: Gravity, jolted_s: Floats, carried_s: Floats) -> Tracked:
    if covers(known, course):
        return Tracked(course, attitude_in(course, known), known)
    gravity, attitude = gravity_beyond(course, known, _quiet(jolted_s, course.length_s), carried_s)
    return Tracked(course, attitude, gravity)


def _times(contacts: list[Contact]) -> tuple[Floats, Floats]:
    lengths = [0.0 if c.kind == AIR else c.length_s or TYPICAL_CONTACT_S for c in contacts]
    return np.array([c.at_s for c in contacts]), np.array(lengths)


def _makers(units: dict[str, UnitSignal], found: Limbs) -> dict[str, Places]:
    """Limb units that made contacts, and which."""
    out = {}
    for name, unit in units.items():
        mine = np.array([i for i, u in enumerate(found.unit) if u == name], dtype=np.int64)
        if unit.kind in LIMB_KINDS and len(mine):
            out[name] = mine
    return out


def _one_limb(a: UnitSignal, b: UnitSignal) -> bool:
    return a.side == b.side and (a.kind == "ankle") == (b.kind == "ankle")


def _through_all(units: dict[str, UnitSignal], clocks: dict[str, UnitClock]) -> list[str]:
    return [n for n in (*TRUNK, *SHANKS) if n in units and clocks[n].aligned]


def _own(clock: UnitClock, at_s: Floats, length_s: Floats) -> Contacts:
    own = clock.own(at_s)
    return Contacts(own, length_s, neighbours(own, length_s), Clipped.none(len(own)))


def neighbours(own_s: Floats, own_length_s: Floats) -> Neighbours:
    """Gaps between one limb's contacts (k,), on its unit's clock."""
    inf = np.full(len(own_s), np.inf)
    last_from, last_to, older, nxt, nxt_to = -inf, -inf, -inf, inf.copy(), inf.copy()
    last_from[1:] = own_s[:-1] - own_s[1:]
    last_to[1:] = last_from[1:] + own_length_s[:-1]
    older[2:] = own_s[:-2] + own_length_s[:-2] - own_s[2:]
    nxt[:-1] = own_s[1:] - own_s[:-1]
    nxt_to[:-1] = nxt[:-1] + own_length_s[1:]
    return Neighbours(last_from, last_to, older, nxt, nxt_to)


def _quiet(jolted_s: Floats, length_s: float) -> list[tuple[float, float]]:
    """Stretches of a unit's clock well away from its contacts and from stamps, which jolt it as well."""
    edges = np.concatenate([[-QUIET_S], np.sort(jolted_s), [length_s + QUIET_S]])
    return [(a + QUIET_S, b - QUIET_S) for a, b in pairwise(edges) if b - a > 2 * QUIET_S + 0.5]
