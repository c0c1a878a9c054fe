"""Whose a strike is, and which set's a tap: by when it was gathered and tapped, whatever comes late, twice or askew."""

import datetime as dt
import errno
import time
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from live_makers import STRAIGHT, Evening
from live_makers import evening as evening  # the fixture

from agile_strike.capture.models import Recording
from agile_strike.core.errors import BadInput
from agile_strike.core.sets.calls import Round
from agile_strike.evening.models import PlannedSet
from agile_strike.evening.services import plan
from agile_strike.formats.packets import BadPacket, Opening, Packet, Part, UnitFacts, decode, encode
from agile_strike.gym.models import Gym
from agile_strike.hub.port import Port
from agile_strike.hub.run import Hub
from agile_strike.hub.spool import Spool
from agile_strike.hub.student import SimulatedStudent
from agile_strike.live.door import landing, stations
from agile_strike.live.door.plausible import Numbers
from agile_strike.live.models import Mark, Stream, Take
from agile_strike.live.models import Packet as Row
from agile_strike.live.settling.settle import settle
from agile_strike.live.taps import rounds, sets, takes
from agile_strike.live.taps.sets import When, Which
from agile_strike.live.telling.told import NobodysBlows
from agile_strike.live.watch.cursors import Cursor
from agile_strike.live.watch.worker import Worker, clean
from agile_strike.live.whose.placing import packets_of, placed
from agile_strike.people.models import Student
from agile_strike.removal.services import erase
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def other(gym: Gym) -> Student:
    return Student.objects.create(gym=gym, name="Idris Bellamy", label="idris", stance="southpaw",
                                  birth_date=dt.date(1999, 2, 27))  # fmt: skip


def strikes_of(take: Take) -> int:
    return Strike.objects.filter(recording=take.recording_id).count()


def test_what_a_hub_brings_after_the_next_has_stepped_up_is_the_first_ones(evening: Evening, other: Student) -> None:
    """The network drops, A throws five, B steps up, and all of it arrives then, out of order."""
    first = evening.step_up()
    evening.land(evening.gather(6.0))
    worker = Worker()
    worker.step()
    evening.begin(first)
    held = evening.gather(26.0)
    sets.end_set(evening.gym, first.pk, evening.when())
    second = takes.begin_take(evening.gym, evening.station.pk, other.pk, evening.now)
    held += evening.gather(30.0)
    for k in range(0, len(held), 8):
        evening.land(held[k : k + 8][::-1])
        worker.step()
    evening.land(evening.gather(31.0))
    worker.step()
    assert strikes_of(second) == 0
    takes.end_take(evening.gym, second.pk, evening.now)
    evening.land(evening.gather(31.3))
    everything = set(Row.objects.values_list("pk", flat=True))
    both = list(Take.objects.order_by("pk").select_related("stream", "station"))
    assert all(placed(t) for t in both)
    own = [set(packets_of(t).values_list("pk", flat=True)) for t in both]
    assert not own[0] & own[1]
    assert {r.gathered_s for r in Row.objects.filter(pk__in=everything - own[0] - own[1])} <= {
        r.gathered_s for r in Row.objects.filter(gathered_s__gte=30.9)
    }
    for take in both:
        settle(take.pk)
    assert [strikes_of(t) for t in both] == [5, 0]
    assert all(t.settled_at for t in Take.objects.all())


def test_a_take_begins_once_no_packet_of_its_beginning_can_be_on_its_way(evening: Evening) -> None:
    evening.land(evening.gather(3.0))
    evening.now_s += 0.08
    take = evening.step_up()
    early, *rest = evening.gather(4.0)  # gathered just after the tap, and comes last
    evening.land(rest)
    assert not placed(take)
    evening.land([early])
    assert placed(take)
    assert take.first_packet == decode(early).number
    clean(evening.now + dt.timedelta(minutes=10))
    evening.now_s += 600.0  # a long talk, and the next one is known at once: the last packet is still there
    Take.objects.update(ended_at=evening.now, settled_at=evening.now, last_packet=len(evening.packets) - 1)
    later = evening.step_up()
    evening.land(evening.gather(evening.now_s + 0.2))
    assert placed(later)


