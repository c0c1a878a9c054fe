"""One unit of a Motion-BIDS data set: its sidecar and channels checked, units converted, samples on an even grid."""

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile, ImpossibleBag
from agile_strike.core.recording import UNITS, UnitSignal
from agile_strike.core.target import DEFAULT_CHAIN_M, GRAVITY_M_S2, Bag
from agile_strike.formats.motion_bids_files import number, read_rows, shown
from agile_strike.formats.tables import read_samples

UNIT_FACTORS = {
    "ACCEL": {"m/s^2": 1.0, "g": GRAVITY_M_S2},
    "GYRO": {"rad/s": 1.0, "deg/s": np.pi / 180.0},
    "LATENCY": {"s": 1.0, "ms": 1e-3},
    "MISC": {"N": 1.0},
}
LATENCY_JITTER_SAMPLES = 0.25  # beyond this the grid is laid by interpolation
GAP_SAMPLES = 1.5
MOST_PAUSE_SHARE, MOST_PAUSE_S = 1.0, 60.0  # of a recording that may be missing: more is another recording
FULL_SCALES = {"AccelFullScale": (5.0, 100_000.0), "GyroFullScale": (0.5, 500.0)}  # of any unit on sale, and beyond
LONGEST_WORDS = 60


def _full_scale(sidecar: dict[str, Any], key: str, name: str) -> float:
    """A unit's range; infinite where the sidecar does not say it."""
    value = number(sidecar, key, name, float("inf"))
    low, high = FULL_SCALES[key]
    if key in sidecar and not low <= value <= high:
        what = "m/s2" if key.startswith("Accel") else "rad/s"
        raise BadFile(
            name,
            f"{key} is {value:g} {what}, which is no unit's range",
            f"Give {low:g} to {high:g}, or leave it out.",
        )
    return value


def read_bag(target: object, name: str) -> Bag:
    """The bag of a `StrikeTarget`; lengths in metres, masses in kilograms."""
    if not isinstance(target, dict):
        raise BadFile(name, "StrikeTarget must be an object", "See the recording format for its keys.")

    def optional(key: str) -> float | None:
        return None if target.get(key) is None else number(target, key, name)

    bands = target.get("level_bands_m")
    if bands is not None and not (
        isinstance(bands, list) and len(bands) == 2 and all(type(b) in (int, float) and abs(b) < 100 for b in bands)
    ):
        raise BadFile(name, "level_bands_m must be two heights below the top", "Give, say, [0.35, 0.75].")
    chain = optional("chain_m")
    try:
        return Bag(
            mount=target.get("mount", "missing"),
            mass_kg=number(target, "mass_kg", name),
            length_m=number(target, "length_m", name),
            diameter_m=number(target, "diameter_m", name),
            sensor_below_top_m=number(target, "sensor_below_top_m", name),
            mass_sd_kg=optional("mass_sd_kg"),
            pivot_to_top_m=number(target, "pivot_to_top_m", name, 0.0),
            chain_m=DEFAULT_CHAIN_M if chain is None else chain,
            inertia_cm_kg_m2=optional("inertia_cm_kg_m2"),
            com_from_top_m=optional("com_below_top_m"),
            level_bands_m=(float(bands[0]), float(bands[1])) if bands else None,
            inertia_sd_kg_m2=optional("inertia_sd_kg_m2"),
            impulse_gain=number(target, "impulse_gain", name, 1.0),
            impulse_gain_sd=number(target, "impulse_gain_sd", name, 0.0),
            filling=target.get("filling", "packed"),
        )
    except ImpossibleBag as error:
        raise BadFile(name, str(error).split(". ")[0], "Correct it and import again.") from error


def points_of(root: Path, path: Path) -> list[str]:
    """Tracked points of a file that have acceleration or turn rate, in order: several are several units."""
    table = path.with_name(path.name.replace("_motion.tsv", "_channels.tsv"))
    if not table.is_file():
        return []
    rows = [row for _, row in read_rows(table, root, ("type",)) if row["type"].upper() in ("ACCEL", "GYRO")]
    return [p for p in dict.fromkeys(row.get("tracked_point", "") for row in rows) if p and p.lower() != "n/a"]


