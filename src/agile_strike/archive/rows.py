"""Rows between the database and an archive: numbers instead of keys, names instead of accounts, and back.

Read and written by COPY, whose text is exact in both directions; a table's sum is taken over that text.
"""

import io
import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv
from django.contrib.postgres.fields import ArrayField
from django.db import connection, models
from numpy.typing import NDArray

from agile_strike.archive.json_types import check_json
from agile_strike.archive.tables import BY_KIND, WITHIN, Column, Table
from agile_strike.formats.tabular import cell
from agile_strike.gym.models import Gym

Keys = NDArray[np.int64]
BLOCK_BYTES = 8 << 20
HEX = "\\x"


@dataclass(slots=True)
class Numbers:
    """Keys of the database's rows, in order: the number of a row is its place, from 1."""

    keys: dict[str, Keys] = field(default_factory=dict)  #: by table

    def number(self, table: str, key: int) -> int:
        at = int(np.searchsorted(self.keys[table], key))
        if at >= len(self.keys[table]) or self.keys[table][at] != key:
            raise LookupError(f"{table} {key}")
        return at + 1

    def key(self, table: str, number: int) -> int:
        if not 1 <= number <= len(self.keys[table]):
            raise LookupError(f"{table} {number}")
        return int(self.keys[table][number - 1])

    def numbers(self, table: str, keys: pa.Array) -> pa.Array:
        known = self.keys[table]
        some = keys.drop_null().to_numpy(zero_copy_only=False)
        at = np.searchsorted(known, some)
        if len(some) and (at.max() >= len(known) or (known[at] != some).any()):
            raise LookupError(table)
        return _filled(keys, at + 1)

    def all_keys(self, table: str, numbers: pa.Array) -> pa.Array:
        some = numbers.drop_null().to_numpy(zero_copy_only=False)
        if len(some) and (some.min() < 1 or some.max() > len(self.keys[table])):
            raise LookupError(table)
        return _filled(numbers, self.keys[table][some - 1])


def _filled(like: pa.Array, values: Keys) -> pa.Array:
    """`values` where `like` has any, nothing elsewhere."""
    out = np.zeros(len(like), np.int64)
    there = np.asarray(like.is_valid())
    out[there] = values
    return pa.array(out, pa.int64(), mask=~there)


# --- out of the database


def selected(table: Table, gym: Gym, without: tuple[str, ...] = ()) -> str:
    """The query of a table's rows, each column in a text that reads back to the same."""
    quoted = connection.ops.quote_name
    whole, params = table.rows(gym).values("pk").query.sql_with_params()
    own = connection.ops.compose_sql(whole, params)  # type: ignore[attr-defined]
    said = ", ".join(f"{_as_text(c)} AS {quoted(c.name)}" for c in table.columns if c.name not in without)
    pk, name = quoted(table.pk.column), quoted(table.model._meta.db_table)
    return f"SELECT {said} FROM {name} WHERE {pk} IN ({own}) ORDER BY {pk}"


def _as_text(c: Column) -> str:
    name = connection.ops.quote_name(c.column)
    if isinstance(c.field, models.DateTimeField):
        return f"(extract(epoch FROM {name}) * 1000000)::bigint"
    if isinstance(c.field, ArrayField):
        return f"array_to_json({name})::text"
    return f"{name}::text" if isinstance(c.field, models.JSONField) else name


def out_of(
    table: Table, gym: Gym, numbers: Numbers, who: dict[int, str], without: tuple[str, ...] = ()
) -> Iterator[pa.RecordBatch]:
    """A table's rows in pieces, as they stand in an archive."""
    columns = [c for c in table.columns if c.name not in without]
    raw = {c.name: _raw_type(c) for c in columns}
    options = pacsv.ConvertOptions(
        column_types=raw, strings_can_be_null=True, null_values=[""], quoted_strings_can_be_null=False,
        true_values=["t"], false_values=["f"],
    )  # fmt: skip
    for text in _copied(selected(table, gym, without)):
        parse = pacsv.ParseOptions(newlines_in_values=True)
        read = pacsv.read_csv(io.BytesIO(text), convert_options=options, parse_options=parse)
        for batch in read.to_batches():
            if batch.num_rows:
                yield _said(table, columns, batch, numbers, who)


