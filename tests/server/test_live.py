"""At the bag: packets come in whatever order, and the settled evening is that of an import of the same samples."""

import datetime as dt
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from asking import send
from django.test import Client
from live_makers import STRAIGHT, Evening, Way

from agile_strike.capture.models import Recording
from agile_strike.core.analysis import analyse
from agile_strike.core.errors import BadInput
from agile_strike.core.live import provisional
from agile_strike.core.sets import calls
from agile_strike.core.simulation.body_truth import body_truth
from agile_strike.core.simulation.student import Thrown
from agile_strike.core.simulation.wear import Course
from agile_strike.evening.models import PlannedSet
from agile_strike.evening.services import SetText
from agile_strike.formats.archive import opened
from agile_strike.formats.motion_bids_read import read_all
from agile_strike.formats.packets import decode, encode
from agile_strike.gym.models import Gym
from agile_strike.hub.student import SimulatedStudent
from agile_strike.intake.again import anew, raw
from agile_strike.intake.tables import zipped
from agile_strike.live.models import Mark, Packet, Take
from agile_strike.live.screens.pages import take_page
from agile_strike.live.settling import settle as settling
from agile_strike.live.settling.settle import settle
from agile_strike.live.taps import rounds, sets, takes
from agile_strike.live.taps.sets import Which
from agile_strike.live.watch import kit
from agile_strike.live.watch.worker import Worker, clean
from agile_strike.live.whose.of_set import mark_at
from agile_strike.live.whose.reference import at_reference
from agile_strike.people.models import Student
from agile_strike.removal.services import erase
from agile_strike.review import say
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db(transaction=True)


def settled(take: Take) -> list[dict[str, Any]]:
    settle(take.pk)
    rows = Strike.objects.filter(recording=take.recording).order_by("number")
    return list(rows.values("contact_s", "limb", "flags", "impulse_n_s", "impulse_n_s_sd", "peak_speed_m_s"))


@pytest.mark.parametrize("bad", [False, True])
def test_the_settled_evening_is_the_import_of_its_data_set(evening: Evening, bad: bool, tmp_path: Path) -> None:
    take = evening.thrown(Way(bad))
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
    take.refresh_from_db()
    assert all(p.number > take.last_packet for p in Packet.objects.all())  # what came after it alone
    assert [s.planned.strikes for s in row.sets.all() if s.planned] == [5]


def test_what_is_shown_first_lies_within_its_doubt_of_what_is_settled(evening: Evening) -> None:
    take = evening.thrown(Way())
    first = {s.pk: (s.impulse_n_s, s.impulse_n_s_sd) for s in Strike.objects.filter(recording=take.recording)}  # type: ignore[attr-defined]
    assert len(first) == 5
    settle(take.pk)
    for row in Strike.objects.filter(recording=take.recording):
        value, sd = first[row.pk]  # the same row: what was said of it stays with it
        assert abs(row.impulse_n_s - value) <= 2.0 * sd  # type: ignore[attr-defined]
        assert row.impulse_n_s_sd < sd  # type: ignore[attr-defined]


def test_a_worker_that_is_killed_mid_set_goes_on_where_it_was(evening: Evening) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take)
    worker = Worker()
    for content in evening.gather(16.0):
        evening.land([content])
        worker.step()
    before = Strike.objects.filter(recording=take.recording).count()
    assert before >= 2
    worker = Worker()  # a new process, which knows nothing
    for content in evening.gather(26.0):
        evening.land([content])
        worker.step()
    assert Strike.objects.filter(recording=take.recording).count() == 5
    assert len(settled(evening.done(take))) == 5


def test_a_worker_that_was_away_for_minutes_finds_every_strike_and_says_how_far_it_is_behind(
    evening: Evening, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[float] = []
    monkeypatch.setattr(kit, "tell", lambda *_, lag_s, **__: said.append(lag_s))
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take)
    evening.land(evening.gather(26.0))
    evening.land(evening.gather(150.0))  # the student stands and talks
    worker = Worker()
    worker.step()
    assert Strike.objects.filter(recording=take.recording).count() == 5
    evening.land(evening.gather(151.0))
    evening.now_s += 12.0  # another bag's rest took that long
    worker.step()
    assert said[-1] == pytest.approx(12.0, abs=0.2)
    evening.land(evening.gather(166.0))
    worker.step()
    assert said[-1] == 0.0


