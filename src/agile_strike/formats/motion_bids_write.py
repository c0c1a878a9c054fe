"""Writing a Motion-BIDS data set that reads back to the same numbers and passes the official validator."""

import datetime as dt
import json
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import numpy as np

from agile_strike.core.recording import Participant, Recording, UnitSignal
from agile_strike.core.target import Bag
from agile_strike.formats.tables import MISSING

README = "Strikes on a bag, recorded by motion units. One tracksys is one unit; see each sidecar for the bag.\n"
WRITE_ROWS = 100_000
PARTICIPANT_COLUMNS = {
    "participant_id": {"Description": "Participant"},
    "mass_kg": {"Description": "Body mass", "Units": "kg"},
    "height_m": {"Description": "Body height", "Units": "m"},
    "age": {"Description": "Age", "Units": "year"},
    "stance": {"Description": "Stance", "Levels": {"orthodox": "left side leads", "southpaw": "right side leads"}},
    "handedness": {"Description": "Handedness", "Levels": {"left": "left", "right": "right", "both": "both"}},
}
CHANNELS = (("acc", "ACCEL", "m/s^2"), ("gyr", "GYRO", "rad/s"))


def write(root: Path, recordings: Iterable[Recording], name: str = "Agile Strike recordings") -> None:
    """Write recordings into the empty or new folder `root`."""
    root.mkdir(parents=True, exist_ok=True)
    _json(
        root / "dataset_description.json",
        {"Name": name, "BIDSVersion": "1.9.0", "DatasetType": "raw"},
    )
    (root / "README").write_text(README, encoding="utf-8")
    people: dict[str, Participant] = {}
    scans: dict[Path, list[tuple[str, str]]] = {}
    for recording in recordings:
        people[recording.participant.label] = recording.participant
        folder, rows = _write_run(root, recording)
        scans.setdefault(folder, []).extend(rows)
    _participants(root, people)
    for folder, rows in scans.items():
        stem = "_".join(p for p in folder.relative_to(root).parts)
        lines = ["filename\tacq_time", *("\t".join(row) for row in rows)]
        (folder / f"{stem}_scans.tsv").write_text("\n".join(lines) + "\n", encoding="utf-8")


def stem(recording: Recording, unit: str | None = None) -> str:
    """File name up to the suffix: `sub-01_ses-01_task-cross_tracksys-bag_run-01`."""
    parts = [f"sub-{recording.participant.label}"]
    if recording.session:
        parts.append(f"ses-{recording.session}")
    parts.append(f"task-{recording.task}")
    if unit:
        parts.append(f"tracksys-{unit}")
    if recording.run:
        parts.append(f"run-{recording.run}")
    return "_".join(parts)


