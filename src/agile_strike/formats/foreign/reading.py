"""Any file that may hold tables: text, xlsx, Parquet, JSON, JSON lines, C3D; packed by gzip, or several in a zip."""

import datetime as dt
import gzip
import tempfile
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa

from agile_strike.core.errors import BadFile, plain
from agile_strike.formats import c3d
from agile_strike.formats.foreign import text
from agile_strike.formats.foreign.json_tables import json_sheets
from agile_strike.formats.foreign.layout import layout_of
from agile_strike.formats.foreign.sheet import Column, Sheet

LARGEST_BYTES = 2_000_000_000  # of what is packed in a file
MOST_PACKED = 300  # times
MOST_MEMBERS = 60
SKIPPED = ("__macosx", ".ds_store", "thumbs.db")
NOT_TABLES = (".pdf", ".png", ".jpg", ".jpeg", ".mp4", ".mov", ".docx", ".html", ".htm")


def sheets(path: Path, shown: str) -> list[Sheet]:
    """Its tables. Raises BadFile with file, line, what and remedy."""
    if not path.is_file():
        raise BadFile(shown, "there is no such file", "Look at its name and folder.")
    if path.stat().st_size == 0:
        raise BadFile(shown, "the file is empty", "Choose the table that your logger wrote.")
    return list(_sheets(path, shown, path.name, 0))


def _sheets(path: Path, shown: str, name: str, deep: int) -> Iterator[Sheet]:
    if deep > 2:
        raise BadFile(shown, "archives are packed in archives", "Unpack it, and bring the tables.")
    with path.open("rb") as file:
        head = file.read(4096)
    if head.startswith(b"\x1f\x8b"):
        yield from _gzip(path, shown, name, deep)
    elif head.startswith((b"PK\x03\x04", b"PK\x05\x06")):
        yield from _zip(path, shown, deep)
    elif head.startswith(b"\xd0\xcf\x11\xe0"):
        yield from _workbook(path, shown)
    elif head.startswith(b"PAR1"):
        yield _parquet(path, shown)
    elif len(head) > 1 and head[1] == 0x50 and 0 < head[0] < 32 and b"\n" not in head[:2]:
        yield _c3d(path, shown)
    elif head.startswith((b"BZh", b"\xfd7zXZ", b"7z\xbc\xaf", b"Rar!")):
        raise BadFile(
            shown,
            "this archive is of a kind that is not read",
            "Pack the tables as zip or gzip, or bring them unpacked.",
        )
    elif head.lstrip(b"\xef\xbb\xbf \t\r\n")[:1] in (b"{", b"["):
        yield from json_sheets(path, shown)
    else:
        yield text.read(path, shown)


def _gzip(path: Path, shown: str, name: str, deep: int) -> Iterator[Sheet]:
    with tempfile.TemporaryDirectory() as folder:
        inner = Path(folder) / (name.removesuffix(".gz") or "table")
        try:
            with gzip.open(path) as source, inner.open("wb") as out:
                _copied(source, out, shown, path.stat().st_size)
        except (OSError, EOFError, gzip.BadGzipFile) as error:
            raise BadFile(shown, "the packed file is cut or damaged", "Pack it again.") from error
        yield from _sheets(inner, shown, inner.name, deep + 1)


def _copied(source: Any, out: Any, shown: str, packed: int) -> None:
    most = min(LARGEST_BYTES, max(MOST_PACKED * packed, 10_000_000))
    done = 0
    while part := source.read(1 << 20):
        done += len(part)
        if done > most:
            raise BadFile(
                shown, "it unpacks to more than any evening holds", "Bring the tables unpacked, or fewer at once."
            )
        out.write(part)


def _zip(path: Path, shown: str, deep: int) -> Iterator[Sheet]:
    try:
        archive = zipfile.ZipFile(path)
    except zipfile.BadZipFile as error:
        raise BadFile(shown, "the archive is cut or damaged", "Pack it again.") from error
    with archive, tempfile.TemporaryDirectory() as folder:
        names = [i.filename for i in archive.infolist()]
        if any(n.startswith("xl/") for n in names):
            yield from _workbook(path, shown)
            return
        members = [i for i in archive.infolist() if not i.is_dir() and not _skipped(i.filename)]
        if not members:
            raise BadFile(shown, "there is no table in the archive", "Pack the tables that your logger wrote.")
        if len(members) > MOST_MEMBERS:
            raise BadFile(
                shown, f"it holds {len(members)} files; the most is {MOST_MEMBERS}", "Bring the files of one evening."
            )
        for k, member in enumerate(members):
            inner = Path(folder) / f"{k}{Path(member.filename).suffix[:12]}"
            try:
                with archive.open(member) as source, inner.open("wb") as out:
                    _copied(source, out, f"{shown}/{member.filename}", max(member.compress_size, 1))
            except (zipfile.BadZipFile, EOFError, RuntimeError, NotImplementedError, OSError, ValueError) as error:
                raise BadFile(
                    f"{shown}/{plain(member.filename)[:200]}",
                    "it is cut, damaged or locked",
                    "Pack it again, without a password.",
                ) from error
            if inner.stat().st_size:
                yield from _sheets(
                    inner, f"{shown}/{plain(member.filename)[:200]}", Path(member.filename).name, deep + 1
                )
            inner.unlink()


