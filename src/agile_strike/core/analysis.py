"""From a recording to its strikes: what is slow is learnt from everything, then every strike is measured.

`learn` and `strikes` are the two gaits of one analysis: batch learns from the whole recording and measures all of it;
a live evening learns from what there is and measures window by window. A window and a state that was written down and
read back say of a strike, bit for bit, what the whole recording said.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from agile_strike.core.bag import judge, loadcell, mount_check
from agile_strike.core.bag import strikes as on_the_bag
from agile_strike.core.bag.bursts import BURST_GAP_S, Burst, bursts
from agile_strike.core.bag.columns import Batch, StrikeColumns, joined
from agile_strike.core.bag.mounting import Mounting
from agile_strike.core.bag.rows import planned_level, planned_limb, rows, strength, whole_recording_notes
from agile_strike.core.bag.state import BagState, look
from agile_strike.core.bag.state import learn as learn_bag
from agile_strike.core.measured import Measured
from agile_strike.core.measures.estimated import ESTIMATED
from agile_strike.core.measures.of_bag import BAG_NUMERIC
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.strikes import NotMeasured, Strike
from agile_strike.core.student import alone
from agile_strike.core.student import strikes as of_the_student
from agile_strike.core.student.clocks import UnitClock, not_aligned
from agile_strike.core.student.joined import NO_TURN_RATES, UNIT_OF, added, contacts_of, lacking, with_student
from agile_strike.core.student.limbs import PART
from agile_strike.core.student.state import BodyState
from agile_strike.core.target import Bag

VERSION = "9"
NO_BAG_EVENINGS = "it needs this student's own bag evenings of the same strike"
SHORTEST_S = 1.0
EDGE_S = 1.0  # of a piece's beginning, in which its filters have not settled


@dataclass(frozen=True, slots=True)
class Analysis:
    recording: Recording
    strikes: list[Strike]
    bursts: list[Burst]
    units: list[UnitClock]
    flags: tuple[str, ...]
    not_measured: list[NotMeasured]
    state: "State"
    version: str = VERSION

    @property
    def mounting(self) -> Mounting | None:
        """How the bag's unit sat, from its axes as they are in its samples."""
        return self.state.bag.seat_as_hung if self.state.bag else None


@dataclass(frozen=True, slots=True)
class State:
    """All that is slow: with it a window says of its strikes what the whole evening said."""

    bag: BagState | None
    body: BodyState | None
    strikes: int = 0  #: that it rests on

    def to_json(self) -> dict[str, Any]:
        bag, body = self.bag and self.bag.to_json(), self.body and self.body.to_json()
        return {"bag": bag, "body": body, "strikes": self.strikes}

    @staticmethod
    def from_json(said: dict[str, Any]) -> "State":
        bag, body = said["bag"], said["body"]
        return State(
            BagState.from_json(bag) if bag else None,
            BodyState.from_json(body) if body else None,
            said.get("strikes", 0),  # a take that was open while the server was renewed tells none
        )


NOTHING = State(None, None)


def learn(recording: Recording, before: State | None = None) -> State:
    """All that is slow, from an evening so far. Of the bag, `before` and the next piece of it do as well; of the
    student the evening is looked at as a whole, since clocks and guards show themselves only over minutes."""
    unit, bag = recording.units.get("bag"), recording.bag
    if _why_nothing(recording):
        return before or NOTHING
    assert unit is not None
    assert bag is not None
    if bag.mount == "wall" and unit.load_n is not None:
        return NOTHING
    state = learn_bag(before.bag if before else None, look(unit), unit.rate_hz, bag)
    worn = {n: u for n, u in recording.units.items() if n != "bag" and (u.sole_n is not None or u.feels_turning)}
    if not worn or unit.first_sample:
        return State(state, before.body if before else None, before.strikes if before else 0)
    found = _found(recording, state)
    body = of_the_student.learn(replace(recording, units={**worn, "bag": unit}), contacts_of(found))
    return State(state, body, len(found))


def strikes(piece: Recording, state: State) -> list[Strike]:
    """The strikes of a piece of an evening: see `window`. Those near its edges lack what lies beyond."""
    found = _found(piece, state.bag)
    units = {n: u for n, u in piece.units.items() if n != "bag"}
    if state.body is None or not units:
        return found
    more = of_the_student.strikes(units, contacts_of(found), piece.events, state.body)
    return [added(s, o) for s, o in zip(found, more, strict=True)]


def _found(piece: Recording, state: BagState | None) -> list[Strike]:
    unit, bag = piece.units["bag"], piece.bag
    assert bag is not None
    if state is None:
        return rows(piece, loadcell.strikes(unit), set())[0]
    batches = on_the_bag.strikes(unit, look(unit), state, bag, lambda at: planned_level(piece, at))
    if unit.first_sample:  # a contact of which the piece holds only a part is none
        batches = [replace(b, yes=b.yes & (b.at_s > unit.begins_s + EDGE_S)) for b in batches]
    return rows(piece, joined(batches, bag, unit), set())[0]


def analyse(recording: Recording) -> Analysis:
    """All strikes of a recording; where no unit hung on the bag, those that the worn units find by themselves."""
    unit = recording.units.get("bag")
    units = [_untied(name) for name in recording.units]
    if unit is None and any(u.kind in PART and u.feels_turning for u in recording.units.values()):
        return _without_a_bag(recording)
    why = _why_nothing(recording)
    if why:
        return Analysis(
            recording, [], [], units, (), [NotMeasured(m, why) for m in ("contact_s", *BAG_NUMERIC)], NOTHING
        )
    assert unit is not None
    assert recording.bag is not None
    if recording.bag.mount == "wall" and unit.load_n is not None:
        return _told(recording, loadcell.strikes(unit), units, None, (), [])
    return _analyse_body(recording, unit, recording.bag, units)


