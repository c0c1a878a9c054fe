"""What the server holds for a child, and what becomes of what is taken away."""

import datetime as dt
import io
import json
import zipfile
from collections.abc import Callable
from typing import Any

import pytest
from asking import send  # the server folder's own
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection, transaction
from django.test import Client
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from agile_strike.capture.models import Chunk, Recording, StoredFile, Upload
from agile_strike.gym.models import Gym
from agile_strike.intake import uploads
from agile_strike.intake.again import run_again
from agile_strike.intake.models import ForeignFile, Reanalysis
from agile_strike.people.models import Student
from agile_strike.review.models import Strike, StrikeLanes
from agile_strike.trials.compare import refresh
from agile_strike.trials.models import Claim, Trial

pytestmark = pytest.mark.django_db
JSON = "application/json"


@pytest.fixture
def trial(gym: Gym, student: Student) -> Trial:
    made = Trial.objects.create(
        gym=gym, factor="weight transfer", levels=["even", "rear"], code="rear-straight", measure="impulse_n_s",
        started_on="2026-10-01",
    )  # fmt: skip
    made.students.add(student)
    return made


def file(content: bytes, name: str = "evening.zip") -> dict[str, SimpleUploadedFile]:
    return {"file": SimpleUploadedFile(name, content)}


BORN = {"child": dt.date(2012, 5, 1), "of unknown age": None}


@pytest.mark.parametrize("consent", ["missing", "withdrawn"])
@pytest.mark.parametrize("who", BORN)
def test_without_consent_nothing_of_a_child_is_recorded_called_or_handed_out(
    recording: Recording, trial: Trial, student: Student, coach: Client, evening_zip: bytes, consent: str, who: str
) -> None:
    waiting = coach.post(f"/api/uploads?student_id={student.pk}", file(evening_zip)).json()
    Student.objects.filter(pk=student.pk).update(birth_date=BORN[who], consent=consent)
    s, t, r = student.pk, trial.pk, recording.pk
    asked = [
        coach.post(f"/api/uploads?student_id={s}", file(evening_zip)),
        coach.post(f"/api/tables?student_id={s}", file(b"a,b,c\n1,2,3\n", "t.csv")),
        send(coach, "post", "table-imports", {"ids": [1], "student_id": s}),
        coach.get(f"/api/trials/{t}/sheet?student_id={s}"),
        send(coach, "post", f"trials/{t}/blocks", {"student_id": s, "place": 0}),
        coach.get(f"/api/recordings/{r}/strikes.csv"),
        coach.get(f"/api/recordings/{r}/strikes.parquet"),
        coach.get(f"/api/recordings/{r}/motion-bids.zip"),
        coach.get(f"/api/trials/{t}/strikes.csv?student_id={s}"),
        coach.get(f"/api/trials/{t}/claim.zip"),
        coach.get(f"/api/students/{s}/weeks.csv"),
    ]
    for answer in asked:
        assert answer.status_code == 422, answer.content
        assert "consent" in answer.json()["message"]
    everybody = coach.get(f"/api/trials/{t}/strikes.csv").content.decode()
    assert len(everybody.splitlines()) == 1  # the head alone: the child's rows are left out
    uploads.run_import(waiting["id"])
    assert "consent" in Upload.objects.get(pk=waiting["id"]).message  # what waited when it was withdrawn
    again = send(coach, "post", "reanalyses", {"recordings": [r]})
    assert (again.status_code, "consent" in again.json()["message"]) == (422, True)
    queued = Reanalysis.objects.create(gym=student.gym, recordings=[r], about_s=1.0)  # while it was there still
    run_again(queued.pk)
    assert "consent" in coach.get(f"/api/reanalyses/{queued.pk}").json()["results"][0]["problem"]
    page = coach.get(f"/api/students/{s}").json()
    assert page["counts_as_child"]
    assert page["stopped"]


def test_consent_and_a_date_of_birth_open_the_door_again(student: Student, coach: Client, evening_zip: bytes) -> None:
    Student.objects.filter(pk=student.pk).update(birth_date=None, consent="missing")
    assert coach.post(f"/api/uploads?student_id={student.pk}", file(evening_zip)).status_code == 422
    said = send(coach, "post", f"students/{student.pk}/birth-date", {"birth_date": "2012-05-01", "version": 1}).json()
    assert (said["consent"], said["age"]) == ("missing", said["age"])
    said = send(coach, "post", f"students/{student.pk}/consent", {"consent": "kept", "version": 2}).json()
    assert said["stopped"] == ""
    assert coach.post(f"/api/uploads?student_id={student.pk}", file(evening_zip)).status_code == 201
    grown = send(coach, "post", f"students/{student.pk}/birth-date", {"birth_date": "1990-05-01", "version": 3}).json()
    assert (grown["consent"], grown["counts_as_child"]) == ("not_needed", False)