def _skipped(name: str) -> bool:
    low = name.lower()
    return (
        any(s in low for s in SKIPPED) or low.endswith(NOT_TABLES) or Path(low).name.startswith(("readme", "license"))
    )


# --- tables of cells


def _of_cells(rows: list[list[Any]], shown: str, lines: list[int]) -> Sheet | None:
    """A table of typed cells: its names are looked for as a text's are."""
    width = max((len(r) for r in rows), default=0)
    if width < 2:
        return None
    written = [["" if c is None else _cell(c) for c in [*r, *[None] * (width - len(r))]] for r in rows]
    head = ["\t".join(c.replace("\t", " ").replace("\n", " ") for c in r) for r in written[: text.HEAD_LINES]]
    try:
        layout = layout_of(head, shown)
    except BadFile:
        return None
    if layout.separator != "\t":
        return None
    body, own = written[layout.first :], lines[layout.first :]
    columns = []
    for k in range(min(width, len(layout.names))):
        maker = text.Maker(layout.decimal)
        maker.take(pa.array([r[k] for r in body], pa.string()))
        made = maker.column()
        made.name, made.unit, made.device = plain(layout.names[k]), plain(layout.units[k]), plain(layout.devices[k])
        columns.append(made)
    sheet = Sheet(shown, columns, np.asarray(own, dtype=np.int64), [plain(line)[:1000] for line in layout.above])
    return text.without_words_in_the_middle(sheet, layout)


def _cell(value: Any) -> str:
    if isinstance(value, bool):
        return str(int(value))
    if isinstance(value, float):
        return repr(value) if value != int(value) or abs(value) > 1e15 else f"{value:.0f}"
    if isinstance(value, (dt.datetime, dt.date, dt.time)):
        return value.isoformat()
    if isinstance(value, dt.timedelta):
        return repr(value.total_seconds())
    return str(value).strip()


def _workbook(path: Path, shown: str) -> Iterator[Sheet]:
    import python_calamine

    try:
        book = python_calamine.CalamineWorkbook.from_path(str(path))
        found = [(name, book.get_sheet_by_name(name).to_python(skip_empty_area=False)) for name in book.sheet_names]
    except Exception as error:  # the library raises several kinds of its own
        raise BadFile(
            shown, "the workbook can't be read", "Save it again as xlsx or CSV, without a password."
        ) from error
    made = [
        (name, sheet)
        for name, rows in found
        if (
            sheet := _of_cells(
                rows, shown if len(found) == 1 else f"{shown}/{plain(name)[:80]}", list(range(1, len(rows) + 1))
            )
        )
        is not None
    ]
    if not made:
        raise BadFile(
            shown, "no sheet of the workbook holds a table of figures", "Bring a sheet with one row a sample."
        )
    if len(made) == 1:
        made[0][1].file = shown
    yield from (sheet for _, sheet in made)


def _parquet(path: Path, shown: str) -> Sheet:
    import pyarrow.parquet as pq

    try:
        table = pq.read_table(path)
    except (pa.ArrowException, OSError, ValueError) as error:
        raise BadFile(shown, "the Parquet file is cut or damaged", "Write it again.") from error
    try:
        columns = [
            c for name, column in zip(table.column_names, table.columns, strict=True) for c in _of_arrow(name, column)
        ]
    except pa.ArrowException as error:
        raise BadFile(
            shown, "it has columns of a kind that is not read", "Write figures, words and times only."
        ) from error
    if table.num_rows < 4 or sum(c.numbers is not None for c in columns) < 2:
        raise BadFile(shown, "no table of figures was found in it", "Bring a table with one row a sample.")
    said = [
        f"{k.decode('utf-8', 'replace')}: {v.decode('utf-8', 'replace')[:400]}"
        for k, v in (table.schema.metadata or {}).items()
        if k not in (b"pandas", b"ARROW:schema")
    ]
    return Sheet(shown, columns, np.arange(1, table.num_rows + 1), said)


def _of_arrow(name: str, column: Any) -> list[Column]:
    import pyarrow.compute as pc

    kind, is_ = column.type, pa.types
    if is_.is_struct(kind):
        fields = [(kind.field(k).name, pc.struct_field(column, [k])) for k in range(kind.num_fields)]
        return [c for part, values in fields for c in _of_arrow(f"{name}.{part}", values)]
    if is_.is_timestamp(kind):
        whole = column.cast(pa.timestamp("us"), safe=False).cast(pa.int64())
        return [Column(name, unit="us since 1970", numbers=_floats(whole))]
    if is_.is_integer(kind) or is_.is_floating(kind) or is_.is_boolean(kind) or is_.is_decimal(kind):
        return [Column(name, numbers=_floats(column))]
    return [Column(name, words=[str(v) if v is not None else "" for v in column.to_pylist()])]


def _floats(column: Any) -> np.ndarray[Any, np.dtype[np.float64]]:
    return np.array(column.cast(pa.float64(), safe=False).to_numpy(), dtype=np.float64)


def _c3d(path: Path, shown: str) -> Sheet:
    table = c3d.read(path, shown)
    columns = [Column(name, numbers=values) for name, values in table.numbers.items()]
    return Sheet(shown, columns, np.arange(1, table.rows + 1), [table.preamble])
