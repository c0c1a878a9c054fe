"""All of a gym out as open files and into another: every table equal, every refusal whole."""

import csv
import datetime as dt
import json
import re
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pyarrow.parquet as pq
import pytest
from archive_makers import MONDAY, WORDS, damaged, manifest, quiet, with_value
from asking import send
from conftest import signed_in
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone

from agile_strike.archive import services
from agile_strike.archive.bring import bring
from agile_strike.archive.models import Archive
from agile_strike.archive.out import write
from agile_strike.archive.tables import tables
from agile_strike.capture.models import AnalysisRun, Chunk, Recording, StoredFile
from agile_strike.core.errors import BadInput
from agile_strike.formats.motion_bids_read import read_all
from agile_strike.gym.models import Gym
from agile_strike.intake.again import raw
from agile_strike.kit.models import Bag
from agile_strike.live.door.stations import make_station
from agile_strike.live.models import Mark as TakeMark
from agile_strike.live.models import Take
from agile_strike.logbook.models import Note
from agile_strike.people.models import Earlier, Mark, Student
from agile_strike.plans.models import Week
from agile_strike.removal.nameless import name_pattern
from agile_strike.reports.models import Report
from agile_strike.review.models import Strike, StrikeLanes
from agile_strike.trials.models import Claim, Decision, Trial

pytestmark = pytest.mark.django_db(transaction=True)

PAGES: tuple[Callable[[Student, Trial, Recording], str], ...] = (
    lambda s, t, r: f"students/{s.pk}",
    lambda s, t, r: f"students/{s.pk}/weeks?measure=impulse_n_s&code=rear-straight",
    lambda s, t, r: f"trials/{t.pk}/compare?student_id={s.pk}",
    lambda s, t, r: f"recordings/{r.pk}",
    lambda s, t, r: f"recordings/{r.pk}/strikes",
    lambda s, t, r: f"evenings/{r.session_id}",
    lambda s, t, r: f"log?student={s.pk}",
    lambda s, t, r: f"students/{s.pk}/plan?monday={MONDAY}",
)


def figures(client: Client, gym: Gym) -> list[Any]:
    """What pages show of a gym, without the keys of its rows."""
    student, trial = Student.objects.get(gym=gym), Trial.objects.get(gym=gym)
    recording = Recording.objects.filter(gym=gym, chunks__isnull=False).distinct().get()
    out = []
    for page in PAGES:
        answer = client.get(f"/api/{page(student, trial, recording)}")
        assert answer.status_code == 200, answer.content
        out.append(_without_keys(answer.json()))
    return out


KEYS = (
    *("id", "before", "after", "recordings", "key", "trial", "set", "strike", "session", "recording", "student", "bag"),
    "to",
)


def _without_keys(shown: Any) -> Any:
    if isinstance(shown, dict):
        return {k: _without_keys(v) for k, v in shown.items() if k not in KEYS and not k.endswith(("_id", "ids"))}
    return [_without_keys(v) for v in shown] if isinstance(shown, list) else shown


def test_every_table_and_every_page_is_equal_in_another_gym(full: Gym, coach: Client, tmp_path: Path) -> None:
    first, second = tmp_path / "first.zip", tmp_path / "second.zip"
    write(full, first, True, quiet)
    User.objects.filter(username="coach").update(username="elsewhere")
    new = Gym.objects.create(name="New", time_zone="Asia/Tokyo")
    told = bring(new, first, quiet)
    assert told == f"1 students, 6 recordings, {Strike.objects.filter(recording__gym=full).count()} strikes."
    write(Gym.objects.get(pk=new.pk), second, False, quiet)
    before, after = manifest(first), manifest(second)
    assert before["tables"] == after["tables"]
    assert before["gym"] == after["gym"]
    rows = {t["name"]: t["rows"] for t in before["tables"]}
    assert {t.file for t in tables()} == set(rows)
    some = ("people-earlier", "capture-chunk", "review-strikelanes", "live-mark", "trials-decision", "plans-part",
            "trials-trial_students", "reports-report", "kit-bagversion", "live-take", "review-remark")  # fmt: skip
    assert not [name for name in some if not rows[name]]
    assert figures(signed_in(new, "new coach"), new) == figures(coach, full)
    # rows of others that their keys could have been taken for
    assert Note.objects.get(gym__name="Elsewhere").text == "of another gym"
    mine = Note.objects.get(gym=new)
    assert (mine.text, mine.student) == (WORDS, Student.objects.get(gym=new))
    assert Earlier.objects.get(gym=new, of="note").key == mine.pk
    assert Week.objects.get(student__gym=new).wishes[0]["key"] == str(Trial.objects.get(gym=new).pk)
    assert mine.by is not None
    assert (mine.by.is_active, mine.by.has_usable_password()) == (False, False)
    assert Report.objects.get(gym=new).token != Report.objects.get(gym=full).token