@pytest.mark.parametrize(
    ("other", "said"),
    [
        ({"watch": ["settle_ms", "peak_force_n"]}, "no testing for power"),
        ({"watch": ["impulse_n_s_per_body_mass"]}, "no testing for power"),
        ({"blocks_each": 4, "strikes": 10}, "too many"),
        ({"rest_s": 20.0}, "rest at least"),
        ({}, ""),
    ],
)
def test_a_childs_trial_is_held_to_what_is_watched_to_volume_and_to_rest(
    student: Student, coach: Client, other: dict[str, Any], said: str
) -> None:
    Student.objects.filter(pk=student.pk).update(birth_date=BORN["child"], consent="kept")
    plan = {
        "factor": "weight transfer", "levels": ["even", "rear"], "code": "rear-straight", "measure": "return_ms",
        "watch": ["settle_ms"], "students": [student.pk],
    }  # fmt: skip
    for path in ("trials", "trial-plans"):
        answer = send(coach, "post", path, plan | other)
        assert answer.status_code == (422 if said else 201 if path == "trials" else 200), answer.content
        assert said in answer.json().get("message", "")


# --- removed, and taken back


def shown(coach: Client, recording: Recording, trial: Trial) -> dict[str, Any]:
    """What a coach sees of a gym."""
    s = recording.student_id
    paths = {
        "students": "students", "recordings": f"students/{s}/recordings", "bags": "bags", "schools": "schools",
        "trials": "trials", "class": "class", "strikes": f"recordings/{recording.pk}/strikes",
        "weeks": f"students/{s}/weeks", "compare": f"trials/{trial.pk}/compare",
    }  # fmt: skip
    return {name: json.loads(coach.get(f"/api/{path}").content) for name, path in paths.items()}


@pytest.mark.parametrize("kind", ["student", "recording", "bag", "school", "trial"])
def test_what_is_removed_is_gone_from_every_page_and_comes_back_as_it_was(
    kind: str, recording: Recording, trial: Trial, coach: Client, stranger: Client
) -> None:
    before = shown(coach, recording, trial)
    key = {
        "student": recording.student_id, "recording": recording.pk, "bag": before["bags"][0]["id"],
        "school": before["schools"][0]["id"], "trial": trial.pk,
    }[kind]  # fmt: skip
    assert send(stranger, "post", "removals", {"kind": kind, "id": key}).status_code == 404
    for _ in range(2):  # twice is once
        assert send(coach, "post", "removals", {"kind": kind, "id": key}).status_code == 200
    without = shown(coach, recording, trial)
    assert without != before
    place = {"student": "students", "recording": "recordings", "bag": "bags", "school": "schools", "trial": "trials"}
    rows = without[place[kind]]
    assert isinstance(rows, dict) or all(row["id"] != key for row in rows)
    if kind in ("student", "recording"):
        assert "message" in without["strikes"]
        assert not without["compare"].get("strikes", {}).get("id")
    (listed,) = coach.get("/api/removals").json()
    assert (listed["kind"], listed["id"]) == (kind, key)
    assert stranger.get("/api/removals").json() == []
    assert send(coach, "post", "removals/undo", {"kind": kind, "id": key}).status_code == 200
    assert shown(coach, recording, trial) == before
    assert coach.get("/api/removals").json() == []


def test_who_trains_here_no_more_leaves_the_evenings_lists_and_stays_to_be_read(
    recording: Recording, trial: Trial, coach: Client, stranger: Client
) -> None:
    before, pk = shown(coach, recording, trial), recording.student_id
    row = coach.get(f"/api/students/{pk}").json()
    assert send(stranger, "post", f"students/{pk}/left", {"left": True, "version": row["version"]}).status_code == 404
    told = send(coach, "post", f"students/{pk}/left", {"left": True, "version": row["version"]})
    assert told.json()["left_on"] == str(recording.gym.today)
    assert send(coach, "post", f"students/{pk}/left", {"left": False, "version": row["version"]}).status_code == 409
    assert [t["student_id"] for t in coach.get("/api/tonight").json()] == []
    assert all(n["student_id"] != pk for n in coach.get("/api/attention").json())
    after = shown(coach, recording, trial)
    assert {k: v for k, v in after.items() if k != "students"} == {k: v for k, v in before.items() if k != "students"}
    back = send(coach, "post", f"students/{pk}/left", {"left": False, "version": told.json()["version"]}).json()
    assert back["left_on"] is None
    assert [t["student_id"] for t in coach.get("/api/tonight").json()] == [pk]


