"""Reading a Motion-BIDS data set: sidecars and channels checked, units converted, samples put on even grids."""

import datetime as dt
import json
import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile, ImpossibleBag
from agile_strike.core.recording import UNITS, Event, Participant, Recording, UnitSignal
from agile_strike.core.target import DEFAULT_CHAIN_M, GRAVITY_M_S2, Bag
from agile_strike.formats.tables import MISSING, read_samples

NAME = re.compile(
    r"sub-(?P<sub>[A-Za-z0-9]+)(?:_ses-(?P<ses>[A-Za-z0-9]+))?_task-(?P<task>[A-Za-z0-9]+)"
    r"(?:_acq-[A-Za-z0-9]+)?_tracksys-(?P<unit>[A-Za-z0-9]+)(?:_run-(?P<run>[0-9]+))?_motion\.tsv"
)
UNIT_FACTORS = {
    "ACCEL": {"m/s^2": 1.0, "g": GRAVITY_M_S2},
    "GYRO": {"rad/s": 1.0, "deg/s": np.pi / 180.0},
    "LATENCY": {"s": 1.0, "ms": 1e-3},
    "MISC": {"N": 1.0},
}
LATENCY_JITTER_SAMPLES = 0.25  # beyond this the grid is laid by interpolation
GAP_SAMPLES = 1.5
MOST_PAUSE_SHARE, MOST_PAUSE_S = 1.0, 60.0  # of a recording that may be missing: more is another recording
LONGEST_LABEL = 60  # of a participant, session, task or run: file systems and people's patience end near it
LONGEST_TEXT = 500  # of what an event says
FULL_SCALES = {"AccelFullScale": (5.0, 100_000.0), "GyroFullScale": (0.5, 500.0)}  # of any unit on sale, and beyond
FARTHEST_S = 10.0 * 86_400.0  # from a recording's start, of anything that was planned or said in it
FIRST_YEAR, LAST_YEAR = 1990, 2200  # of an acq_time: no unit is older, no calendar ends
MASS_KG, HEIGHT_M, AGE = (10.0, 400.0), (0.3, 2.6), (0.0, 120.0)


@dataclass(frozen=True, slots=True)
class RunFiles:
    """The files of one recording: every unit's samples of one participant, session, task and run."""

    participant: str
    session: str
    task: str
    run: str
    motion: dict[str, Path]

    @property
    def events(self) -> Path:
        one = next(iter(self.motion.values()))
        return one.with_name(re.sub(r"_tracksys-[A-Za-z0-9]+", "", one.name).replace("_motion.tsv", "_events.tsv"))


def runs(root: Path) -> list[RunFiles]:
    """All recordings of a data set, in order of name. Raises BadFile if there is none."""
    read_json(root / "dataset_description.json", root)
    found: dict[tuple[str, str, str, str], dict[str, Path]] = {}
    for path in sorted(root.rglob("*_motion.tsv")):
        if match := NAME.fullmatch(path.name):
            _labels_fit(path, root, match)
            key = (match["sub"], match["ses"] or "", match["task"], match["run"] or "")
            found.setdefault(key, {})[match["unit"]] = path
    if not found:
        raise BadFile(root.name, "the data set holds no _motion.tsv file", "Bring a data set with motion recordings.")
    return [RunFiles(*key, motion=units) for key, units in found.items()]


def _labels_fit(path: Path, root: Path, match: re.Match[str]) -> None:
    for part, label in match.groupdict().items():
        if label and len(label) > LONGEST_LABEL:
            raise BadFile(
                shown(path, root)[:80],
                f"the {part} label has {len(label)} letters",
                f"Give labels of at most {LONGEST_LABEL} letters and digits.",
            )


def read_all(root: Path) -> Iterator[Recording]:
    """Every recording of the data set, one at a time."""
    people = read_participants(root)
    for files in runs(root):
        yield read_run(root, files, people)


def read_run(root: Path, files: RunFiles, people: dict[str, Participant]) -> Recording:
    units: dict[str, UnitSignal] = {}
    bag: Bag | None = None
    for unit, path in files.motion.items():
        sidecar_path = path.with_suffix(".json")
        if not sidecar_path.is_file():
            raise BadFile(shown(path, root), f"its sidecar {sidecar_path.name} is missing", "Bring the sidecar along.")
        sidecar = read_json(sidecar_path, root)
        units[unit] = read_unit(root, path, unit, sidecar)
        if unit == "bag" and "StrikeTarget" in sidecar:
            bag = read_bag(sidecar["StrikeTarget"], shown(sidecar_path, root))
    person = people.get(files.participant, Participant(files.participant))
    acquired = _acquired(root, files)
    return Recording(
        person,
        files.session,
        files.task,
        files.run,
        bag,
        _started(units, acquired),
        read_events(files.events, root),
        acquired_at=acquired.get("bag") or next(iter(acquired.values()), None),
    )


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


