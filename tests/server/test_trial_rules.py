"""What a trial may be, who may change it, and an evening run from its sheet."""

import datetime as dt
from typing import Any

import pytest
from asking import send  # the server folder's own
from django.db import IntegrityError, transaction
from django.test import Client
from trial_makers import CENTRED, FACTOR, SHIFT, START, plan  # the server folder's own
from trial_makers import evening as thrown

from agile_strike.capture.models import Recording
from agile_strike.evening.models import PlannedSet
from agile_strike.gym.models import Gym
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student
from agile_strike.review.keep import put_into_called
from agile_strike.trials.models import CalledBlock, Decision, Trial

pytestmark = pytest.mark.django_db
JSON = "application/json"


def test_a_plan_says_what_it_would_show_from_the_students_own_spread(
    trial: Trial, student: Student, coach: Client
) -> None:
    told = send(coach, "post", "trial-plans", plan(student, worth_pct=8.0)).json()
    assert told["orders"] == [[CENTRED, SHIFT, SHIFT, CENTRED], [SHIFT, CENTRED, CENTRED, SHIFT]]
    (own,) = told["proposals"]
    assert own["learnt_from"] == 160
    assert own["within_pct"] == pytest.approx(8.0, abs=2.0)
    assert own["evenings_for_worth"] is not None
    assert own["sights"][0]["seen_pct"] > own["sights"][-1]["seen_pct"]
    assert own["suggested"]["seen_pct"] <= 8.0
    assert len(own["days"]) == own["suggested"]["evenings"]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"measure": "loudness"}, "no measure called loudness"),
        ({"levels": [CENTRED, CENTRED]}, "different levels"),
        ({"levels": [CENTRED, " "]}, "needs a name"),
        ({"levels": [CENTRED, "shift, then lean"]}, "Leave ,"),
        ({"worth_pct": 0.0}, "above 0"),
        ({"blocks_each": 9}, "one to six"),
        ({"students": [987_654]}, "at least one student"),
        ({"height": "knee"}, "head, body or low"),
        ({"factor": ""}, "what is changed"),
    ],
)
def test_a_trial_that_makes_no_sense_is_refused_with_a_remedy(
    student: Student, coach: Client, change: dict[str, Any], said: str
) -> None:
    answer = send(coach, "post", "trials", plan(student, **change))
    assert answer.status_code == 422
    assert said in answer.json()["message"]
    assert Trial.objects.count() == 0


@pytest.mark.parametrize("where", ["factor", "code", "gear"])
def test_a_zero_byte_is_refused_and_nothing_is_saved(student: Student, coach: Client, where: str) -> None:
    with transaction.atomic():
        answer = send(coach, "post", "trials", plan(student, **{where: "a\x00b"}))
    assert answer.status_code == 422
    assert "can't be shown" in answer.json()["message"]
    assert Trial.objects.count() == 0


def test_childrens_rules_are_the_servers(gym: Gym, coach: Client) -> None:
    child = send(
        coach, "post", "students", {"name": "Wren Okafor", "stance": "orthodox", "birth_date": "2013-04-02"}
    ).json()
    wren = Student.objects.get(pk=child["id"])
    assert "consent is missing" in send(coach, "post", "trials", plan(wren)).json()["message"]
    send(coach, "post", f"students/{wren.pk}/consent", {"consent": "kept", "version": 1})
    assert "no testing for power" in send(coach, "post", "trials", plan(wren)).json()["message"]
    assert send(coach, "post", "trials", plan(wren, measure="settle_ms", watch=[])).status_code == 201
    grown = send(
        coach, "post", "students", {"name": "Petra Vanek", "stance": "orthodox", "birth_date": "1997-03-03"}
    ).json()
    assert send(coach, "post", f"students/{grown['id']}/consent", {"consent": "kept", "version": 1}).status_code == 422


def test_two_coaches_changing_a_trial_do_not_overwrite_each_other(
    trial: Trial, student: Student, coach: Client
) -> None:
    assert send(coach, "put", f"trials/{trial.pk}", plan(student, strikes=10, version=1)).json()["strikes"] == 10
    late = send(coach, "put", f"trials/{trial.pk}", plan(student, strikes=6, version=1))
    assert "Somebody changed this trial meanwhile" in late.json()["message"]
    assert Trial.objects.get().strikes == 10


