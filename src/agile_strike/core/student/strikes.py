"""From strikes on a bag to the student behind them: limb, trunk and feet, each only where units allow.

`learn` gathers all that is slow from an evening; `strikes` measures those of a piece of it. A strike is a function of
the samples within some three seconds of it and of that state, bit for bit, whatever else was recorded.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.measured import Measured
from agile_strike.core.recording import Event, Recording, UnitSignal
from agile_strike.core.strikes import AIR, BAG, KINDS, MET, Lanes
from agile_strike.core.student import feet, stretch, trunk
from agile_strike.core.student.alone import Found, doubted
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.grid import Neighbours
from agile_strike.core.student.lanes import course_lanes, load_lane, speed_lane, turn_lane
from agile_strike.core.student.limbs import SIDES
from agile_strike.core.student.reach import Reach, full_reach_s, long_axis, reach, turnover
from agile_strike.core.student.state import BodyState
from agile_strike.core.student.stretch import Contacts, Stretches
from agile_strike.core.student.unclip import Clipped
from agile_strike.core.student.underfoot import TRUNK
from agile_strike.core.student.worn import SHANKS, Contact, Limb, Worn, evening, evening_alone, neighbours, piece

Floats = NDArray[np.float64]
Places = NDArray[np.int64]

BATCH = 48  # stretches at a time: 60 MB
STAMP_SD_MS = 2.4  # of a clock that six stamps tie: a shock climbs the body faster in some than in others; rigs
ONSET_SD_MS = 2.2  # of contact: a glove, a seat and a filter make what the bag feels late; rigs
CROWDED_S = 0.9  # a strike so near turns the trunk as well
FOREARM = np.array([1.0, 0.0, 0.0])  # the format's long axis of wrists and forearms
SIGN = {"right": 1.0, "left": -1.0}  # of the turn into a strike, seen from above
PART_OF = {BAG: stretch.STRUCK, MET: stretch.MET, AIR: stretch.SWUNG}
ANSWERED_S = 3.0  # after a cue: a later strike is no answer


@dataclass(frozen=True, slots=True)
class OfStudent:
    """What worn units add to one strike."""

    limb: str
    measures: dict[str, Measured] = field(default_factory=dict)
    chain_order: str | None = None
    flags: tuple[str, ...] = ()
    launch_s: float | None = None  #: from contact
    lanes: Lanes | None = None


@dataclass(frozen=True, slots=True)
class StudentMeasures:
    """All strikes of a recording, what is slow about its units, and flags of the whole."""

    strikes: list[OfStudent]
    state: BodyState

    @property
    def clocks(self) -> dict[str, UnitClock]:
        return self.state.clocks

    @property
    def flags(self) -> tuple[str, ...]:
        swapped = ("units_swapped",) if self.state.swapped else ()
        return (*swapped, *(f"slipped:{n}" for n in self.state.slipped))


@dataclass(frozen=True, slots=True)
class _Reached:
    """What one limb did in its strikes (k,)."""

    mine: Places
    measures: list[dict[str, Measured]]
    launches: list[float | None]
    curves: list[dict[str, Floats]]
    clipped: list[bool]
    forearm: Floats | None  #: how it lies in the unit; None of an ankle


def learn(recording: Recording, contacts: Sequence[Contact]) -> BodyState:
    """All that is slow about the worn units, from an evening so far and its contacts, in order of time."""
    worn, state = evening(recording, list(contacts))
    return _with_forearms(state, _reached(worn, contacts, state))


def strikes(
    units: dict[str, UnitSignal], contacts: Sequence[Contact], events: Sequence[Event], state: BodyState
) -> list[OfStudent]:
    """What the worn units say of the contacts of a piece of the evening. Those whose neighbours lie outside of it are
    measured as if they had none: see `window`."""
    worn = piece(units, list(contacts), state)
    return _told(worn, contacts, events, state, _reached(worn, contacts, state))


def measure(recording: Recording, contacts: Sequence[Contact]) -> StudentMeasures:
    """Learn from a whole evening, then measure it: what `learn` and `strikes` do, without doing anything twice."""
    worn, state = evening(recording, list(contacts))
    reached = _reached(worn, contacts, state)
    state = _with_forearms(state, reached)
    return StudentMeasures(_told(worn, contacts, recording.events, state, reached), state)


def measure_alone(recording: Recording, contacts: Sequence[Contact], alone: Found) -> StudentMeasures:
    """The same of strikes that the units themselves found."""
    worn, state = evening_alone(recording, list(contacts), alone)
    reached = _reached(worn, contacts, state)
    state = _with_forearms(state, reached)
    return StudentMeasures(_told(worn, contacts, recording.events, state, reached), state)


def at_full_reach(recording: Recording, alone: Found) -> Found:
    """Strikes in the air at the instant of full reach by the limb's own course, where it shows that."""
    contacts = [
        Contact(at, b.length_s or None, None, "unknown", b.kind) for at, b in zip(alone.at_s, alone.blows, strict=True)
    ]
    worn, _ = evening_alone(recording, contacts, alone)
    later = np.zeros(len(contacts))
    for limb in worn.limbs.values():
        for kind, rows in _batches(limb, contacts):
            if kind == AIR:
                s = stretch.stretches(limb.tracked, limb.contacts.part(rows), PART_OF[kind])
                later[limb.mine[rows]] = [full_reach_s(s, k) or 0.0 for k in range(len(rows))]
    at = np.array(alone.at_s) + later
    order = np.argsort(at, kind="stable")
    blows = [replace(alone.blows[i], at_s=alone.blows[i].at_s + float(later[i])) for i in order]
    return replace(alone, blows=blows, at_s=[float(at[i]) for i in order])


