"""The small files of a Motion-BIDS data set: sidecars and tables with a header, each error with its place."""

import json
from pathlib import Path
from typing import Any

from agile_strike.core.errors import BadFile


def shown(path: Path, root: Path) -> str:
    return str(path.relative_to(root)) if path.is_relative_to(root) else path.name


def read_json(path: Path, root: Path) -> dict[str, Any]:
    name = shown(path, root)
    try:
        content = json.loads(path.read_text(encoding="utf-8-sig"))
    except json.JSONDecodeError as error:
        raise BadFile(
            name, f"this is not valid JSON ({error.msg})", "Mend or export it again.", error.lineno
        ) from error
    except (UnicodeDecodeError, RecursionError) as error:
        raise BadFile(name, "this is not a JSON text", "Export it again as UTF-8.") from error
    except ValueError as error:  # a number of more digits than Python reads
        raise BadFile(name, "a number in it is too long to be one", "Write numbers of usual length.") from error
    if not isinstance(content, dict):
        raise BadFile(name, "a JSON object was expected", "Write the sidecar's keys within { }.")
    return content


def number(sidecar: dict[str, Any], key: str, name: str, default: float | None = None) -> float:
    value = sidecar.get(key, default)
    if value is None:
        raise BadFile(name, f"{key} is missing", f"Add {key} to the sidecar.")
    if key not in sidecar and default is not None:
        return default
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) < 1e300:
        raise BadFile(name, f"{key} is “{str(value)[:40]}”, which is no number", f"Give {key} as a number.")
    return float(value)


def read_rows(path: Path, root: Path, needed: tuple[str, ...]) -> list[tuple[int, dict[str, str]]]:
    """Rows of a small table with a header, with their line numbers."""
    name = shown(path, root)
    try:
        text = path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError as error:
        raise BadFile(name, "this is not a text file", "Export it again as UTF-8.") from error
    lines = text.split("\n") if "\0" not in text else []
    if not lines:
        place = text[: text.index("\0")].count("\n") + 1
        raise BadFile(name, "a zero byte stands in the text", "Export it again as plain text.", place)
    lines = [line.removesuffix("\r") for line in lines]
    if not any(lines):
        lines = []
    if not lines:
        raise BadFile(name, "the file is empty", "Export it again.")
    header = lines[0].split("\t")
    for column in needed:
        if column not in header:
            raise BadFile(name, f"the column {column} is missing", f"Needed are {', '.join(needed)}.", 1)
    rows = []
    for number, line in enumerate(lines[1:], start=2):
        if not line.strip():
            continue
        cells = line.split("\t")
        if len(cells) != len(header):
            raise BadFile(name, f"{len(cells)} cells under a header of {len(header)}", "Mend the line.", number)
        rows.append((number, dict(zip(header, cells, strict=True))))
    return rows
