"""The log: everything in one line of time, found by any word's beginning; edits are kept; pain stops the plan."""

import datetime as dt
from typing import Any

import pytest
from asking import send  # the server folder's own
from django.test import Client
from trial_makers import START  # the server folder's own

from agile_strike.evening.models import Session
from agile_strike.gym.models import Gym
from agile_strike.people.models import BodyMass, Student
from agile_strike.plans.models import Part, Week
from agile_strike.plans.services import monday_of
from agile_strike.review.models import Remark, Strike
from agile_strike.trials.models import Trial

pytestmark = pytest.mark.django_db


def lines(client: Client, **asked: Any) -> list[dict[str, Any]]:
    answer = client.get("/api/log", asked)
    assert answer.status_code == 200, answer.content
    rows: list[dict[str, Any]] = answer.json()["lines"]
    return rows


def note(client: Client, text: str, day: dt.date, student: Student | None = None) -> int:
    body = {"text": text, "day": str(day), "student": student.pk if student else None}
    key: int = send(client, "post", "log/notes", body).json()["changed"]
    return key


def test_all_that_happened_stands_in_one_line_of_time(
    student: Student, trial: Trial, coach: Client, stranger: Client
) -> None:
    Session.objects.filter(student=student, day=START).update(soreness="left wrist", notes="Hips late.")
    first = Strike.objects.order_by("pk")[0]
    Strike.objects.filter(pk=first.pk).update(note="Elbow out")
    Remark.objects.create(strike=first, what="dipped")
    BodyMass.objects.create(student=student, measured_on=START + dt.timedelta(days=1), mass_kg=71.5)
    decided = {"student_id": student.pk, "what": "keep", "level": "full shift", "reason": "Heavier"}
    assert send(coach, "post", f"trials/{trial.pk}/decisions", decided).status_code == 200
    note(coach, "New gloves for all", student.gym.today)
    rows = lines(coach)
    assert [r["day"] for r in rows] == sorted((r["day"] for r in rows), reverse=True)
    kinds = {r["kind"] for r in rows}
    assert kinds == {"evening", "strike", "mass", "trial", "note", "bag", "decision"}
    evening = next(r for r in rows if r["kind"] == "evening" and r["day"] == str(START))
    assert evening["said"]["title"] == "Evening, 32 strikes"
    assert evening["said"]["text"] == "Hips late. Sore: left wrist. Remarks: dipped"
    assert {r["kind"] for r in lines(coach, show="body.notes")} == {"mass", "strike", "note"}
    assert [r["kind"] for r in lines(coach, show="kit")] == ["bag"]
    assert {r["kind"] for r in lines(coach, student=student.pk)}.isdisjoint({"bag", "note"})  # kit is the gym's
    assert [r["kind"] for r in lines(coach, since=str(START), until=str(START), show="evenings")] == ["evening"]
    assert lines(stranger) == []
    assert stranger.get("/api/log", {"student": student.pk}).status_code == 404
    assert "pain, decisions" in coach.get("/api/log", {"show": "flags"}).json()["message"]


@pytest.mark.parametrize(
    ("asked", "found"),
    [("wri", 1), ("WRIST left", 1), ("left hip", 0), ("rist", 0), ("&!:* |", 0), ("handgelenk", 1), ("späte", 1)],
)
def test_words_are_found_by_their_beginnings_in_any_language(
    student: Student, coach: Client, asked: str, found: int
) -> None:
    Session.objects.create(student=student, day=START, soreness="left wrist (Handgelenk)")
    note(coach, "Späte Hüfte", START, student)
    assert len(lines(coach, text=asked)) == found


def test_a_page_is_turned_over_without_a_line_lost_or_twice(student: Student, coach: Client) -> None:
    for k in range(75):
        Session.objects.create(student=student, day=START - dt.timedelta(days=k))
        BodyMass.objects.create(student=student, measured_on=START - dt.timedelta(days=k), mass_kg=70.0)
    seen: list[tuple[str, int]] = []
    more = True
    while more:
        page = coach.get("/api/log", {"skip": len(seen)}).json()
        seen += [(r["kind"], r["key"]) for r in page["lines"]]
        more = page["more"]
    assert (len(seen), len(set(seen))) == (150, 150)
    assert coach.get("/api/log", {"skip": -1}).status_code == 422
    csv = coach.get("/api/log.csv", {"show": "body"}).content.decode().splitlines()
    assert (len(csv), csv[0]) == (76, "day,kind,student,title,text,mass_kg,by")


