"""Guessing a mapping from names and from physics, told with its doubts.

A file's own words are believed only as far as physics bears them out: a unit at rest feels 9.81 m/s2 whatever its file
calls it, and gravity turns in its axes as the gyro says it turns.
"""

import re

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.target import GRAVITY_M_S2
from agile_strike.formats.bag_physics import BELIEVED, LIKELY, spin_per_speed
from agile_strike.formats.column_names import (
    counts_samples,
    groups_of,
    loads_of,
    place_of,
    rate_in,
    rows_of,
    said_time,
    sensor_column,
    sensor_words,
    side_of,
    time_column,
)
from agile_strike.formats.loose_table import LooseTable
from agile_strike.formats.mapped import PERSON_N, columns, rate_of, rest_of, turn_scale
from agile_strike.formats.mapping import ACCEL_UNITS, GYRO_UNITS, LOAD_UNITS, Guess, Mapping, UnitMap

Floats = NDArray[np.float64]

FOOT_N = (150.0, 3000.0)  # what one foot bears at most while a student stands, steps and strikes
FASTEST_RAD_S = (0.8, 45.0)  # a worn unit's or a struck bag's fastest turns, in a recording that holds strikes
USUAL_COUNTS = 16.4  # of a gyro that ends at 2000 degrees a second and has 16 bits
NEAR = 0.12  # a scale that physics gives counts as the named one within so much


def guess(table: LooseTable, file_name: str) -> Guess:
    """The likeliest mapping of a table, what it can't tell, and where physics overruled its words."""
    out = Guess(Mapping([]))
    names = [n for n, values in table.numbers.items() if np.isfinite(values).any()]  # an empty column is nobody's
    out.mapping.time, out.mapping.time_unit = time_column(table)
    out.mapping.sensor_column = sensor_column(table, out.mapping.time)
    if not out.mapping.time:
        out.mapping.rate_hz = rate_in(table.preamble)
        if out.mapping.rate_hz is None:
            out.ask("rate", None, "rate: the file has no time column and does not say its rate")
    elif counts_samples(table.numbers[out.mapping.time]) and not said_time(out.mapping.time):
        out.ask("time", None, "time: this column counts by one; are these milliseconds, or samples at another rate?")
    taken = {out.mapping.time, out.mapping.sensor_column}
    loads = loads_of([n for n in names if n not in taken])
    taken |= {n for columns_ in loads.values() for n in columns_}
    left = [n for n in names if n not in taken]
    groups = groups_of(left) or ({} if loads else by_physics(table, left))
    for key, columns_ in loads.items():
        _under_foot(table, key, columns_, file_name, loads, out)
    if not groups and not loads:
        out.ask("columns", None, "columns: which are acceleration and which are turn rate?")
    sensors = sensor_words(table, out.mapping.sensor_column) or [""]
    for key, of_unit in groups.items():
        for sensor in sensors:
            part = rows_of(table, out.mapping.sensor_column, sensor)
            unit = UnitMap(place_of(f"{key} {sensor}", file_name, len(groups) * len(sensors)), *of_unit, only=sensor)
            out.mapping.units.append(unit)
            _scale(table, unit, part, out)
            if not unit.placement:
                which = f"the unit “{key or sensor}”" if key or sensor else "this unit"
                out.ask("placement", unit, f"placement: where was {which} worn?")
    return out


