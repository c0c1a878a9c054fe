"""A planned week: proposed from what is known, changed by hand, taken to tonight, by one coach at a time."""

import datetime as dt
import re
from typing import Any

import pytest
from asking import send  # the server folder's own
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.db.models import Sum
from django.test import Client
from trial_makers import START  # the server folder's own
from trial_makers import evening as thrown

from agile_strike.evening.models import Drilled, Session, Volume
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Mark, Student
from agile_strike.plans import services
from agile_strike.plans.services import monday_of
from agile_strike.review.models import Strike
from agile_strike.trials.models import Trial

pytestmark = pytest.mark.django_db
KICKS = {"kind": "kicks", "name": "Round kicks", "evenings": 4, "strikes": 100, "key": "round"}
MIRROR = {"kind": "drill", "name": "Mirror", "evenings": 2, "minutes": 5.0, "key": "mirror"}


def asked(monday: dt.date, version: int = 0, **other: Any) -> dict[str, Any]:
    free = [{"day": d, "minutes": 60.0} for d in (0, 2, 4, 6)]
    return {"monday": str(monday), "wishes": [KICKS, MIRROR], "free": free, "version": version} | other


def next_monday(student: Student) -> dt.date:
    return monday_of(student.gym.today) + dt.timedelta(days=7)


def test_a_week_is_proposed_bends_are_told_and_a_coach_moves_and_takes_off(
    student: Student, coach: Client, stranger: Client
) -> None:
    monday, path = next_monday(student), f"students/{student.pk}/plan"
    assert send(stranger, "put", path, asked(monday)).status_code == 404
    told = send(coach, "put", path, asked(monday)).json()
    assert [p["kind"] for p in told["parts"] if p["day"] == 0] in (["ramp", "drill", "kicks"], ["ramp", "kicks"])
    assert "3 high-volume kick days" in told["wishes"][0]["bent"]
    assert told["wishes"][1]["bent"] == ""
    assert send(coach, "put", path, asked(monday)).status_code == 409  # another coach's week is not lost
    drill = next(p for p in told["parts"] if p["kind"] == "drill")
    moved = send(coach, "put", f"plan-parts/{drill['id']}", {"day": 5, "version": 1}).json()
    assert next(p["day"] for p in moved["parts"] if p["id"] == drill["id"]) == 5
    assert send(stranger, "put", f"plan-parts/{drill['id']}", {"day": 4, "version": 2}).status_code == 404
    assert send(coach, "put", f"plan-parts/{drill['id']}", {"day": 7, "version": 2}).status_code == 422
    assert send(coach, "put", f"plan-parts/{drill['id']}", {"day": 4, "version": 1}).status_code == 409
    twice = send(coach, "post", f"plan-parts/{drill['id']}/copy", {"day": 6, "version": 2}).json()
    assert [p["day"] for p in twice["parts"] if p["name"] == drill["name"]].count(6) == 1
    assert len(twice["parts"]) == len(moved["parts"]) + 1
    assert send(stranger, "post", f"plan-parts/{drill['id']}/copy", {"day": 4, "version": 3}).status_code == 404
    assert send(coach, "post", f"plan-parts/{drill['id']}/copy", {"day": 7, "version": 3}).status_code == 422
    assert coach.delete(f"/api/plan-parts/{drill['id']}?version=2").status_code == 409
    less = coach.delete(f"/api/plan-parts/{drill['id']}?version=3").json()
    assert drill["id"] not in {p["id"] for p in less["parts"]}
    assert coach.get(f"/api/{path}?monday={monday}").json() == less


def test_what_is_sore_rests_until_it_is_cleared(student: Student, coach: Client) -> None:
    monday = next_monday(student)
    pain = Mark.objects.create(student=student, kind="injury", since=monday, text="left ankle, since Sunday")
    told = send(coach, "put", f"students/{student.pk}/plan", asked(monday)).json()
    assert "kicks" not in {p["kind"] for p in told["parts"]}
    assert "until the soreness is cleared" in told["wishes"][0]["bent"]
    pain.until = monday - dt.timedelta(days=1)
    pain.since = pain.until
    pain.save()
    again = send(coach, "put", f"students/{student.pk}/plan", asked(monday, told["version"])).json()
    assert "kicks" in {p["kind"] for p in again["parts"]}


