"""Writing a gym's archive: all of it as open files in one zip."""

import datetime as dt
import hashlib
import json
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
from django.contrib.auth.models import User
from django.db import connection, transaction

from agile_strike.archive import rows, tables
from agile_strike.archive.dictionary import dictionary
from agile_strike.archive.rows import Numbers
from agile_strike.archive.tables import Table
from agile_strike.capture.models import Chunk, Recording
from agile_strike.core import analysis
from agile_strike.formats.motion_bids_write import write as write_motion_bids
from agile_strike.gym.models import Gym
from agile_strike.gym.names import safe_name
from agile_strike.intake.again import raw
from agile_strike.plans import calendar
from agile_strike.plans.models import Week
from agile_strike.trials.models import Claim

FORMAT = 1
MANIFEST, DICTIONARY = "archive.json", "dictionary.json"
#: of all the work, up to which each part comes
TABLES, SAMPLES = 0.3, 0.5
README = """{name}: all that this gym has measured, planned and noted, as open files. Written {when}.

archive.json       what is in here: each table's rows and the SHA-256 of its text, and who wrote what
dictionary.json    what every table and column means, with units and doubts
tables/*.parquet   every table, exact; tables/*.csv the same to look at (samples and drawn curves only in Parquet)
samples/           the units' samples as they came, Parquet, one file for some seconds of one unit; capture-chunk
                   in tables/ says whose
recordings/        {recordings}
calendars/         weeks that were planned, iCalendar
claims.json        what was found in each trial, as it stood

What was measured of a child without a guardian's consent is not in here.
Rows are numbered from 1 in each table. Accounts and passwords, links to reports and hubs' tokens are not in here.
An empty gym takes it in again, under Account, with equal figures.
"""
WITH, WITHOUT = "the same evenings as a Motion-BIDS data set", "left out when this was written: Motion-BIDS"

Tell = Callable[[float, str], None]


@dataclass(slots=True)
class _Written:
    tables: list[dict[str, Any]]
    who: set[str]


