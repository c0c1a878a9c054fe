"""Applying a mapping: columns become signals in SI units on even grids, and physics has its say."""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag import facing
from agile_strike.core.errors import BadInput
from agile_strike.core.recording import UNITS, UnitSignal
from agile_strike.core.target import GRAVITY_M_S2
from agile_strike.formats.column_names import rows_of
from agile_strike.formats.loose_table import LooseTable
from agile_strike.formats.mapping import ACCEL_UNITS, GYRO_UNITS, LOAD_UNITS, TIME_UNITS, Mapping, UnitMap, factor

Floats = NDArray[np.float64]

MOST_PAUSE_SHARE, MOST_PAUSE_S = 1.0, 60.0  # of a table that may be missing: more is another recording
PERSON_N = (200.0, 2200.0)  # what both feet of a standing student bear
LEAP_COUNTS, HELD_PAIRS = 3.0, 4  # of a signal that runs into its range


class NoRate(BadInput):
    """A table without a column of time whose rate nobody has told."""

    def __init__(self) -> None:
        super().__init__("This file has no time column and does not say its rate: give the samples a second.")


def apply(table: LooseTable, mapping: Mapping) -> dict[str, UnitSignal]:
    """Signals by placement, in SI units on even grids of one clock."""
    signals = {}
    for unit in mapping.units:
        if not unit.placement:
            raise BadInput("Say where each unit was worn before importing.")
        if unit.placement not in UNITS or unit.placement in signals:
            raise BadInput(f"{unit.placement}: give each unit one of the places {', '.join(UNITS)}, once.")
        rows = rows_of(table, mapping.sensor_column, unit.only)
        if bool(unit.load) != unit.placement.endswith("sole"):
            raise BadInput(f"{unit.placement}: load belongs under a foot, and under a foot there is nothing but load.")
        if unit.load:
            signals[unit.placement] = _loads(table, mapping, unit, rows)
            continue
        accel = columns(table, unit.accel, rows) * unit.accel_scale * factor(ACCEL_UNITS, unit.accel_unit)
        gyro = columns(table, unit.gyro, rows) * unit.gyro_scale * factor(GYRO_UNITS, unit.gyro_unit)
        rate, places = grid(table, mapping, rows)
        signals[unit.placement] = UnitSignal(
            unit.placement, rate, _even(accel, places), _even(gyro, places), ceiling(accel), ceiling(gyro)
        )
    if not signals:
        raise BadInput("No unit is mapped: say which columns are acceleration and turn rate.")
    return signals


def physics(table: LooseTable, mapping: Mapping) -> list[str]:
    """What physics says against the mapping as it stands."""
    out = []
    out += _weight(table, [u for u in mapping.units if u.load])
    for unit in mapping.units:
        if unit.load:
            continue
        rows = rows_of(table, mapping.sensor_column, unit.only)
        accel = columns(table, unit.accel, rows) * unit.accel_scale * factor(ACCEL_UNITS, unit.accel_unit)
        rest = rest_of(accel)
        if not 0.85 < rest / GRAVITY_M_S2 < 1.15:
            out.append(
                f"{unit.placement or 'A unit'} at rest feels {rest:.3g} m/s2 where gravity is 9.81: is its unit right?"
            )
        if unit.gyro:
            gyro = columns(table, unit.gyro, rows) * unit.gyro_scale * factor(GYRO_UNITS, unit.gyro_unit)
            rate_hz = rate_of(table, mapping, rows)
            turn = None if unit.placement == "bag" or rate_hz is None else turn_scale(accel, gyro, rate_hz)
            if turn is not None and not 0.6 < turn < 1.6:
                out.append(
                    f"{unit.placement or 'A unit'}: gravity turns {turn:.2g} times as fast as the gyro says. "
                    "Is its unit right?"
                )
            if float(np.nanpercentile(np.abs(gyro), 99.9)) > 80.0:
                out.append(f"{unit.placement or 'A unit'} turns faster than a limb can: is the gyro in degrees?")
    return out