def test_a_trial_rests_with_the_limb_that_throws_its_strike(student: Student, trial: Trial, coach: Client) -> None:
    monday, path = next_monday(student), f"students/{student.pk}/plan"
    wish = {"kind": "trial", "name": "Full shift", "evenings": 1, "strikes": 32, "minutes": 14.0, "key": str(trial.pk)}
    Mark.objects.create(student=student, kind="injury", since=monday, text="sore wrist")
    told = send(coach, "put", path, asked(monday, wishes=[wish])).json()
    assert (told["parts"], "soreness" in told["wishes"][0]["bent"]) == ([], True)
    Mark.objects.update(text="left ankle")
    told = send(coach, "put", path, asked(monday, told["version"], wishes=[wish])).json()
    assert [p["kind"] for p in told["parts"]] == ["ramp", "trial"]
    strange = asked(monday, told["version"], wishes=[{**wish, "key": "987654"}])
    assert send(coach, "put", path, strange).status_code == 404


def test_a_week_is_held_to_the_weeks_before_and_shows_what_was_thrown(
    student: Student, bag: BagVersion, coach: Client
) -> None:
    today = student.gym.today
    monday = monday_of(today)
    for on in (monday - dt.timedelta(days=5), today):
        thrown(student, bag, (on - START).days, 0.1, 1)
    straights = {"kind": "hands", "name": "Straights", "evenings": 4, "strikes": 60, "key": "straight"}
    free = [{"day": today.weekday(), "minutes": 60.0}]
    body = asked(monday, wishes=[straights], free=free)
    told = send(coach, "put", f"students/{student.pk}/plan", body).json()
    assert (told["usual"], told["most"]) == (32.0, 60.0)
    assert told["planned"] == 20  # with the thirty-two of today no jump
    assert "sudden jump" in told["wishes"][0]["bent"]
    assert [d["thrown"] for d in told["days"] if d["on"] == str(today)] == [32]
    assert (told["owed_hands"], sum(p["right"] for p in told["parts"])) == (-32, 0)  # the left gets twenty back
    over = send(coach, "put", f"students/{student.pk}/plan", asked(monday - dt.timedelta(days=7)))
    assert (over.status_code, "That week is over" in over.json()["message"]) == (422, True)


def test_tonight_is_taken_from_the_plan_once(student: Student, coach: Client) -> None:
    today = student.gym.today
    wish = {**KICKS, "evenings": 1, "strikes": 40}
    free = [{"day": today.weekday(), "minutes": 60.0}]
    send(coach, "put", f"students/{student.pk}/plan", asked(monday_of(today), wishes=[wish], free=free))
    for _ in range(2):
        assert send(coach, "post", f"students/{student.pk}/plan/tonight", {}).status_code == 200
    session = Session.objects.get(student=student, day=today)
    assert [p.levels["effort"] for p in session.planned.all()] == ["light", "half", "three-quarter"]
    assert list(Volume.objects.filter(session=session).values_list("family", "total")) == [("round", 40)]


def calendar(*events: str) -> bytes:
    inner = "\r\n".join(f"BEGIN:VEVENT\r\nDTSTAMP:20261101T000000Z\r\n{e}\r\nEND:VEVENT" for e in events)
    return f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//test//EN\r\n{inner}\r\nEND:VCALENDAR\r\n".encode()


def bring(coach: Client, student: Student, monday: dt.date, content: bytes) -> Any:
    path = f"/api/students/{student.pk}/plan/calendar?monday={monday}"
    return coach.post(path, {"file": SimpleUploadedFile("week.ics", content)})


