"""Any file that may hold tables: text, xlsx, Parquet, JSON, JSON lines, C3D; packed by gzip, or several in a zip."""

import datetime as dt
import gzip
import json
import tempfile
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from agile_strike.core.errors import BadFile, plain
from agile_strike.formats import c3d
from agile_strike.formats.foreign import text
from agile_strike.formats.foreign.figures import is_figure
from agile_strike.formats.foreign.layout import layout_of
from agile_strike.formats.foreign.sheet import Column, Sheet

LARGEST_BYTES = 2_000_000_000  # of what is packed in a file
LARGEST_JSON = 300_000_000
MOST_PACKED = 300  # times
MOST_MEMBERS = 60
SKIPPED = ("__macosx", ".ds_store", "thumbs.db")
NOT_TABLES = (".pdf", ".png", ".jpg", ".jpeg", ".mp4", ".mov", ".docx", ".html", ".htm")
DEEPEST = 4


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
    elif head.startswith(b"PK\x03\x04") or head.startswith(b"PK\x05\x06"):
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
        yield from _json(path, shown)
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
        maker = text._Maker(layout.decimal)
        maker.take(text.pa.array([r[k] for r in body], text.pa.string()))
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
    import pyarrow as pa
    import pyarrow.compute as pc
    import pyarrow.parquet as pq

    try:
        table = pq.read_table(path)
    except (pa.ArrowException, OSError, ValueError) as error:
        raise BadFile(shown, "the Parquet file is cut or damaged", "Write it again.") from error
    columns: list[Column] = []
    for name, column in zip(table.column_names, table.columns, strict=True):
        kind = column.type
        if pa.types.is_struct(kind):
            columns += [
                Column(f"{name}.{kind.field(k).name}", numbers=_floats(pc.struct_field(column, [k])))
                for k in range(kind.num_fields)
            ]
        elif pa.types.is_timestamp(kind):
            whole = column.cast(pa.timestamp("us")).cast(pa.int64())
            columns.append(Column(name, unit="us since 1970", numbers=_floats(whole)))
        elif (
            pa.types.is_integer(kind)
            or pa.types.is_floating(kind)
            or pa.types.is_boolean(kind)
            or pa.types.is_decimal(kind)
        ):
            columns.append(Column(name, numbers=_floats(column)))
        else:
            columns.append(Column(name, words=[str(v) if v is not None else "" for v in column.to_pylist()]))
    if table.num_rows < 4 or sum(c.numbers is not None for c in columns) < 2:
        raise BadFile(shown, "no table of figures was found in it", "Bring a table with one row a sample.")
    said = [
        f"{k.decode('utf-8', 'replace')}: {v.decode('utf-8', 'replace')[:400]}"
        for k, v in (table.schema.metadata or {}).items()
        if k not in (b"pandas", b"ARROW:schema")
    ]
    return Sheet(shown, columns, np.arange(1, table.num_rows + 1), said)


def _floats(column: Any) -> np.ndarray[Any, np.dtype[np.float64]]:
    import pyarrow as pa

    values = column.cast(pa.float64(), safe=False)
    return np.array(
        values.to_numpy(zero_copy_only=False)
        if hasattr(values, "type") and not isinstance(values, pa.ChunkedArray)
        else values.to_numpy(),
        dtype=np.float64,
    )


def _c3d(path: Path, shown: str) -> Sheet:
    table = c3d.read(path, shown)
    columns = [Column(name, numbers=values) for name, values in table.numbers.items()]
    return Sheet(shown, columns, np.arange(1, table.rows + 1), [table.preamble])


# --- JSON


def _json(path: Path, shown: str) -> Iterator[Sheet]:
    if path.stat().st_size > LARGEST_JSON:
        raise BadFile(shown, "the JSON is larger than 300 MB", "Write it as JSON lines, CSV or Parquet, or in parts.")
    raw = path.read_bytes().decode("utf-8-sig", "replace")
    try:
        content = json.loads(raw)
        lines = None
    except ValueError as error:
        content, lines = _json_lines(raw, shown, error)
    found = list(_tables(content, "", 0))
    if not found:
        raise BadFile(
            shown,
            "no table of figures was found in it",
            "Write a list of objects, one a sample, or an object of lists.",
        )
    above = _said_beside(content)
    several = len(found) > 1
    for name, columns in found:
        rows = len(columns[0].numbers if columns[0].numbers is not None else columns[0].words_or_none)
        own = np.asarray(
            lines[:rows] if lines is not None and len(lines) >= rows else range(1, rows + 1), dtype=np.int64
        )
        for c in columns:
            c.device = c.device or (name if several else "")
        yield Sheet(shown, columns, own, above)


