"""An upload becomes strikes, whole or not at all, once."""

import datetime as dt
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from makers import Played

from agile_strike.capture.models import Chunk, Recording, Upload
from agile_strike.formats.chunks import unpack
from agile_strike.gym.models import Gym
from agile_strike.intake import reading, uploads
from agile_strike.people.models import Student
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db


def send(client: Client, student: Student, content: bytes, name: str = "evening.zip") -> Any:
    return client.post(f"/api/uploads?student_id={student.pk}", {"file": SimpleUploadedFile(name, content)})


def imported(client: Client, student: Student, content: bytes) -> Upload:
    upload_id = send(client, student, content).json()["id"]
    uploads.run_import(upload_id)
    return Upload.objects.get(pk=upload_id)


def test_an_upload_becomes_a_recording_with_its_strikes(
    coach: Client, student: Student, evening_zip: bytes, clean: Played
) -> None:
    upload = imported(coach, student, evening_zip)
    assert (upload.state, upload.progress, upload.message) == ("done", 1.0, "8 strikes in 1 recording.")
    recording = Recording.objects.get(student=student)
    listed = coach.get(f"/api/recordings/{recording.pk}/strikes").json()
    for i, strike in enumerate(clean.analyses[0].strikes):
        assert listed["values"]["impulse_n_s"][i] == pytest.approx(strike.measures["impulse_n_s"].value, rel=1e-5)
        assert listed["sds"]["peak_force_n"][i] == pytest.approx(strike.measures["peak_force_n"].sd, rel=1e-4)
    assert coach.get(f"/api/recordings/{recording.pk}").json()["bag"]["mass_kg"] == 48.0


def test_raw_samples_are_kept_bit_for_bit(coach: Client, student: Student, evening_zip: bytes, clean: Played) -> None:
    imported(coach, student, evening_zip)
    chunks = list(Chunk.objects.order_by("first_sample"))
    assert len(chunks) > 1
    back = unpack([bytes(c.parquet) for c in chunks], "bag", chunks[0].rate_hz, chunks[0].full_scale)
    made = clean.simulated[0].recording.units["bag"]
    assert back.accel_m_s2.tobytes() == made.accel_m_s2.tobytes()
    assert back.accel_full_scale_m_s2 == pytest.approx(made.accel_full_scale_m_s2)


def test_the_same_recording_again_adds_nothing(coach: Client, student: Student, evening_zip: bytes) -> None:
    imported(coach, student, evening_zip)
    again = imported(coach, student, evening_zip)
    assert again.message == "1 recording was here already, of Petra Vanek: nothing added."
    assert (Recording.objects.count(), Strike.objects.count()) == (1, 8)


def test_a_bad_second_recording_leaves_nothing_of_the_first(coach: Client, student: Student, broken_zip: bytes) -> None:
    upload = imported(coach, student, broken_zip)
    assert upload.state == "failed"
    assert "run-02_motion.tsv, line 1: 7 columns where channels.tsv names 6" in upload.message
    assert (Recording.objects.count(), Chunk.objects.count()) == (0, 0)


def test_a_job_that_runs_twice_counts_once(
    coach: Client, student: Student, evening_zip: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    upload_id = send(coach, student, evening_zip).json()["id"]

    class Killed(BaseException):
        pass

    def dies(*_: object) -> None:
        raise Killed

    with monkeypatch.context() as patch:
        patch.setattr(reading, "keep", dies)
        with pytest.raises(Killed):
            uploads.run_import(upload_id)
    assert Recording.objects.count() == 0
    uploads.run_import(upload_id)
    uploads.run_import(upload_id)
    assert (Recording.objects.count(), Strike.objects.count()) == (1, 8)


def test_a_cancelled_import_saves_nothing(coach: Client, student: Student, evening_zip: bytes) -> None:
    upload_id = send(coach, student, evening_zip).json()["id"]
    Upload.objects.filter(pk=upload_id).update(cancel_asked=True)  # while it runs
    uploads.run_import(upload_id)
    assert Upload.objects.get(pk=upload_id).state == "cancelled"
    other = send(coach, student, evening_zip).json()["id"]
    assert coach.post(f"/api/uploads/{other}/cancel").json()["state"] == "cancelled"  # before it began
    uploads.run_import(other)
    assert Recording.objects.count() == 0


def test_participants_are_matched_to_students_by_label(gym: Gym, coach: Client, evening_zip: bytes) -> None:
    answer = coach.post("/api/uploads", {"file": SimpleUploadedFile("e.zip", evening_zip)})
    uploads.run_import(answer.json()["id"])
    assert "participant 01 is no student of this gym" in Upload.objects.get().message
    one = Student.objects.create(gym=gym, name="One", label="01", stance="southpaw", birth_date=dt.date(1990, 1, 1))
    answer = coach.post("/api/uploads", {"file": SimpleUploadedFile("e.zip", evening_zip)})
    uploads.run_import(answer.json()["id"])
    assert Recording.objects.get().student == one


def test_too_large_or_empty_files_are_refused_at_once(coach: Client, student: Student, settings: Any) -> None:
    settings.LARGEST_UPLOAD_BYTES = 10
    answer = send(coach, student, b"x" * 11, "huge.zip")
    assert answer.status_code == 422
    assert answer.json()["message"].startswith("huge.zip: the file is")
    assert not Upload.objects.exists()
