"""A trial as one flat table: read, split by group, and its claims as plain data."""

from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.csv as pacsv
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile
from agile_strike.core.trial.claim import HELD, Claim, Strikes

NEEDED = ("participant", "session", "block", "order")
SIGNIFICANT = 9


def read(path: Path, factor: str, measure: str, levels: tuple[str, ...], by: str | None) -> list[tuple[str, Strikes]]:
    """Trials of a table, one for each value of `by` (or one of all), with their group.

    Raises BadFile for missing columns, words among figures and levels that are not there.
    """
    table = _table(path)
    name = path.name
    for column in (*NEEDED, factor, measure, *([by] if by else [])):
        if column not in table.column_names:
            raise BadFile(name, f"the column {column} is missing", f"It has {', '.join(table.column_names)}.", 1)
    value, order = (_figures(table, column, name) for column in (measure, "order"))
    words = {c: _words(table, c) for c in ("participant", "session", "block", factor)}
    held = {c: _words(table, c) for c in HELD if c in table.column_names}
    mass = _figures(table, "body_mass_kg", name) if "body_mass_kg" in table.column_names else None
    level_words = words[factor]
    wanted = levels or tuple(dict.fromkeys(level_words.tolist()))
    for level in levels:
        if level not in set(level_words.tolist()):
            raise BadFile(name, f"no row has {factor} “{level}”", f"It has {', '.join(dict.fromkeys(level_words))}.")
    group = _words(table, by) if by else np.full(len(value), "")
    first = {g: i for i, g in reversed(list(enumerate(group.tolist())))}
    places: dict[str, list[int]] = {g: [] for g in sorted(first, key=lambda g: first[g])}
    for i, g in enumerate(group.tolist()):
        places[g].append(i)
    out = []
    for g, rows in places.items():
        here = np.array(rows)
        here = here[np.isin(level_words[here], wanted)]
        own = levels or tuple(dict.fromkeys(level_words[here].tolist()))
        sessions = np.char.add(np.char.add(words["participant"][here], "\t"), words["session"][here])
        out.append(
            (
                g,
                Strikes(
                    _codes(sessions),
                    _codes(words["block"][here]),
                    order[here],
                    np.array([own.index(w) for w in level_words[here]], dtype=np.int64),
                    value[here],
                    own,
                    {c: v[here].tolist() for c, v in held.items()},
                    None if mass is None else mass[here],
                    measure.endswith("_pct") or "per_body_mass" in measure,
                ),
            )
        )
    return out


def _table(path: Path) -> pa.Table:
    if not path.is_file():
        raise BadFile(path.name, "there is no such file", "Check the path.")
    try:
        return pacsv.read_csv(path, convert_options=pacsv.ConvertOptions(strings_can_be_null=False))
    except (pa.ArrowInvalid, UnicodeDecodeError) as error:
        said = str(error).splitlines()[0]
        raise BadFile(path.name, f"this is not a table ({said})", "Give a CSV with a header.") from error


def _figures(table: pa.Table, column: str, name: str) -> NDArray[np.float64]:
    try:
        return np.asarray(table.column(column).cast(pa.float64()).to_numpy(zero_copy_only=False), dtype=np.float64)
    except pa.ArrowInvalid:
        for i, cell in enumerate(table.column(column).to_pylist()):
            if str(cell).strip() in ("", "n/a"):
                continue
            try:
                float(cell)
            except (TypeError, ValueError):
                raise BadFile(
                    name, f"“{cell}” in column {column} is not a number", "Correct the cell.", i + 2
                ) from None
        cells = [str(c).strip() for c in table.column(column).to_pylist()]
        return np.array([np.nan if c in ("", "n/a") else float(c) for c in cells])


def _words(table: pa.Table, column: str) -> NDArray[np.str_]:
    return np.array(table.column(column).cast(pa.string()).fill_null("").to_pylist(), dtype=np.str_)


def _codes(words: NDArray[np.str_]) -> NDArray[np.int64]:
    return np.asarray(np.unique(words, return_inverse=True)[1], dtype=np.int64).ravel()


def document(c: Claim) -> dict[str, Any]:
    """What `agile-strike compare --json` prints of one claim."""
    e = c.effect
    first = c.means.get(c.levels[0]) if c.levels else None

    def short(x: float | None) -> float | None:
        return None if x is None else float(f"{x:.{SIGNIFICANT}g}")

    def share(x: float | None) -> float | None:
        return short(100.0 * x / abs(first)) if x is not None and first else None

    return {
        "levels": list(c.levels),
        "n": c.n,
        "means": {k: short(v) for k, v in c.means.items()},
        "effect": short(e.value) if e else None,
        "effect_pct": share(e.value) if e else None,
        "ci95": [short(e.low), short(e.high)] if e else None,
        "ci95_pct": [share(e.low), share(e.high)] if e else None,
        "swc": short(c.swc),
        "typical_error": short(c.typical_error),
        "mdc": short(c.mdc),
        "verdict": c.verdict,
        "blocks_needed": c.blocks_needed,
        "order_effect": {"per_block": short(e.drift), "sd": short(e.drift_sd)} if e and e.drift is not None else None,
        "sessions": c.sessions,
        "notes": list(c.notes),
        "refused": c.refused,
    }