def _copied(query: str) -> Iterator[bytes]:
    """COPY's text in blocks of whole rows, each under its header. PostgreSQL sends a row at a time."""
    with _copying(f"COPY ({query}) TO STDOUT (FORMAT csv, HEADER)") as copy:
        header, block, size = None, [], 0
        for row in copy:
            if header is None:
                header = bytes(row)
                continue
            block.append(bytes(row))
            size += len(row)
            if size >= BLOCK_BYTES:
                yield header + b"".join(block)
                block, size = [], 0
        if block and header is not None:
            yield header + b"".join(block)


@contextmanager
def _copying(query: str) -> Iterator[Any]:
    with connection.wrap_database_errors, connection.cursor() as cursor, cursor.copy(query) as copy:
        yield copy


def _raw_type(c: Column) -> pa.DataType:
    if c.who or pa.types.is_timestamp(c.type):
        return pa.int64()
    return pa.string() if pa.types.is_binary(c.type) else c.type


def _said(
    table: Table, columns: list[Column], batch: pa.RecordBatch, numbers: Numbers, who: dict[int, str]
) -> pa.RecordBatch:
    out = {}
    for c in columns:
        values = batch.column(c.name)
        if c.field.primary_key or c.refers:
            values = numbers.numbers(c.refers or table.label, values)
        elif c.who:
            values = pa.array([None if v is None else who.get(v) for v in values.to_pylist()], pa.string())
        elif pa.types.is_timestamp(c.type):
            values = values.cast(c.type)
        elif pa.types.is_binary(c.type):
            values = pa.array([None if v is None else bytes.fromhex(v[2:]) for v in values.to_pylist()], pa.binary())
        elif (table.label, c.name) in WITHIN:
            values = _within(table.label, c.name, values, numbers.number)
        elif (table.label, c.name) in BY_KIND:
            kinds, of = BY_KIND[table.label, c.name]
            values = _by_kind(values, batch.column(kinds), of, numbers.number)
        out[c.name] = values
    return pa.RecordBatch.from_pydict(out)


def _within(label: str, name: str, values: pa.Array, other: Callable[[str, int], int]) -> pa.Array:
    def renumbered(text: str) -> str:
        try:
            return json.dumps(WITHIN[label, name](json.loads(text), other), ensure_ascii=False)
        except LookupError:
            return text  # of what has gone meanwhile

    return pa.array([None if v is None else renumbered(v) for v in values.to_pylist()], values.type)


def _by_kind(values: pa.Array, kinds: pa.Array, of: dict[str, str], other: Callable[[str, int], int]) -> pa.Array:
    """What was referred to and has gone is 0 from then on, or nothing."""
    text = pa.types.is_string(values.type)

    def renumbered(value: Any, kind: str) -> Any:
        if kind not in of or (text and not str(value).isdecimal()):
            return value
        try:
            found = other(of[kind], int(value))
        except LookupError:
            found = 0
        return str(found) if text else found

    pairs = zip(values.to_pylist(), kinds.to_pylist(), strict=True)
    return pa.array([renumbered(v, k) for v, k in pairs], values.type)


def words_guarded(batch: pa.RecordBatch) -> pa.RecordBatch:
    """Rows whose words no spreadsheet runs as a formula: of tables that people open, and that never come in again."""
    columns = [
        pa.array([None if v is None else cell(v) for v in c.to_pylist()], c.type) if pa.types.is_string(c.type) else c
        for c in batch.columns
    ]
    return pa.RecordBatch.from_arrays(columns, schema=batch.schema)


