"""A student's strikes over weeks as one flat table, and their course as plain data."""

import datetime as dt
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa

from agile_strike.core.errors import BadFile
from agile_strike.core.measures.doubts import shared_sd
from agile_strike.core.weeks.balance import mixed_sides
from agile_strike.core.weeks.course import Course, Told, course
from agile_strike.core.weeks.evenings import Evening, evenings
from agile_strike.formats.tabular import codes, figures, need, read_table, short, words

NEEDED = ("session", "block")


def read(path: Path, measure: str, marks: list[dt.date]) -> dict[str, Any]:
    """What `agile-strike weeks --json` prints of a CSV file."""
    return told(read_table(path), path.name, measure, marks)


def told(table: pa.Table, name: str, measure: str, marks: list[dt.date]) -> dict[str, Any]:
    """Evening means and the course through them. Sessions are named by their day, as 2026-11-24.

    Raises BadFile for missing columns, words among figures and sessions that are no day.
    """
    need(table, (*NEEDED, measure), name)
    value, session = figures(table, measure, name), words(table, "session")
    if "excluded" in table.column_names:
        value = np.where(np.char.strip(words(table, "excluded")) == "", value, np.nan)
    day = {text: _day(text, name, session) for text in set(session.tolist())}
    on = [day[text] for text in session.tolist()]
    doubt = f"{measure}_sd"
    common = shared_sd(measure) * figures(table, doubt, name) if doubt in table.column_names else None
    found = evenings(on, codes(words(table, "block")), value, common)
    limb = words(table, "limb").tolist() if "limb" in table.column_names else []
    return {**document(found, course(found, marks)), "notes": mixed_sides(on, limb, value)}


def _day(text: str, name: str, session: Any) -> dt.date:
    try:
        return dt.date.fromisoformat(text[:10])
    except ValueError:
        line = int(np.flatnonzero(session == text)[0]) + 2
        raise BadFile(name, f"the session “{text}” is no day", "Name sessions by day, as 2026-11-24.", line) from None


def document(found: list[Evening], c: Course) -> dict[str, Any]:
    return {
        "evenings": [
            {"on": e.on.isoformat(), "mean": short(e.mean), "ci95": [short(e.low), short(e.high)], "strikes": e.strikes}
            for e in found
        ],
        "slope_per_week": _told(c.slope),
        "slope_per_week_last": _told(c.slope_last),
        "day_sd": short(c.day_sd),
        "mdc": short(c.mdc),
        "band": [short(c.band[0]), short(c.band[1])] if c.band else None,
        "line": [{"on": day.isoformat(), "value": short(v)} for day, v in c.line],
        "marks": [
            {
                "on": m.on.isoformat(),
                "step": _told(m.step),
                "slope_change_per_week": _told(m.slope_change),
                "why_not": m.why_not,
            }
            for m in c.marks
        ],
    }


def _told(t: Told | None) -> dict[str, Any] | None:
    return None if t is None else {"value": short(t.value), "ci95": [short(t.low), short(t.high)]}
