"""A tablet whose answer was lost says a tap again: it stands once. What can't be settled is told, and tried again."""

import datetime as dt
from types import SimpleNamespace
from typing import Any

import pytest
from asking import seen, send
from django.test import Client
from live_makers import Evening, Way
from live_makers import evening as evening  # the fixture

from agile_strike.core.sets.calls import Round
from agile_strike.gym.models import Gym
from agile_strike.live import jobs
from agile_strike.live.models import Mark, Take
from agile_strike.live.settling import settle as settling
from agile_strike.live.taps import rounds
from agile_strike.live.watch.worker import clean
from agile_strike.logbook.models import Note
from agile_strike.people.models import Mark as Hurt
from agile_strike.people.models import Student
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db(transaction=True)


def test_what_hurts_and_what_was_noted_stand_once(coach: Client, student: Student) -> None:
    day = str(student.gym.today)
    hurts = {"kind": "injury", "since": day, "until": None, "text": "left wrist"}
    note = {"student": student.pk, "day": day, "text": "Right hand drops"}
    for _ in range(2):
        assert send(coach, "post", f"students/{student.pk}/marks", hurts).status_code == 200
        assert send(coach, "post", "log/notes", note).status_code == 200
    send(coach, "post", f"students/{student.pk}/marks", {**hurts, "text": "left knee"})
    assert [m.text for m in Hurt.objects.order_by("pk")] == ["left wrist", "left knee"]
    assert Note.objects.count() == 1


def test_a_strike_is_thrown_out_once_and_taken_back_once(coach: Client, evening: Evening) -> None:
    take = evening.thrown(Way())
    one = Strike.objects.filter(recording=take.recording).earliest("pk")
    what: dict[str, Any] = {**seen([one.pk]), "reason": "not a strike"}
    back = {"ids": [one.pk], "versions": [one.version + 1]}
    assert [send(coach, "post", "strikes/exclude", what).status_code for _ in range(2)] == [200, 200]
    assert send(coach, "post", "strikes/exclude", {**what, "reason": "wrong strike"}).status_code == 409
    assert [send(coach, "post", "strikes/restore", back).status_code for _ in range(2)] == [200, 200]
    one.refresh_from_db()
    assert one.excluded_reason == ""


def test_a_round_whose_tap_waited_begins_when_it_comes(evening: Evening, gym: Gym) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    tapped = evening.when("late-round")
    evening.now_s += 180.0
    plan = Round(length_s=60.0, calls=("1 2",))
    mark = rounds.begin_round(gym, take.pk, plan, tapped)
    assert rounds.begin_round(gym, take.pk, plan, tapped) == mark
    assert mark.at >= evening.now - dt.timedelta(seconds=5)
    cues = Mark.objects.filter(take=take, kind=Mark.Kind.CUE)
    assert min(c.at for c in cues) > evening.now


def test_a_take_that_cannot_be_settled_is_told_with_its_reference_and_tried_again(
    evening: Evening, coach: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    take = evening.thrown(Way())
    page = f"/api/evenings/{take.session_id}/unsettled"
    assert coach.get(page).json() == [{"take_id": take.pk, "failed": ""}]

    def fails(*_: Any) -> None:
        raise ZeroDivisionError

    def tried(attempt: int) -> None:
        jobs.settle_take.func(SimpleNamespace(job=SimpleNamespace(attempts=attempt)), take.pk)

    with monkeypatch.context() as broken:
        broken.setattr(settling, "anew", fails)
        for attempt in range(2):
            with pytest.raises(ZeroDivisionError):
                tried(attempt)
        tried(2)
    (said,) = coach.get(page).json()
    assert len(said["failed"]) == 8
    evening.now_s += 600.0
    asked: list[Take] = []
    monkeypatch.setattr("agile_strike.live.watch.worker.settle_soon", lambda take, _: asked.append(take))
    clean(evening.now)
    assert not asked  # nor is it tried over and over
    assert send(coach, "post", f"takes/{take.pk}/settle", {}).status_code == 200
    tried(0)
    assert coach.get(page).json() == []
    assert Strike.objects.filter(recording=take.recording).count() == 5