def _reached(worn: Worn, contacts: Sequence[Contact], state: BodyState) -> dict[str, _Reached]:
    """One limb after the other, so that no more than one limb's stretches are held."""
    return {name: _of_limb(name, limb, worn, contacts, state) for name, limb in worn.limbs.items()}


def _of_limb(name: str, limb: Limb, worn: Worn, contacts: Sequence[Contact], state: BodyState) -> _Reached:
    cut: dict[int, tuple[Stretches, int]] = {}
    found: dict[int, Reach] = {}
    for kind, rows in _batches(limb, contacts):
        own = limb.contacts.part(rows)
        s = stretch.stretches(limb.tracked, own, PART_OF[kind])
        for k, row in enumerate(rows):
            i, cut[int(row)] = limb.mine[row], (s, k)
            after_s = float(own.beside.last_to_s[k])
            length_s, impulse = float(worn.lengths_s[i]), contacts[i].impulse
            found[int(row)] = reach(s, k, length_s, impulse, state.mass_kg, after_s, kind == AIR)
    reaches = [found[row] for row in range(len(limb.mine))]
    axis = state.forearm.get(name)
    if axis is None and not name.endswith("ankle"):  # how the forearm lies in the unit is learnt from all its strikes
        axis = long_axis([r.forward for r in reaches if r.forward is not None], FOREARM)
    measures, curves = [], []
    for k, r in enumerate(reaches):
        s, row = cut[k]
        launched = r.launch_s is not None
        more = turnover(s, row, r.launch_s, axis) if r.launch_s is not None and axis is not None else {}
        measures.append(r.measures | more)
        side = "left" if name.startswith("left") else "right"
        curves.append({"speed_m_s": speed_lane(s, row), **course_lanes(s, row, side)} if launched else {})
    clipped = [bool(share > 0.0) for share in limb.contacts.clipped.share]
    return _Reached(limb.mine, measures, [r.launch_s for r in reaches], curves, clipped, axis)


def _batches(limb: Limb, contacts: Sequence[Contact]) -> Iterator[tuple[str, Places]]:
    """A limb's strikes of one kind, some at a time: places among its own."""
    kinds = np.array([contacts[i].kind for i in limb.mine])
    for kind in KINDS:
        rows = np.flatnonzero(kinds == kind)
        for first in range(0, len(rows), BATCH):
            yield kind, rows[first : first + BATCH]


def _with_forearms(state: BodyState, reached: dict[str, _Reached]) -> BodyState:
    return replace(state, forearm={name: one.forearm for name, one in reached.items() if one.forearm is not None})


def _told(
    worn: Worn,
    contacts: Sequence[Contact],
    events: Sequence[Event],
    state: BodyState,
    reached: dict[str, _Reached],
) -> list[OfStudent]:
    parts: list[list[dict[str, Measured]]] = [[] for _ in contacts]
    curves: list[dict[str, Floats]] = [{} for _ in contacts]
    flags: list[list[str]] = [[] for _ in contacts]
    launches: list[float | None] = [None for _ in contacts]
    for i, (sure, silent) in enumerate(zip(worn.found.sure, worn.found.silent, strict=True)):
        flags[i] += ["limb_unsure"] if state.clocks and not sure else []
        flags[i] += [f"gap:{silent}"] if silent else []
    for name, one in reached.items():
        for k, i in enumerate(one.mine):
            parts[i].append(one.measures[k])
            launches[i] = one.launches[k]
            curves[i] |= one.curves[k]
            flags[i] += [f"clipped:{name}"] if one.clipped[k] else []
    # a limb whose own clock is not tied says nothing of when the trunk and the feet did what
    tied = [not unit or state.clocks[unit].aligned for unit in worn.found.unit]
    rows = np.array([i for i, at in enumerate(launches) if at is not None and tied[i]], dtype=np.int64)
    for first in range(0, len(rows), BATCH):
        for i, more, drawn in _trunk(worn, state, rows[first : first + BATCH], launches):
            parts[i].append(more)
            curves[i] |= drawn
    if worn.soles is not None:
        for i in rows:
            more, drawn = _feet(worn, int(i), launches)
            parts[i].append(more)
            curves[i] |= drawn
    answers = _answers(events, worn.at_s, launches, parts)
    out = []
    for i, limb in enumerate(worn.found.limb):
        answer = answers.get(i, {}) if tied[i] else {}
        measures = {n: m for part in (*parts[i], answer) for n, m in part.items()}
        if contacts[i].kind != BAG:
            measures = doubted(measures, contacts[i].at_sd_s, contacts[i].speed_sd_share)
        lanes = Lanes(curves[i]) if curves[i] else None
        order = trunk.chain_order(measures)
        out.append(OfStudent(limb, measures, order, tuple(flags[i]), launches[i], lanes))
    return out