def way_up(table: LooseTable, mapping: Mapping) -> list[str]:
    """What is done about a bag's unit that does not hang with its z axis up, told before anything is saved."""
    for unit in mapping.units:
        if unit.placement != "bag" or unit.load:
            continue
        accel = columns(table, unit.accel, rows_of(table, mapping.sensor_column, unit.only))
        accel = accel[np.isfinite(accel).all(axis=1)] * unit.accel_scale * factor(ACCEL_UNITS, unit.accel_unit)
        up = facing.turn_of(accel)[2]
        if len(accel) and up[2] != 1.0:
            axis = int(np.argmax(np.abs(up)))
            way = "up" if up[axis] > 0 else "down"
            return [f"bag: gravity shows that its {'xyz'[axis]} axis points {way}: it is turned so that z runs up"]
    return []


def _loads(table: LooseTable, mapping: Mapping, unit: UnitMap, rows: NDArray[np.bool_]) -> UnitSignal:
    """Load under heel and forefoot; the heel is NaN where the file has one figure for the whole foot."""
    if len(unit.load) > 2:
        raise BadInput(f"{unit.placement}: give one column for the whole foot, or two for heel and forefoot.")
    newtons = columns(table, unit.load, rows) * factor(LOAD_UNITS, unit.load_unit)
    if len(unit.load) == 1:
        newtons = np.column_stack([np.full(len(newtons), np.nan), newtons])
    rate, places = grid(table, mapping, rows)
    loads = np.full((int(places[-1]) + 1 if len(places) else 0, 2), np.nan, np.float32)
    loads[places] = newtons
    still = np.zeros((len(loads), 3), np.float32)
    return UnitSignal(unit.placement, rate, still, still, sole_n=loads)


def _weight(table: LooseTable, units: list[UnitMap]) -> list[str]:
    """Both feet together bear a person's weight, and no load pulls upward."""
    if not units:
        return []
    whole = sum(
        columns(table, u.load, np.ones(table.rows, bool)).sum(axis=1) * factor(LOAD_UNITS, u.load_unit) for u in units
    )
    weight = float(np.nanmedian(whole))
    if weight < 0:
        return ["The feet pull upward: turn the load round, with a minus before its column."]
    if len(units) == 2 and not PERSON_N[0] <= weight <= PERSON_N[1]:
        return [f"Both feet together bear {weight / GRAVITY_M_S2:.0f} kg: is the load's unit right?"]
    return []


def columns(table: LooseTable, names: list[str], rows: NDArray[np.bool_]) -> Floats:
    out = []
    for name in names:
        sign, column = (-1.0, name[1:]) if name.startswith("-") and name not in table.numbers else (1.0, name)
        if column not in table.numbers:
            raise BadInput(f"There is no column of figures called “{column}” in this file.")
        out.append(sign * table.numbers[column][rows])
    return np.column_stack(out) if out else np.full((int(rows.sum()), 3), np.nan)  # nobody measured it


