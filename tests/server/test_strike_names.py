"""Strikes by every name that coaches have for them, and none by a slip of the keyboard."""

from typing import Any

import pytest
from asking import seen, send  # the server folder's own
from django.test import Client

from agile_strike.capture.models import Recording
from agile_strike.core.vocabulary import STRIKE_CODES, STRIKES
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db


def names(coach: Client) -> dict[str, dict[str, Any]]:
    return {one["code"]: one for one in coach.get("/api/strike-names").json()}


def label(coach: Client, recording: Recording, said: str) -> Any:
    first = Strike.objects.filter(recording=recording).order_by("number").values_list("pk", flat=True)[:1]
    return send(coach, "post", "strikes/label", {**seen(list(first)), "code": said, "limb": "", "level": ""})


def test_every_strike_has_one_name_without_a_hyphen_and_no_two_the_same() -> None:
    assert list(STRIKES) == list(STRIKE_CODES)
    assert len({w.name for w in STRIKES.values()}) == len(STRIKES)
    assert not [w.name for w in STRIKES.values() if "-" in w.name]


@pytest.mark.parametrize("said", ["rear-straight", "Rear straight", " cross ", "reverse punch", "2"])
def test_another_name_is_the_same_strike(recording: Recording, coach: Client, said: str) -> None:
    answer = label(coach, recording, said)
    assert answer.status_code == 200
    assert answer.json()["code"] == "rear-straight"


@pytest.mark.parametrize("said", ["corss", "straight", "roundhouse"])  # a slip; and two that fit two strikes
def test_what_the_gym_does_not_know_makes_no_strike_of_its_own(recording: Recording, coach: Client, said: str) -> None:
    answer = label(coach, recording, said)
    assert answer.status_code == 422
    assert f"no strike called “{said}”" in answer.json()["message"]


def test_a_strike_is_added_to_one_gym_once(recording: Recording, coach: Client, stranger: Client) -> None:
    before = names(coach)
    made = [send(coach, "post", "strike-names", {"name": said}) for said in ("Low  Oblique kick", "low oblique KICK")]
    assert {m.status_code for m in made} == {200}
    assert {m.json()["code"] for m in made} == {"low-oblique-kick"}
    assert set(names(coach)) - set(before) == {"low-oblique-kick"}
    assert names(coach)["low-oblique-kick"]["family"] == "kick"
    assert label(coach, recording, "low oblique kick").json()["code"] == "low-oblique-kick"
    assert "low-oblique-kick" not in names(stranger)
    assert send(coach, "post", "strike-names", {"name": "cross"}).json()["code"] == "rear-straight"
    assert send(coach, "post", "strike-names", {"name": " ;- "}).status_code == 422


def test_a_plan_and_a_trial_take_words_too(recording: Recording, coach: Client) -> None:
    plan = {"code": "jab", "limb": "", "level": "head", "levels": {}, "school_id": None, "strikes": 10, "gear": ""}
    made = send(coach, "post", f"evenings/{recording.session_id}/sets", plan)
    assert (made.status_code, made.json()["code"]) == (201, "lead-straight")
    assert send(coach, "post", f"evenings/{recording.session_id}/sets", {**plan, "code": "jabb"}).status_code == 422