def read_unit(root: Path, path: Path, unit: str, sidecar: dict[str, Any], point: str = "") -> UnitSignal:
    """One unit's samples, in SI units and on an even grid of its own clock; of a file that holds several tracked points
    those of one."""
    sidecar_name, name = shown(path.with_suffix(".json"), root), shown(path, root)
    rate = number(sidecar, "SamplingFrequency", sidecar_name)
    if not 1.0 <= rate <= 50_000.0:
        raise BadFile(sidecar_name, f"SamplingFrequency is {rate:g} Hz", "Give the unit's rate, 1 to 50000 Hz.")
    names, factors = read_channels(root, path, sidecar, point)
    latency = [n for n in names if n.startswith("LATENCY")]
    columns = read_samples(path, name, names, frozenset(latency))
    for column, values in list(columns.values.items()):
        if factors[column] != 1.0:
            columns.values[column] = values * np.asarray(factors[column], values.dtype)
    if columns.rows < 2:
        raise BadFile(name, "there are fewer than two samples", "Export the recording again.")
    if not any(np.isfinite(v).any() for n, v in columns.values.items() if n not in latency):
        raise BadFile(name, "every sample is missing", "Check the unit and export the recording again.")
    accel = _triple(columns.values, "ACCEL", columns.rows)
    gyro = _triple(columns.values, "GYRO", columns.rows)
    load = next((columns.values[n] for n in names if n.startswith("MISC") and n.endswith("force")), None)
    sole = None
    if unit.endswith("sole"):
        sole = np.column_stack([columns.values[f"MISC.{part}"] for part in ("heel", "forefoot")]).astype(np.float32)
    if latency:
        rate, (accel, gyro, load, sole) = _even_grid(columns.values[latency[0]], name, rate, (accel, gyro, load, sole))
    return UnitSignal(
        unit,
        rate,
        accel,
        gyro,
        _full_scale(sidecar, "AccelFullScale", sidecar_name),
        _full_scale(sidecar, "GyroFullScale", sidecar_name),
        load,
        sole,
        battery_pct=_battery(sidecar, sidecar_name),
        serial=_words(sidecar, "DeviceSerialNumber"),
        model_text=_words(sidecar, "ManufacturersModelName"),
    )


def _words(sidecar: dict[str, Any], key: str) -> str:
    """A short text of the sidecar, without what can't be printed; numbers are read as they stand."""
    value = sidecar.get(key)
    if not isinstance(value, str | int) or isinstance(value, bool):
        return ""
    return " ".join("".join(c if c.isprintable() else " " for c in str(value)).split())[:LONGEST_WORDS]


def _battery(sidecar: dict[str, Any], name: str) -> float | None:
    if "BatteryPercent" not in sidecar:
        return None
    level = number(sidecar, "BatteryPercent", name)
    if not 0.0 <= level <= 100.0:
        raise BadFile(name, f"BatteryPercent is {level:g}", "Give 0 to 100, or leave it out.")
    return float(level)


def _triple(values: dict[str, NDArray[np.floating]], kind: str, rows: int) -> NDArray[np.float32]:
    out = np.zeros((rows, 3), np.float32)
    for i, axis in enumerate("xyz"):
        if (key := f"{kind}.{axis}") in values:
            out[:, i] = values.pop(key)
    return out