def test_packets_are_looked_at_in_whatever_order_two_servers_commit_them(evening: Evening) -> None:
    """Ids are drawn before a commit: those of the slower server are lower, and are seen later."""
    take = evening.step_up()
    evening.land(evening.gather(0.5))
    worker = Worker()
    worker.step()
    came = evening.gather(40.0)
    rows = [landing.Come(evening.stream.pk, evening.station.pk, decode(c), c, evening.now) for c in came]
    top = Row.objects.order_by("-pk").values_list("pk", flat=True)[0] + 10_000
    for part in (rows[300:], rows[:300]):  # the later ones first, with the higher ids
        top -= 2000
        Row.objects.bulk_create(
            Row(pk=top + k, stream=evening.stream, number=c.packet.number, content=c.content, received_at=c.at,
                gathered_s=c.packet.hub_s)
            for k, c in enumerate(part)
        )  # fmt: skip
        worker.step()
    bag = worker.lines[take.pk].gathered["bag"]
    assert bag.has(bag.upto - 20_000, bag.upto)


def test_a_cursor_waits_for_what_is_missing_a_minute_and_not_for_ever() -> None:
    cursor = Cursor(5)
    assert [cursor.is_new(n) for n in (5, 6, 8, 9, 8)] == [True, True, True, True, False]
    cursor.go_on(0.0)
    cursor.go_on(30.0)
    assert cursor.floor == 7
    cursor.go_on(61.0)
    assert (cursor.floor, cursor.seen) == (10, set())


def test_a_late_end_ends_its_own_set_and_no_other(evening: Evening) -> None:
    take = evening.step_up()
    evening.now_s = 5.0
    evening.begin(take, key="set-1")
    evening.now_s = 9.0
    end = evening.when("end-1")
    evening.now_s = 12.0
    evening.begin(take, key="set-2")
    evening.now_s = 3 * 3600.0  # the tablet was away, and tells of it now
    sets.end_set(evening.gym, take.pk, end, "set-1")
    sets.end_set(evening.gym, take.pk, end, "set-1")
    first, second = Mark.objects.filter(kind="set").order_by("at")
    assert (first.until, second.until) == (end.at, None)
    assert first.planned is not None
    assert first.planned.ended_at == end.at
    takes.end_take(evening.gym, take.pk, end.at)  # that, too, was tapped before the second set began
    take.refresh_from_db()
    assert take.ended_at is None
    sets.end_set(evening.gym, take.pk, evening.when(), "nobody's")
    assert Mark.objects.get(key="set-2").until is None
    with pytest.raises(BadInput, match="clock is off"):
        sets.end_set(evening.gym, take.pk, When(at=evening.now - dt.timedelta(hours=13)), "set-2")


def test_a_late_beginning_ends_nothing_that_was_begun_after_it(evening: Evening) -> None:
    take = evening.step_up()
    evening.begin(take, key="set-1")
    evening.now_s = 5.0
    late = evening.when("set-2")
    evening.now_s = 9.0
    evening.begin(take, key="set-3")
    sets.begin_set(evening.gym, take.pk, Which(text=STRAIGHT), late)
    first, second, third = Mark.objects.filter(kind="set").order_by("at")
    assert [m.key for m in (first, second, third)] == ["set-1", "set-2", "set-3"]
    assert (first.until, second.until, third.until) == (late.at, third.at, None)
    assert second.planned is not None
    assert second.planned.ended_at == third.at


def test_a_round_that_is_begun_twice_is_one_and_another_ends_it(evening: Evening) -> None:
    take = evening.step_up()
    called = Round(
        length_s=30.0, calls=("1", "2"), order="random", gap_s=2.0, last_gap_s=2.0, body_share=0.0, rush=True
    )
    again = [rounds.begin_round(evening.gym, take.pk, called, evening.when("round-1")).pk for _ in range(2)]
    cues = Mark.objects.filter(kind="cue").count()
    assert again[0] == again[1]
    assert Mark.objects.filter(kind="round").count() == 2  # itself, and its rush
    evening.now_s += 10.0
    rounds.begin_round(evening.gym, take.pk, called, evening.when("round-2"))
    left = list(Mark.objects.filter(kind="cue").order_by("at").values_list("at", flat=True))
    assert cues <= len(left) + 3 <= 2 * cues  # a cue or three had been due
    assert all((b - a).total_seconds() > 0.5 for a, b in pairwise(left))
    running = Mark.objects.filter(kind="round", value="", until__gt=evening.now)
    assert running.count() == 1


