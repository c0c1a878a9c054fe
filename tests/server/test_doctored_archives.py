"""No archive with something else in it comes in: every JSON column has a type, and nothing unpacks without bound."""

import io
import json
import zipfile
from functools import partial
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from archive_makers import damaged, manifest, quiet, with_value
from django.contrib.postgres.fields import ArrayField
from django.db.models import JSONField

from agile_strike.archive.bring import LARGEST_LIST_BYTES, bring
from agile_strike.archive.json_types import check_json
from agile_strike.archive.out import write
from agile_strike.archive.tables import Column, Table, tables
from agile_strike.core.errors import BadInput
from agile_strike.gym.models import Gym
from agile_strike.logbook.models import Note
from agile_strike.people.models import Student

JSON_COLUMNS = [
    (table, column)
    for table in tables()
    for column in table.columns
    if isinstance(column.field, JSONField | ArrayField)
]


@pytest.mark.parametrize(("table", "column"), JSON_COLUMNS, ids=lambda x: getattr(x, "label", None) or x.name)
def test_every_json_column_has_a_type_and_takes_nothing_else(table: Table, column: Column) -> None:
    for wrong in ('"x"', "5", "true", '[{"a": [NaN]}]', '{"a": {"b": {"c": 1}}}', "[[[1]]]", "{"):
        with pytest.raises(ValueError, match=column.name):
            check_json(table.label, column, wrong)


@pytest.mark.django_db(transaction=True)
def test_no_doctored_column_of_words_comes_in(full: Gym, tmp_path: Path) -> None:
    """With right sums: every JSON column in turn, ids of what is not there, values as large as a machine."""
    path = tmp_path / "all.zip"
    write(full, path, False, quiet)
    rows_of = {t["name"]: t["rows"] for t in manifest(path)["tables"]}
    new = Gym.objects.create(name="New")
    tried = 0
    for table in tables():
        if not rows_of[table.file]:
            continue
        spoiled: dict[str, Any] = {c.name: '"x"' for t, c in JSON_COLUMNS if t.label == table.label}
        spoiled |= {c.name: 10**9 for c in [c for c in table.columns if c.refers and not c.field.null][:1]}
        if table.label == "capture.Chunk":  # a file beside the archive, or another one in it
            spoiled |= {"parquet": "../../etc/passwd"}
        for name, value in spoiled.items():
            tried += 1
            change = partial(with_value, column=name, value=value)
            with pytest.raises(BadInput, match="can't stand"):
                bring(new, damaged(path, f"tables/{table.file}.p", change, True), quiet)
    assert tried > 30
    assert not Student.objects.filter(gym=new).exists()


@pytest.mark.django_db(transaction=True)
def test_a_file_that_unpacks_into_more_than_a_machine_holds_is_refused(full: Gym, tmp_path: Path) -> None:
    path = tmp_path / "all.zip"
    write(full, path, False, quiet)
    new = Gym.objects.create(name="New")

    def row_bomb(content: bytes) -> bytes:
        table = pq.read_table(io.BytesIO(content))
        many = pa.concat_tables([table.slice(0, 1)] * 4000)
        at = many.schema.get_field_index("text")
        many = many.set_column(at, many.schema.field(at), pa.array(["=" * 100_000] * 4000))
        out = io.BytesIO()
        pq.write_table(many, out)
        return out.getvalue()

    def nothing(content: bytes) -> bytes:
        return bytes(LARGEST_LIST_BYTES + 1)

    with zipfile.ZipFile(path) as whole:
        sample = next(n for n in whole.namelist() if n.startswith("samples/"))
    for part, bomb in (("archive.json", nothing), (sample, lambda b: bytes(30_000_000))):
        with zipfile.ZipFile(tmp_path / "bomb.zip", "w", zipfile.ZIP_DEFLATED) as out, zipfile.ZipFile(path) as old:
            for name in old.namelist():
                out.writestr(name, bomb(old.read(name)) if name.startswith(part) else old.read(name))
        with pytest.raises(BadInput, match="damaged"):
            bring(new, tmp_path / "bomb.zip", quiet)
    note = damaged(path, "tables/logbook-note.p", row_bomb, False).rename(tmp_path / "note.zip")
    with zipfile.ZipFile(note) as held:
        said = json.loads(held.read("archive.json"))
    next(t for t in said["tables"] if t["name"] == "logbook-note")["rows"] = 4000
    with pytest.raises(BadInput, match="text holds"):
        bring(new, damaged(note, "archive.json", lambda _: json.dumps(said).encode(), False), quiet)
    assert not Note.objects.filter(gym=new).exists()
