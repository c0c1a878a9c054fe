"""The evening before and after it is recorded; units as things; every strike of a run that knows what it rests on."""

import datetime as dt
from dataclasses import replace
from typing import Any

import pytest
from asking import send  # the server folder's own
from django.db import IntegrityError, transaction
from django.test import Client
from makers import Played
from trial_makers import evening as thrown  # the server folder's own

from agile_strike.capture.basis import behind
from agile_strike.capture.models import AnalysisRun, Recording, Wear
from agile_strike.core.recording import Event
from agile_strike.core.recording import Recording as CoreRecording
from agile_strike.evening.models import PlannedSet, Session
from agile_strike.gym.models import Gym
from agile_strike.intake.again import analyse_again
from agile_strike.intake.reading import import_recording
from agile_strike.kit.models import BagVersion, Calibration, Unit
from agile_strike.people.models import StanceChange, Student
from agile_strike.review.keep import GONE
from agile_strike.review.models import Strike, StrikeSet

pytestmark = pytest.mark.django_db
DAY = "2026-11-03"  # of the recordings that the makers play


@pytest.fixture
def made(clean: Played) -> CoreRecording:
    return clean.simulated[0].recording


def started(coach: Client, student: Student, day: str = DAY) -> Any:
    return send(coach, "post", f"students/{student.pk}/evenings", {"day": day}).json()


def planned(coach: Client, evening: Any, **other: Any) -> Any:
    body = {"code": "rear-straight", "level": "head", "strikes": 8} | other
    return send(coach, "post", f"evenings/{evening['id']}/sets", body)


def page(coach: Client, evening: Any) -> Any:
    return coach.get(f"/api/evenings/{evening['id']}").json()


def test_an_evening_is_there_before_anything_is_recorded_and_its_recording_hangs_on_it(
    coach: Client, student: Student, gym: Gym, made: CoreRecording
) -> None:
    evening = started(coach, student)
    assert started(coach, student)["id"] == evening["id"]  # asked for twice it is one
    note = {"gear": "gloves 12 oz", "soreness": "left wrist", "notes": "Quiet.", "version": evening["version"]}
    assert send(coach, "put", f"evenings/{evening['id']}/notes", note).status_code == 200
    late = send(coach, "put", f"evenings/{evening['id']}/notes", {**note, "notes": "Loud."})
    assert late.status_code == 409
    assert "Quiet." in late.json()["message"]
    recording = import_recording(gym, student, made)
    told = page(coach, evening)
    assert (told["gear"], told["soreness"], told["notes"]) == ("gloves 12 oz", "left wrist", "Quiet.")
    assert [r["id"] for r in told["recordings"]] == [recording.pk]
    assert sum(t["strikes"] for t in told["thrown"]) + told["loose"] == Strike.objects.count()
    assert Session.objects.count() == 1


def test_a_set_finds_its_plan_by_name_whatever_the_clock_says(
    coach: Client, student: Student, gym: Gym, made: CoreRecording
) -> None:
    plan = planned(coach, started(coach, student, "2026-10-20")).json()  # of another evening altogether
    first, *rest = [e for e in made.events if e.trial_type == "set"]
    named = replace(
        first, value=f"{first.value},plan={plan['key']}" if "=" in first.value else f"{first.value};;plan={plan['key']}"
    )
    import_recording(gym, student, replace(made, events=(named, *rest)))
    one = StrikeSet.objects.exclude(planned=None).get()
    assert one.planned_id == plan["id"]
    assert "plan" not in one.levels
    assert PlannedSet.objects.get().value.endswith(f"plan={plan['key']}")


def test_a_set_without_a_name_finds_the_plan_that_was_running_by_the_clock(
    coach: Client, student: Student, gym: Gym, made: CoreRecording
) -> None:
    evening = started(coach, student)
    plan = planned(coach, evening, code="rear-hook").json()
    assert send(coach, "post", f"planned-sets/{plan['id']}/end").status_code == 422  # it has not begun
    assert send(coach, "post", f"planned-sets/{plan['id']}/begin").json()["began_at"] is not None
    began = dt.datetime(2026, 11, 3, 18, 30, tzinfo=dt.UTC)
    PlannedSet.objects.update(began_at=began, ended_at=began + dt.timedelta(hours=1))
    import_recording(gym, student, replace(made, events=()))
    (thrown,) = page(coach, evening)["thrown"]
    assert (thrown["planned_id"], thrown["code"], thrown["strikes"]) == (
        plan["id"],
        "rear-hook",
        Strike.objects.count(),
    )
    assert send(coach, "delete", f"planned-sets/{plan['id']}").status_code == 200
    assert page(coach, evening)["thrown"][0]["planned_id"] is None  # what was thrown stays