def _under_foot(
    table: LooseTable, key: str, names: list[str], file_name: str, feet: dict[str, list[str]], out: Guess
) -> None:
    """Load under one foot. What a standing student weighs tells newtons from kilograms."""
    side = side_of(key) or (side_of(file_name.lower()) if len(feet) == 1 else "")
    unit = UnitMap(f"{side}sole" if side else "", [], [], load=names)
    out.mapping.units.append(unit)
    who = f"the load “{key}”" if key else "this load"
    if not side:
        out.ask("placement", unit, f"placement: under which foot was {who}?")
    every, rows = [n for one in feet.values() for n in one], np.ones(table.rows, bool)
    both = len(feet) == 2
    size = abs(float(np.nanmedian(columns(table, every, rows).sum(axis=1))))
    if not both:
        size = abs(float(np.nanpercentile(columns(table, names, rows).sum(axis=1), 95)))
    low, high = PERSON_N if both else FOOT_N
    said = _said(names, {"kgf": r"kg", "lbf": r"lbf?|pound", "N": r"\bn\b|newton"})
    fits = [u for u, f in LOAD_UNITS.items() if low <= size * f <= high]
    if said in fits or (said and not fits):
        unit.load_unit = said
    elif fits:
        unit.load_unit = fits[0]
        if said:
            out.told.append(f"{who}: the file says {said}, but nobody stands with {size:.0f} of it: taken as {fits[0]}")
        elif len(fits) > 1:
            out.ask("load", unit, f"load: is {who} in {' or '.join(fits)}?")
    else:
        out.ask("load", unit, f"load: in which unit is {who}? It shows {size:.3g}")
    if len(names) == 1:
        out.told.append(f"{who}: one figure for the whole foot, so the heel's share will be absent")


def by_physics(table: LooseTable, names: list[str]) -> dict[str, tuple[list[str], list[str]]]:
    """Columns without telling names: a triple whose length is steady at rest and not zero is acceleration."""
    triples = [names[i : i + 3] for i in range(0, len(names) - 2, 3)]
    accel: list[list[str]] = []
    gyro: list[list[str]] = []
    for triple in triples:
        values = columns(table, triple, np.ones(table.rows, bool))
        size = np.linalg.norm(values, axis=1)
        middle = float(np.nanmedian(size))
        spread = float(np.nanpercentile(size, 60) - np.nanpercentile(size, 40))
        (accel if middle > 0 and spread < 0.2 * middle else gyro).append(triple)
    return {
        "" if len(accel) == 1 else f"unit {i + 1}": (a, gyro[i] if i < len(gyro) else []) for i, a in enumerate(accel)
    }


def _said(names: list[str], units: dict[str, str]) -> str:
    text = " ".join(names).lower()
    return next((unit for unit, words in units.items() if re.search(words, text)), "")


def _scale(table: LooseTable, unit: UnitMap, rows: NDArray[np.bool_], out: Guess) -> None:
    raw = columns(table, unit.accel, rows)
    rest = rest_of(raw)
    said = _said(
        unit.accel, {"m/s^2": r"m/s\^?2|m/s²|mps2|ms-2|ms\^-2", "mg": r"\bmg\b", "g": r"\[g\]|\(g\)|[ _]g$|\bg\b"}
    )
    fits = next((u for u, f in ACCEL_UNITS.items() if abs(rest * f / GRAVITY_M_S2 - 1.0) < NEAR), "")
    who = unit.placement or "the unit"
    if fits:
        unit.accel_unit = fits
        if said and said != fits:
            out.told.append(f"{who}: the file says {said}, but at rest it shows {rest:.3g}: taken as {fits}")
    elif rest > 0:
        unit.accel_unit, unit.accel_scale = "g", 1.0 / _round_counts(rest)
        out.told.append(f"{who}: at rest it shows {rest:.0f} counts: taken as {1.0 / unit.accel_scale:.0f} a g")
        if abs(rest * unit.accel_scale - 1.0) > NEAR:
            out.ask("accel", unit, f"acceleration: what does one count of {who} mean?")
    if not unit.gyro:
        out.told.append(f"{who}: no turn rates were found in it; what needs them will be absent")
        return
    gyro = columns(table, unit.gyro, rows)
    accel = raw * unit.accel_scale * ACCEL_UNITS[unit.accel_unit]
    said = _said(unit.gyro, {"mdeg/s": r"mdps|mdeg", "deg/s": r"deg|°|dps", "rad/s": r"rad"})
    _gyro_scale(unit, gyro, accel, rate_of(table, out.mapping, rows), said, who, out)