def test_a_week_goes_out_as_a_calendar_and_what_was_moved_there_is_moved_here(student: Student, coach: Client) -> None:
    monday = next_monday(student)
    told = send(coach, "put", f"students/{student.pk}/plan", asked(monday, wishes=[MIRROR])).json()
    days = sorted({p["day"] for p in told["parts"]})
    out = coach.get(f"/api/students/{student.pk}/plan.ics?monday={monday}").content.replace(b"\r\n ", b"")
    assert out.count(b"BEGIN:VEVENT") == len(days) == 2
    assert b"SUMMARY:Petra Vanek: Mirror" in out
    before, after = (f"{monday + dt.timedelta(days=d):%Y%m%d}".encode() for d in (days[0], 5))
    end, later = (f"{monday + dt.timedelta(days=d):%Y%m%d}".encode() for d in (days[0] + 1, 6))
    there = out.replace(b"DTSTART;VALUE=DATE:" + before, b"DTSTART;VALUE=DATE:" + after)
    there = there.replace(b"DTEND;VALUE=DATE:" + end, b"DTEND;VALUE=DATE:" + later)
    told = bring(coach, student, monday, there).json()
    assert (told["moved"], told["busy"]) == (1, [])
    assert sorted({p["day"] for p in told["week"]["parts"]}) == sorted({*days[1:], 5})
    assert bring(coach, student, monday, there).json()["moved"] == 0
    whole = coach.get(f"/api/students/{student.pk}/plan?monday={monday}").json()
    first, second = sorted({p["day"] for p in whole["parts"]})
    out = coach.get(f"/api/students/{student.pk}/plan.ics?monday={monday}").content
    far = re.sub(rb"(DTSTART|DTEND);VALUE=DATE:\d{4}", rb"\1;VALUE=DATE:2035", out, count=2)
    told = bring(coach, student, monday, far).json()  # one of them lies in another year
    assert (told["moved"], len(told["away"]), told["week"]["parts"]) == (0, 1, whole["parts"])
    for old, new in ((first, second), (second, first)):  # they change places
        uid = f"-day-{old}@agile-strike".encode()
        at = out.index(uid)
        begin, end = out.rindex(b"BEGIN:VEVENT", 0, at), out.index(b"END:VEVENT", at)
        days = [(b"DTSTART;VALUE=DATE:", 0), (b"DTEND;VALUE=DATE:", 1)]
        event = out[begin:end]
        for name, later in days:
            was, now = (f"{monday + dt.timedelta(days=d + later):%Y%m%d}".encode() for d in (old, new))
            event = event.replace(name + was, name + now)
        out = out[:begin] + event + out[end:]
    told = bring(coach, student, monday, out).json()
    kinds = {p["id"]: p["day"] for p in told["week"]["parts"]}
    assert (told["moved"], kinds) == (2, {p["id"]: first + second - p["day"] for p in whole["parts"]})


@pytest.mark.parametrize(
    ("event", "busy"),
    [
        ("DTSTART:{0}T190000\r\nDTEND:{0}T200000\r\nSUMMARY:Choir", [0]),
        ("DTSTART:{0}T090000\r\nDTEND:{0}T120000\r\nSUMMARY:Dentist", []),
        ("DTSTART;VALUE=DATE:{2}\r\nDTEND;VALUE=DATE:{4}\r\nSUMMARY:Away", [2, 3]),
        ("DTSTART:20200106T183000\r\nDURATION:PT1H\r\nRRULE:FREQ=WEEKLY;BYDAY=TU,FR\r\nSUMMARY:Evening class", [1, 4]),
        ("DTSTART:20200107T183000\r\nDURATION:PT1H\r\nRRULE:FREQ=WEEKLY\r\nEXDATE:{1}T183000\r\nSUMMARY:Off", []),
        (
            "UID:a\r\nDTSTART:20200107T183000\r\nDURATION:PT1H\r\nRRULE:FREQ=WEEKLY\r\nEND:VEVENT\r\nBEGIN:VEVENT\r\n"
            "UID:a\r\nRECURRENCE-ID:{1}T183000\r\nDTSTART:{3}T183000\r\nDURATION:PT1H\r\nSUMMARY:Put off",
            [3],
        ),
        ("DTSTART;VALUE=DATE:{2}\r\nTRANSP:TRANSPARENT\r\nSUMMARY:Someone's birthday", []),
        ("SUMMARY:Never said when", []),
        ("DTSTART:20200106T183000\r\nRRULE:FREQ=SECONDLY\r\nSUMMARY:Ticks", []),
    ],
)
def test_an_evening_that_something_else_takes_is_free_no_more(
    student: Student, coach: Client, event: str, busy: list[int]
) -> None:
    monday = next_monday(student)
    send(coach, "put", f"students/{student.pk}/plan", asked(monday))
    days = [f"{monday + dt.timedelta(days=d):%Y%m%d}" for d in range(7)]
    told = bring(coach, student, monday, calendar(event.format(*days))).json()
    assert told["busy"] == busy
    assert [f["day"] for f in told["week"]["free"]] == [d for d in (0, 2, 4, 6) if d not in busy]


