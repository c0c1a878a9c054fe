"""A gym with a bit of everything, its archive, and an archive with something else in it."""

import datetime as dt
import hashlib
import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pyarrow.parquet as pq
import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.utils import timezone

from agile_strike.archive.rows import as_csv
from agile_strike.capture.models import Chunk
from agile_strike.evening.models import PlannedSet
from agile_strike.gym.models import Gym
from agile_strike.intake.reading import import_path
from agile_strike.kit.models import Bag
from agile_strike.live.door.stations import make_station
from agile_strike.live.models import Mark as TakeMark
from agile_strike.live.models import Stream, Take
from agile_strike.logbook.models import Note
from agile_strike.people.models import BodyMass, Earlier, Mark, Student
from agile_strike.plans.models import Part, Week
from agile_strike.reports.models import Report
from agile_strike.review.models import Remark, Strike
from agile_strike.trials.models import Decision, Trial

MONDAY = dt.date(2026, 11, 16)
OPENING = {"stream": "stream-of-a-test", "speed": 1.0, "units": {"bag": {"hz": 1000.0, "serial": "", "model": ""}}}
WORDS = 'He said “lead”, "then"\n\tstep; œ — 拳, \\N and all'


def quiet(progress: float, stage: str) -> None:
    """Nobody looks how far it is."""


def manifest(path: Path) -> dict[str, Any]:
    with zipfile.ZipFile(path) as archive:
        return dict(json.loads(archive.read("archive.json")))


@pytest.fixture
def full(gym: Gym, worn_folder: Path, trial: Trial, student: Student, coach: Client) -> Gym:
    """A gym with a bit of everything, behind other gyms' rows on the same server."""
    import_path(gym, student, worn_folder)
    by, now = User.objects.get(username="coach"), timezone.now()
    recording = Chunk.objects.all()[0].recording
    station, _ = make_station(gym, "By the window", Bag.objects.filter(gym=gym)[0].pk)
    stream = Stream.objects.create(station=station, key="one", opening=OPENING)
    take = Take.objects.create(station=station, session=recording.session, recording=recording, stream=stream,
                               began_at=now, ended_at=now, settled_at=now)  # fmt: skip
    planned = PlannedSet.objects.create(session=recording.session, place=0, code="rear-hook", levels={"a": "b"})
    TakeMark.objects.create(take=take, kind="set", value="rear-hook;;", planned=planned, at=now, until=now)
    other = Gym.objects.create(name="Elsewhere")
    Student.objects.bulk_create(Student(gym=other, name=f"S{i}", label=f"s{i}", stance="southpaw") for i in range(7))
    Note.objects.create(gym=other, day=MONDAY, text="of another gym")
    note = Note.objects.create(gym=gym, student=student, day=MONDAY, text=WORDS, by=by)
    Earlier.objects.create(gym=gym, student=student, of=Earlier.Of.NOTE, key=note.pk, said="", by=by)
    Earlier.objects.create(gym=gym, student=student, of=Earlier.Of.MARK, key=10**9, said="of a mark that has gone")
    Mark.objects.create(student=student, kind="injury", since=MONDAY, text="left wrist", by=by)
    BodyMass.objects.create(student=student, measured_on=MONDAY, mass_kg=71.3)
    wish = {
        "kind": "trial",
        "name": "weight transfer",
        "key": str(trial.pk),
        "evenings": 2,
        "strikes": 0,
        "minutes": 30.0,
    }
    week = Week.objects.create(student=student, monday=MONDAY, wishes=[wish], free={"1": 60.0})
    Part.objects.create(week=week, day=1, place=0, kind="trial", name="weight transfer", key=str(trial.pk))
    strike = Strike.objects.filter(recording__student=student).order_by("pk")[0]
    Strike.objects.filter(pk=strike.pk).update(note=WORDS, flags=['a "flag"', "b,c", "d\\e"])
    Remark.objects.create(strike=strike, what="hips late", by=by)
    Decision.objects.create(trial=trial, student=student, what="keep", level="full shift", reason="Petra likes it",
                            said="Petra Vanek hits harder.", decided_on=MONDAY, by=by)  # fmt: skip
    Report.objects.create(gym=gym, student=student, kind="student", about="", until=MONDAY, pdf=b"%PDF\x00\xff", by=by)
    coach.get(f"/api/trials/{trial.pk}/compare", {"student_id": student.pk})
    return gym


def damaged(path: Path, part: str, change: Callable[[bytes], bytes], honest: bool) -> Path:
    """The archive with some of it changed; `honest`: its list says of the changed table what it is now."""
    out = path.with_name("damaged.zip")
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(out, "w") as new:
        changed = {n: change(old.read(n)) for n in old.namelist() if n.startswith(part)}
        said = manifest(path)
        for table in said["tables"]:
            content = changed.get(f"tables/{table['name']}.parquet")
            if honest and content is not None:
                text = b"".join(as_csv(b) for b in pq.ParquetFile(io.BytesIO(content)).iter_batches(10**6))
                table["sha256"] = hashlib.sha256(text).hexdigest()
        for name in old.namelist():
            listed = honest and name == "archive.json" and name not in changed
            new.writestr(name, json.dumps(said) if listed else changed.get(name, old.read(name)))
    return out


def with_value(content: bytes, column: str, value: Any) -> bytes:
    """The table with another value in a column's first row."""
    table = pq.read_table(io.BytesIO(content))
    values = [value, *table.column(column).to_pylist()[1:]]
    at = table.schema.get_field_index(column)
    out = io.BytesIO()
    pq.write_table(table.set_column(at, table.schema.field(at), [values]), out)
    return out.getvalue()