def test_a_strike_that_cannot_be_measured_stops_no_other(evening: Evening, monkeypatch: pytest.MonkeyPatch) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take)
    worker, measured, failed = Worker(), provisional.measured, []

    def fails_once(so_far: Any, at_s: float, state: Any, whole: bool) -> Any:
        if not failed or abs(at_s - failed[0]) < 0.01:
            failed.append(at_s)
            raise ZeroDivisionError
        return measured(so_far, at_s, state, whole)

    monkeypatch.setattr(provisional, "measured", fails_once)
    for content in evening.gather(26.0):
        evening.land([content])
        worker.step()
    assert len(failed) == 1  # and it is not tried over and over
    assert Strike.objects.filter(recording=take.recording).count() == 4
    assert len(settled(evening.done(take))) == 5


def test_a_set_that_ends_settles_and_the_next_shows_hand_speed_at_once(evening: Evening) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take)
    worker = Worker()
    for content in evening.gather(24.0):
        evening.land([content])
        worker.step()
    sets.end_set(evening.gym, take.pk, evening.when())
    settle(take.pk)
    own = Strike.objects.filter(recording=take.recording)
    assert [("provisional" in s.flags, s.set_id is not None) for s in own] == [(False, True)] * 5
    say.remark(evening.gym, own.first().pk, "dipped", True, None)  # type: ignore[union-attr, arg-type]
    evening.begin(take, SetText(code="rear-straight", limb="right_hand", level="head", strikes=3))
    for content in evening.gather(40.0):
        evening.land([content])
        worker.step()
    late = [s for s in own.all() if "provisional" in s.flags]
    assert len(late) == 3
    assert all(s.peak_speed_m_s is not None for s in late[:-1])  # type: ignore[attr-defined]
    rows = settled(evening.done(take))
    assert len(rows) == 8
    row = Recording.objects.get(pk=take.recording_id)
    assert sorted(s.strikes.count() for s in row.sets.all()) == [3, 5]
    assert [r.what for s in own.all() for r in s.remarks.all()] == ["dipped"]


def test_a_unit_that_falls_silent_costs_its_own_measures_and_no_more(evening: Evening) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take)
    evening.land(evening.gather(15.0))
    evening.land(evening.gather(26.0, without="rightwrist"))
    rows = settled(evening.done(take))
    assert len(rows) == 5
    assert all(r["impulse_n_s"] for r in rows)
    assert [r["peak_speed_m_s"] is None for r in rows] == [r["contact_s"] > 14.0 for r in rows]


def test_a_unit_long_dead_costs_no_strike_that_comes_after(evening: Evening, caplog: pytest.LogCaptureFixture) -> None:
    evening.wear("rightwrist", "torso", "leftsole", "rightsole")
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take)
    evening.land(evening.gather(22.0))
    sets.end_set(evening.gym, take.pk, evening.when())
    settle(take.pk)
    worker = Worker()
    worker.step()
    # nothing but the bag, for longer than the worker holds samples
    for content in evening.gather(58.0, without=evening.source.worn):
        evening.land([content])
        worker.step()
    evening.begin(take)
    for content in evening.gather(78.0, without=evening.source.worn):
        evening.land([content])
        worker.step()
    assert "could not be measured" not in caplog.text
    late = Strike.objects.filter(recording=take.recording, contact_s__gt=40.0)
    assert late.count() == 5
    assert {s.limb for s in late} == {"right_hand"}  # as planned, with its unit known to be silent
    assert all(s.impulse_n_s and s.peak_speed_m_s is None for s in late)  # type: ignore[attr-defined]


