"""One take's samples as they come, and the strikes that are found in them: what the live worker holds of a station.

All of it can be made anew from the packets and the take's row, after a kill.
"""

import logging
from collections import deque
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from agile_strike.capture.basis import kept
from agile_strike.core.analysis import State
from agile_strike.core.bag.state import BagState, mounting_from_json
from agile_strike.core.live import provisional as live
from agile_strike.core.recording import Event, Participant, Recording, UnitSignal
from agile_strike.core.strikes import Strike
from agile_strike.core.target import Bag
from agile_strike.formats.gathered import Gathered
from agile_strike.formats.packets import Packet, UnitFacts
from agile_strike.live.models import Stream, Take
from agile_strike.live.whose.reference import OnReference, on_reference

WAITED_S = 1.6  # for samples that are sent again
HELD_S = 30.0  # by the clock on the wall, behind the latest sample: as long as a worker may be held up
MOST_OPEN = 50  # jolts whose rest is waited for

log = logging.getLogger(__name__)


@dataclass(slots=True)
class Line:
    take: Take
    bag: Bag
    state: State
    gathered: dict[str, Gathered] = field(default_factory=dict)
    firsts: dict[str, int] = field(default_factory=dict)
    searched: int | None = None  #: sample of the bag's unit up to which jolts were looked for
    judged: deque[float] = field(default_factory=lambda: deque(maxlen=MOST_OPEN))  #: jolts, seconds
    ways: list[tuple[float, float]] = field(default_factory=list)  #: of packets since the last: whose.reference
    half: list[float] = field(default_factory=list)  #: strikes of which the student's part is still to come
    fresh: bool = False  #: samples of the bag have come since jolts were looked for
    tried_s: float = 0.0
    clock_at: float = 0.0  #: when the clocks were last compared, by the worker's own
    running: tuple[str, ...] = ()  #: values of the sets that run

    def take_in(self, packet: Packet, facts: dict[str, UnitFacts]) -> None:
        for name, part in packet.units.items():
            if name not in self.gathered:
                if name not in facts:
                    continue
                self.firsts.setdefault(name, part.first)
                self.gathered[name] = Gathered(name, facts[name], max(part.first, self.firsts[name]))
            if name == "bag":  # what comes late, or again, may hold a jolt
                self.searched = part.first if self.searched is None else min(self.searched, part.first)
            self.gathered[name].put(part)
        if "bag" in packet.units:
            bag, part = self.gathered["bag"], packet.units["bag"]
            upto = part.first + part.count - self.firsts["bag"]
            self.fresh = True
            self.ways.append((packet.hub_s, upto / bag.facts.rate_hz))
        for one in self.gathered.values():
            one.forget_before(one.upto - int(self.held_s * one.facts.rate_hz))

    @property
    def held_s(self) -> float:
        """Of samples: a stream that is played faster than it was is held as long by the wall."""
        stream = self.take.stream
        return HELD_S * (float(stream.opening["speed"]) if stream else 1.0)

    @property
    def now_s(self) -> float:
        """The latest sample of the bag, on the reference clock."""
        bag = self.gathered.get("bag")
        return 0.0 if bag is None else (bag.upto - self.firsts["bag"]) / bag.facts.rate_hz

    def found(self) -> list[Strike]:
        """Strikes that can be measured now and could not before, as the bag felt them."""
        if not self.fresh:
            return []
        self.fresh = False
        if self.state.bag is None:
            self._learn_the_bag()
            if self.state.bag is None:
                return []  # and what has come is still to be searched
        bag_unit = self._latest_of_the_bag()
        if bag_unit is None:
            return []
        seen = live.jolts(bag_unit, self.state.bag)
        due = [
            float(at)
            for at, ago in zip(seen.at_s, seen.ago_s, strict=True)
            if ago >= live.LOOK_AFTER_S
            and not any(abs(at - j) <= live.SAME_S for j in self.judged)
            and not (ago < WAITED_S and self._holes(float(at)))
        ]
        so_far = self._recording() if due else None
        out = []
        for at in due:
            assert so_far is not None
            self.judged.append(at)
            strike = self._measured(so_far, at, whole=False)
            if strike is not None:
                out.append(strike)
                self.half = [*self.half, strike.contact_s][-MOST_OPEN:]
        return out

    @property
    def ripe(self) -> float | None:
        """The earliest strike of which the rest has come as well."""
        return next((at for at in self.half if self.now_s - at > live.FULL_AFTER_S), None)

    def rest(self, at_s: float) -> Strike | None:
        """The same strike with what the student's units say of it; None where they are not known yet."""
        self.half.remove(at_s)
        return self._measured(self._recording(), at_s, whole=True) if self.state.body is not None else None

    def _measured(self, so_far: Recording, at_s: float, whole: bool) -> Strike | None:
        """None also where one strike's samples can't be worked: all others go on."""
        try:
            return live.measured(so_far, at_s, self.state, whole)
        except Exception:
            log.exception("take %s: what came at %.2f s is put aside until it settles", self.take.pk, at_s)
            return None

    def look_from(self, at_s: float, facts: dict[str, UnitFacts]) -> None:
        """Jolts after this second have not been looked for: another worker was killed."""
        if "bag" in facts and "bag" in self.firsts:
            self.searched = self.firsts["bag"] + int(at_s * facts["bag"].rate_hz)

    def ends_s(self, packet: Packet) -> float | None:
        """The second of the take at which a packet's samples of the bag end."""
        part, bag = packet.units.get("bag"), self.gathered.get("bag")
        if part is None or bag is None:
            return None
        return (part.first + part.count - self.firsts["bag"]) / bag.facts.rate_hz

    def _latest_of_the_bag(self) -> UnitSignal | None:
        bag = self.gathered.get("bag")
        if bag is None:
            return None
        rate = bag.facts.rate_hz
        # samples that are sent again may come as late as that; else the search's own filters want some before the new
        gaps = not bag.has(bag.upto - int(live.SEARCHED_S * rate), bag.upto)
        back = int((live.SEARCHED_S if gaps else live.SEARCHED_WHOLE_S) * rate)
        # a worker that was held up looks at all that came meanwhile
        first, self.searched = min(bag.upto, bag.upto if self.searched is None else self.searched) - back, bag.upto
        return bag.signal(first, bag.upto, 0.0, self.firsts["bag"])

    def _learn_the_bag(self) -> None:
        """How its unit sits, from what has come of this take, where nothing was known before."""
        if self.now_s < self.tried_s + 1.0:
            return
        self.tried_s = self.now_s
        first = live.first_state(self._recording().units["bag"], self.bag)
        if first is not None:
            self.state = replace(self.state, bag=first)

    def _holes(self, at_s: float) -> bool:
        """Whether samples round a jolt are still on their way."""
        bag = self.gathered["bag"]
        middle = self.firsts["bag"] + at_s * bag.facts.rate_hz
        return not bag.has(*(int(middle + s * bag.facts.rate_hz) for s in (-0.12, live.LOOK_AFTER_S)))

    @property
    def on_reference(self) -> OnReference | None:
        found = on_reference(self.take, self.ways)
        if found is not None:
            self.ways = list(found.ways)
        return found

    def _recording(self) -> Recording:
        """What is held of the take; its bag is there."""
        units = {n: g.signal(g.base, g.upto, 0.0, self.firsts[n]) for n, g in self.gathered.items()}
        running = tuple(Event(0.0, self.now_s + 60.0, "set", value) for value in self.running)
        held = {n: u for n, u in units.items() if u is not None}
        return Recording(Participant(""), "", "", "", self.bag, held, running)

    def told(self, state: dict[str, Any] | None, firsts: dict[str, int]) -> None:
        """What the batch has learnt meanwhile."""
        if state is not None:
            self.state = State.from_json(state)
        self.firsts |= firsts


def line_of(take: Take) -> Line:
    """From what is known: this evening's state, else how the unit sat on this bag the last time."""
    assert take.recording.analysis is not None
    assert take.recording.bag_version is not None
    bag = replace(take.recording.bag_version.to_core(), **kept(take.recording.analysis).bag)
    state = State.from_json(take.state) if take.state else State(last_seat(take), None)
    return Line(take, bag, state, firsts=dict(take.firsts))


def last_seat(take: Take) -> BagState | None:
    """How the bag's unit sat the last time that it hung on this bag."""
    before = (
        Take.objects.filter(station=take.station, recording__analysis__bag_state__isnull=False,
                            recording__bag_version=take.recording.bag_version)
        .exclude(pk=take.pk)
        .select_related("recording__analysis", "stream")
        .first()
    )  # fmt: skip
    seat = before.recording.analysis.bag_state if before and before.recording.analysis else None
    if before is None or seat is None or not _same_unit(before.stream, take.stream):
        return None
    return BagState(np.eye(3), mounting_from_json(seat))


def _same_unit(a: Stream | None, b: Stream | None) -> bool:
    """Whether two streams are of one hanging of one unit: taken off in between, it sits otherwise."""
    return a is not None and b is not None and a.pk == b.pk