def _trunk(
    worn: Worn, state: BodyState, rows: Places, launches: list[float | None]
) -> list[tuple[int, dict[str, Measured], dict[str, Floats]]]:
    """Measures and curves of pelvis, torso and standing leg in strikes (k,) that were launched."""
    at, none = worn.at_s[rows], np.zeros(len(rows))
    beside = neighbours(worn.at_s, worn.lengths_s).part(rows)
    free = Clipped.none(len(rows))
    rear = "left" if state.stance == "southpaw" else "right"
    cut = {
        n: stretch.stretches(t, Contacts(state.clocks[n].own(at), none, beside, free), stretch.CARRIED)
        for n, t in worn.trunk.items()
    }
    parts = [n for n in TRUNK if n in cut]
    clock_sd = {n: float(np.hypot(max(state.clocks[n].residual_ms, STAMP_SD_MS), ONSET_SD_MS)) for n in parts}
    sampled_s = {n: 1.0 / worn.trunk[n].course.rate_hz for n in parts}
    out = []
    for k, i in enumerate(rows):
        launch = launches[i]
        assert launch is not None
        limb = worn.found.limb[i]
        side = limb.split("_")[0]
        sign = SIGN.get(side, 1.0)
        told = trunk.trunk_measures({n: cut[n] for n in parts}, k, launch, sign, clock_sd, sampled_s)
        curves = {f"{n}_deg_s": turn_lane(cut[n], k, sign) for n in parts if cut[n].ok[k]}
        standing = f"{SIDES[side] if limb.endswith(('foot', 'knee')) else rear}ankle"
        if standing in cut and standing in SHANKS and (turned := trunk.pivot_deg(cut[standing], k, launch)):
            told["pivot_deg"] = turned
        out.append((int(i), trunk.widened(told) if _crowded(beside, k) else told, curves))
    return out


def _crowded(beside: Neighbours, k: int) -> bool:
    return bool(beside.last_to_s[k] > -CROWDED_S or beside.next_from_s[k] < CROWDED_S)


def _feet(worn: Worn, i: int, launches: list[float | None]) -> tuple[dict[str, Measured], dict[str, Floats]]:
    launch = launches[i]
    assert launch is not None
    assert worn.soles is not None
    at = float(worn.at_s[i])
    later = float(worn.at_s[i + 1]) if i + 1 < len(worn.at_s) else np.inf
    return feet.feet_measures(worn.soles, at, at + launch, later), {"lead_load_pct": load_lane(worn.soles, at)}


def _answers(
    events: Sequence[Event], at: Floats, launches: list[float | None], parts: list[list[dict[str, Measured]]]
) -> dict[int, dict[str, Measured]]:
    """Reaction and response to the cue that each strike answered: the first strike after a cue, before the next."""
    told = sorted((e for e in events if e.trial_type == "cue"), key=lambda e: e.onset_s)
    cues = np.array([e.onset_s for e in told])
    out: dict[int, dict[str, Measured]] = {}
    for k, cue in enumerate(cues):
        until = cues[k + 1] if k + 1 < len(cues) else np.inf
        i = int(np.searchsorted(at, cue))
        if i >= len(at) or at[i] >= until or at[i] - cue > ANSWERED_S:
            continue
        response = 1e3 * float(at[i] - cue)
        doubt = float(np.hypot(1.0, _cue_doubt_ms(told[k])))
        out[i] = {"response_ms": Measured(response, doubt)}
        launch = launches[i]
        if launch is not None:
            sd = next((p["flight_ms"].sd for p in parts[i] if "flight_ms" in p), 2.0)
            out[i]["reaction_ms"] = Measured(response + 1e3 * launch, float(np.hypot(sd, _cue_doubt_ms(told[k]))))
    return out


def _cue_doubt_ms(cue: Event) -> float:
    """How well a cue's instant is known: as its event says it; a recording that says nothing gives it exactly."""
    said = cue.set_parts[2].get("doubt_ms", "0")
    return float(said) if said.replace(".", "", 1).isdigit() else 0.0
