"""What the inference found in files, as one document: what is claimed, what is asked, what physics objects to."""

import datetime as dt
from pathlib import Path
from typing import Any

from agile_strike.formats.foreign.found import Unit
from agile_strike.formats.foreign.places import ask_where_two_are
from agile_strike.formats.foreign.reading import sheets
from agile_strike.formats.foreign.sheet import Sheet
from agile_strike.formats.foreign.units import NoUnit, units_of

#: not yet measured for the file at hand: a unit of which nothing is asked, and one of which something is
CLAIMED, ASKED = 0.98, 0.5


def units_in(files: list[tuple[Path, str]]) -> list[Unit]:
    """Units of all files, with what is to be asked. Raises BadFile for the first that can't be read."""
    out: list[Unit] = []
    every = [sheet for path, shown in files for sheet in sheets(path, shown)]
    beside: list[NoUnit] = []
    for sheet in every:
        try:
            out += units_of(sheet)
        except NoUnit as error:  # a magnetometer's file, a log, beside the units'
            beside.append(error)
    if not out:
        raise beside[0]
    out[0].told += [f"{str(error).split('. ')[0]}: left out" for error in beside]
    ask_where_two_are(out)
    _begin(out)
    return out


def document(units: list[Unit]) -> dict[str, Any]:
    """`{"schema": 1, "began", "units", "questions", "objections", "told"}`."""
    questions: list[dict[str, Any]] = []
    objections: list[dict[str, Any]] = []
    told: list[str] = []
    for place, unit in enumerate(units):
        for q in unit.questions:
            questions.append(
                {"id": f"q{len(questions) + 1}", "unit": place, "about": q.about, "text": q.text, "choices": q.choices}
            )
        objections += [{"unit": place, "text": text} for text in unit.objections]
        told += [t for t in (*unit.sheet.told, *unit.told) if t not in told]
    return {
        "schema": 1,
        "began": _began(units),
        "units": [_unit(u) for u in units],
        "questions": questions,
        "objections": objections,
        "told": told,
    }


def _unit(unit: Unit) -> dict[str, Any]:
    sheet, telling, grid = unit.sheet, unit.telling, unit.grid
    return {
        "file": sheet.file,
        "placement": unit.placement,
        "serial": unit.serial,
        "only": None if unit.only is None else {"column": _name(sheet, unit.only[0]), "value": unit.only[1]},
        "time": None
        if telling is None
        else {"column": _name(sheet, telling.index), "index": telling.index, "kind": telling.kind},
        "rate_hz": None if grid is None else round(grid.rate_hz, 6),
        "begins_s": round(unit.begins_s, 6),
        "accel": None
        if unit.accel is None
        else {**_columns(sheet, unit.accel.indices), "factor_m_s2": unit.accel_factor, "gravity": unit.gravity},
        "gyro": None if unit.gyro is None else {**_columns(sheet, unit.gyro.indices), "factor_rad_s": unit.gyro_factor},
        "load": None if not unit.load else {**_columns(sheet, unit.load), "factor_n": unit.load_factor},
        "gaps": [] if grid is None else [{"line": line, "seconds": seconds} for line, seconds in grid.gaps],
        "probability": ASKED if unit.questions else CLAIMED,
    }


def _name(sheet: Sheet, k: int) -> str:
    return sheet.columns[k].name


def _columns(sheet: Sheet, indices: list[int]) -> dict[str, Any]:
    return {"columns": [_name(sheet, k) for k in indices], "indices": indices}


def _absolute(unit: Unit) -> bool:
    return unit.telling is not None and (unit.telling.epoch_s is not None or unit.telling.kind == "clock")


def _begin(units: list[Unit]) -> None:
    """Where each unit begins: on the clock that all files share, or each file's on its own."""
    timed = [u for u in units if u.grid is not None]
    shared = {u.telling.kind == "clock" for u in timed if u.telling is not None}
    together = bool(timed) and all(_absolute(u) for u in timed) and len(shared) == 1
    first: dict[str, float] = {}
    for unit in timed:
        assert unit.grid is not None
        key = "" if together else unit.sheet.file
        first[key] = min(first.get(key, unit.grid.begins), unit.grid.begins)
    for unit in timed:
        assert unit.grid is not None
        unit.begins_s = unit.grid.begins - first["" if together else unit.sheet.file]


def _began(units: list[Unit]) -> str | None:
    """When the earliest of them began, where a clock tells the day."""
    days = [
        u.grid.begins + u.telling.epoch_s
        for u in units
        if u.grid is not None and u.telling is not None and u.telling.epoch_s is not None
    ]
    if not days:
        return None
    return dt.datetime.fromtimestamp(min(days), dt.UTC).replace(tzinfo=None).isoformat(timespec="microseconds")