@pytest.mark.parametrize(
    ("bad", "status", "said"),
    [
        ({"code": "a;b"}, 422, "no strike called"),
        ({"levels": {"stance": "wide=narrow"}}, 422, "recordings use them"),
        ({"strikes": 0}, 422, "1 to 1,000"),
        ({"limb": "left_wing"}, 422, "no limb"),
        ({"school_id": 10**6}, 404, "no such school"),
    ],
)
def test_a_set_that_cant_be_said_so_is_refused(
    coach: Client, student: Student, bad: dict[str, Any], status: int, said: str
) -> None:
    answer = planned(coach, started(coach, student), **bad)
    assert (answer.status_code, PlannedSet.objects.count()) == (status, 0)
    assert said in answer.json()["message"]


def test_another_gyms_evening_is_not_there(coach: Client, stranger: Client, student: Student) -> None:
    evening = started(coach, student)
    plan = planned(coach, evening).json()
    assert stranger.get(f"/api/evenings/{evening['id']}").status_code == 404
    assert planned(stranger, evening).status_code == 404
    assert send(stranger, "post", f"planned-sets/{plan['id']}/begin").status_code == 404
    assert send(stranger, "post", f"students/{student.pk}/evenings", {"day": DAY}).status_code == 404


# --- units


def with_serial(recording: CoreRecording, serial: str) -> CoreRecording:
    bag = replace(recording.units["bag"], serial=serial, model_text="a box with a lid")
    louder = replace(bag, accel_m_s2=bag.accel_m_s2 * (1.0 + 1e-6 * len(serial)))
    return replace(recording, units={"bag": louder})


def test_a_unit_is_the_thing_wherever_it_is_and_a_calibration_is_of_it_alone(
    coach: Client, student: Student, gym: Gym, made: CoreRecording
) -> None:
    one = import_recording(gym, student, with_serial(made, "A1"))
    other = import_recording(gym, student, with_serial(made, "B22"))
    assert {w.unit.serial for w in Wear.objects.all()} == {"A1", "B22"}
    Calibration.objects.create(
        gym=gym, kind="rests", unit=Unit.objects.get(serial="A1"), made_at=one.acquired_at, expires_on="2027-01-01",
        result={
            "accel_offset_m_s2": [0.1, 0, 0], "accel_scale": [1, 1, 1], "gyro_bias_rad_s": [0, 0, 0],
            "offset_sd_m_s2": 0.01, "scale_sd": 0.001, "residual_m_s2": 0.01, "before_m_s2": 0.1,
        },
    )  # fmt: skip
    assert behind(gym, [one.pk, other.pk]) == [one.pk]  # two units at one place never share one
    every = coach.get("/api/units").json()
    assert [u["serial"] for u in every] == ["A1", "B22"]  # in order of place, then of serial
    listed = {u["serial"]: u for u in every}
    assert (listed["A1"]["model_text"], listed["A1"]["last_place"]) == ("a box with a lid", "bag")
    assert (listed["A1"]["calibrated_on"] is None, listed["B22"]["calibrated_on"] is None) == (False, True)


def test_a_unit_known_by_its_place_is_told_its_serial_and_becomes_one_with_it(
    coach: Client, stranger: Client, student: Student, gym: Gym, made: CoreRecording
) -> None:
    import_recording(gym, student, made)
    import_recording(gym, student, with_serial(made, "A1"))
    nameless = Unit.objects.get(place="bag")
    body = {"name": "Bag unit", "serial": "A1", "version": nameless.version}
    assert send(stranger, "put", f"units/{nameless.pk}", body).status_code == 404
    joined = send(coach, "put", f"units/{nameless.pk}", body).json()
    assert (joined["name"], joined["serial"], joined["recordings"]) == ("Bag unit", "A1", 2)
    assert Unit.objects.get().pk == joined["id"]
    late = send(coach, "put", f"units/{joined['id']}", {**body, "version": 1})
    assert late.status_code == 409
    other = Unit.objects.create(gym=gym, serial="B2", rate_hz=1.0, last_seen=dt.datetime.now(dt.UTC))
    taken = send(coach, "put", f"units/{other.pk}", {"name": "", "serial": "A1", "version": 1})
    assert "Another unit has the serial A1" in taken.json()["message"]
    with pytest.raises(IntegrityError), transaction.atomic():
        Unit.objects.filter(pk=other.pk).update(serial="")