def _json_lines(raw: str, shown: str, error: ValueError) -> tuple[list[Any], list[int]]:
    out, lines = [], []
    for number, line in enumerate(raw.splitlines(), start=1):
        if not line.strip():
            continue
        try:
            out.append(json.loads(line))
            lines.append(number)
        except ValueError:
            if len(out) < 4:
                at = getattr(error, "lineno", number)
                raise BadFile(
                    shown, "this is neither JSON nor JSON lines", "Write it again; it may have been cut.", at
                ) from error
            if number < len(raw.splitlines()):
                raise BadFile(shown, "this line is no JSON", "Mend or take out that line.", number) from None
    return out, lines


def _tables(node: Any, name: str, deep: int) -> Iterator[tuple[str, list[Column]]]:
    """Lists of objects or of rows, and objects of lists, wherever they stand."""
    if deep > DEEPEST:
        return
    if isinstance(node, list):
        if len(node) >= 4 and all(isinstance(r, dict) for r in node[:4]):
            yield name, _of_objects([r for r in node if isinstance(r, dict)])
        elif (
            len(node) >= 4
            and all(isinstance(r, list) for r in node[:4])
            and not isinstance(node[0][0] if node[0] else None, (list, dict))
        ):
            yield name, _of_rows(node)
        else:
            for k, part in enumerate(node[:MOST_MEMBERS]):
                label = str(
                    next(
                        (
                            part[w]
                            for w in ("name", "label", "placement", "location", "sensor", "id", "device")
                            if isinstance(part, dict) and isinstance(part.get(w), (str, int))
                        ),
                        f"{k + 1}",
                    )
                )
                yield from _tables(part, label, deep + 1)
    elif isinstance(node, dict):
        lists = {k: v for k, v in node.items() if isinstance(v, list) and len(v) >= 4 and not isinstance(v[0], (dict,))}
        flat = _flat_lists(node)
        lengths = [len(v) for v in flat.values()]
        if len(flat) >= 2 and (common := max(set(lengths), key=lengths.count)) >= 4:
            same = {k: v for k, v in flat.items() if len(v) == common}
            if len(same) >= 2:
                yield name, [_column(k, v) for k, v in same.items()]
                return
        for key, part in node.items():
            if key not in lists or isinstance(part, list):
                yield from _tables(part, str(key), deep + 1)


def _flat_lists(node: dict[str, Any], before: str = "", deep: int = 0) -> dict[str, list[Any]]:
    """Lists of plain values in an object, and in the objects in it, by their path."""
    out: dict[str, list[Any]] = {}
    for key, value in node.items():
        path = f"{before}{key}"
        if isinstance(value, list) and len(value) >= 4 and not isinstance(value[0], (list, dict)):
            out[path] = value
        elif isinstance(value, dict) and deep < 2:
            out |= _flat_lists(value, f"{path}.", deep + 1)
    return out


def _of_objects(rows: list[dict[str, Any]]) -> list[Column]:
    flat = [_flat(r) for r in rows]
    keys: dict[str, None] = {}
    for r in flat:
        keys.update(dict.fromkeys(r))
    return [_column(k, [r.get(k) for r in flat]) for k in keys]


def _flat(node: dict[str, Any], before: str = "") -> dict[str, Any]:
    out: dict[str, Any] = {}
    for key, value in node.items():
        path = f"{before}{key}"
        if isinstance(value, dict):
            out |= _flat(value, f"{path}.")
        elif isinstance(value, list):
            axes = "xyz" if len(value) == 3 else "wxyz" if len(value) == 4 else ""
            out |= {f"{path}.{axes[k] if axes else k}": v for k, v in enumerate(value[:16])}
        else:
            out[path] = value
    return out


def _of_rows(rows: list[list[Any]]) -> list[Column]:
    names = [str(c) for c in rows[0]] if all(isinstance(c, str) and not is_figure(c, ".") for c in rows[0]) else []
    body = rows[1:] if names else rows
    width = max(len(r) for r in body)
    return [
        _column(names[k] if k < len(names) else "", [r[k] if k < len(r) else None for r in body]) for k in range(width)
    ]


def _column(name: str, values: list[Any]) -> Column:
    made = [
        float(v) if isinstance(v, (int, float)) else np.nan if v is None or not str(v).strip() else None for v in values
    ]
    if all(m is not None for m in made):
        return Column(plain(name), numbers=np.array(made, np.float64))
    maker = text._Maker(".")
    maker.take(text.pa.array(["" if v is None else str(v) for v in values], text.pa.string()))
    column = maker.column()
    column.name = plain(name)
    return column


def _said_beside(content: Any) -> list[str]:
    """Plain values beside the table, as `rate: 200`."""
    if not isinstance(content, dict):
        return []
    out = []
    for key, value in _flat({k: v for k, v in content.items() if not isinstance(v, list)}).items():
        if isinstance(value, (str, int, float)):
            out.append(plain(f"{key}: {value}")[:300])
    return out[:200]