def test_who_is_erased_takes_nothing_of_another_along(evening: Evening, other: Student) -> None:
    """A's packets come after B has stepped up; B is erased before they are settled."""
    first = evening.step_up()
    held = evening.gather(4.0)
    second = takes.begin_take(evening.gym, evening.station.pk, other.pk, evening.now)
    held += evening.gather(6.0)
    evening.now_s += 20.0
    evening.land(held)
    evening.land(evening.gather(evening.now_s + 0.5))
    assert placed(first)
    own = set(packets_of(Take.objects.get(pk=first.pk)).values_list("number", flat=True))
    assert len(own) >= 39
    assert Take.objects.filter(pk=second.pk).exists()
    erase(evening.gym, other.pk, other.name)
    assert set(Row.objects.values_list("number", flat=True)) == own


def test_a_sample_number_that_can_not_be_is_refused_and_moves_nothing() -> None:
    units = {"bag": UnitFacts(rate_hz=1000.0), "leftwrist": UnitFacts(rate_hz=1000.0)}
    numbers = Numbers(Opening(stream="of-a-test", units=units))

    def packet(hub_s: float, **firsts: int) -> Packet:
        parts = {p: Part(first=n, load=np.zeros((40, 1), np.float32)) for p, n in firsts.items()}
        return Packet(number=int(hub_s * 20), hub_s=hub_s, units=parts)

    numbers.refuse(packet(0.0, bag=0, leftwrist=500))
    numbers.refuse(packet(0.1, bag=100))
    for first in (2**53 - 100, 50_000_000, 20_000):
        with pytest.raises(BadPacket, match="numbers samples of bag"):
            numbers.refuse(packet(0.2, bag=first))
    numbers.refuse(packet(0.2, bag=200, leftwrist=700))
    numbers.refuse(packet(600.0, bag=600_000))  # it was away for ten minutes
    numbers.refuse(packet(0.3, bag=300))  # that was still to come