def test_what_was_written_over_is_kept_with_who_and_when(
    gym: Gym, student: Student, coach: Client, stranger: Client
) -> None:
    key = note(coach, "Left hand drops", gym.today, student)
    assert send(coach, "put", f"log/notes/{key}", {"text": "Right hand drops", "version": 1}).status_code == 200
    late = send(coach, "put", f"log/notes/{key}", {"text": "Both drop", "version": 1})
    assert (late.status_code, "Right hand drops" in late.json()["message"]) == (409, True)
    (line,) = lines(coach)
    assert (line["said"]["text"], line["said"]["by"], line["earlier"]) == ("Right hand drops", "coach", 1)
    (before,) = coach.get(f"/api/log/note/{key}/before").json()
    assert (before["said"], before["by"]) == ("Left hand drops", "coach")
    assert stranger.get(f"/api/log/note/{key}/before").json() == []
    assert send(stranger, "put", f"log/notes/{key}", {"text": "x", "version": 2}).status_code == 404
    session = Session.objects.create(student=student, day=gym.today)
    for k, text in enumerate(("Hips late", "Hips on time", "Hips on time")):
        body = {"gear": "", "soreness": "", "notes": text, "version": 1 + k}
        assert send(coach, "put", f"evenings/{session.pk}/notes", body).status_code == 200
    evening = next(r for r in lines(coach) if r["kind"] == "evening")
    assert evening["earlier"] == 1
    assert coach.get(f"/api/log/evening/{session.pk}/before").json()[0]["said"] == "Hips late"
    assert send(coach, "put", f"log/notes/{key}/gone", {"gone": True}).status_code == 200
    assert {r["kind"] for r in lines(coach)} == {"evening"}
    assert send(coach, "put", f"log/notes/{key}/gone", {"gone": False}).status_code == 200
    assert {r["kind"] for r in lines(coach)} == {"evening", "note"}
    for body in ({"text": " ", "day": str(gym.today)}, {"text": "x", "day": str(gym.today + dt.timedelta(days=1))}):
        assert send(coach, "post", "log/notes", body).status_code == 422


def test_pain_stops_what_was_planned_for_the_limb_until_it_is_cleared(student: Student, coach: Client) -> None:
    today = student.gym.today
    week = Week.objects.create(student=student, monday=monday_of(today))
    for kind, key in (("kicks", "round"), ("hands", "straight")):
        count = {"strikes": 20, "left": 10, "right": 10}
        Part.objects.create(week=week, day=today.weekday(), place=0, kind=kind, name=key, key=key, **count)
    body = {"kind": "injury", "since": str(today), "until": None, "text": "left wrist"}
    key = send(coach, "post", f"students/{student.pk}/marks", body).json()["changed"]
    (hurts,) = coach.get("/api/log").json()["not_over"]
    assert (hurts["said"]["text"], hurts["said"]["open"], hurts["said"]["by"]) == ("left wrist", True, "coach")
    parts = coach.get(f"/api/students/{student.pk}/plan").json()["parts"]
    assert {p["key"]: p["rests"] for p in parts} == {"round": False, "straight": True}
    send(coach, "post", f"students/{student.pk}/plan/tonight", {})
    evening = Session.objects.get(student=student, day=today)
    assert [v.family for v in evening.volumes.all()] == ["round"]
    assert send(coach, "post", f"marks/{key}/over", {"until": str(today - dt.timedelta(days=1))}).status_code == 422
    assert send(coach, "post", f"marks/{key}/over", {"until": str(today)}).status_code == 200
    page = coach.get("/api/log").json()
    assert page["not_over"] == []
    assert ("over", "Cleared") in {(r["kind"], r["said"]["title"]) for r in page["lines"]}
    assert coach.get(f"/api/log/mark/{key}/before").json()[0]["said"] == "left wrist, not over"
