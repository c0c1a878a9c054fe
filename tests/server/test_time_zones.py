"""An evening is the gym's evening, wherever the server's clock stands."""

import datetime as dt
from typing import Any

import pytest
from asking import send  # the server folder's own
from django.test import Client
from django.utils import timezone
from trial_makers import BODY, SHIFT, evening, plan

from agile_strike.capture.models import Recording
from agile_strike.gym.models import Gym
from agile_strike.kit.models import BagVersion
from agile_strike.kit.services import save_version
from agile_strike.people.models import Student
from agile_strike.trials.models import CalledBlock, Trial
from agile_strike.trials.rows import trial_table, weeks_table

pytestmark = pytest.mark.django_db
WEST, EAST = "America/Los_Angeles", "Pacific/Auckland"


@pytest.fixture
def bag(gym: Gym) -> BagVersion:
    return save_version(gym, None, "Long bag", BODY, dt.datetime(2026, 10, 1, tzinfo=dt.UTC))


@pytest.fixture
def clock(monkeypatch: pytest.MonkeyPatch) -> Any:
    def stands_at(text: str) -> None:
        at = dt.datetime.fromisoformat(text).replace(tzinfo=dt.UTC)
        monkeypatch.setattr(timezone, "now", lambda: at)

    return stands_at


def at_zone(gym: Gym, zone: str) -> None:
    gym.time_zone = zone
    gym.save()


def moved(recording: Recording, utc: str) -> Recording:
    recording.acquired_at = dt.datetime.fromisoformat(utc).replace(tzinfo=dt.UTC)
    recording.save(update_fields=["acquired_at"])
    return recording


@pytest.mark.parametrize(
    ("zone", "instants", "days"),
    [
        # one evening in the west runs over midnight in UTC
        (WEST, ["2026-10-06T23:40", "2026-10-07T01:30"], ["2026-10-06"]),
        # one day in UTC is two evenings in the east
        (EAST, ["2026-10-06T07:00", "2026-10-06T20:00"], ["2026-10-06", "2026-10-07"]),
        ("UTC", ["2026-10-06T07:00", "2026-10-06T20:00"], ["2026-10-06"]),
    ],
)
def test_a_session_is_a_day_on_the_gyms_calendar(
    gym: Gym, student: Student, bag: BagVersion, coach: Client, zone: str, instants: list[str], days: list[str]
) -> None:
    at_zone(gym, zone)
    made = send(coach, "post", "trials", plan(student)).json()
    Trial.objects.filter(pk=made["id"]).update(started_on=dt.date(2026, 10, 1))
    for i, instant in enumerate(instants):
        moved(evening(student, bag, i, 0.1, seed=i), instant)
    trial = Trial.objects.select_related("gym").get(pk=made["id"])
    told = trial_table(trial, [student.pk], ["impulse_n_s"])
    assert sorted(set(told.column("session").to_pylist())) == days
    weeks = weeks_table(Gym.objects.get(pk=gym.pk), student, ["impulse_n_s"])
    assert sorted(set(weeks.column("session").to_pylist())) == days
    # blocks are counted on along one evening, also where a second recording goes on
    assert max(told.column("order").to_pylist()) == 4 * len(instants) / len(days)


def test_a_trial_begins_and_ends_with_the_gyms_days(gym: Gym, student: Student, bag: BagVersion, coach: Client) -> None:
    at_zone(gym, WEST)
    made = send(coach, "post", "trials", plan(student)).json()
    Trial.objects.filter(pk=made["id"]).update(started_on=dt.date(2026, 10, 6), ended_on=dt.date(2026, 10, 6))
    for i, instant in enumerate(["2026-10-06T05:00", "2026-10-06T08:00", "2026-10-07T06:00", "2026-10-07T08:00"]):
        moved(evening(student, bag, i, 0.1, seed=i), instant)  # 22:00 the day before, 01:00, 23:00, 01:00 the day after
    told = trial_table(Trial.objects.select_related("gym").get(pk=made["id"]), [student.pk], [])
    assert told.num_rows == 2 * 32
    assert set(told.column("session").to_pylist()) == {"2026-10-06"}


@pytest.mark.parametrize(("zone", "day"), [(WEST, "2026-11-26"), (EAST, "2026-11-27"), ("UTC", "2026-11-27")])
def test_what_is_noted_today_bears_the_gyms_date(
    gym: Gym, student: Student, coach: Client, clock: Any, zone: str, day: str
) -> None:
    at_zone(gym, zone)
    clock("2026-11-27T03:00")  # seven in the evening before, in the west
    added = send(coach, "post", "students", {"name": "Tove Lind", "stance": "orthodox", "mass_kg": 61.0}).json()
    assert (added["masses"][0]["measured_on"], added["stances"][0]["since"]) == (day, day)
    trial = send(coach, "post", "trials", plan(student)).json()
    assert trial["started_on"] == day
    assert coach.get(f"/api/trials/{trial['id']}/sheet?student_id={student.pk}").json()["on"] == day
    decision = {"student_id": student.pk, "what": "keep", "level": SHIFT, "reason": "heavier"}
    assert send(coach, "post", f"trials/{trial['id']}/decisions", decision).json()["decided_on"] == day


def test_tomorrows_body_mass_is_refused_and_todays_is_taken_where_the_gym_is(
    gym: Gym, student: Student, coach: Client, clock: Any
) -> None:
    at_zone(gym, EAST)
    clock("2026-11-26T20:00")  # the morning of the 27th there
    today = {"measured_on": "2026-11-27", "mass_kg": 71.0}
    assert send(coach, "post", f"students/{student.pk}/masses", today).status_code == 200
    later = send(coach, "post", f"students/{student.pk}/masses", {**today, "measured_on": "2026-11-28"})
    assert later.status_code == 422
    assert "still to come" in later.json()["message"]


def test_a_birthday_is_the_gyms(gym: Gym, coach: Client, clock: Any) -> None:
    at_zone(gym, WEST)
    clock("2026-11-27T03:00")
    eve = {"name": "Wren Okafor", "stance": "orthodox", "birth_date": "2008-11-27"}
    assert send(coach, "post", "students", eve).json()["age"] == 17
    at_zone(gym, EAST)
    (child,) = (s for s in coach.get("/api/students").json() if s["name"] == "Wren Okafor")
    assert child["age"] == 18


def test_blocks_called_over_midnight_elsewhere_are_of_one_evening(
    gym: Gym, student: Student, bag: BagVersion, coach: Client, clock: Any
) -> None:
    at_zone(gym, WEST)
    clock("2026-10-06T23:55")
    trial = send(coach, "post", "trials", plan(student)).json()
    send(coach, "post", f"trials/{trial['id']}/blocks", {"student_id": student.pk, "place": 0})
    clock("2026-10-07T00:05")
    send(coach, "post", f"trials/{trial['id']}/blocks", {"student_id": student.pk, "place": 1})
    blocks = coach.get(f"/api/trials/{trial['id']}/sheet?student_id={student.pk}").json()["blocks"]
    assert [b["began_at"] is not None for b in blocks] == [True, True, False, False]
    assert set(CalledBlock.objects.values_list("session__day", flat=True)) == {dt.date(2026, 10, 6)}