def test_a_hub_that_has_gone_is_waited_for_without_measuring_again(
    evening: Evening, monkeypatch: pytest.MonkeyPatch
) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take)
    evening.land(evening.gather(20.0))
    evening.now_s += 0.1
    sets.end_set(evening.gym, take.pk, evening.when())
    takes.end_take(evening.gym, take.pk, evening.now)  # and nothing comes after it
    measured: list[int] = []
    monkeypatch.setattr(settling, "anew", lambda gym, row: (measured.append(row.pk), anew(gym, row))[1])
    for _ in range(3):
        settle(take.pk)
    assert len(measured) == 1
    assert Take.objects.get(pk=take.pk).settled_at is None
    assert not any("provisional" in s.flags for s in Strike.objects.filter(recording=take.recording))
    evening.land(evening.gather(evening.now_s + 0.3))  # the hub is back
    settle(take.pk)
    assert len(measured) == 2
    assert Take.objects.get(pk=take.pk).settled_at is not None


def another_hub(evening: Evening, worker: Worker) -> None:
    """The hub comes back with an empty spool."""
    other = evening.open_stream("stream-2")
    evening.packets = []
    evening.sent = {}
    evening.land(evening.gather(evening.now_s + 2.0), other)
    worker.step()
    worker.step()


def test_a_hub_that_begins_anew_goes_on_and_so_does_the_set_that_runs(evening: Evening) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    worker = Worker()
    worker.step()
    another_hub(evening, worker)  # before any strike: it is the same take
    assert Take.objects.get().first_packet is not None
    assert Take.objects.get().stream.key == "stream-2"
    Strike.objects.create(recording=take.recording, analysis=take.recording.analysis, number=1, contact_s=1.0)
    evening.begin(take)
    third = evening.open_stream("stream-3")
    evening.land(evening.gather(evening.now_s + 2.0), third)
    worker.step()
    first, second = Take.objects.order_by("pk")
    assert first.ended_at is not None
    assert (second.session_id, second.ended_at) == (take.session_id, None)
    assert [m.planned.strikes for m in second.marks.all() if m.planned and m.until is None] == [5]


def test_taps_that_come_twice_or_late_count_once_and_from_when_they_were_made(evening: Evening) -> None:
    take = evening.step_up()
    evening.now_s = 5.0
    evening.begin(take, key="tap-1")
    evening.now_s = 9.0
    evening.begin(take, key="tap-1")
    assert take.marks.get().at == evening.began + dt.timedelta(seconds=5)
    assert PlannedSet.objects.filter(session=take.session).count() == 1
    evening.step_up()
    assert Take.objects.count() == 1
    far = sets.When(at=evening.now + dt.timedelta(days=1))
    with pytest.raises(BadInput, match="clock is off"):
        sets.begin_set(evening.gym, take.pk, Which(text=STRAIGHT), far)


def test_two_in_turn_are_two_recordings_and_each_has_only_their_own(evening: Evening, gym: Gym) -> None:
    other = Student.objects.create(gym=gym, name="Idris Bellamy", label="idris", stance="southpaw",
                                   birth_date=dt.date(1999, 2, 27))  # fmt: skip
    first = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(first)
    evening.land(evening.gather(26.0))
    second = takes.begin_take(gym, evening.station.pk, other.pk, evening.now)
    evening.land(evening.gather(32.0))
    evening.begin(second, SetText(code="rear-straight", limb="left_hand", strikes=2))
    evening.land(evening.gather(44.0))
    first, second = Take.objects.get(pk=first.pk), evening.done(second)
    assert first.ended_at is not None
    assert (len(settled(first)), len(settled(second))) == (5, 2)


def test_a_strike_whose_samples_come_late_is_told_once_they_do(evening: Evening) -> None:
    contacts: list[float] = []
    evening.source.witness = lambda begins_s, course, one: contacts.append(begins_s + one.contact_s)
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    worker = Worker()
    worker.step()
    evening.begin(take)
    held: dict[float, list[bytes]] = {}  # what lies round each contact, until 1.4 s after it
    for content in evening.gather(26.0):
        now = decode(content).hub_s
        near = next((c for c in contacts if c - 0.2 <= now <= c + 0.5), None)
        if near is None:
            evening.land([content])
        else:
            held.setdefault(near, []).append(content)
        for contact in [c for c in held if now >= c + 1.4]:
            evening.land(held.pop(contact))
        worker.step()
    told = Strike.objects.filter(recording=take.recording).order_by("contact_s").values_list("contact_s", flat=True)
    assert len(contacts) == 5
    assert list(told) == pytest.approx(contacts, abs=0.02)


