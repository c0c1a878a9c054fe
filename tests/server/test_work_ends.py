"""Every job ends: done, failed with a reason, or cancelled. Nothing of what failed is saved, nothing waiting lost."""

import errno
import io
import random
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from asking import sent  # the server folder's own
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection
from django.test import Client

from agile_strike.capture import store
from agile_strike.capture.models import Recording, StoredFile, StoredPart, Upload
from agile_strike.gym.models import Gym
from agile_strike.intake import reading, sweep, tables, uploads, work
from agile_strike.intake.again import run_again
from agile_strike.intake.management.commands.run_worker import own_folder
from agile_strike.people.models import Student

pytestmark = pytest.mark.django_db


def rewritten(content: bytes, change: Callable[[str, bytes], bytes]) -> bytes:
    """The zip with the content of its files changed."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(out, "w") as new:
        for entry in old.infolist():
            new.writestr(entry.filename, change(entry.filename, old.read(entry)))
    return out.getvalue()


def in_file(end: str, old: str, new: str) -> Callable[[str, bytes], bytes]:
    def change(name: str, content: bytes) -> bytes:
        return content.replace(old.encode(), new.encode(), 1) if name.endswith(end) else content

    return change


EVENT = "\tset\t"
BROKEN: dict[str, tuple[Callable[[str, bytes], bytes], str]] = {
    "an event at nan": (in_file("events.tsv", "\n", "\nnan\t1\tset\tx\n"), "no time of a recording"),
    "an event at infinity": (in_file("events.tsv", "\n", "\ninf\t1\tset\tx\n"), "no time of a recording"),
    "an event with a zero byte": (in_file("events.tsv", EVENT, "\tse\0t\t"), "a zero byte"),
    "an event of a novel": (in_file("events.tsv", EVENT, "\tset\t" + "y" * 9000), "letters"),
    "the calendar's first day": (in_file("scans.tsv", "2026-11-03T", "0001-01-01T"), "no ISO 8601 time of a recording"),
    "the calendar's last day": (in_file("scans.tsv", "2026-11-03T", "9999-12-31T"), "no ISO 8601 time of a recording"),
    "no time at all": (in_file("scans.tsv", "2026-11-03T", "soon "), "no ISO 8601 time of a recording"),
    "one row of 1e308": (in_file("motion.tsv", "\n", "\n" + "\t".join(["1e308"] * 6) + "\n"), "is not a number"),
    "a range below zero": (in_file("motion.json", '"AccelFullScale": 3', '"AccelFullScale": -3'), "no unit's range"),
    "a range of 1e9": (
        in_file("motion.json", '"AccelFullScale": 3', '"AccelFullScale": 1e9, "x": 3'),
        "no unit's range",
    ),
    "a range of a thousandth": (
        in_file("motion.json", '"AccelFullScale": 3', '"AccelFullScale": 0.001, "x": 3'),
        "no unit's range",
    ),
    "a body of nan": (in_file("participants.tsv", "\t70\t", "\tnan\t"), "no person's"),
    "a body of a ton": (in_file("participants.tsv", "\t70\t", "\t1000\t"), "no person's"),
    "a bag of nan": (in_file("motion.json", '"mass_kg": 4', '"mass_kg": NaN, "x": 4'), "no number"),
    "a bag of infinite doubt": (
        in_file("motion.json", '"mass_kg": 4', '"inertia_sd_kg_m2": Infinity, "mass_kg": 4'),
        "no number",
    ),
    "a number of many digits": (in_file("motion.json", '"mass_kg": 4', f'"x": {"9" * 5000}, "mass_kg": 4'), "too long"),
}


@pytest.mark.parametrize("what", BROKEN)
def test_what_once_left_an_upload_running_for_ever_is_refused_in_a_line(
    coach: Client, student: Student, evening_zip: bytes, what: str
) -> None:
    change, said = BROKEN[what]
    broken = rewritten(evening_zip, change)
    key = sent(coach, student, broken)
    uploads.run_import(key)
    upload = Upload.objects.get(pk=key)
    assert upload.state == "failed"
    assert said in upload.message
    assert "\n" not in upload.message
    assert (Recording.objects.count(), StoredFile.objects.count()) == (0, 0)


def test_a_task_label_of_many_letters_is_refused(coach: Client, student: Student, evening_zip: bytes) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(evening_zip)) as old, zipfile.ZipFile(out, "w") as new:
        for entry in old.infolist():
            new.writestr(entry.filename.replace("task-mixed", "task-" + "o" * 150), old.read(entry))
    key = sent(coach, student, out.getvalue())
    uploads.run_import(key)
    assert "task label has 150 letters" in Upload.objects.get(pk=key).message


@pytest.mark.parametrize(
    ("error", "said"),
    [
        (RuntimeError("what?"), "nobody foresaw. Reference "),
        (OSError(errno.ENOSPC, "No space left on device"), "the disk is full"),
        (MemoryError(), "more memory than this machine has"),
        (KeyError("x"), "nobody foresaw. Reference "),
    ],
)
def test_an_error_that_nobody_foresaw_ends_the_job_with_a_reference(
    coach: Client, student: Student, evening_zip: bytes, monkeypatch: pytest.MonkeyPatch, error: Exception, said: str,
    caplog: pytest.LogCaptureFixture,
) -> None:  # fmt: skip
    def fails(*_: Any) -> None:
        raise error

    key = sent(coach, student, evening_zip)
    monkeypatch.setattr(reading, "keep", fails)
    uploads.run_import(key)
    upload = Upload.objects.get(pk=key)
    assert (upload.state, said in upload.message) == ("failed", True)
    assert upload.reference in upload.message
    assert upload.reference in caplog.text  # with what happened, for who looks after the server
    assert (Recording.objects.count(), StoredFile.objects.count()) == (0, 0)


def test_where_the_database_is_away_the_queue_tries_again(
    coach: Client, student: Student, evening_zip: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    def away(*_: Any) -> None:
        raise OperationalError("server closed the connection")

    key = sent(coach, student, evening_zip)
    with monkeypatch.context() as patch:
        patch.setattr(reading, "_saved", away)
        with pytest.raises(OperationalError):
            uploads.run_import(key)
    uploads.run_import(key)
    assert Upload.objects.get(pk=key).state == "done"


def test_a_job_that_killed_three_workers_is_given_up(
    coach: Client, student: Student, evening_zip: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    class Killed(BaseException):
        pass

    def dies(*_: Any) -> None:
        raise Killed

    key = sent(coach, student, evening_zip)
    with monkeypatch.context() as patch:
        patch.setattr(reading, "_saved", dies)
        for _ in range(work.MOST_STARTS):
            with pytest.raises(Killed):
                uploads.run_import(key)
    uploads.run_import(key)
    upload = Upload.objects.get(pk=key)
    assert (upload.state, "3 times" in upload.message) == ("failed", True)
    assert not StoredFile.objects.exists()


def test_what_lost_its_job_is_ended_and_what_has_one_goes_on(
    coach: Client, student: Student, evening_zip: bytes
) -> None:
    lost, alive = sent(coach, student, evening_zip), sent(coach, student, evening_zip)
    Upload.objects.update(created_at="2026-01-01T00:00:00+00:00")
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs WHERE (args->>'upload_id')::int = %s", [lost])
    assert sweep.end_forsaken() == 1
    assert Upload.objects.get(pk=lost).state == "failed"
    assert Upload.objects.get(pk=alive).state == "queued"


def test_what_a_dead_worker_unpacked_is_removed_by_the_next(tmp_path: Path) -> None:
    for name in ("999999999", "not a worker's"):
        (tmp_path / name).mkdir()
        (tmp_path / name / "half").write_text("unpacked")
    own = own_folder(tmp_path)
    assert sorted(p.name for p in tmp_path.iterdir()) == sorted([own.name, "not a worker's"])
    assert own.stat().st_mode & 0o077 == 0  # nobody else reads it


def test_a_reanalysis_that_fails_unforeseen_ends_too(
    coach: Client, recording: Recording, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = coach.post("/api/reanalyses", {"recordings": [recording.pk]}, content_type="application/json").json()

    def fails(*_: Any) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr("agile_strike.intake.again.analyse_again", fails)
    run_again(made["id"])
    told = coach.get(f"/api/reanalyses/{made['id']}").json()
    assert told["state"] == "failed"
    assert "Reference" in told["message"]


# --- waiting files


def test_a_file_waits_in_the_database_until_it_is_read(coach: Client, student: Student, evening_zip: bytes) -> None:
    key = sent(coach, student, evening_zip)
    parts = StoredPart.objects.order_by("place").values_list("content", flat=True)
    assert b"".join(bytes(p) for p in parts) == evening_zip
    uploads.run_import(key)
    assert not StoredFile.objects.exists()


def test_a_gym_has_only_so_much_waiting(coach: Client, student: Student, evening_zip: bytes, settings: Any) -> None:
    settings.MOST_WAITING_BYTES = int(1.5 * len(evening_zip))
    first = sent(coach, student, evening_zip)
    file = SimpleUploadedFile("more.zip", evening_zip)
    refused = coach.post(f"/api/uploads?student_id={student.pk}", {"file": file})
    assert (refused.status_code, "wait to be read already" in refused.json()["message"]) == (422, True)
    assert StoredFile.objects.count() == 1
    coach.post(f"/api/uploads/{first}/cancel")
    assert not StoredFile.objects.exists()  # what is cancelled makes room
    sent(coach, student, evening_zip)


def test_an_upload_that_breaks_off_leaves_no_part(gym: Gym, student: Student, coach: Client) -> None:
    class Broken(io.BytesIO):
        def read(self, size: int | None = -1) -> bytes:
            if self.tell() > 0:
                raise OSError(errno.ENOSPC, "No space left on device")
            return super().read(10)

    with pytest.raises(OSError, match="No space"):
        store.keep(gym, "half.zip", Broken(b"x" * 100))
    assert not StoredPart.objects.exists()


@pytest.mark.parametrize("name", ["x" * 400 + ".zip", "a." + "y" * 400, "../../up.zip", "a\nb.zip", "²\u202e.zip", "/"])
def test_any_name_of_a_file_can_be_kept_on_a_disk(gym: Gym, name: str) -> None:
    file = store.keep(gym, name, io.BytesIO(b"content"))
    with store.as_path(file) as path:
        assert path.read_bytes() == b"content"
        assert path.parent.name.startswith("agile-strike-")


def test_a_zip_that_unpacks_to_more_than_its_size_allows_is_refused(coach: Client, student: Student) -> None:
    """Below the ratio of a bomb in every file, and still far more than any recording is to its zip."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        noise = random.Random(1).randbytes(60_000)
        for k in range(20):
            archive.writestr(f"part{k}.tsv", (noise + b"0" * 9_000_000))
    key = sent(coach, student, out.getvalue())
    uploads.run_import(key)
    assert "unpacks to" in Upload.objects.get(pk=key).message