def test_other_programs_read_it(full: Gym, tmp_path: Path) -> None:
    path = tmp_path / "all.zip"
    Strike.objects.filter(number=1).update(note='=HYPERLINK("http://x")')
    write(full, path, True, quiet)
    with zipfile.ZipFile(path) as archive:
        archive.extractall(tmp_path / "all")
    own = Chunk.objects.all()[0].recording
    (known,) = read_all(tmp_path / "all" / "recordings")
    mine = raw(own)
    for name, unit in known.units.items():
        assert unit.accel_m_s2.tolist() == mine.units[name].accel_m_s2.tolist()
    table = pq.read_table(tmp_path / "all" / "tables" / "review-strike.parquet")
    said = json.loads((tmp_path / "all" / "dictionary.json").read_text())["review-strike"]["columns"]
    assert set(table.column_names) == set(said)
    # what machines read is as it was said, and no spreadsheet runs it
    with (tmp_path / "all" / "tables" / "review-strike.csv").open(newline="") as text:
        notes = [row["note"] for row in csv.DictReader(text)]
    assert [n.removeprefix("'") for n in notes] == table.column("note").to_pylist()
    assert '\'=HYPERLINK("http://x")' in notes
    assert not any(n.startswith("=") for n in notes)
    assert said["impulse_n_s"]["unit"] == "N s"
    assert all(c["meaning"] for name, c in said.items() if name.endswith(("_n_s", "_ms", "_sd")))
    assert b"DTSTART" in (tmp_path / "all" / "calendars" / f"petra-{MONDAY}.ics").read_bytes()
    everything = b"".join(p.read_bytes() for p in (tmp_path / "all").rglob("*") if p.is_file())
    assert Report.objects.get().token.encode() not in everything
    now, station = timezone.now(), make_station(full, "By the door", Bag.objects.filter(gym=full)[0].pk)[0]
    write(full, path, False, quiet)
    before = manifest(path)["tables"]
    live = Recording.objects.create(gym=full, student=own.student, session=own.session, task="now", acquired_at=now,
                                    length_s=0.0, rate_hz=1000.0, checksum="now", open=True)  # fmt: skip
    take = Take.objects.create(station=station, session=own.session, recording=live, began_at=now)
    TakeMark.objects.create(take=take, kind="set", value="rear-hook;;", at=now)
    run = AnalysisRun.objects.create(recording=live, version="0")
    Strike.objects.create(recording=live, analysis=run, number=1, contact_s=1.0)
    write(full, path, False, quiet)
    assert manifest(path)["tables"] == before  # what is being recorded is not there yet