def test_a_worker_held_up_on_a_stream_that_is_played_faster_finds_every_strike_afterwards(evening: Evening) -> None:
    evening.stream.opening["speed"] = 4.0
    evening.stream.save()
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    worker = Worker()
    worker.step()
    evening.begin(take)
    evening.land(evening.gather(60.0))  # a quarter of a minute by the wall
    worker.step()
    assert Strike.objects.filter(recording=take.recording).count() == 5


def test_an_evening_that_is_played_twice_is_two_that_both_come_to_their_end(evening: Evening) -> None:
    rows = []
    for key in ("played-once", "played-again"):
        evening.source, evening.sent, evening.packets = SimulatedStudent(worn=()), {}, []
        evening.began, evening.now_s = evening.now, 0.0
        evening.stream = evening.open_stream(key)
        take = evening.thrown(Way())
        assert len(settled(take)) == 5
        rows.append(Recording.objects.get(pk=take.recording_id))
    assert [r.open for r in rows] == [False, False]
    assert rows[1].checksum.startswith("take ")


@pytest.mark.parametrize(
    ("contact_s", "doubt_ms", "fell_into"),
    [(9.4, 0, ""), (9.7, 0, "a"), (10.1, 0, "a"), (20.5, 0, "a"), (20.9, 0, "b"), (21.2, 0, "b"), (40.8, 0, "b"),
     (41.2, 0, ""), (9.4, 150, "a"), (41.2, 250, "b"), (9.3, 150, "")],
)  # fmt: skip
def test_a_strike_is_of_the_set_that_ran_else_of_the_nearest(contact_s: float, doubt_ms: float, fell_into: str) -> None:
    began = dt.datetime(2026, 11, 28, 18, 0, tzinfo=dt.UTC)

    def made(key: str, first: float, last: float) -> Mark:
        at, until = (began + dt.timedelta(seconds=s) for s in (first, last))
        return Mark(kind=Mark.Kind.SET, key=key, at=at, until=until, doubt_ms=doubt_ms)

    take = Take(clock={"zero_s": 0.0, "rate": 1.0, "epoch_s": began.timestamp(), "sd_s": 0.01})
    assert mark_at(take, [made("a", 10.0, 20.3), made("b", 21.0, 40.0)], contact_s) == fell_into


def test_a_take_that_begins_while_its_hub_lags_knows_its_clock_once_it_has_caught_up(evening: Evening) -> None:
    take = evening.step_up()
    held = evening.gather(2.0)
    worker = Worker()
    lagging = [encode(replace(p, hub_s=p.hub_s + 1.6)) for p in map(decode, held)]
    for some in (lagging, evening.gather(6.0)):
        evening.land(some)
        worker.step()
        worker.lines[take.pk].clock_at = 0.0
    at = at_reference(Take.objects.get(pk=take.pk).clock, evening.now)
    assert at == pytest.approx(6.0, abs=0.15)


def test_what_no_take_holds_is_forgotten_and_what_one_holds_is_not(evening: Evening) -> None:
    evening.land(evening.gather(3.0))
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    Worker().step()
    clean(evening.now + dt.timedelta(minutes=20))
    take.refresh_from_db()
    assert take.first_packet is not None
    left = set(Packet.objects.values_list("number", flat=True))
    assert min(left) == take.first_packet
    assert max(left) == len(evening.packets) - 1


def test_who_is_erased_leaves_no_packet_behind(evening: Evening) -> None:
    evening.step_up()
    evening.land(evening.gather(6.0))
    Worker().step()
    erase(evening.gym, evening.student.pk, evening.student.name)
    assert not Packet.objects.exists()
    assert not Take.objects.exists()


def test_a_child_without_consent_steps_up_to_no_bag(evening: Evening, gym: Gym) -> None:
    child = Student.objects.create(gym=gym, name="Hamish Duarte", label="hamish", birth_date=dt.date(2011, 9, 17),
                                   consent="missing")  # fmt: skip
    with pytest.raises(BadInput, match="consent"):
        takes.begin_take(gym, evening.station.pk, child.pk, evening.now)
    assert not Take.objects.exists()


