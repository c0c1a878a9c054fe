"""What the columns of a sheet mean: which are whose acceleration, turn rate and load, in which unit of measure, when.

Names, shape and physics are weighed together. What a label says is never overruled in silence: where physics objects,
it is asked, and both are shown.
"""

import re
from dataclasses import replace

from agile_strike.core.errors import BadFile
from agile_strike.formats.foreign.clock import about_rate, tellings
from agile_strike.formats.foreign.columns import (
    free_columns,
    kinds,
    loads_of,
    pairs_of,
    rows_of,
    sensor_column,
    triples_of,
    words_of,
)
from agile_strike.formats.foreign.found import Unit, values_of
from agile_strike.formats.foreign.physics import shape_of
from agile_strike.formats.foreign.places import find_place, serial_of
from agile_strike.formats.foreign.scales import accel_unit, gyro_unit, load_unit
from agile_strike.formats.foreign.sheet import Sheet
from agile_strike.formats.foreign.timing import rate_in, timed_by
from agile_strike.formats.foreign.words import said_of


class NoUnit(BadFile):
    """A table in which nothing is a motion unit's or a load's."""


def units_of(sheet: Sheet) -> list[Unit]:
    """Units of a sheet, with what is to be asked of each.

    Raises NoUnit where nothing in it is a motion unit's or a load's."""
    said = [said_of(c.name, c.unit, c.device) for c in sheet.columns]
    timed = tellings(sheet, said)
    only = sensor_column(sheet, said, timed)
    free = free_columns(sheet, said, timed, only)
    loads = loads_of(sheet, said, free)
    rate_said = rate_in(sheet)
    about_hz = about_rate(timed) or rate_said
    triples = triples_of(sheet, said, [k for k in free if not any(k in group for group in loads.values())], about_hz)
    kinds(triples, said_of(re.sub(r"\.[A-Za-z0-9]{1,8}$", "", sheet.file.split("/")[-1])).quantity)
    out: list[Unit] = []
    pairs = pairs_of(triples)
    which: list[tuple[int, str] | None] = [None]
    if only is not None:
        which = [(only, word) for word in words_of(sheet, only)]
    for accel, gyro in pairs:
        for sensor in which:
            rows = rows_of(sheet, accel.indices, sensor)
            if len(rows) < 8:
                continue
            signals = [
                None if t is None else replace(t, shape=shape_of(values_of(sheet, t.indices, rows), about_hz))
                for t in (accel, gyro)
            ]
            out.append(Unit(sheet, None, sensor, rows, accel.stem, accel=signals[0], gyro=signals[1]))
    for stem, columns in loads.items():
        out.append(Unit(sheet, None, None, rows_of(sheet, columns, None), stem, load=columns))
    if not out:
        what = "no column of it can be acceleration or load"
        raise NoUnit(
            sheet.file,
            what,
            "Bring a table with three columns of acceleration, with gravity, or the load under a foot.",
        )
    for unit in out:
        find_place(unit, by_file=len(out) == 1)
        timed_by(unit, timed, rate_said)
        if unit.load:
            load_unit(unit, said)
        else:
            accel_unit(unit)
            gyro_unit(unit)
        unit.told += no_figures(unit)
    if len(out) == 1:
        out[0].serial = serial_of(sheet)
    return out


def no_figures(unit: Unit) -> list[str]:
    """Cells of a unit's signals that hold something else than a figure: they are missing samples, told by line."""
    sheet, out = unit.sheet, []
    signals = [t.indices for t in (unit.accel, unit.gyro) if t is not None]
    for k in [k for indices in (*signals, unit.load) for k in indices]:
        if sheet.columns[k].strange:
            row, cell = sheet.columns[k].strange[0]
            column = sheet.columns[k].name or f"column {k + 1}"
            out.append(
                f"{sheet.file}: line {sheet.lines[row]}: “{cell}” in {column} is no figure: that sample is missing"
            )
    return out