def write(gym: Gym, path: Path, motion_bids: bool, tell: Tell) -> None:
    """Write a gym's archive to `path`. What coaches do meanwhile is not in it; `tell` hears how far it is, and may
    raise to stop it."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive, TemporaryDirectory() as folder:
        when = dt.datetime.now(dt.UTC).isoformat(timespec="seconds")
        archive.writestr(
            "README.txt", README.format(name=gym.name, when=when, recordings=WITH if motion_bids else WITHOUT)
        )
        with _one_moment():
            all_tables = tables.tables()
            numbers = rows.keys_of(all_tables, gym)
            written = _tables(gym, all_tables, numbers, archive, Path(folder), tell)
            _samples(gym, numbers, archive, tell)
            _also(gym, numbers, archive)
        if motion_bids:
            _motion_bids(gym, archive, Path(folder) / "set", tell)
        archive.writestr(DICTIONARY, _json(dictionary(all_tables)))
        manifest = {
            "format": FORMAT,
            "gym": {"name": gym.name, "time_zone": gym.time_zone},
            "written": when,
            "analysis": analysis.VERSION,
            "coaches": tables.coaches(gym, written.who),
            "tables": written.tables,
        }
        archive.writestr(MANIFEST, _json(manifest))


def _json(content: object) -> str:
    return json.dumps(content, ensure_ascii=False, indent=1)


@contextmanager
def _one_moment() -> Iterator[None]:
    """All that is read is of one moment, whatever is written meanwhile."""
    begun = connection.in_atomic_block
    with transaction.atomic():
        if not begun:
            with connection.cursor() as cursor:
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        yield


def _tables(
    gym: Gym, all_tables: tuple[Table, ...], numbers: Numbers, archive: zipfile.ZipFile, folder: Path, tell: Tell
) -> _Written:
    names = dict(User.objects.values_list("pk", "username"))
    out = _Written([], set())
    for i, table in enumerate(all_tables):
        tell(TABLES * i / len(all_tables), f"Tables: {table.file}")
        files = (folder / f"{table.file}.parquet", folder / f"{table.file}.csv")
        out.tables.append(_table(gym, table, numbers, names, files, out.who))
        archive.write(files[0], f"tables/{table.file}.parquet", zipfile.ZIP_STORED)
        if not table.binary:
            archive.write(files[1], f"tables/{table.file}.csv")
        for file in files:
            file.unlink()
    return out


def _table(
    gym: Gym, table: Table, numbers: Numbers, names: dict[int, str], files: tuple[Path, Path], who: set[str]
) -> dict[str, Any]:
    """One table into both files; what the manifest says of it."""
    schema, count, summed = written_schema(table), 0, hashlib.sha256()
    bare = ("parquet",) if table.model is Chunk else ()
    wrote = {c.name for c in table.columns if c.who}
    with pq.ParquetWriter(files[0], schema, compression="zstd") as parquet, files[1].open("wb") as text:
        text.write((",".join(schema.names) + "\n").encode())
        for batch in rows.out_of(table, gym, numbers, names, bare):
            whole = with_files(batch) if table.model is Chunk else batch
            whole = pa.RecordBatch.from_arrays([whole.column(n) for n in schema.names], schema=schema)
            parquet.write_batch(whole)
            said = rows.as_csv(whole)
            summed.update(said)
            text.write(rows.as_csv(rows.words_guarded(whole)))
            count += whole.num_rows
            for name in wrote:
                who |= {str(v) for v in whole.column(name).to_pylist() if v is not None}
    return {"name": table.file, "rows": count, "sha256": summed.hexdigest()}


def written_schema(table: Table) -> pa.Schema:
    """As the table stands in an archive: samples are files beside it."""
    if table.model is not Chunk:
        return table.schema
    return pa.schema([pa.field(f.name, pa.string() if f.name == "parquet" else f.type) for f in table.schema])


def with_files(batch: pa.RecordBatch) -> pa.RecordBatch:
    """Chunks with the name of the file that holds their samples."""
    of = (batch.column(n).to_pylist() for n in ("recording", "unit", "first_sample"))
    files = [chunk_file(*row) for row in zip(*of, strict=True)]
    return batch.append_column("parquet", pa.array(files, pa.string()))


def chunk_file(recording: int, unit: str, first_sample: int) -> str:
    return f"samples/{recording:06d}/{safe_name(unit)}-{first_sample}.parquet"


def _samples(gym: Gym, numbers: Numbers, archive: zipfile.ZipFile, tell: Tell) -> None:
    own = Chunk.objects.filter(tables.handed_out("recording__"), recording__gym=gym).order_by("pk")
    of_all = max(len(numbers.keys["capture.Chunk"]), 1)
    fields = own.values_list("recording_id", "unit", "first_sample", "parquet")
    for i, (recording, unit, first, content) in enumerate(fields.iterator(chunk_size=20)):
        if i % 20 == 0:
            tell(TABLES + (SAMPLES - TABLES) * i / of_all, f"Samples: {i} of {of_all} pieces")
        name = chunk_file(numbers.number("capture.Recording", recording), unit, first)
        archive.writestr(name, bytes(content), zipfile.ZIP_STORED)


def _also(gym: Gym, numbers: Numbers, archive: zipfile.ZipFile) -> None:
    """What other programs read as it is: planned weeks, and what trials found."""
    weeks = Week.objects.filter(student__gym=gym).select_related("student__gym").prefetch_related("parts")
    for week in weeks.iterator(chunk_size=200):
        archive.writestr(f"calendars/{safe_name(week.student.label)}-{week.monday}.ics", calendar.out(week))
    claims = Claim.objects.filter(trial__gym=gym).order_by("trial", "student", "asked")
    said = [
        {
            "trial": numbers.number("trials.Trial", c.trial_id),
            "student": None if c.student_id is None else numbers.number("people.Student", c.student_id),
            "asked": c.asked,
            "found": c.document,
        }
        for c in claims
    ]
    archive.writestr("claims.json", _json(said))


def _motion_bids(gym: Gym, archive: zipfile.ZipFile, root: Path, tell: Tell) -> None:
    """Every recording whose samples are kept. Two of one name are told apart by their run."""
    own = Recording.objects.filter(tables.handed_out(), gym=gym, chunks__isnull=False).distinct().order_by("pk")
    found = list(own.select_related("student", "analysis", "bag_version"))
    taken: set[tuple[str, str, str, str]] = set()

    def each() -> Iterator[Any]:
        for i, row in enumerate(found):
            tell(SAMPLES + (1.0 - SAMPLES) * i / len(found), f"Motion-BIDS: {i} of {len(found)} recordings")
            recording = raw(row)
            label = (recording.participant.label, recording.session, recording.task, recording.run)
            if label in taken:
                recording = replace(recording, run=f"{recording.run}{len(taken):05d}")
            taken.add(label)
            yield recording

    write_motion_bids(root, each(), f"{gym.name}: recordings")
    for file in sorted(p for p in root.rglob("*") if p.is_file()):
        archive.write(file, f"recordings/{file.relative_to(root)}")
        file.unlink()