def test_one_bags_trouble_is_no_others_and_settling_is_asked_for_again(
    evening: Evening, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    worker = Worker()
    worker.step()
    station, _ = stations.make_station(evening.gym, "By the door", evening.station.bag_id)
    broken = evening.open_stream("stream-bad")
    broken.station = station
    broken.save()
    Row.objects.create(stream=broken, number=0, content=b"\xff", received_at=evening.now, gathered_s=0.0)
    evening.begin(take)
    for content in evening.gather(26.0):
        evening.land([content])
        worker.step()
    assert strikes_of(take) == 5
    assert "could not be measured" in caplog.text
    takes.end_take(evening.gym, take.pk, evening.now)
    asked: list[int] = []
    monkeypatch.setattr("agile_strike.live.watch.worker.settle_soon", lambda one, in_s: asked.append(one.pk))
    clean(evening.now + dt.timedelta(seconds=30))
    clean(evening.now + dt.timedelta(minutes=3))
    assert asked == [take.pk]


def test_a_hubs_clock_goes_on_whoever_sets_the_walls(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    spool = Spool(tmp_path)
    hub = Hub(SimulatedStudent(worn=()), spool, "http://127.0.0.1:1", "")
    hub.take_up_clock()
    before = hub.now_s
    wall = time.time
    monkeypatch.setattr(time, "time", lambda: wall() + 3600.0)
    assert 0.0 <= hub.now_s - before < 60.0
    spool.put(b"one", {}, hub.now_s + 500.0)
    spool.close()
    monkeypatch.setattr(time, "time", lambda: wall() - 3600.0)
    again = Hub(SimulatedStudent(worn=()), Spool(tmp_path), "http://127.0.0.1:1", "")
    again.take_up_clock()
    assert again.now_s >= before + 500.0  # never set back
    again.spool.close()


def test_a_set_that_is_ended_by_the_next_keeps_no_cue_of_its_own(evening: Evening) -> None:
    take = evening.step_up()
    called = Round(length_s=60.0, calls=("1",), order="fixed", gap_s=3.0, last_gap_s=3.0, body_share=0.0, rush=False)
    rounds.begin_round(evening.gym, take.pk, called, evening.when("round-1"))
    evening.now_s += 2.0
    sets.begin_set(evening.gym, take.pk, Which(text=STRAIGHT), evening.when("set-2"))
    assert not Mark.objects.filter(kind="cue").exists()


def test_a_planned_set_that_nobody_struck_in_is_to_come_until_it_is_thrown(evening: Evening) -> None:
    """Begun and ended thrice before the hub sends; what was struck in one of them arrives later."""
    take = evening.step_up()
    ramp = [plan(evening.gym, take.session_id, replace(STRAIGHT, strikes=n)) for n in (3, 3)]
    for one in ramp:
        sets.begin_set(evening.gym, take.pk, Which(planned_id=one.pk), evening.when(f"set-{one.pk}"))
        evening.now_s += 2.0
        sets.end_set(evening.gym, take.pk, evening.when())
    settle(take.pk)
    assert list(PlannedSet.objects.values_list("began_at", "ended_at")) == [(None, None)] * 2
    sets.begin_set(evening.gym, take.pk, Which(planned_id=ramp[0].pk), evening.when("again"))
    evening.source.told({"set": {"key": "again", "code": "rear-straight", "limb": "right_hand", "strikes": 3}})
    evening.land(evening.gather(evening.now_s + 14.0))
    sets.end_set(evening.gym, take.pk, evening.when(), "again")
    Worker().step()
    evening.land(evening.gather(evening.now_s + 3.0))
    settle(take.pk)
    begun = dict(PlannedSet.objects.values_list("pk", "began_at"))
    assert begun[ramp[0].pk] == Mark.objects.get(key="again").at
    assert begun[ramp[1].pk] is None


def test_a_hubs_clock_that_can_not_be_is_not_believed_and_an_old_one_gives_way(evening: Evening) -> None:
    def told(number: int, hub_s: float, offset_s: float, doubt_s: float) -> list[float]:
        packet = Packet(number=number, hub_s=hub_s, clock=(offset_s, doubt_s))
        landing.commit([landing.Come(evening.stream.pk, evening.station.pk, packet, encode(packet), evening.now)])
        return list(Stream.objects.get(pk=evening.stream.pk).clock or ())

    zero = evening.began.timestamp()
    Stream.objects.update(clock=None)
    assert told(0, 0.0, zero, 0.003) == [zero, 0.003, 0.0]
    evening.now_s = 10.0
    assert told(1, 10.0, zero + 0.01, 0.02) == [zero, 0.003, 0.0]  # it knows less, and says nothing else
    assert told(2, 10.0, zero + 3600.0, 0.001) == [zero, 0.003, 0.0]  # gathered in an hour
    evening.now_s = 3600.0
    assert told(3, 3600.0, zero + 0.02, 0.02) == [zero + 0.02, 0.02, 3600.0]  # by now the first may be off by more
    assert told(4, 3601.0, zero - 5.0, 0.05) == [zero - 5.0, 0.05, 3601.0]  # it was set


def test_a_full_disk_holds_gathering_and_ends_no_hub(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    said: list[str] = []
    hub = Hub(SimulatedStudent(worn=()), Spool(tmp_path), "http://127.0.0.1:1", "", say=said.append)
    packet = Packet(number=0, hub_s=1.0)
    full = {"disk": True}
    write = Path.write_bytes

    def written(path: Path, content: bytes) -> int:
        if full["disk"]:
            raise OSError(errno.ENOSPC, "No space left on device")
        return write(path, content)

    monkeypatch.setattr(Path, "write_bytes", written)
    assert [hub._kept(packet, {}) for _ in range(3)] == [False] * 3
    assert hub.spool.place.next == 0
    full["disk"] = False
    assert hub._kept(packet, {"bag": 40})
    assert (hub.spool.place.next, hub.spool.place.sent) == (1, {"bag": 40})
    assert [("gathering waits" in s, "goes on" in s) for s in said] == [(True, False), (False, True)]
    hub.spool.close()


def test_a_garbled_number_on_a_serial_line_is_dropped_and_a_long_gap_parts_packets() -> None:
    port = Port()
    numbers = [*range(100), 9_000_000_000, *range(100, 200), 7, *range(200, 300), *range(500_000, 500_100)]
    lines = ["unit,bag,1000", *(f"bag,{n},0,0,9.8,0,0,0" for n in numbers), "end"]
    port.read(lines)
    parts = []
    while not port.ended({}):
        parts.append(port.due(0.0, {}).get("bag"))
    assert [(p.first, p.count) for p in parts if p] == [(0, 300), (500_000, 100)]
    assert port.bad_lines == 2


def test_a_student_whose_tap_comes_late_stood_there_all_the_same(evening: Evening, other: Student) -> None:
    """The tablet had no network when B stepped up; A's five came before, B's five were shown as A's until then."""
    first = evening.step_up()
    evening.land(evening.gather(6.0))
    worker = Worker()
    evening.begin(first)
    for content in evening.gather(26.0):
        evening.land([content])
        worker.step()
    sets.end_set(evening.gym, first.pk, evening.when())
    settle(first.pk)
    stepped_up = evening.now
    evening.begin_source()
    for content in evening.gather(46.0):
        evening.land([content])
        worker.step()
    settle(first.pk)  # it packs what was not its own as well
    assert strikes_of(first) == 10
    for key in ("tap-1", "tap-1"):
        second = takes.begin_take(evening.gym, evening.station.pk, other.pk, stepped_up, key)
    evening.done(second)
    for take in (first, second):
        settle(take.pk)
    counted = [Strike.objects.standing().filter(recording=t.recording_id, excluded_reason="") for t in (first, second)]
    assert [c.count() for c in counted] == [5, 5]
    own = Recording.objects.get(pk=first.recording_id)
    assert abs(own.length_s - (stepped_up - first.began_at).total_seconds()) < 0.3
    assert [t.settled_at is not None for t in Take.objects.order_by("pk")] == [True, True]


def test_a_late_tap_that_can_not_be_says_why_and_changes_nothing(evening: Evening, other: Student) -> None:
    take = evening.step_up()
    early = evening.now
    evening.land(evening.gather(3.0))
    evening.begin(take)
    with pytest.raises(BadInput, match="Since that tap Petra Vanek was tapped"):
        takes.begin_take(evening.gym, evening.station.pk, other.pk, early + dt.timedelta(seconds=1))
    evening.land(evening.gather(5.0))
    settle(evening.done(take).pk)
    evening.now_s += 20.0
    with pytest.raises(BadInput, match="is settled"):
        takes.begin_take(evening.gym, evening.station.pk, other.pk, early + dt.timedelta(seconds=4))
    third = takes.begin_take(evening.gym, evening.station.pk, other.pk, evening.now)
    assert takes.begin_take(evening.gym, evening.station.pk, take.session.student_id, early) == take
    assert list(Take.objects.filter(ended_at__isnull=True)) == [third]


def test_blows_that_nobody_was_said_to_throw_are_told_and_can_still_be_somebodys(
    evening: Evening, other: Student, monkeypatch: pytest.MonkeyPatch
) -> None:
    heard: list[dict[str, object]] = []
    monkeypatch.setattr("agile_strike.live.watch.kit.tell", lambda *_, **more: heard.append(more))
    evening.land(evening.gather(6.0))
    worker = Worker()
    worker.step()
    evening.begin_source()
    for content in evening.gather(26.0):
        evening.land([content])
        worker.step()
    evening.land(evening.gather(28.0))
    worker.step()
    blows = next(h["nobodys"] for h in reversed(heard) if "nobodys" in h)
    assert isinstance(blows, NobodysBlows)
    assert blows.blows == 5
    for _ in range(2):
        take = takes.claim(evening.gym, evening.station.pk, other.pk, blows.since, blows.until, "tap-1")
    with pytest.raises(BadInput, match="by now"):
        takes.claim(evening.gym, evening.station.pk, evening.student.pk, blows.since, blows.until)
    evening.land(evening.gather(32.0))
    worker.step()
    assert heard[-1]["nobodys"] is None
    settle(take.pk)
    assert [(t.session.student_id, strikes_of(t)) for t in Take.objects.all()] == [(other.pk, 5)]


def test_a_tablet_whose_clock_is_a_little_behind_does_not_step_up_into_the_past(
    evening: Evening, other: Student
) -> None:
    first = evening.step_up()
    evening.land(evening.gather(4.0))
    settle(evening.done(first).pk)
    again = takes.begin_take(evening.gym, evening.station.pk, evening.student.pk, evening.now - dt.timedelta(seconds=2))
    ended = Take.objects.get(pk=first.pk).ended_at
    assert (again.pk != first.pk, again.ended_at, again.began_at) == (True, None, ended)
    evening.now_s += 1.0
    takes.begin_take(evening.gym, evening.station.pk, other.pk, evening.now)
    between = Student.objects.create(gym=evening.gym, name="Ilse", label="ilse", birth_date=dt.date(1990, 1, 1))
    takes.begin_take(evening.gym, evening.station.pk, between.pk, evening.now - dt.timedelta(seconds=0.3))
    rows = list(Take.objects.order_by("began_at"))
    assert [t.session.student_id for t in rows[-2:]] == [between.pk, other.pk]
    assert [a.ended_at for a in rows[1:-1]] == [b.began_at for b in rows[2:]]  # none at once
