"""At the bag: packets come in whatever order, and the settled evening is that of an import of the same samples."""

import datetime as dt
import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from django.utils import timezone

from agile_strike.capture.models import Recording
from agile_strike.core.analysis import analyse
from agile_strike.evening.services import SetText
from agile_strike.formats.archive import opened
from agile_strike.formats.motion_bids_read import read_all
from agile_strike.formats.packets import Opening, Packet, decode, encode
from agile_strike.gym.models import Gym
from agile_strike.hub.student import USUAL_BAG, SimulatedStudent
from agile_strike.intake.again import raw
from agile_strike.intake.tables import zipped
from agile_strike.kit.services import bag_for
from agile_strike.live import landing, services
from agile_strike.live.models import Packet as Row
from agile_strike.live.models import Stream, Take
from agile_strike.live.services import When
from agile_strike.live.settle import settle
from agile_strike.live.worker import Worker
from agile_strike.people.models import Student
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db(transaction=True)
TICK_S = 0.1


class Evening:
    """A hub, a server and a clock of their own: what a coach taps happens at a second of the stream."""

    def __init__(self, gym: Gym, student: Student, worn: tuple[str, ...] = ("rightwrist",)) -> None:
        self.gym, self.student = gym, student
        bag = bag_for(gym, USUAL_BAG, timezone.now())
        self.station, self.token = services.make_station(gym, "By the window", bag.bag_id)
        self.source = SimulatedStudent(worn=worn)
        opening = Opening(stream="stream-1", units=self.source.units)
        self.stream = Stream.objects.create(station=self.station, key="stream-1", opening=opening.said())
        self.began = timezone.now()
        self.stream.clock = [self.began.timestamp(), 0.001]
        self.stream.save()
        self.sent: dict[str, int] = {}
        self.packets: list[bytes] = []
        self.now_s = 0.0

    @property
    def now(self) -> dt.datetime:
        return self.began + dt.timedelta(seconds=self.now_s)

    def gather(self, until_s: float) -> list[bytes]:
        out = []
        while self.now_s < until_s:
            self.now_s += TICK_S
            parts = self.source.due(self.now_s, self.sent)
            self.sent |= {p: part.first + part.count for p, part in parts.items()}
            out.append(encode(Packet(number=len(self.packets) + len(out), hub_s=self.now_s, units=parts)))
        self.packets += out
        return out

    def land(self, contents: list[bytes]) -> None:
        landing.commit([
            landing.Come(self.stream.pk, self.station.pk, decode(c), c, self.now) for c in contents
        ])  # fmt: skip

    def when(self) -> When:
        return When(at=self.now, doubt_ms=2.0)


@pytest.fixture
def evening(gym: Gym, student: Student, monkeypatch: pytest.MonkeyPatch) -> Evening:
    monkeypatch.setattr(services, "EARLIEST", dt.timedelta(hours=1))
    monkeypatch.setattr(services, "LATEST", dt.timedelta(hours=1))
    return Evening(gym, student)


def a_set(evening: Evening, worker: Worker, way: Callable[[list[bytes]], list[list[bytes]]]) -> Take:
    """A student steps up, throws five, and steps back; packets go the given way."""
    take = services.begin_take(evening.gym, evening.station.pk, evening.student.pk, evening.now)
    evening.land(evening.gather(6.0))
    worker.step()
    text = SetText(code="rear-straight", limb="right_hand", level="head", strikes=5)
    services.begin_set(evening.gym, take.pk, services.Which(text=text), evening.when())
    evening.source.told(
        {"set": {"key": "a", "code": "rear-straight", "limb": "right_hand", "level": "head", "strikes": 5}}
    )
    for some in way(evening.gather(26.0)):
        evening.land(some)
        worker.step()
    services.end_set(evening.gym, take.pk, evening.when())
    services.end_take(evening.gym, take.pk, evening.now)
    return Take.objects.get(pk=take.pk)


def one_by_one(contents: list[bytes]) -> list[list[bytes]]:
    return [[c] for c in contents]


def shuffled_doubled_and_late(contents: list[bytes]) -> list[list[bytes]]:
    """One in twenty is lost and comes at the end; others come twice, or before their turn."""
    chance = random.Random(3)
    lost = [c for c in contents if chance.random() < 0.05]
    rest = [c for c in contents if c not in lost]
    out = []
    for first in range(0, len(rest), 4):
        some = rest[first : first + 4]
        chance.shuffle(some)
        out.append(some + some[:1])
    return [*out, lost, lost]


def settled(take: Take) -> list[dict[str, Any]]:
    settle(take.pk)
    rows = Strike.objects.filter(recording=take.recording).order_by("number")
    return list(rows.values("contact_s", "limb", "flags", "impulse_n_s", "impulse_n_s_sd", "peak_speed_m_s"))


@pytest.mark.parametrize("way", [one_by_one, shuffled_doubled_and_late])
def test_the_settled_evening_is_the_import_of_its_data_set(evening: Evening, way: Any, tmp_path: Path) -> None:
    take = a_set(evening, Worker(), way)
    rows = settled(take)
    assert len(rows) == 5
    assert not any("provisional" in r["flags"] for r in rows)
    row = Recording.objects.get(pk=take.recording_id)
    assert not row.open
    (tmp_path / "set.zip").write_bytes(zipped(raw(row)))
    with opened(tmp_path / "set.zip") as root:
        found = analyse(next(iter(read_all(root)))).strikes
    assert [s.contact_s for s in found] == [r["contact_s"] for r in rows]
    for name in ("impulse_n_s", "peak_speed_m_s"):
        assert [s.measures[name].value for s in found] == [r[name] for r in rows]
    assert [s.measures["impulse_n_s"].sd for s in found] == [r["impulse_n_s_sd"] for r in rows]
    assert not Row.objects.filter(stream=evening.stream).exists()
    assert [s.planned.strikes for s in row.sets.all() if s.planned] == [5]