def test_times_without_a_zone_or_the_wrong_way_round_end_with_a_word(evening: Evening, coach: Client) -> None:
    take = evening.step_up()
    plain = evening.now.replace(tzinfo=None).isoformat()
    assert send(coach, "post", f"takes/{take.pk}/sets/end", {"at": plain}).status_code == 200
    before = (evening.now - dt.timedelta(seconds=5)).isoformat()
    body = {"kind": "round", "at": evening.now.isoformat(), "until": before}
    wrong = send(coach, "post", f"takes/{take.pk}/calls", body)
    assert (wrong.status_code, "before it begins" in wrong.json()["message"]) == (422, True)


def test_a_limb_that_strikes_for_the_first_time_after_a_settling_stops_nothing(evening: Evening) -> None:
    evening.wear("leftwrist", "rightwrist")
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take)
    evening.land(evening.gather(24.0))
    sets.end_set(evening.gym, take.pk, evening.when())
    settle(take.pk)
    worker = Worker()
    worker.step()
    evening.begin(take, SetText(code="lead-straight", limb="left_hand", level="head", strikes=3))
    for content in evening.gather(44.0):
        evening.land([content])
        worker.step()
    own = Strike.objects.filter(recording=take.recording)
    assert own.count() == 8
    assert not any(s.peak_speed_m_s for s in own if s.limb == "left_hand")  # type: ignore[attr-defined]
    settle(evening.done(take).pk)
    assert all(s.peak_speed_m_s for s in own.all() if s.limb == "left_hand")  # type: ignore[attr-defined]


# --- rounds


def test_a_round_of_calls_is_answered_and_its_reaction_is_that_of_the_student(evening: Evening) -> None:
    evening.wear("leftwrist", "rightwrist")
    launches: list[tuple[float, float]] = []  # contact and launch as they truly were, seconds of the stream

    def witness(begins_s: float, course: Course, one: Thrown) -> None:
        flight_ms = body_truth(course, one, 1.0)["flight_ms"]
        launches.append((begins_s + one.contact_s, begins_s + one.contact_s - flight_ms / 1e3))

    evening.source.witness = witness
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    plan = calls.Round(length_s=60.0, calls=("1", "2"), gap_s=4.0, last_gap_s=4.0)
    rounds.begin_round(evening.gym, take.pk, plan, evening.when())
    cues = list(take.marks.filter(kind=Mark.Kind.CUE).order_by("at"))
    assert len(cues) > 8
    for cue in cues:  # a tablet sounds them where it was told
        cue.at = evening.began + (cue.at - cues[0].at) + dt.timedelta(seconds=12)
        cue.save(update_fields=["at"])
    heard = [rounds.Sounded(c.key, c.at, 8.0) for c in cues]
    assert rounds.sounded(evening.gym, take.pk, heard) == len(cues)
    at = [(c.at - evening.began).total_seconds() for c in cues]
    for cue, second in zip(cues, at, strict=True):
        code, limb, level = calls.cue_parts(cue.value)
        evening.source.told(
            {"calls": [{"key": cue.key, "code": code[0], "limb": limb[0], "level": level, "at": second}]}
        )
    for content in evening.gather(at[-1] + 5.0):
        evening.land([content])
    take = evening.done(take)
    settle(take.pk)
    page = take_page(evening.gym, Take.objects.get(pk=take.pk), False)
    said = [c for c in page.calls if c.landed]
    assert len(said) >= len(cues) - 1
    assert sum(c.right for c in said) >= 0.9 * len(said)
    # a reaction of 210 ms and a flight of 200, and how they vary
    assert abs(np.median([c.response_ms for c in said if c.response_ms]) - 410.0) < 40.0
    strikes = list(Strike.objects.filter(recording=take.recording, response_ms__isnull=False))
    assert len(strikes) >= 0.9 * len(said)
    assert all(s.response_ms_sd >= 8.0 for s in strikes)  # type: ignore[attr-defined]
    off = []
    for strike in strikes:
        _, launch = min(launches, key=lambda c: abs(c[0] - strike.contact_s))
        heard = max(second for second in at if second < launch)
        if strike.reaction_ms is not None:  # type: ignore[attr-defined]
            off.append(abs(strike.reaction_ms - 1e3 * (launch - heard)))  # type: ignore[attr-defined]
    assert len(off) >= 0.85 * len(strikes)
    assert np.median(off) < 15.0
    assert np.percentile(off, 95) < 30.0