def _number(sidecar: dict[str, Any], key: str, name: str, default: float | None = None) -> float:
    value = sidecar.get(key, default)
    if value is None:
        raise BadFile(name, f"{key} is missing", f"Add {key} to the sidecar.")
    if key not in sidecar and default is not None:
        return default
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) < 1e300:
        raise BadFile(name, f"{key} is “{str(value)[:40]}”, which is no number", f"Give {key} as a number.")
    return float(value)


def _full_scale(sidecar: dict[str, Any], key: str, name: str) -> float:
    """A unit's range; infinite where the sidecar does not say it."""
    value = _number(sidecar, key, name, float("inf"))
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
        return None if target.get(key) is None else _number(target, key, name)

    bands = target.get("level_bands_m")
    if bands is not None and not (
        isinstance(bands, list) and len(bands) == 2 and all(type(b) in (int, float) and abs(b) < 100 for b in bands)
    ):
        raise BadFile(name, "level_bands_m must be two heights below the top", "Give, say, [0.35, 0.75].")
    chain = optional("chain_m")
    try:
        return Bag(
            mount=target.get("mount", "missing"),
            mass_kg=_number(target, "mass_kg", name),
            length_m=_number(target, "length_m", name),
            diameter_m=_number(target, "diameter_m", name),
            sensor_below_top_m=_number(target, "sensor_below_top_m", name),
            mass_sd_kg=optional("mass_sd_kg"),
            pivot_to_top_m=_number(target, "pivot_to_top_m", name, 0.0),
            chain_m=DEFAULT_CHAIN_M if chain is None else chain,
            inertia_cm_kg_m2=optional("inertia_cm_kg_m2"),
            com_from_top_m=optional("com_below_top_m"),
            level_bands_m=(float(bands[0]), float(bands[1])) if bands else None,
            inertia_sd_kg_m2=optional("inertia_sd_kg_m2"),
            impulse_gain=_number(target, "impulse_gain", name, 1.0),
            impulse_gain_sd=_number(target, "impulse_gain_sd", name, 0.0),
        )
    except ImpossibleBag as error:
        raise BadFile(name, str(error).split(". ")[0], "Correct it and import again.") from error


def read_unit(root: Path, path: Path, unit: str, sidecar: dict[str, Any]) -> UnitSignal:
    """One unit's samples, in SI units and on an even grid of its own clock."""
    sidecar_name, name = shown(path.with_suffix(".json"), root), shown(path, root)
    rate = _number(sidecar, "SamplingFrequency", sidecar_name)
    if not 1.0 <= rate <= 50_000.0:
        raise BadFile(sidecar_name, f"SamplingFrequency is {rate:g} Hz", "Give the unit's rate, 1 to 50000 Hz.")
    names, factors = read_channels(root, path, sidecar)
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


LONGEST_WORDS = 60


def _words(sidecar: dict[str, Any], key: str) -> str:
    """A short text of the sidecar, without what can't be printed; numbers are read as they stand."""
    value = sidecar.get(key)
    if not isinstance(value, str | int) or isinstance(value, bool):
        return ""
    return " ".join("".join(c if c.isprintable() else " " for c in str(value)).split())[:LONGEST_WORDS]


def _battery(sidecar: dict[str, Any], name: str) -> float | None:
    if "BatteryPercent" not in sidecar:
        return None
    level = _number(sidecar, "BatteryPercent", name)
    if not 0.0 <= level <= 100.0:
        raise BadFile(name, f"BatteryPercent is {level:g}", "Give 0 to 100, or leave it out.")
    return float(level)


def _triple(values: dict[str, NDArray[np.floating]], kind: str, rows: int) -> NDArray[np.float32]:
    out = np.zeros((rows, 3), np.float32)
    for i, axis in enumerate("xyz"):
        if (key := f"{kind}.{axis}") in values:
            out[:, i] = values.pop(key)
    return out