@pytest.mark.parametrize("deed", ["removed", "erased", "found anew"])
def test_what_goes_while_a_page_is_made_of_it_is_there_or_is_not(
    deed: str, recording: Recording, trial: Trial, coach: Client
) -> None:
    """Another coach is as fast as a query: after each one that a page asks, once."""
    strikes = Strike.objects.filter(recording=recording)
    one, other = strikes.order_by("number").values_list("pk", flat=True)[:2]

    def go() -> None:
        if deed == "removed":
            Recording.objects.filter(pk=recording.pk).update(removed_at=timezone.now())
        elif deed == "erased":
            Recording.objects.filter(pk=recording.pk).delete()
        else:
            strikes.delete()

    for page in (
        *(f"strikes/{one}", f"strikes/{one}?under=set", f"strikes/{one}?under={other}", f"strikes/{one}/absent"),
        *(f"recordings/{recording.pk}", f"recordings/{recording.pk}/strikes", f"curves?ids={one}&ids={other}"),
        *(f"students/{recording.student_id}/recordings", f"evenings/{recording.session_id}", "class"),
    ):
        asked = _asked_while(coach, page, -1, go)
        for after in range(asked):
            with transaction.atomic():
                _asked_while(coach, page, after, go)
                transaction.set_rollback(True)


def _asked_while(coach: Client, page: str, after: int, go: Callable[[], None]) -> int:
    """How many queries a page asks; `go` comes to pass after one of them."""
    asked = 0

    def count(execute: Any, *rest: Any) -> Any:
        nonlocal asked
        answer = execute(*rest)
        asked += 1
        if asked == after + 1:
            go()
        return answer

    with connection.execute_wrapper(count):
        answer = coach.get(f"/api/{page}")
    assert answer.status_code in (200, 404), (page, after, answer.content)
    return asked


def test_a_recording_that_was_removed_does_not_come_in_a_second_time_unsaid(
    recording: Recording, coach: Client, evening_zip: bytes
) -> None:
    send(coach, "post", "removals", {"kind": "recording", "id": recording.pk})
    key = coach.post(f"/api/uploads?student_id={recording.student_id}", file(evening_zip)).json()["id"]
    uploads.run_import(key)
    assert "here already, of Petra Vanek (removed)" in Upload.objects.get(pk=key).message


def test_erasing_a_person_reaches_all_of_theirs_and_nothing_of_others(
    recording: Recording, trial: Trial, gym: Gym, coach: Client, evening_zip: bytes
) -> None:
    student = recording.student
    other = Student.objects.create(
        gym=gym, name="Kofi Andrade", label="kofi", stance="orthodox", birth_date=dt.date(1985, 1, 30)
    )
    trial.students.add(other)
    refresh([student.pk, other.pk])
    assert Claim.objects.filter(student=None).exists()
    coach.post(f"/api/uploads?student_id={student.pk}", file(evening_zip, "petra's evening.zip"))
    coach.post(f"/api/tables?student_id={student.pk}", file(b"a,b,c\n1,2,3\n", "petra.csv"))
    mine = coach.post(f"/api/uploads?student_id={other.pk}", file(evening_zip)).json()["id"]
    send(coach, "post", "reanalyses", {"recordings": [recording.pk]})
    path = f"students/{student.pk}/erase"
    assert send(coach, "post", path, {"name": "Petra"}).status_code == 422
    assert Student.objects.filter(pk=student.pk).exists()
    assert send(coach, "post", path, {"name": "Petra Vanek"}).status_code == 204
    for model in (Recording, Chunk, Strike, StrikeLanes, ForeignFile):
        assert not model.objects.exists(), model  # type: ignore[attr-defined]
    assert list(Upload.objects.values_list("pk", flat=True)) == [mine]
    assert StoredFile.objects.count() == 1
    assert not Claim.objects.filter(student=None).exists()
    jobs = list(ProcrastinateJob.objects.filter(status="todo").values_list("task_name", "args"))
    assert [a for task, a in jobs if task == "import_upload"] == [{"upload_id": mine}]
    assert not [a for task, a in jobs if task == "look_at_table"]
    assert Reanalysis.objects.get().recordings == []
    assert list(trial.students.values_list("name", flat=True)) == ["Kofi Andrade"]
    everything = json.dumps(
        [list(m.objects.values()) for m in (Upload, Reanalysis, Claim, Trial, Student)],  # type: ignore[attr-defined]
        default=str,
    )
    assert "petra" not in everything.lower()


def test_a_claim_that_is_handed_out_holds_what_computes_it(recording: Recording, trial: Trial, coach: Client) -> None:
    with zipfile.ZipFile(io.BytesIO(coach.get(f"/api/trials/{trial.pk}/claim.zip").content)) as archive:
        assert {"README.txt", "claim.json", "strikes.csv"} <= set(archive.namelist())