def test_taps_on_the_bag_tell_how_late_a_tablet_sounds(evening: Evening, coach: Client) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take, SetText(code="rear-straight", limb="right_hand", level="head", strikes=10))
    while evening.now_s < 44.0:
        evening.land(evening.gather(evening.now_s + 1.0))
    settle(take.pk)
    clock = Take.objects.get(pk=take.pk).clock
    assert clock is not None
    contacts = Strike.objects.filter(recording=take.recording).values_list("contact_s", flat=True)
    felt = [clock["epoch_s"] + (c - clock["zero_s"]) / clock["rate"] for c in sorted(contacts)]
    assert len(felt) == 10
    late, early = 0.14, 0.03  # of the loudspeaker; of who taps along
    given = [felt[0] - 5.0, felt[0] - 2.5, *(at - late + early for at in felt)]
    beeps = [dt.datetime.fromtimestamp(at, dt.UTC).isoformat() for at in given]
    told = send(coach, "post", f"takes/{take.pk}/beeps", {"beeps": beeps, "doubt_ms": 4.0})
    assert told.status_code == 200, told.content
    assert abs(told.json()["delay_ms"] - 1e3 * late) < 8.0
    assert 20.0 <= told.json()["doubt_ms"] < 40.0
    elsewhere = [dt.datetime.fromtimestamp(at + 1.2, dt.UTC).isoformat() for at in given]
    unmet = send(coach, "post", f"takes/{take.pk}/beeps", {"beeps": elsewhere})
    assert (unmet.status_code, "tap" in unmet.json()["message"]) == (422, True)
    assert send(coach, "post", f"takes/{take.pk}/beeps", {"beeps": beeps[:4]}).status_code == 422


def test_a_round_that_is_ended_calls_no_more_and_a_childs_has_no_rush(evening: Evening, coach: Client) -> None:
    take = evening.step_up()
    evening.now_s = 1.0
    body = {"at": evening.now.isoformat(), "length_s": 60.0, "calls": ["1 2", "3"], "rush": True}
    page = send(coach, "post", f"takes/{take.pk}/rounds", body)
    assert page.status_code == 201, page.content
    assert {m["value"] for m in page.json()["marks"] if m["kind"] == "round"} == {"", "rush"}
    assert page.json()["calls"]
    sets.end_set(evening.gym, take.pk, evening.when())
    assert not take.marks.filter(kind=Mark.Kind.CUE).exists()
    wrong = send(coach, "post", f"takes/{take.pk}/rounds", {**body, "calls": ["1 9"]})
    assert (wrong.status_code, "“9”" in wrong.json()["message"]) == (422, True)
    evening.student.birth_date = dt.date(2013, 4, 2)
    evening.student.consent = "kept"
    evening.student.save()
    refused = send(coach, "post", f"takes/{take.pk}/rounds", body)
    assert (refused.status_code, "child" in refused.json()["message"]) == (422, True)


def test_a_gyms_own_calls_take_the_place_of_the_neutral_ones(coach: Client, gym: Gym) -> None:
    before = coach.get("/api/calls").json()["words"]
    assert before["2"] == "rear-straight"
    own = {"jab": "lead-straight", "cross": "rear-straight"}
    assert send(coach, "put", "calls", {"words": own, "before": before}).status_code == 200
    assert coach.get("/api/calls").json()["words"] == own
    late = send(coach, "put", "calls", {"words": before, "before": before})
    assert (late.status_code, "jab" in late.json()["message"]) == (409, True)
    wrong = send(coach, "put", "calls", {"words": {"two words": "lead-straight"}, "before": own})
    assert (wrong.status_code, coach.get("/api/calls").json()["words"]) == (422, own)