def test_an_evening_of_another_week_that_lies_in_this_one_there_is_said(student: Student, coach: Client) -> None:
    monday, path = next_monday(student), f"students/{student.pk}/plan"
    after = monday + dt.timedelta(days=7)
    for at in (monday, after):
        send(coach, "put", path, asked(at, wishes=[{**MIRROR, "evenings": 1}]))
    out = coach.get(f"/api/{path}.ics?monday={monday}").content
    day = coach.get(f"/api/{path}?monday={monday}").json()["parts"][0]["day"]
    for name, later in ((b"DTSTART", 0), (b"DTEND", 1)):
        was = monday + dt.timedelta(days=day + later)
        out = out.replace(
            name + f";VALUE=DATE:{was:%Y%m%d}".encode(),
            name + f";VALUE=DATE:{was + dt.timedelta(days=7):%Y%m%d}".encode(),
        )
    told = bring(coach, student, after, out).json()
    assert (told["moved"], told["busy"], told["came"]) == (0, [], [day])


def test_while_a_week_is_solved_nobody_waits_and_a_change_meanwhile_is_said(
    student: Student, coach: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Under the solver no lock is held; what it planned from and what the page showed are looked at again after it."""
    monday, path = next_monday(student), f"students/{student.pk}/plan"
    solve = services.week

    def meanwhile(*given: Any) -> Any:
        assert not connection.savepoint_ids  # of the test's own transaction none is open
        send(coach, "put", f"{path}/unseen", {"monday": str(monday), "hands": 5, "kicks": 0, "version": 0})
        return solve(*given)

    monkeypatch.setattr(services, "week", meanwhile)
    answer = send(coach, "put", path, asked(monday))
    assert (answer.status_code, "meanwhile" in answer.json()["message"]) == (409, True)
    assert coach.get(f"/api/{path}?monday={monday}").json()["unseen_hands"] == 5
    hurts = Mark(student=student, kind="injury", since=monday, text="left ankle")
    monkeypatch.setattr(services, "week", lambda *given: (hurts.save(), solve(*given))[1])
    answer = send(coach, "put", path, asked(monday, 1))
    assert (answer.status_code, "something hurts" in answer.json()["message"]) == (409, True)


@pytest.mark.parametrize("content", [b"", b"no calendar", b"BEGIN:VCALENDAR\r\nBEGIN:VEVENT", bytes(range(256))])
def test_what_is_no_calendar_is_refused_in_words(student: Student, coach: Client, content: bytes) -> None:
    answer = bring(coach, student, next_monday(student), content or b" ")
    assert (answer.status_code, "Export it as iCalendar" in answer.json()["message"]) == (422, True)


def test_a_week_is_repeated_by_what_is_known_and_none_is_written_over(student: Student, coach: Client) -> None:
    monday, path = next_monday(student), f"students/{student.pk}/plan"
    body = {"monday": str(monday), "weeks": 2}
    assert "Plan this week first" in send(coach, "post", f"{path}/repeat", body).json()["message"]
    send(coach, "put", path, asked(monday))
    send(coach, "put", path, asked(monday + dt.timedelta(weeks=1), wishes=[MIRROR]))
    assert send(coach, "post", f"{path}/repeat", body).json()["changed"] == 1
    weeks = [coach.get(f"/api/{path}?monday={monday + dt.timedelta(weeks=k)}").json() for k in (1, 2)]
    assert [[w["name"] for w in week["wishes"]] for week in weeks] == [["Mirror"], ["Round kicks", "Mirror"]]
    assert weeks[1]["planned"] == 350
    assert send(coach, "post", f"{path}/repeat", body | {"weeks": 9}).status_code == 422


def test_what_units_did_not_see_counts_once_it_is_said(student: Student, bag: BagVersion, coach: Client) -> None:
    monday, path = monday_of(student.gym.today), f"students/{student.pk}/plan"
    thrown(student, bag, (monday - dt.timedelta(days=5) - START).days, 0.1, 1)
    assert coach.get(f"/api/{path}").json()["unseen_kicks"] is None
    body = {"monday": str(monday - dt.timedelta(days=7)), "hands": 100, "kicks": 28, "version": 0}
    no_monday = send(coach, "put", f"{path}/unseen", body | {"monday": str(monday - dt.timedelta(days=5))})
    assert (no_monday.status_code, "by its Monday" in no_monday.json()["message"]) == (422, True)
    assert send(coach, "put", f"{path}/unseen", body).status_code == 200
    assert send(coach, "put", f"{path}/unseen", body | {"hands": 1}).status_code == 409
    told = coach.get(f"/api/{path}").json()
    assert (told["usual"], told["most"]) == (160.0, 240.0)
    early = body | {"monday": str(monday - dt.timedelta(days=14)), "kicks": 0, "hands": 40}  # no unit saw that week
    send(coach, "put", f"{path}/unseen", early)
    assert coach.get(f"/api/{path}").json()["usual"] == 100.0
    send(coach, "put", f"{path}/unseen", early | {"hands": None, "kicks": None})
    told = send(coach, "put", f"{path}/unseen", body | {"monday": str(monday), "hands": None, "kicks": 240}).json()
    assert (told["unseen_hands"], told["unseen_kicks"], told["most"]) == (None, 240, 240.0)
    assert send(coach, "put", f"{path}/unseen", body | {"kicks": -1}).status_code == 422


def test_parts_are_done_by_what_was_measured_and_ticked_off(student: Student, bag: BagVersion, coach: Client) -> None:
    today = student.gym.today
    session = thrown(student, bag, (today - START).days, 0.1, 1).session
    Drilled.objects.create(session=session, drill="mirror", name="Mirror")
    straights = {"kind": "hands", "name": "Straights", "evenings": 1, "strikes": 20, "key": "straight"}
    wishes = [{**KICKS, "evenings": 1}, MIRROR | {"evenings": 1}, straights]
    free = [{"day": today.weekday(), "minutes": 120.0}]
    path = f"students/{student.pk}/plan"
    told = send(coach, "put", path, asked(monday_of(today), wishes=wishes, free=free)).json()
    done = {p["kind"]: (p["done"], p["thrown"]) for p in told["parts"]}
    assert done["hands"] == (True, 32)
    assert (done["kicks"][0], done["drill"][0], done["ramp"][0]) == (None, True, True)  # today is not over
    later = send(coach, "put", path, asked(next_monday(student))).json()
    assert {p["done"] for p in later["parts"]} == {None}


def test_the_class_stands_on_one_board_and_load_is_told_by_limb(
    student: Student, bag: BagVersion, coach: Client, stranger: Client
) -> None:
    today = student.gym.today
    monday = monday_of(today)
    for k in (2, 1, 0):
        thrown(student, bag, (monday - dt.timedelta(weeks=k) - START).days, 0.1, k)
    left = Student.objects.create(gym=student.gym, name="Gone", label="gone", stance="orthodox", left_on=today)
    send(coach, "put", f"students/{student.pk}/plan", asked(monday + dt.timedelta(weeks=1)))
    board = coach.get(f"/api/plan/class?monday={monday + dt.timedelta(weeks=1)}").json()
    (row,) = board["rows"]  # who left is not on it
    assert left.pk != row["student_id"]
    assert (row["student"], row["planned"], row["strikes"]) == ("Petra Vanek", True, 60)  # no jump
    assert "Ramp" not in {p["name"] for p in row["parts"]}
    assert [r["planned"] for r in coach.get("/api/plan/class").json()["rows"]] == [False]
    assert stranger.get("/api/plan/class").json()["rows"] == []
    (limb,) = coach.get(f"/api/students/{student.pk}/plan").json()["limbs"]
    assert (limb["limb"], limb["strikes"], limb["usual_strikes"], limb["measured"]) == ("right_hand", 32, 32.0, 32)
    impulse = Strike.objects.filter(recording__acquired_at__date=monday).aggregate(sum=Sum("impulse_n_s"))["sum"]
    assert limb["impulse_n_s"] == pytest.approx(impulse)
    assert 0 <= limb["hard"] <= 32
    assert limb["usual_hard"] == pytest.approx(8.0)  # a quarter, by what hard means
    Student.objects.filter(pk=student.pk).update(birth_date=today, consent="kept")
    (limb,) = coach.get(f"/api/students/{student.pk}/plan").json()["limbs"]
    assert (limb["strikes"], limb["hard"], limb["impulse_n_s"]) == (32, None, 0.0)  # no force of a child