# --- tables


def test_a_clock_that_leaps_a_month_is_refused_at_its_line(coach: Client) -> None:
    rows = [f"{k / 100 + (2_592_000 if k >= 600 else 0):.2f},0,0,9.81,0,0,0.1" for k in range(1200)]
    content = ("t (s),ax,ay,az,gx,gy,gz\n" + "\n".join(rows)).encode()
    made = coach.post("/api/tables", {"file": SimpleUploadedFile("leap bag.csv", content)}).json()
    tables.look(made["id"])
    told = coach.get(f"/api/tables/{made['id']}").json()
    assert "Line 602: the clock in column “t (s)” leaps by 2592000 s" in told["message"]
    assert told["state"] == "done"  # and the coach may choose another column, or none


def test_a_mapping_that_names_no_column_is_refused_and_the_old_one_stays(coach: Client) -> None:
    content = ("t (s),ax,ay,az\n" + "\n".join(f"{k / 100},0,0,9.81" for k in range(300))).encode()
    made = coach.post("/api/tables", {"file": SimpleUploadedFile("left wrist.csv", content)}).json()
    tables.look(made["id"])
    table = coach.get(f"/api/tables/{made['id']}").json()
    spoilt = {**table["mapping"], "time": "nowhere"}
    body = {"mapping": spoilt, "answered": [], "version": table["version"]}
    answer = coach.put(f"/api/tables/{made['id']}/mapping", body, content_type="application/json")
    assert (answer.status_code, "no column of figures" in answer.json()["message"]) == (422, True)
    assert coach.get(f"/api/tables/{made['id']}").json()["mapping"] == table["mapping"]
    late = {**body, "mapping": table["mapping"], "version": table["version"] + 1}
    assert coach.put(f"/api/tables/{made['id']}/mapping", late, content_type="application/json").status_code == 409


def test_a_c3d_whose_labels_are_no_text_is_refused(coach: Client) -> None:
    made = coach.post("/api/tables", {"file": SimpleUploadedFile("a.c3d", b"\x02P" + bytes(range(256)) * 8)}).json()
    tables.look(made["id"])
    told = coach.get(f"/api/tables/{made['id']}").json()
    assert (told["state"], "a.c3d: " in told["message"]) == ("failed", True)


def test_nothing_is_told_as_done_before_what_goes_with_it_is_done(student: Student) -> None:
    row = Upload.objects.create(gym=student.gym, student=student, file_name="bag.csv", size_bytes=1)

    def fails(_: Upload) -> None:
        raise RuntimeError("the tables are still there")

    work.run(Upload, row.pk, lambda _: "8 strikes in 1 recording.", done=fails)
    row.refresh_from_db()
    assert row.state == Upload.State.FAILED
    assert "Reference" in row.message
