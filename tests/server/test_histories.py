"""Whatever two tablets, a hub and the lines between them do in an evening: in the end each packet is in the recording
of who stood there when it was gathered, and each tap counts once."""

import contextlib
import datetime as dt
import itertools
import os
import random
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pytest
from django.db.models import QuerySet
from django.utils import timezone
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from agile_strike.core.errors import BadInput
from agile_strike.evening.services import SetText
from agile_strike.formats.packets import Opening, Packet, Part, UnitFacts, decode, encode
from agile_strike.gym.models import Gym
from agile_strike.hub.student import USUAL_BAG
from agile_strike.kit.services import bag_for
from agile_strike.live.door import landing, stations
from agile_strike.live.models import Mark, Stream, Take
from agile_strike.live.settling.settle import PATIENCE, settle
from agile_strike.live.taps import sets, takes
from agile_strike.live.watch import worker
from agile_strike.people.models import Student

BEGAN = dt.datetime(2026, 11, 30, 18, 0, tzinfo=dt.UTC)
MANY = int(os.environ.get("HISTORIES", "60"))  # those of a run are always the same; more, asked for so, are new ones
RATE_HZ, EACH_S = 100, 0.5
TEXT = SetText(code="rear-straight", limb="right_hand", level="head", strikes=5)
#: what happens, and by whom or how long; a tablet is 0 or 1, a student 0 to 2
HISTORIES = st.lists(
    st.one_of(
        st.tuples(st.just("gone"), st.sampled_from([0.7, 3.0, 12.0])),
        st.tuples(st.just("step"), st.tuples(st.integers(0, 1), st.integers(0, 2))),
        st.tuples(st.sampled_from(["begin", "end", "finish", "cut", "back"]), st.integers(0, 1)),
        st.tuples(st.sampled_from(["hub cut", "hub back", "settle"]), st.just(None)),
    ),
    min_size=6,
    max_size=40,
)


@dataclass
class Tablet:
    """Its taps go at once, or wait in their order while it is cut off. A set ends by its key; who finishes is the take
    that was open when the tablet was last answered."""

    cut: bool = False
    waiting: list[Callable[[], None]] = field(default_factory=list)
    take: int | None = None
    begun: str = ""


@dataclass
class History:
    gym: Gym
    students: list[Student]
    chance: random.Random
    now_s: float = 0.0
    gathered: list[tuple[float, bytes]] = field(default_factory=list)  #: by the server's clock
    spool: list[bytes] = field(default_factory=list)
    hub_cut: bool = False
    tablets: tuple[Tablet, Tablet] = field(default_factory=lambda: (Tablet(), Tablet()))
    stood: list[tuple[float, int | None]] = field(default_factory=list)  #: taps that were taken: from when on who
    ended: list[tuple[float, int]] = field(default_factory=list)
    begins: set[str] = field(default_factory=set)

    def __post_init__(self) -> None:
        self.began = BEGAN
        bag = bag_for(self.gym, USUAL_BAG, self.began)
        self.station, _ = stations.make_station(self.gym, "By the window", bag.bag_id)
        units = {"bag": UnitFacts(rate_hz=RATE_HZ, accel_full_scale_m_s2=300.0, gyro_full_scale_rad_s=30.0)}
        said = Opening(stream="stream-1", units=units).said()
        clock = [self.began.timestamp() - 1000.0, 0.001, 1000.0]
        self.stream = Stream.objects.create(station=self.station, key="stream-1", opening=said, clock=clock)
        self.keys = itertools.count()

    @property
    def takes(self) -> "QuerySet[Take]":
        return Take.objects.filter(station=self.station)

    @property
    def now(self) -> dt.datetime:
        return self.began + dt.timedelta(seconds=self.now_s)

    def gone(self, seconds: float) -> None:
        until = self.now_s + seconds
        while len(self.gathered) * EACH_S + EACH_S <= until:
            number = len(self.gathered)
            self.now_s = number * EACH_S + EACH_S
            rows = int(RATE_HZ * EACH_S)
            part = Part(
                first=number * rows, accel=np.full((rows, 3), 5.0, np.float32), gyro=np.zeros((rows, 3), np.float32)
            )
            content = encode(Packet(number=number, hub_s=1000.0 + self.now_s, units={"bag": part}))
            self.gathered.append((self.now_s, content))
            self.spool.append(content)
            self.send()
        self.now_s = until

    def send(self) -> None:
        if self.hub_cut or not self.spool:
            return
        out = [*self.spool, *self.spool[-1:]]
        self.chance.shuffle(out)
        self.spool = []
        for first in range(0, len(out), 40):
            some = out[first : first + 40]
            landing.commit([landing.Come(self.stream.pk, self.station.pk, decode(c), c, self.now) for c in some])

    def tap(self, tablet: Tablet, send: Callable[[], None]) -> None:
        tablet.waiting.append(send)
        self.flush(tablet)

    def flush(self, tablet: Tablet) -> None:
        while tablet.waiting and not tablet.cut:
            with contextlib.suppress(BadInput):  # told on the tablet
                tablet.waiting.pop(0)()

    def do(self, what: str, more: Any) -> None:
        if what == "gone":
            self.gone(more)
        elif what == "step":
            self.step(self.tablets[more[0]], more[1])
        elif what in ("hub cut", "hub back"):
            self.hub_cut = what == "hub cut"
            self.send()
        elif what == "settle":
            for take in self.takes.filter(settled_at__isnull=True):
                settle(take.pk)
        else:
            one = self.tablets[more]
            if what in ("cut", "back"):
                one.cut = what == "cut"
                self.flush(one)
            else:
                getattr(self, what)(one)
        self.now_s += 0.01  # no two taps fall on one instant

    def step(self, tablet: Tablet, who: int) -> None:
        at, at_s, key = self.now, self.now_s, f"step-{next(self.keys)}"

        def send() -> None:
            tablet.take = takes.begin_take(self.gym, self.station.pk, self.students[who].pk, at, key).pk
            self.stood.append((at_s, who))

        self.tap(tablet, send)

    def begin(self, tablet: Tablet) -> None:
        when, take = sets.When(at=self.now, key=f"set-{next(self.keys)}"), tablet.take
        tablet.begun = when.key

        def send() -> None:
            if take is not None:
                sets.begin_set(self.gym, take, sets.Which(text=TEXT), when)
                self.begins.add(when.key)

        self.tap(tablet, send)

    def end(self, tablet: Tablet) -> None:
        when, take, key = sets.When(at=self.now, key=f"end-{next(self.keys)}"), tablet.take, tablet.begun
        self.tap(tablet, lambda: None if take is None else sets.end_set(self.gym, take, when, key) and None)

    def finish(self, tablet: Tablet) -> None:
        at, at_s, take = self.now, self.now_s, tablet.take

        def send() -> None:
            if take is None:
                return
            takes.end_take(self.gym, take, at)
            self.ended.append((at_s, take))

        self.tap(tablet, send)


