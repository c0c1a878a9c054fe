"""Bringing an archive into an empty gym: whole, or nothing of it."""

import hashlib
import io
import json
import zipfile
import zoneinfo
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq
from django.contrib.auth.models import User
from django.db import DataError, IntegrityError, connection, transaction

from agile_strike.archive import rows, tables
from agile_strike.archive.out import DICTIONARY, FORMAT, MANIFEST, Tell, written_schema
from agile_strike.archive.rows import Numbers
from agile_strike.archive.tables import Table
from agile_strike.capture.models import Chunk, Recording
from agile_strike.core.errors import BadFile, BadInput
from agile_strike.gym.models import Gym, Member
from agile_strike.kit.models import Bag
from agile_strike.live.models import new_key
from agile_strike.people.models import Student
from agile_strike.reports.models import new_token
from agile_strike.trials.models import Trial

NOT_EMPTY = "This gym holds {what} already. An archive goes into an empty gym: begin with one of its own."
AGAIN = "Bring the file as it was written."
LARGEST_ENTRY_BYTES = 2_000_000_000
LARGEST_LIST_BYTES = 50_000_000  # of what an archive says is in it
MOST_PACKED = 300  # times: nothing that was measured or written packs so well
LARGEST_WORDS, LARGEST_BYTES = 2_000_000, 64_000_000  # of one value in a table
MOST_BATCH_BYTES = 256_000_000
READ_ROWS = 5000
MOST_ROWS = 20_000_000  # of a table: a hundred years of a gym
MOST_COACHES = 500
#: what an archive leaves out and a row can't be without; links and hubs that knew the old secret no longer get in
ALSO: dict[str, dict[str, Callable[[], Any]]] = {
    "reports.Report": {"token": new_token},
    "live.Station": {"token_hash": lambda: new_key() + new_key()},
}
_HOLDS = ((Student, "students"), (Recording, "recordings"), (Bag, "bags"), (Trial, "trials"))


def bring(gym: Gym, path: Path, tell: Tell, kept: Callable[[str], None] = lambda _: None) -> str:
    """Fill a gym from an archive; in a coach's words what came, which `kept` notes in the same transaction. Trials'
    claims are left to be made anew. Raises BadInput where nothing of it was kept."""
    try:
        with zipfile.ZipFile(path) as archive:
            said = _manifest(archive, path.name)
            with transaction.atomic():
                _all(gym, archive, said, path.name, tell)
                words = _words(said)
                kept(words)
    except (zipfile.BadZipFile, pa.ArrowInvalid, EOFError, NotImplementedError, zipfile.zlib.error) as error:  # type: ignore[attr-defined]
        raise BadFile(path.name, "the file is damaged", AGAIN) from error
    except (LookupError, ValueError, IntegrityError, DataError) as error:
        what = str(error).split("\n")[0][:160]
        raise BadFile(path.name, f"a row in it can't stand ({what})", AGAIN) from error
    return words


def _words(said: dict[str, Any]) -> str:
    rows = {t["name"]: t["rows"] for t in said["tables"]}
    students, recordings, strikes = (rows[n] for n in ("people-student", "capture-recording", "review-strike"))
    return f"{students} students, {recordings} recordings, {strikes} strikes."


def _manifest(archive: zipfile.ZipFile, name: str) -> dict[str, Any]:
    if MANIFEST not in archive.namelist() or DICTIONARY not in archive.namelist():
        raise BadFile(name, "this is no archive of a gym", "Choose the zip that was written under Account.")
    said = json.loads(_read(archive, MANIFEST, LARGEST_LIST_BYTES))
    if not isinstance(said, dict) or said.get("format") != FORMAT:
        raise BadFile(name, "it was written by another version of this application", "Bring this server up to date.")
    return said


def _read(archive: zipfile.ZipFile, name: str, most: int = LARGEST_ENTRY_BYTES) -> bytes:
    info = archive.getinfo(name)
    if info.file_size > most or info.file_size > MOST_PACKED * info.compress_size + 1_000_000:
        raise zipfile.BadZipFile(name)
    return archive.read(info)


def _all(gym: Gym, archive: zipfile.ZipFile, said: dict[str, Any], name: str, tell: Tell) -> None:
    """Everything, within one transaction."""
    gym = Gym.objects.select_for_update().get(pk=gym.pk)
    empty(gym)
    all_tables = tables.tables()
    told = {t["name"]: t for t in said["tables"]}
    if set(told) != {t.file for t in all_tables}:
        raise BadFile(name, "it was written by another version of this application", "Bring this server up to date.")
    gym.name, gym.time_zone = str(said["gym"]["name"])[:120], str(said["gym"]["time_zone"])
    if gym.time_zone not in zoneinfo.available_timezones():
        raise ValueError(f"{gym.time_zone[:40]} is no time zone")
    gym.save(update_fields=["name", "time_zone"])
    who = _who(gym, said["coaches"])
    numbers = _fresh(all_tables, {t: _rows_in(archive, t, told[t.file]) for t in all_tables})
    for i, table in enumerate(all_tables):
        tell(0.95 * i / len(all_tables), f"Tables: {table.file}")
        content = io.BytesIO(_read(archive, f"tables/{table.file}.parquet"))
        batches = _rows_of(table, _checked(table, content, told[table.file]), archive)
        rows.into(table, batches, numbers, gym, who, ALSO.get(table.label, {}))
    with connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")  # what can't stand is said here, and not at the end