def read_channels(
    root: Path, path: Path, sidecar: dict[str, Any], point: str = ""
) -> tuple[list[str], dict[str, float]]:
    """Column names as `TYPE.component` and the factor that turns each into SI; channels of another tracked point than
    the one that is asked for are named so that nobody takes them for its own."""
    table = path.with_name(path.name.replace("_motion.tsv", "_channels.tsv"))
    name = shown(table, root)
    if not table.is_file():
        raise BadFile(shown(path, root), f"its channel table {table.name} is missing", "Bring the channel table along.")
    rows = read_rows(table, root, ("name", "component", "type", "units"))
    counted = sidecar.get("MotionChannelCount")
    if counted is not None and counted != len(rows):
        raise BadFile(
            name, f"{len(rows)} channels where the sidecar's MotionChannelCount says {counted}", "Make the two agree."
        )
    names, factors = [], {}
    for line, row in rows:
        kind = row["type"].upper()
        part = row["component"].lower() if kind in ("ACCEL", "GYRO") else row["name"].lower()
        column = f"{kind}.{part}"
        if point and kind != "LATENCY" and row.get("tracked_point", "") != point:
            column = f"of another: {line} {column}"
            factors[column] = 1.0
            names.append(column)
            continue
        if column in factors:
            raise BadFile(name, f"channel {row['name']} is listed twice as {column}", "List each channel once.", line)
        known = UNIT_FACTORS.get(kind)
        if known is None:
            factors[column] = 1.0  # a kind of channel that no measure needs
        elif row["units"] not in known:
            raise BadFile(
                name,
                f"units “{row['units']}” of channel {row['name']} are not known for {kind}",
                f"Give one of {', '.join(known)}.",
                line,
            )
        else:
            factors[column] = float(known[row["units"]])
        names.append(column)
    missing = [f"{k}.{a}" for k in ("ACCEL", "GYRO") for a in "xyz" if f"{k}.{a}" not in factors]
    soles = [f"MISC.{part}" for part in ("heel", "forefoot") if f"MISC.{part}" not in factors]
    if "sole_" in path.name and soles:
        raise BadFile(name, f"the sole unit has no channel {soles[0]}", "A sole needs MISC channels heel and forefoot.")
    worn = any(f"_tracksys-{u}_" in path.name for u in UNITS if not u.endswith("sole") and u != "bag")
    if worn and missing:
        raise BadFile(name, f"the unit has no channel {missing[0]}", "A worn unit needs ACCEL and GYRO in x, y and z.")
    if "_tracksys-bag_" in path.name and missing and not any(n.startswith("MISC") for n in names):
        raise BadFile(
            name, f"the bag unit has no channel {missing[0]}", "A bag unit needs ACCEL and GYRO in x, y and z."
        )
    return names, factors


def _even_grid(
    latency: NDArray[np.floating],
    name: str,
    nominal_hz: float,
    signals: tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.floating] | None, NDArray[np.float32] | None],
) -> tuple[
    float, tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32] | None, NDArray[np.float32] | None]
]:
    """Lay samples with stated times on an even grid; where rows are missing the grid holds NaN."""
    if not np.isfinite(latency).all():
        line = int(np.flatnonzero(~np.isfinite(latency))[0]) + 1
        raise BadFile(name, "a LATENCY value is missing", "Every row needs its time, or leave LATENCY out.", line)
    steps = np.diff(latency)
    if (steps <= 0).any():
        line = int(np.flatnonzero(steps <= 0)[0]) + 2
        raise BadFile(
            name,
            f"the clock runs back: LATENCY goes from {latency[line - 2]:g} s to {latency[line - 1]:g} s",
            "Export the rows in order of time.",
            line,
        )
    usual = float(np.median(steps))
    rate = 1.0 / float(steps[steps < GAP_SAMPLES * usual].mean())
    if not 0.5 * nominal_hz <= rate <= 2.0 * nominal_hz:
        raise BadFile(
            name,
            f"LATENCY gives {rate:.0f} samples a second where SamplingFrequency says {nominal_hz:.0f}",
            "Check the units of LATENCY and the rate.",
        )
    place = (latency - latency[0]) * rate
    nearest = np.rint(place).astype(np.int64)
    size = int(nearest[-1]) + 1
    if size > (1.0 + MOST_PAUSE_SHARE) * len(latency) + MOST_PAUSE_S * rate:
        at = int(np.argmax(steps))
        raise BadFile(
            name,
            f"the clock leaps by {steps[at]:.0f} s here, more than was recorded",
            "Split the recording there into two runs.",
            at + 2,
        )
    if (np.diff(nearest) > 0).all() and np.abs(place - nearest).max() < LATENCY_JITTER_SAMPLES:
        if size == len(latency):
            accel, gyro, load, sole = signals
            return rate, (accel, gyro, None if load is None else load.astype(np.float32), sole)

        def spread(values: NDArray[np.floating]) -> NDArray[np.float32]:
            out = np.full((size, *values.shape[1:]), np.nan, np.float32)
            out[nearest] = values
            return out
    else:
        grid = np.arange(size)
        after = np.clip(np.searchsorted(place, grid), 1, len(place) - 1)
        hole = (place[after] - place[after - 1]) > GAP_SAMPLES + 0.5

        def spread(values: NDArray[np.floating]) -> NDArray[np.float32]:
            flat = values.reshape(len(values), -1)
            out = np.column_stack([np.interp(grid, place, flat[:, i]) for i in range(flat.shape[1])])
            out[hole] = np.nan
            return out.reshape(size, *values.shape[1:]).astype(np.float32)

    accel, gyro, load, sole = signals
    return rate, (
        spread(accel),
        spread(gyro),
        None if load is None else spread(load),
        None if sole is None else spread(sole),
    )