def rest_of(accel: Floats) -> float:
    """Length of specific force where it is steadiest, units of the input."""
    size = np.linalg.norm(accel, axis=1)
    size = size[np.isfinite(size)]
    each = max(8, len(size) // 200)
    blocks = size[: len(size) // each * each].reshape(-1, each)
    if len(blocks) == 0:
        return float(np.median(size)) if len(size) else 0.0
    spread = blocks.std(axis=1) / np.maximum(blocks.mean(axis=1), 1e-9)
    still = blocks[np.argsort(spread)[: max(1, len(blocks) // 4)]]
    return float(np.median(still))


def turn_scale(accel: Floats, gyro: Floats, rate_hz: float) -> float | None:
    """What to multiply turn rates by so that gravity turns in the unit's axes as they say: `dg/dt = g x w`, by least
    squares over moments in which specific force is near gravity's size. None where the unit hardly turned."""
    step = max(1, round(rate_hz * 0.05))
    n = min(len(accel), len(gyro)) // step * step
    if n < 20 * step:
        return None
    g = accel[:n].reshape(-1, step, 3).mean(axis=1)
    w = gyro[:n].reshape(-1, step, 3).mean(axis=1)
    w = w - np.nanmedian(w, axis=0)
    size = np.linalg.norm(g, axis=1)
    calm = np.abs(size / GRAVITY_M_S2 - 1.0) < 0.08
    turned = np.cross(0.5 * (g[1:] + g[:-1]), 0.5 * (w[1:] + w[:-1])) * step / rate_hz
    moved = np.diff(g, axis=0)
    use = calm[1:] & calm[:-1] & np.isfinite(turned).all(axis=1) & np.isfinite(moved).all(axis=1)
    if use.sum() < 20:
        return None
    x, y = turned[use].ravel(), moved[use].ravel()
    power = float(x @ x)
    if power <= 0:
        return None
    scale = float(x @ y) / power
    left = y - scale * x
    doubt = float(np.sqrt((left @ left) / len(left) / power))
    return scale if scale > 4.0 * doubt and scale > 0 else None


def grid(table: LooseTable, mapping: Mapping, rows: NDArray[np.bool_]) -> tuple[float, NDArray[np.int64]]:
    """Rate, and each row's place on an even grid."""
    count = int(rows.sum())
    if not mapping.time:
        if mapping.rate_hz is None:
            raise NoRate
        return mapping.rate_hz, np.arange(count)
    if mapping.time not in table.numbers:
        raise BadInput(f"There is no column of figures called “{mapping.time}” in this file.")
    seconds = table.numbers[mapping.time][rows] * factor(TIME_UNITS, mapping.time_unit)
    steps = np.diff(seconds)
    positive = steps[steps > 0]
    if len(positive) == 0:
        raise BadInput(f"Time in column “{mapping.time}” does not move on: choose another column, or none.")
    # clocks that tick coarser than the samples repeat; the mean step over what has no gaps is the rate
    usual = float(np.median(positive))
    rate = mapping.rate_hz or (count - 1) / max(
        float(seconds[-1] - seconds[0]) - float(steps[steps > 5 * usual].sum()), 1e-6
    )
    if not 1.0 <= rate <= 50_000.0:
        raise BadInput(
            f"Column “{mapping.time}” as {mapping.time_unit} gives {rate:.3g} samples a second: check its unit."
        )
    pauses = np.where(steps > 5 * usual, steps, 0.0)
    if float(pauses.sum()) > MOST_PAUSE_SHARE * count / rate + MOST_PAUSE_S:
        at = int(np.argmax(pauses))
        line = table.layout.first_row + int(np.flatnonzero(rows)[at + 1]) + 1
        raise BadInput(
            f"Line {line}: the clock in column “{mapping.time}” leaps by {pauses[at]:.0f} s, more than was recorded. "
            "Split the file there, and bring the parts one by one."
        )
    gaps = np.concatenate([[0], np.where(pauses > 0.0, np.rint(pauses * rate).astype(np.int64) - 1, 0)])
    return rate, np.arange(count) + np.cumsum(gaps)


EPOCH_S = 6e8  # 1989: no clock that counts from when it was switched on comes so far


def began_at(table: LooseTable, mapping: Mapping) -> float | None:
    """Seconds since 1970 of the first row, where the column of time counts from then; None where it does not."""
    if not mapping.time or mapping.time not in table.numbers:
        return None
    seconds = table.numbers[mapping.time] * factor(TIME_UNITS, mapping.time_unit)
    first = float(seconds[np.isfinite(seconds)][0]) if np.isfinite(seconds).any() else 0.0
    return first if EPOCH_S < first < 10 * EPOCH_S else None


def rate_of(table: LooseTable, mapping: Mapping, rows: NDArray[np.bool_]) -> float | None:
    """The rate, or None where nobody has told it yet, or time is none."""
    try:
        return grid(table, mapping, rows)[0]
    except BadInput:
        return None


def _even(values: Floats, places: NDArray[np.int64]) -> NDArray[np.float32]:
    out = np.full((int(places[-1]) + 1 if len(places) else 0, 3), np.nan, np.float32)
    out[places] = values
    return out


def ceiling(values: Floats) -> float:
    """The range that a signal ran into: a highest value that it holds to the last digit and comes to in a leap.

    A smooth peak in coarse counts holds its highest value too, but comes to it by single counts.
    """
    size = np.abs(values)
    top = float(np.nanmax(size)) if np.isfinite(values).any() else 0.0
    if top <= 0.0:
        return float("inf")
    steps = np.abs(np.diff(values, axis=0))
    count = float(np.min(steps, where=steps > 0.0, initial=top))
    held = size >= top * (1.0 - 1e-9)
    leaps = held[1:-1] & held[2:] & (top - size[:-2] > LEAP_COUNTS * count)
    return top if int((held[1:] & held[:-1]).sum()) >= HELD_PAIRS and leaps.any() else float("inf")