def _why_nothing(recording: Recording) -> str:
    """What a recording lacks without which no strike can be had; empty where nothing."""
    unit, bag = recording.units.get("bag"), recording.bag
    if unit is None:
        return "no bag unit in this recording"
    if bag is None:
        return "the bag unit's sidecar has no StrikeTarget"
    if unit.length_s < SHORTEST_S:
        return "the recording is shorter than a second"
    if not unit.feels_turning and not (bag.mount == "wall" and unit.load_n is not None):
        return f"the bag unit {NO_TURN_RATES}: without them its push can't be had"
    return ""


def _analyse_body(recording: Recording, unit: UnitSignal, bag: Bag, units: list[UnitClock]) -> Analysis:
    looked = look(unit)
    state = learn_bag(None, looked, unit.rate_hz, bag)
    batches = on_the_bag.strikes(unit, looked, state, bag, lambda at: planned_level(recording, at))
    flags: tuple[str, ...] = ("mount_mismatch",) if _mismatch(batches, bag) else ()
    notes = whole_recording_notes(unit, bag, state.seat)
    flags += ("turned:bag",) if state.turned else ()
    found = joined(batches, bag, unit)
    if why := _no_bag(batches, bag):
        flags, found = ("no_bag",), found.none()
        notes += [NotMeasured(m, why) for m in ("contact_s", *BAG_NUMERIC)]
    return _told(recording, found, units, replace(state, seen=None), flags, notes)


def _without_a_bag(recording: Recording) -> Analysis:
    feeling = {n: u for n, u in recording.units.items() if u.sole_n is not None or u.feels_turning}
    found = alone.found(replace(recording, units=feeling))
    if found.blows:
        found = of_the_student.at_full_reach(replace(recording, units=feeling), found)
    strikes: list[Strike] = []
    for at, blow in zip(found.at_s, found.blows, strict=True):
        gap = at - strikes[-1].contact_s if strikes else np.inf
        running = recording.set_at(at)
        strikes.append(
            Strike(
                at,
                planned_limb(recording, at),
                {} if np.isinf(gap) else {"gap_ms": Measured(1e3 * gap, 1e3 * blow.at_sd_s * 2**0.5)},
                planned_level(recording, at),
                ("in_burst",) if gap < BURST_GAP_S else (),
                running.value if running else None,
                kind=blow.kind,
            )
        )
    why = _why_nothing(recording)
    notes = [NotMeasured(m, why) for m in BAG_NUMERIC if m != "gap_ms"]
    notes += [NotMeasured(m, NO_BAG_EVENINGS) for m in ESTIMATED]
    clocks = {n: found.clocks.get(n, not_aligned(n)) for n in recording.units}
    if not strikes:
        limbs = [u for u in recording.units.values() if u.kind in PART and u.feels_turning]
        if all(u.rate_hz < alone.SLOWEST_HZ for u in limbs):
            few = f"fewer than {alone.SLOWEST_HZ:.0f} samples a second of each limb unit tell no strike from a clap"
            notes.append(NotMeasured("contact_s", few))
        return Analysis(recording, [], [], list(clocks.values()), (), notes, NOTHING)
    student = with_student(recording, strikes, found)
    runs = bursts([s.contact_s for s in student.strikes], [None] * len(strikes))
    return Analysis(
        recording, student.strikes, runs, list(clocks.values()), student.flags, [*notes, *student.notes], NOTHING
    )


def _untied(name: str) -> UnitClock:
    if name == "bag":
        return UnitClock("bag", 0.0, 0.0, 0.0, "reference", True)
    return not_aligned(name)


def _mismatch(batches: list[Batch], bag: Bag) -> bool:
    if not batches or bag.mount not in ("swivel", "fixed", "standing"):
        return False
    points, turns = zip(*(mount_check.turning_points(b.contacts, bag) for b in batches), strict=True)
    return mount_check.contradicts(
        np.concatenate(points), np.concatenate(turns), bag, np.concatenate([b.yes for b in batches])
    )


def _no_bag(batches: list[Batch], bag: Bag) -> str:
    if not batches or bag.mount not in ("swivel", "fixed", "standing"):
        return ""
    return judge.no_bag(
        np.concatenate([b.yes for b in batches]),
        np.concatenate([np.linalg.norm(b.contacts.dv_m_s[:, :2], axis=1) for b in batches]),
        np.concatenate([b.contacts.unlike_a_bag for b in batches]),
    )


def _told(
    recording: Recording,
    found: StrikeColumns,
    units: list[UnitClock],
    bag_state: BagState | None,
    flags: tuple[str, ...],
    notes: list[NotMeasured],
) -> Analysis:
    found_rows, more = rows(recording, found, {n.measure for n in notes})
    notes = [*notes, *more]
    body = None
    worn = [u for u in units if u.unit != "bag"]
    if worn:
        student = with_student(recording, found_rows)
        found_rows, body = student.strikes, student.state
        units = [body.clocks.get(u.unit, u) for u in units]
        flags, notes = (*flags, *student.flags), [*notes, *student.notes]
    else:
        notes += [NotMeasured(m, f"no {UNIT_OF[n]} in this recording") for m, n in lacking(frozenset({"bag"}))]
    runs = bursts([s.contact_s for s in found_rows], [strength(s) for s in found_rows])
    return Analysis(recording, found_rows, runs, units, flags, notes, State(bag_state, body, len(found_rows)))