def empty(gym: Gym) -> None:
    """Raises BadInput where a gym holds anything that a coach would miss."""
    for model, what in _HOLDS:
        if model._base_manager.filter(gym=gym).exists():
            raise BadInput(NOT_EMPTY.format(what=what))
    for table in reversed(tables.tables()):  # a playbook that was begun, say
        if table.rows(gym).exists():
            raise BadInput(NOT_EMPTY.format(what=f"something of its own ({table.file})"))


def _who(gym: Gym, coaches: list[dict[str, str]]) -> dict[str, int]:
    """Accounts by name. Who is no member here gets one that can't sign in, so that what they wrote keeps its writer."""
    out = {}
    here = dict(Member.objects.filter(gym=gym).values_list("user__username", "user_id"))
    if len(coaches) > MOST_COACHES:
        raise ValueError("no gym has so many coaches")
    for one in coaches:
        username = str(one["username"])[:140]
        if username not in here:
            free = username
            if User.objects.filter(username=free).exists():
                free = f"{username} of gym {gym.pk}"
            user = User.objects.create(username=free, is_active=False, password="!")
            role = one["role"] if one["role"] in Member.Role.values else Member.Role.COACH
            Member.objects.create(user=user, gym=gym, name=str(one["name"])[:120], role=role)
            here[username] = user.pk
        out[str(one["username"])] = here[username]
    return out


def _rows_in(archive: zipfile.ZipFile, table: Table, told: dict[str, Any]) -> int:
    """How many rows a table's file says it has; no keys are drawn for more."""
    with archive.open(f"tables/{table.file}.parquet") as file:
        rows_there = int(pq.read_metadata(file).num_rows)
    if rows_there != told["rows"] or rows_there > MOST_ROWS:
        raise BadFile(f"tables/{table.file}.parquet", "its rows are not those that were written", AGAIN)
    return rows_there


def _fresh(all_tables: tuple[Table, ...], counts: dict[Table, int]) -> Numbers:
    """Keys that no row has, as many as each table needs, in order."""
    out = Numbers()
    for table in all_tables:
        if not table.numbered:
            continue
        name, pk = table.model._meta.db_table, table.pk.column
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT nextval(pg_get_serial_sequence(%s, %s)) FROM generate_series(1, %s)",
                [f'"{name}"', pk, counts[table]],
            )
            out.keys[table.label] = np.sort(np.array([k for (k,) in cursor.fetchall()], np.int64))
    return out


def _checked(table: Table, content: io.BytesIO, told: dict[str, Any]) -> pq.ParquetFile:
    """A table as it was written. Raises BadFile where it is another one, before any of it is kept."""
    schema, summed, count = written_schema(table), hashlib.sha256(), 0
    # values that repeat are kept once in a file: a few bytes could be read as gigabytes
    packed = [f.name for f in schema if pa.types.is_string(f.type) or pa.types.is_binary(f.type)]
    file = pq.ParquetFile(content, read_dictionary=packed)
    types = pq.read_schema(content)
    if types.names != schema.names or types.types != schema.types:
        raise BadFile(f"tables/{table.file}.parquet", "its columns are others than this version's", AGAIN)
    for batch in _unpacked(file, schema, READ_ROWS):
        summed.update(rows.as_csv(batch))
        count += batch.num_rows
    if summed.hexdigest() != told["sha256"] or count != told["rows"]:
        raise BadFile(f"tables/{table.file}.parquet", "its rows are not those that were written", AGAIN)
    return file


def _rows_of(table: Table, file: pq.ParquetFile, archive: zipfile.ZipFile) -> Iterator[pa.RecordBatch]:
    for batch in _unpacked(file, written_schema(table), READ_ROWS if not table.binary else 20):
        yield _with_samples(batch, archive) if table.model is Chunk else batch


def _unpacked(file: pq.ParquetFile, schema: pa.Schema, most: int) -> Iterator[pa.RecordBatch]:
    """Rows in pieces, each value as it is meant. Raises ValueError for what would not fit into a machine."""
    for batch in file.iter_batches(most):
        size, columns = 0, []
        for field, values in zip(schema, batch.columns, strict=True):
            if pa.types.is_dictionary(values.type):
                lengths = pc.binary_length(values.dictionary)
                longest = (pc.max(lengths).as_py() if len(lengths) else 0) or 0
                if longest > (LARGEST_BYTES if pa.types.is_binary(field.type) else LARGEST_WORDS):
                    raise ValueError(f"{field.name} holds {longest} bytes in one row")
                size += pc.sum(pc.take(lengths, values.indices)).as_py() or 0
                if size > MOST_BATCH_BYTES:
                    raise ValueError(f"{field.name} holds {size} bytes in {len(batch)} rows")
                values = values.cast(field.type)
            columns.append(values)
        yield pa.RecordBatch.from_arrays(columns, schema=schema)


def _with_samples(batch: pa.RecordBatch, archive: zipfile.ZipFile) -> pa.RecordBatch:
    contents = []
    for name, told in zip(batch.column("parquet").to_pylist(), batch.column("sha256").to_pylist(), strict=True):
        contents.append(_read(archive, name))
        if hashlib.sha256(contents[-1]).hexdigest() != told:
            raise BadFile(name, "its samples are not those that were written", AGAIN)
    at = batch.schema.get_field_index("parquet")
    return batch.set_column(at, pa.field("parquet", pa.binary()), pa.array(contents, pa.binary()))