def test_an_evening_is_run_from_the_sheet_and_its_recording_finds_the_blocks(
    recording: Recording, trial: Trial, student: Student, coach: Client
) -> None:
    told = coach.get(f"/api/trials/{trial.pk}/sheet?student_id={student.pk}").json()
    assert told["evening"] == 6
    assert [b["level"] for b in told["blocks"]] == [SHIFT, CENTRED, CENTRED, SHIFT]
    for place in (0, 1):
        assert (
            send(coach, "post", f"trials/{trial.pk}/blocks", {"student_id": student.pk, "place": place}).status_code
            == 200
        )
    blocks = coach.get(f"/api/trials/{trial.pk}/sheet?student_id={student.pk}").json()["blocks"]
    assert blocks[0]["ended_at"] is not None  # the next one ended it
    assert blocks[1]["ended_at"] is None
    send(coach, "post", f"called-blocks/{blocks[1]['id']}/end")
    coach.delete(f"/api/called-blocks/{blocks[1]['id']}")
    assert CalledBlock.objects.count() == 1
    assert send(coach, "post", f"trials/{trial.pk}/blocks", {"student_id": student.pk, "place": 9}).status_code == 422
    # a recording without sets of its own: its strikes go by the times of the sheet
    recording.strikes.update(set=None)
    times = list(recording.strikes.order_by("number").values_list("contact_s", flat=True))
    middle = recording.acquired_at + dt.timedelta(seconds=(times[3] + times[4]) / 2)
    PlannedSet.objects.update(session=recording.session, began_at=recording.acquired_at, ended_at=middle)
    assert put_into_called(recording) == 4
    first = recording.strikes.order_by("number").first()
    assert first is not None
    assert first.set is not None
    assert (first.set.levels, first.set.code) == ({FACTOR: SHIFT}, "rear-straight")
    assert first.set.planned == PlannedSet.objects.get()


def test_a_gym_keeps_its_trials_to_itself(trial: Trial, student: Student, coach: Client, stranger: Client) -> None:
    for path in ("", "/compare", "/strikes.csv", f"/sheet?student_id={student.pk}"):
        assert coach.get(f"/api/trials/{trial.pk}{path}").status_code == 200
        assert stranger.get(f"/api/trials/{trial.pk}{path}").status_code == 404
    assert stranger.get("/api/trials").json() == []
    assert stranger.get("/api/class").json()["rows"] == []
    assert stranger.get(f"/api/students/{student.pk}/weeks").status_code == 404
    body = {"student_id": student.pk, "what": "keep", "level": SHIFT, "reason": "mine"}
    assert send(stranger, "post", f"trials/{trial.pk}/decisions", body).status_code == 404
    assert send(stranger, "post", f"trials/{trial.pk}/end", {"ended": True, "version": 1}).status_code == 404
    assert Decision.objects.count() == 0
    theirs = Student.objects.exclude(gym=trial.gym).first() or Student.objects.create(
        gym=Gym.objects.exclude(pk=trial.gym_id).first(), name="Another", label="another", stance="orthodox"
    )
    empty = coach.get(f"/api/trials/{trial.pk}/strikes.csv?student_id={theirs.pk}")
    assert len(empty.content.decode().splitlines()) == 1


def test_the_database_holds_a_trial_to_two_to_four_levels(gym: Gym) -> None:
    with pytest.raises(IntegrityError), transaction.atomic():
        Trial.objects.create(gym=gym, factor="x", levels=["a"], code="c", measure="impulse_n_s", started_on=START)
    with pytest.raises(IntegrityError), transaction.atomic():
        Trial.objects.create(
            gym=gym,
            factor="x",
            levels=["a", "b"],
            code="c",
            measure="m",
            started_on=START,
            ended_on=START - dt.timedelta(1),
        )


def test_an_empty_trial_says_that_nothing_was_thrown(student: Student, coach: Client) -> None:
    made = send(coach, "post", "trials", plan(student)).json()
    told = coach.get(f"/api/trials/{made['id']}/compare?student_id={student.pk}").json()
    assert "nothing was thrown" in told["claim"]["refused"]
    assert (told["outcome"], told["sentence"]["before"]) == ("begun", "Just begun:")
    assert told["strikes"]["id"] == []


def test_what_was_thrown_before_a_plan_is_offered_and_counts_only_where_a_coach_says_so(
    student: Student, bag: BagVersion, coach: Client
) -> None:
    for day in (0, 2):
        thrown(student, bag, day, 0.1, day)
    made = send(coach, "post", "trials", plan(student)).json()
    told = coach.get(f"/api/trials/{made['id']}/compare?student_id={student.pk}").json()["claim"]["refused"]
    assert "8 sets under its levels: change the trial to count from 6 October" in told
    assert send(coach, "post", "trial-plans", plan(student)).json()["earlier"] == {"sets": 8, "since": str(START)}
    counted = plan(student, since=str(START), version=made["version"])
    assert send(coach, "post", "trial-plans", counted).json()["earlier"] is None
    assert send(coach, "put", f"trials/{made['id']}", counted).json()["started_on"] == str(START)
    assert len(coach.get(f"/api/trials/{made['id']}/compare?student_id={student.pk}").json()["strikes"]["id"]) == 64
    ahead = send(coach, "post", "trials", plan(student, since="2060-01-01"))
    assert (ahead.status_code, "still to come" in ahead.json()["message"]) == (422, True)