CHANGES: tuple[tuple[str, Callable[[bytes], bytes], bool, str], ...] = (
    ("tables/review-strike.p", lambda b: with_value(b, "impulse_n_s", 99.0), False, "not those that were written"),
    ("tables/logbook-note.p", lambda b: with_value(b, "student", 5), True, "a row in it can't stand"),
    ("tables/review-strike.p", lambda b: with_value(b, "impulse_n_s", float("nan")), True, "can't stand"),
    ("tables/people-mark.p", lambda b: with_value(b, "kind", "<b>"), True, "kind is “<b>”"),
    ("archive.json", lambda b: b.replace(b'"rows": 1,', b'"rows": 999999999,'), False, "not those that were written"),
    ("samples/", lambda b: b[:-1] + b"!", False, "samples are not those"),
    ("tables/review-strike.p", lambda b: b[: len(b) // 2], False, "damaged"),
    ("archive.json", lambda b: b.replace(b'"format": 1', b'"format": 7'), False, "another version"),
    ("archive.json", lambda b: b.replace(b'"UTC"', b'"Mars"'), False, "no time zone"),
)


def test_what_is_not_as_it_was_written_is_refused_whole(full: Gym, coach: Client, tmp_path: Path) -> None:
    path = tmp_path / "all.zip"
    write(full, path, False, quiet)
    answer = coach.post("/api/archives/in", {"file": SimpleUploadedFile("all.zip", path.read_bytes())})
    assert (answer.status_code, "holds students already" in answer.json()["message"]) == (422, True)
    assert not StoredFile.objects.exists()
    new = Gym.objects.create(name="New")
    for part, change, honest, said in CHANGES:
        with pytest.raises(BadInput, match=said):
            bring(new, damaged(path, part, change, honest), quiet)
        new.refresh_from_db()
        assert (new.name, Student.objects.filter(gym=new).exists()) == ("New", False), said
    assert not User.objects.filter(username__contains="of gym").exists()


def test_by_the_queue_killed_half_way_fetched_and_brought_in(
    full: Gym, coach: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = send(coach, "post", "archives", {"motion_bids": False}).json()
    assert send(coach, "post", "archives", {"motion_bids": False}).status_code == 422  # one at a time

    def killed(*_: object) -> None:
        raise KeyboardInterrupt

    with monkeypatch.context() as dying:
        dying.setattr("agile_strike.archive.out._also", killed)
        with pytest.raises(KeyboardInterrupt):
            services.run(made["id"])
    row = Archive.objects.get()
    assert (row.state, row.file, row.progress > 0.1) == ("running", None, True)  # seen while it went on
    services.run(row.pk)
    shown = coach.get("/api/archives").json()[0]
    assert (shown["state"], shown["waits"], shown["progress"]) == ("done", True, 1.0)
    answer = coach.get(f"/api/archives/{row.pk}/file.zip")
    content = b"".join(answer.streaming_content)  # type: ignore[attr-defined]
    assert len(content) == int(answer["Content-Length"])
    other = Gym.objects.create(name="Empty")
    mate = signed_in(other, "mate")
    assert mate.get(f"/api/archives/{row.pk}/file.zip").status_code == 404
    came = mate.post("/api/archives/in", {"file": SimpleUploadedFile("all.zip", content)}).json()
    with monkeypatch.context() as dying:
        dying.setattr("agile_strike.archive.services.refresh", killed)
        with pytest.raises(KeyboardInterrupt):
            services.run(came["id"])
    services.run(came["id"])
    back = Archive.objects.get(pk=came["id"])
    assert (back.state, back.file, "1 students" in back.message) == ("done", None, True)
    assert Recording.objects.filter(gym=other).count() == Recording.objects.filter(gym=full).count()
    stopped = send(coach, "post", "archives", {"motion_bids": True}).json()
    Archive.objects.filter(pk=stopped["id"]).update(cancel_asked=True)
    services.run(stopped["id"])
    assert Archive.objects.get(pk=stopped["id"]).state == "cancelled"
    assert not StoredFile.objects.exists()  # the one before went when a new one was asked for


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("J.", "J. hits harder, and J too."),
        ("Petra Vanek", "petra vanek; PETRA, Vanek’s; vanek!"),
        ("Anne-Marie de Vries", "Anne-Marie, anne marie, Vries, Marie."),
        ("Jan J. Doe", "Jan J. Doe, J. Doe, jan"),
        ("李小龙", "李小龙 hits harder."),
        ("O'Neil (Pat)", "O'Neil (Pat), o'neil"),
    ],
)
def test_no_part_of_a_name_is_left_in_a_sentence(name: str, text: str) -> None:
    left = name_pattern(name).sub("N", text)
    words = {w.lower() for w in re.findall(r"\w+", left)} - {"n"}
    assert not words & {w.lower() for w in re.findall(r"\w\w+", name) if w not in ("de",)}, left
    assert "J" not in re.findall(r"\w+", left)
    assert name_pattern("A. Best").sub("N", "It did a better job at rest.") == "It did a better job at rest."


def test_who_is_made_nameless_leaves_figures_and_no_name(full: Gym, trial: Trial, coach: Client) -> None:
    student = Student.objects.get(gym=full)
    before = coach.get(f"/api/trials/{trial.pk}/compare", {"student_id": student.pk}).json()
    strikes = Strike.objects.filter(recording__gym=full).count()
    path = f"students/{student.pk}/nameless"
    assert send(coach, "post", path, {"name": "Petra"}).status_code == 422
    writing = send(coach, "post", "archives", {"motion_bids": False}).json()
    assert send(coach, "post", path, {"name": "Petra Vanek"}).status_code == 204
    after = coach.get(f"/api/trials/{trial.pk}/compare", {"student_id": student.pk}).json()
    assert after["claim"]["effect"] == before["claim"]["effect"]
    assert Strike.objects.filter(recording__gym=full).count() == strikes
    for model in (Chunk, StrikeLanes, Mark, Earlier, Report, Week):
        assert not model.objects.exists(), model  # type: ignore[attr-defined]
    services.run(writing["id"])  # it would have told of the person still
    row = Archive.objects.get()
    assert (row.state, row.file) == ("cancelled", None)
    student.refresh_from_db()
    assert (student.name, student.label, student.birth_date) == ("Former student 1", "former1", dt.date(1997, 7, 1))
    kept = (Student, Recording, Strike, Decision, Claim, Trial, Note)
    everything = json.dumps([list(m.objects.values()) for m in kept], default=str).lower()  # type: ignore[attr-defined]
    assert "petra" not in everything
    assert "vanek" not in everything