def as_csv(batch: pa.RecordBatch) -> bytes:
    """The text of some rows, without a header: what sums are taken over. Absent is empty, no words are \"\"."""
    plain = []
    for values in batch.columns:
        if pa.types.is_binary(values.type):
            values = pa.array([None if v is None else HEX + v.hex() for v in values.to_pylist()], pa.string())
        plain.append(values)
    out = io.BytesIO()
    shown = pa.RecordBatch.from_arrays(plain, names=batch.schema.names)
    pacsv.write_csv(shown, out, pacsv.WriteOptions(include_header=False))
    return out.getvalue()


# --- into the database


def into(
    table: Table, batches: Iterator[pa.RecordBatch], numbers: Numbers, gym: Gym, who: dict[str, int],
    also: dict[str, Callable[[], Any]],
) -> None:  # fmt: skip
    """Put rows of an archive into a table, as this gym's. `also` says what columns hold that an archive leaves out.

    Raises LookupError where a row refers to one that is not in the archive, ValueError for a value that can't stand.
    """
    columns, more = list(table.columns), {str(f.column): also.get(f.name, f.get_default) for f in _missing(table)}
    own = next((str(f.column) for f in table.model._meta.local_fields if f.related_model is Gym), None)
    named = [c.column for c in columns] + list(more) + ([own] if own else [])
    quoted = ", ".join(connection.ops.quote_name(n) for n in named)
    name = connection.ops.quote_name(table.model._meta.db_table)
    with _copying(f"COPY {name} ({quoted}) FROM STDIN (FORMAT csv)") as copy:
        for batch in batches:
            kept = [_kept(table, c, batch, numbers, who) for c in columns]
            kept += [pa.array([make() for _ in range(batch.num_rows)]) for make in more.values()]
            kept += [pa.array(np.full(batch.num_rows, gym.pk))] if own else []
            copy.write(as_csv(pa.RecordBatch.from_arrays(kept, names=named)))


def _missing(table: Table) -> list["models.Field[Any, Any]"]:
    said = {c.name for c in table.columns}
    return [f for f in table.model._meta.local_fields if f.name not in said and f.related_model is not Gym]


def _kept(table: Table, c: Column, batch: pa.RecordBatch, numbers: Numbers, who: dict[str, int]) -> pa.Array:
    values = batch.column(c.name)
    if c.field.primary_key or c.refers:
        return numbers.all_keys(c.refers or table.label, values)
    if c.who:
        return pa.array([None if v is None else who[v] for v in values.to_pylist()], pa.int64())
    if isinstance(c.field, models.JSONField | ArrayField):
        for text in values.unique().to_pylist():
            if text is not None:
                check_json(table.label, c, text)
    if isinstance(c.field, ArrayField):
        return pa.array([None if v is None else _array(json.loads(v)) for v in values.to_pylist()], pa.string())
    if (table.label, c.name) in WITHIN:
        return _within(table.label, c.name, values, numbers.key)
    if (table.label, c.name) in BY_KIND:
        kinds, of = BY_KIND[table.label, c.name]
        return _by_kind(values, batch.column(kinds), of, numbers.key)
    if c.field.choices:
        known = [str(value) for value, _ in c.field.flatchoices] + ([""] if c.field.blank else [])
        strange = pc.filter(values, pc.invert(pc.is_in(values, pa.array([*known, None], pa.string()))))
        if len(strange):
            raise ValueError(f"{c.name} is “{str(strange[0])[:40]}”")
    return values


def _array(values: list[Any]) -> str:
    """A list as PostgreSQL reads it."""

    def one(value: Any) -> str:
        if not isinstance(value, str):
            return json.dumps(value)
        escaped = value.replace("\\", "\\\\").replace('"', '\\"')
        return f'"{escaped}"'

    return "{" + ",".join(one(v) for v in values) + "}"


def keys_of(tables: tuple[Table, ...], gym: Gym) -> Numbers:
    """All keys of a gym's rows, in order."""
    out = Numbers()
    for table in tables:
        own = table.rows(gym).order_by("pk").values_list("pk", flat=True)
        if table.numbered:
            out.keys[table.label] = np.fromiter(own.iterator(), np.int64)
    return out