def _json(path: Path, content: dict[str, Any]) -> None:
    path.write_text(json.dumps(content, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")


def _participants(root: Path, people: dict[str, Participant]) -> None:
    def cell(value: object) -> str:
        return MISSING if value is None else f"{value:g}" if isinstance(value, float) else str(value)

    lines = ["\t".join(PARTICIPANT_COLUMNS)]
    lines += [
        "\t".join([f"sub-{p.label}", *(cell(v) for v in (p.mass_kg, p.height_m, p.age, p.stance, p.handedness))])
        for _, p in sorted(people.items())
    ]
    (root / "participants.tsv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    _json(root / "participants.json", PARTICIPANT_COLUMNS)


def _write_run(root: Path, recording: Recording) -> tuple[Path, list[tuple[str, str]]]:
    folder = root / f"sub-{recording.participant.label}"
    if recording.session:
        folder /= f"ses-{recording.session}"
    motion = folder / "motion"
    motion.mkdir(parents=True, exist_ok=True)
    rows = []
    for unit in recording.units.values():
        base = stem(recording, unit.unit)
        _samples(motion / f"{base}_motion.tsv", unit)
        _json(motion / f"{base}_motion.json", sidecar(recording, unit))
        _channels(motion / f"{base}_channels.tsv", unit)
        rows.append((f"motion/{base}_motion.tsv", _starts(recording, unit)))
    if recording.events:
        _events(motion / f"{stem(recording)}_events.tsv", recording)
    return folder, rows


def _starts(recording: Recording, unit: UnitSignal) -> str:
    if not recording.acquired_at or not unit.starts_s:
        return recording.acquired_at or MISSING
    return (dt.datetime.fromisoformat(recording.acquired_at) + dt.timedelta(seconds=unit.starts_s)).isoformat()


def sidecar(recording: Recording, unit: UnitSignal) -> dict[str, Any]:
    loads = 2 if unit.sole_n is not None else 0 if unit.load_n is None else 1
    axes = 0 if unit.sole_n is not None else 3
    content: dict[str, Any] = {
        "TaskName": recording.task,
        "TaskDescription": "Strikes on a bag",
        "SamplingFrequency": unit.rate_hz,
        "TrackingSystemName": unit.unit,
        "RecordingType": "continuous",
        "RecordingDuration": round(unit.length_s, 3),
        "MotionChannelCount": 2 * axes + loads,
        "ACCELChannelCount": axes,
        "GYROChannelCount": axes,
        "MISCChannelCount": loads,
        "LATENCYChannelCount": 0,
        "MissingValues": MISSING,
        "TrackedPointsCount": 1,
    }
    limits = {"AccelFullScale": unit.accel_full_scale_m_s2, "GyroFullScale": unit.gyro_full_scale_rad_s}
    content.update({key: value for key, value in limits.items() if np.isfinite(value)})
    if unit.battery_pct is not None:
        content["BatteryPercent"] = unit.battery_pct
    named = {"DeviceSerialNumber": unit.serial, "ManufacturersModelName": unit.model_text}
    content.update({key: value for key, value in named.items() if value})
    if unit.unit == "bag" and recording.bag is not None:
        content["StrikeTarget"] = strike_target(recording.bag)
    return content


def strike_target(bag: Bag) -> dict[str, Any]:
    """The `StrikeTarget` of a bag; keys that are not known are left out."""
    content: dict[str, Any] = {
        "mount": bag.mount,
        "mass_kg": bag.mass_kg,
        "mass_sd_kg": bag.mass_sd_kg,
        "length_m": bag.length_m,
        "diameter_m": bag.diameter_m,
        "sensor_below_top_m": bag.sensor_below_top_m,
        "pivot_to_top_m": bag.pivot_to_top_m if bag.mount == "fixed" else None,
        "chain_m": bag.chain_m if bag.mount == "swivel" else None,
        "inertia_cm_kg_m2": bag.inertia_cm_kg_m2,
        "inertia_sd_kg_m2": bag.inertia_sd_kg_m2,
        "com_below_top_m": bag.com_from_top_m,
        "impulse_gain": bag.impulse_gain if bag.impulse_gain != 1.0 else None,
        "impulse_gain_sd": bag.impulse_gain_sd or None,
        "filling": bag.filling if bag.filling != "packed" else None,
        "level_bands_m": list(bag.level_bands_m) if bag.level_bands_m else None,
    }
    return {k: v for k, v in content.items() if v is not None}


def _channels(path: Path, unit: UnitSignal) -> None:
    lines = ["name\tcomponent\ttype\ttracked_point\tunits"]
    if unit.sole_n is not None:
        lines += [f"{part}\tn/a\tMISC\t{unit.unit}\tN" for part in ("heel", "forefoot")]
    else:
        lines += [
            f"{short}_{axis}\t{axis}\t{kind}\t{unit.unit}\t{units}" for short, kind, units in CHANNELS for axis in "xyz"
        ]
    if unit.load_n is not None:
        lines.append(f"force\tn/a\tMISC\t{unit.unit}\tN")
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")


def _samples(path: Path, unit: UnitSignal) -> None:
    """Nine significant digits: every float32 reads back as itself."""
    columns = [unit.accel_m_s2, unit.gyro_rad_s] + ([] if unit.load_n is None else [unit.load_n[:, None]])
    table = np.column_stack(columns) if unit.sole_n is None else unit.sole_n
    with path.open("w", encoding="ascii", newline="\n") as file:
        for first in range(0, len(table), WRITE_ROWS):
            part = table[first : first + WRITE_ROWS]
            lost = np.isnan(part).any()
            line = "\t".join(["%.9g"] * part.shape[1]) + "\n"
            text = (line * len(part)) % tuple(part.ravel().tolist())
            file.write(text.replace("nan", MISSING) if lost else text)


def _events(path: Path, recording: Recording) -> None:
    lines = ["onset\tduration\ttrial_type\tvalue"]
    lines += [f"{e.onset_s:.4f}\t{e.duration_s:.4f}\t{e.trial_type}\t{e.value or MISSING}" for e in recording.events]
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")