def read_channels(root: Path, path: Path, sidecar: dict[str, Any]) -> tuple[list[str], dict[str, float]]:
    """Column names as `TYPE.component` and the factor that turns each into SI."""
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


def read_participants(root: Path) -> dict[str, Participant]:
    path = root / "participants.tsv"
    if not path.is_file():
        return {}
    people = {}
    for line, row in read_rows(path, root, ("participant_id",)):
        label = row["participant_id"].removeprefix("sub-")

        def number(key: str, limits: tuple[float, float], row: dict[str, str] = row, line: int = line) -> float | None:
            cell = row.get(key, MISSING)
            if cell == MISSING:
                return None
            try:
                value = float(cell)
            except ValueError as error:
                raise BadFile(
                    "participants.tsv",
                    f"{key} is “{cell[:40]}”, which is no number",
                    f"Write a number or {MISSING}.",
                    line,
                ) from error
            if not limits[0] <= value <= limits[1]:
                raise BadFile(
                    "participants.tsv",
                    f"{key} is {cell[:40]}, which is no person's",
                    f"Give {limits[0]:g} to {limits[1]:g}, or {MISSING}.",
                    line,
                )
            return value

        def word(key: str, row: dict[str, str] = row) -> str | None:
            cell = row.get(key, MISSING)
            return None if cell == MISSING else cell

        people[label] = Participant(
            label,
            number("mass_kg", MASS_KG),
            number("height_m", HEIGHT_M),
            number("age", AGE),
            word("stance"),
            word("handedness"),
        )
    return people


def read_events(path: Path, root: Path) -> tuple[Event, ...]:
    if not path.is_file():
        return ()
    name, events = shown(path, root), []
    for line, row in read_rows(path, root, ("onset", "duration")):
        try:
            onset = float(row["onset"])
            duration = 0.0 if row["duration"] == MISSING else float(row["duration"])
        except ValueError as error:
            raise BadFile(name, "onset or duration is no number", "Give seconds on the bag's clock.", line) from error
        if not (abs(onset) <= FARTHEST_S and 0.0 <= duration <= FARTHEST_S):  # nor is nan
            raise BadFile(name, "onset or duration is no time of a recording", "Give seconds on the bag's clock.", line)
        value = row.get("value", "")
        if len(value) > LONGEST_TEXT:
            raise BadFile(name, f"the value has {len(value)} letters", f"Write at most {LONGEST_TEXT}.", line)
        events.append(Event(onset, duration, row.get("trial_type", ""), "" if value == MISSING else value))
    return tuple(sorted(events, key=lambda e: e.onset_s))


def _acquired(root: Path, files: RunFiles) -> dict[str, str]:
    """Stated time of each unit's first sample, by unit, as written."""
    one = next(iter(files.motion.values()))
    by_name = {path.name: unit for unit, path in files.motion.items()}
    out = {}
    for table in one.parent.parent.glob("*_scans.tsv"):
        for line, row in read_rows(table, root, ("filename",)):
            unit, when = by_name.get(row["filename"].rsplit("/", 1)[-1]), row.get("acq_time", MISSING)
            if not unit or when == MISSING:
                continue
            at = stated_time(when)
            if at is None or not FIRST_YEAR <= at.year <= LAST_YEAR:
                raise BadFile(
                    shown(table, root),
                    f"acq_time “{when[:40]}” is no ISO 8601 time of a recording",
                    "Write it as 2026-11-24T18:30:00.",
                    line,
                )
            out[unit] = when
    return out


def _started(units: dict[str, UnitSignal], acquired: dict[str, str]) -> dict[str, UnitSignal]:
    """Units with their stated start against the bag's, where both are told."""
    times = {unit: at for unit, text in acquired.items() if (at := stated_time(text)) is not None}
    bag = times.get("bag")
    if bag is None:
        return units

    def after(at: dt.datetime) -> float:
        """Written times without a zone are of one clock on the wall, whatever this machine's own zone is."""
        if at.tzinfo is None or bag.tzinfo is None:
            return (at.replace(tzinfo=None) - bag.replace(tzinfo=None)).total_seconds()
        return (at - bag).total_seconds()

    return {n: u if n == "bag" or n not in times else replace(u, starts_s=after(times[n])) for n, u in units.items()}


def stated_time(text: str) -> dt.datetime | None:
    """An `acq_time` as written, with its zone or without one; None where it is no time."""
    try:
        return dt.datetime.fromisoformat(text)
    except ValueError:
        return None