# --- runs


def test_every_strike_is_of_a_run_and_one_that_is_lost_keeps_the_run_that_found_it(
    student: Student, gym: Gym, made: CoreRecording
) -> None:
    recording = import_recording(gym, student, made)
    first = AnalysisRun.objects.get()
    assert set(recording.strikes.values_list("analysis", flat=True)) == {first.pk}
    assert first.took_s is not None
    assert first.bag["mass_kg"] == made.bag.mass_kg  # type: ignore[union-attr]
    lost = Strike.objects.create(recording=recording, analysis=first, number=99, contact_s=0.5)
    analyse_again(gym, recording.pk)
    second = Recording.objects.get(pk=recording.pk).analysis
    assert second is not None
    assert second.pk != first.pk
    lost.refresh_from_db()
    assert (lost.analysis_id, lost.excluded_reason) == (first.pk, GONE)
    assert set(recording.strikes.counted().values_list("analysis", flat=True)) == {second.pk}  # type: ignore[attr-defined]


def test_what_is_known_changes_in_place_and_is_asked_anew(student: Student, gym: Gym, made: CoreRecording) -> None:
    unsaid = replace(made, participant=replace(made.participant, stance=None))
    StanceChange.objects.create(student=student, since="2026-01-01", stance="orthodox")
    recording = import_recording(gym, student, unsaid)
    assert behind(gym, [recording.pk]) == []
    assert AnalysisRun.objects.get().asked_by != ""
    StanceChange.objects.update(stance="southpaw")  # the same day, corrected
    assert behind(gym, [recording.pk]) == [recording.pk]
    StanceChange.objects.update(stance="orthodox")
    assert behind(gym, [recording.pk]) == []


def test_a_strike_between_sets_is_in_none(student: Student, gym: Gym, made: CoreRecording) -> None:
    at = [s.contact_s for s in import_recording(gym, student, made).strikes.order_by("number")]
    Recording.objects.all().delete()
    only = Event(at[2] - 0.3, at[4] - at[2] + 0.6, "set", "lead-hook;left_hand;level=body")
    recording = import_recording(gym, student, replace(made, events=(only,)))
    inside = list(recording.strikes.order_by("number").values_list("set__code", flat=True))
    assert inside == [None, None, "lead-hook", "lead-hook", "lead-hook", *[None] * (len(at) - 5)]


def test_what_to_drill_rests_on_strikes_that_count_and_the_school_that_they_were_thrown_under(
    coach: Client, student: Student, bag: BagVersion
) -> None:
    recording = thrown(student, bag, 0, 0.1, seed=3)
    path = f"/api/evenings/{recording.session_id}/drills"
    assert coach.get(path).json()["drills"] == []
    drawn = Strike.objects.filter(recording=recording, number__lte=16)
    drawn.update(pullback_mm=48.0, pullback_mm_sd=6.0)
    (told,) = coach.get(path).json()["drills"]
    assert (told["name"], told["code"], told["moves"]) == ("Mirror", "rear-straight", "Pull-back")
    figure = {"measure": "pullback_mm", "mean": 48.0, "strikes": 16, "edge": 20.0, "low": False, "school": ""}
    assert (told["figure"], told["words"]) == (figure, "")
    assert [s["number"] for s in told["strikes"]] == list(range(1, 17))
    check = {"name": "Any way back", "measure": "pullback_mm", "low": None, "high": 60.0, "strikes": ["straight"]}
    school = send(coach, "post", "schools", {"name": "wide", "belief": "", "checks": [check]})
    StrikeSet.objects.filter(recording=recording).update(school_id=school.json()["id"])
    assert coach.get(path).json()["drills"] == []
    StrikeSet.objects.filter(recording=recording).update(school=None)
    assert len(coach.get(path).json()["drills"]) == 1
    drawn.filter(number__gt=3).update(excluded_reason="slipped", excluded_at=recording.acquired_at)
    assert coach.get(path).json()["drills"] == []
