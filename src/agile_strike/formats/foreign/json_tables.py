"""JSON and JSON lines that hold tables: lists of objects or of rows, objects of lists, wherever they stand."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa

from agile_strike.core.errors import BadFile, plain
from agile_strike.formats.foreign.figures import LARGEST, is_figure
from agile_strike.formats.foreign.sheet import Column, Sheet
from agile_strike.formats.foreign.text import Maker

LARGEST_JSON = 300_000_000
DEEPEST = 4
MOST_TABLES = 60


def json_sheets(path: Path, shown: str) -> Iterator[Sheet]:
    if path.stat().st_size > LARGEST_JSON:
        raise BadFile(shown, "the JSON is larger than 300 MB", "Write it as JSON lines, CSV or Parquet, or in parts.")
    raw = path.read_bytes().decode("utf-8-sig", "replace")
    try:
        content = json.loads(raw)
        lines = None
    except RecursionError as error:
        raise BadFile(shown, "its lists stand in lists without end", "Write one list of samples.") from error
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
        except (ValueError, RecursionError):
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
            for k, part in enumerate(node[:MOST_TABLES]):
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
        float(v)
        if isinstance(v, float) or (isinstance(v, int) and abs(v) < LARGEST)
        else np.nan
        if v is None or not str(v).strip()
        else None
        for v in values
    ]
    if all(m is not None for m in made):
        return Column(plain(name), numbers=np.array(made, np.float64))
    maker = Maker(".")
    maker.take(pa.array(["" if v is None else str(v) for v in values], pa.string()))
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
