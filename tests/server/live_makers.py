"""A hub, a server and a clock of their own: what a coach taps happens at a second of the stream."""

import datetime as dt
import random
import time
from types import SimpleNamespace

import pytest
from django.utils import timezone

from agile_strike.evening.services import SetText
from agile_strike.formats.packets import Opening, Packet, decode, encode
from agile_strike.gym.models import Gym
from agile_strike.hub.student import USUAL_BAG, SimulatedStudent
from agile_strike.kit.services import bag_for
from agile_strike.live.door import landing, stations
from agile_strike.live.models import Stream, Take
from agile_strike.live.taps import sets, takes
from agile_strike.live.taps.sets import When, Which
from agile_strike.live.watch import worker
from agile_strike.live.watch.worker import Worker
from agile_strike.people.models import Student

TICK_S = 0.1
STRAIGHT = SetText(code="rear-straight", limb="right_hand", level="head", strikes=5)


class Evening:
    def __init__(self, gym: Gym, student: Student, worn: tuple[str, ...] = ("rightwrist",)) -> None:
        self.gym, self.student = gym, student
        bag = bag_for(gym, USUAL_BAG, timezone.now())
        self.station, self.token = stations.make_station(gym, "By the window", bag.bag_id)
        self.source = SimulatedStudent(worn=worn)
        self.sent: dict[str, int] = {}
        self.packets: list[bytes] = []
        self.now_s = 0.0
        self.began = timezone.now()
        self.stream = self.open_stream("stream-1")

    def open_stream(self, key: str) -> Stream:
        opening = Opening(stream=key, units=self.source.units)
        clock = [self.began.timestamp(), 0.001]
        return Stream.objects.create(station=self.station, key=key, opening=opening.said(), clock=clock)

    def wear(self, *places: str) -> None:
        """Other units than the usual one; the hub begins anew."""
        self.source.worn = places
        self.stream.delete()
        self.stream = self.open_stream("stream-worn")

    @property
    def now(self) -> dt.datetime:
        return self.began + dt.timedelta(seconds=self.now_s)

    def when(self, key: str = "") -> When:
        return When(at=self.now, doubt_ms=2.0, key=key)

    def gather(self, until_s: float, without: str | tuple[str, ...] = ()) -> list[bytes]:
        """Packets up to a second of the stream; a unit may be silent meanwhile."""
        out = []
        while self.now_s < until_s:
            self.now_s += TICK_S
            parts = self.source.due(self.now_s, self.sent)
            self.sent |= {p: part.first + part.count for p, part in parts.items()}
            parts = {p: part for p, part in parts.items() if p != without and p not in without}
            out.append(encode(Packet(number=len(self.packets) + len(out), hub_s=self.now_s, units=parts)))
        self.packets += out
        return out

    def land(self, contents: list[bytes], stream: Stream | None = None) -> None:
        key = (stream or self.stream).pk
        landing.commit([landing.Come(key, self.station.pk, decode(c), c, self.now) for c in contents])

    def step_up(self) -> Take:
        return takes.begin_take(self.gym, self.station.pk, self.student.pk, self.now)

    def begin(self, take: Take, text: SetText = STRAIGHT, key: str = "") -> None:
        sets.begin_set(self.gym, take.pk, Which(text=text), self.when(key))
        self.begin_source(text)

    def begin_source(self, text: SetText = STRAIGHT) -> None:
        """What is thrown, whether or not anybody tapped."""
        said = {"code": text.code, "limb": text.limb, "level": text.level, "strikes": text.strikes}
        self.source.told({"set": {"key": str(self.now_s), **said}})

    def done(self, take: Take) -> Take:
        """The student steps back; the hub sends on."""
        sets.end_set(self.gym, take.pk, self.when())
        takes.end_take(self.gym, take.pk, self.now)
        self.land(self.gather(self.now_s + 0.3))
        return Take.objects.get(pk=take.pk)

    def thrown(self, way: "Way") -> Take:
        """The student steps up, throws five, and steps back; packets go the given way."""
        take = self.step_up()
        self.land(self.gather(6.0))
        one = Worker()
        one.step()
        self.begin(take)
        for some in way(self.gather(26.0)):
            self.land(some)
            one.step()
        return self.done(take)


class Way:
    """How packets come: one by one, or as a bad network brings them."""

    def __init__(self, bad: bool = False) -> None:
        self.bad = bad

    def __call__(self, contents: list[bytes]) -> list[list[bytes]]:
        if not self.bad:
            return [[c] for c in contents]
        chance = random.Random(3)
        lost = [c for c in contents if chance.random() < 0.05]
        rest = [c for c in contents if c not in lost]
        out = []
        for first in range(0, len(rest), 4):
            some = rest[first : first + 4]
            chance.shuffle(some)
            out.append(some + some[:1])
        return [*out, lost, lost]  # what was lost comes at the end, and twice


@pytest.fixture
def evening(gym: Gym, student: Student, monkeypatch: pytest.MonkeyPatch) -> Evening:
    """All of it, and the live worker, goes by the stream's clock, which runs faster than the wall's: what the product
    allows of its taps and its pauses is allowed here."""
    one = Evening(gym, student)
    monkeypatch.setattr(timezone, "now", lambda: one.now)
    monkeypatch.setattr(worker, "time", SimpleNamespace(monotonic=lambda: one.now_s, sleep=time.sleep, time=time.time))
    return one
