"""A planned week: proposed from what is known, changed by hand, taken to tonight, by one coach at a time."""

import datetime as dt
from typing import Any

import pytest
from asking import send  # the server folder's own
from django.test import Client
from trial_makers import START  # the server folder's own
from trial_makers import evening as thrown

from agile_strike.evening.models import Session, Volume
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Mark, Student
from agile_strike.plans.services import monday_of
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
    moved = send(coach, "put", f"plan-parts/{drill['id']}", {"day": 5}).json()
    assert next(p["day"] for p in moved["parts"] if p["id"] == drill["id"]) == 5
    assert send(stranger, "put", f"plan-parts/{drill['id']}", {"day": 4}).status_code == 404
    assert send(coach, "put", f"plan-parts/{drill['id']}", {"day": 7}).status_code == 422
    less = coach.delete(f"/api/plan-parts/{drill['id']}").json()
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