def samples(take: Take) -> set[int]:
    """Numbers of the bag's samples in its recording."""
    first = take.firsts.get("bag", 0)
    spans = take.recording.chunks.filter(unit="bag").values_list("first_sample", "samples")
    return {first + k for a, n in spans for k in range(a, a + n)}


@settings(
    max_examples=MANY,
    deadline=None,
    derandomize="HISTORIES" not in os.environ,
    suppress_health_check=list(HealthCheck),
    phases=[Phase.generate],
)
@given(HISTORIES, st.integers(0, 1000))
def told_in_the_end(monkeypatch: pytest.MonkeyPatch, history: list[tuple[str, Any]], chance: int) -> None:
    gym = Gym.objects.create(name="Kestrel Quay Boathouse")
    students = [
        Student.objects.create(gym=gym, name=n, label=n.lower(), birth_date=dt.date(1990, 1, 1))
        for n in ("Petra", "Maren", "Ilse")
    ]
    monkeypatch.setattr(timezone, "now", lambda: BEGAN)
    one = History(gym, students, random.Random(chance))
    monkeypatch.setattr(timezone, "now", lambda: one.now)
    for what, more in history:
        one.do(what, more)
    one.do("hub back", None)
    for k in (0, 1):
        one.do("back", k)
    one.gone(5.0)
    for take in one.takes.filter(ended_at__isnull=True):
        takes.end_take(gym, take.pk, one.now)
    one.gone(2.0)
    worker.clean(one.now)
    for later_s in (0.0, PATIENCE.total_seconds() + 1.0):  # one who only came and went is waited for
        one.now_s += later_s
        for take in one.takes.filter(settled_at__isnull=True):
            settle(take.pk)
    rightly_kept(one)


def rightly_kept(one: History) -> None:
    rows = list(one.takes.order_by("began_at", "pk").select_related("recording", "session"))
    assert all(t.settled_at for t in rows)
    for a, b in itertools.pairwise(rows):
        assert a.ended_at is not None
        assert a.ended_at <= b.began_at
    held = [samples(t) for t in rows]
    for a, b in itertools.combinations(held, 2):
        assert not a & b
    each = int(RATE_HZ * EACH_S)
    for number, (at_s, _) in enumerate(one.gathered):
        at = one.began + dt.timedelta(seconds=at_s)
        own = range(number * each, (number + 1) * each)
        for take, held_of in zip(rows, held, strict=True):
            assert take.ended_at is not None
            there = take.began_at.timestamp() - 0.06 <= at.timestamp() < take.ended_at.timestamp() - 0.06
            near = min(abs((at - t).total_seconds()) for t in (take.began_at, take.ended_at)) < 0.1
            assert near or held_of.issuperset(own) == there, (number, take.pk)
    who_stood(one, rows)
    sets_thrown = Mark.objects.filter(kind=Mark.Kind.SET, take__station=one.station)
    assert set(sets_thrown.values_list("key", flat=True)) == one.begins
    for a, b in itertools.pairwise(sets_thrown.order_by("at")):
        assert a.until is not None
        assert a.until <= b.at


def who_stood(one: History, rows: list[Take]) -> None:
    """By the taps that were taken, whenever they came: from each step up on that student, until the next or the end."""
    for (at_s, who), later in itertools.zip_longest(sorted(one.stood), sorted(one.stood)[1:]):
        at = one.began + dt.timedelta(seconds=at_s)
        until = one.began + dt.timedelta(seconds=later[0]) if later else None
        there = [t for t in rows if t.began_at <= at and (t.ended_at is None or t.ended_at > at)]
        if not there:  # stepped back at that very moment, as far as taps can tell
            continue
        assert there[-1].session.student_id == one.students[who].pk, (at_s, until)


@pytest.mark.django_db(transaction=True)
def test_whatever_comes_late_each_packet_is_whose_it_was(monkeypatch: pytest.MonkeyPatch) -> None:
    told_in_the_end(monkeypatch)