def _gyro_scale(
    unit: UnitMap, gyro: Floats, accel: Floats, rate_hz: float | None, said: str, who: str, out: Guess
) -> None:
    """A file's own word stands unless physics speaks plainly against it: light strikes turn a bag slowly."""
    worn = unit.placement not in ("", "bag")
    turn = turn_scale(accel, gyro, rate_hz) if worn and rate_hz else None
    if turn is not None:
        near = min(GYRO_UNITS, key=lambda u: abs(np.log(turn / GYRO_UNITS[u])))
        if 0.6 < turn / GYRO_UNITS[near] < 1.6:
            unit.gyro_unit = near
            if said and said != near:
                out.told.append(f"{who}: the file says {said}, but gravity turns as if in {near}: taken as {near}")
            return
    fast = float(np.nanpercentile(np.abs(gyro), 99.9))
    if bool((gyro == np.rint(gyro)).all()) and unit.accel_scale != 1.0:
        _gyro_counts(unit, turn, who, out)
        return
    spin = spin_per_speed(accel, gyro, rate_hz) if unit.placement == "bag" and rate_hz else None
    fits = _as_the_bag_moves(spin) if spin is not None else _as_limbs_move(fast)
    against = "a bag that is hit would not turn like that" if spin is not None else f"no limb reaches {fast:.0f} of it"
    if said and _believed(said, spin, fast):
        unit.gyro_unit = said
    elif fits:
        unit.gyro_unit = fits[0]
        if said:
            out.told.append(f"{who}: the file says {said}, but {against}: taken as {fits[0]}")
        elif len(fits) > 1:
            out.ask("gyro", unit, f"turn rate: is the gyro of {who} in {' or '.join(fits)}?")
    else:
        unit.gyro_unit = said or unit.gyro_unit
        out.ask("gyro", unit, f"turn rate: in which unit is the gyro of {who}?")


def _gyro_counts(unit: UnitMap, turn: float | None, who: str, out: Guess) -> None:
    unit.gyro_unit, unit.gyro_scale = "deg/s", 1.0 / USUAL_COUNTS
    if turn is None:
        said = f"turn rate: what does one count of {who} mean? {USUAL_COUNTS} a degree a second is usual"
        out.ask("gyro", unit, said)
        return
    unit.gyro_scale = turn / GYRO_UNITS["deg/s"]
    out.told.append(f"{who}: {1.0 / unit.gyro_scale:.1f} counts a degree a second, from how gravity turns")


def _believed(said: str, spin: float | None, fast: float) -> bool:
    """Only what can't be speaks against a file: too fast for any limb, or a bag that turns as none does."""
    if spin is not None:
        return BELIEVED[0] <= spin * GYRO_UNITS[said] <= BELIEVED[1]
    return fast * GYRO_UNITS[said] <= FASTEST_RAD_S[1]


def _as_the_bag_moves(spin: float) -> list[str]:
    """Units in which a bag turns as bags do, the likeliest first."""
    middle = float(np.sqrt(LIKELY[0] * LIKELY[1]))
    fits = [u for u, f in GYRO_UNITS.items() if LIKELY[0] <= spin * f <= LIKELY[1]]
    return sorted(fits, key=lambda u: abs(float(np.log(spin * GYRO_UNITS[u] / middle))))


def _as_limbs_move(fast: float) -> list[str]:
    return [u for u, f in GYRO_UNITS.items() if FASTEST_RAD_S[0] <= fast * f <= FASTEST_RAD_S[1]]


def _round_counts(rest: float) -> float:
    """Accelerometers count in powers of two a g, or in round hundreds."""
    power = 2.0 ** round(np.log2(rest))
    return float(power) if abs(rest / power - 1.0) < NEAR else float(rest)
