"""Foreign tables as a data set: what the inference found, with the answers to what it asked."""

import datetime as dt
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile, BadInput
from agile_strike.core.recording import UNITS, Participant, Recording, UnitSignal
from agile_strike.core.target import Bag
from agile_strike.formats.foreign import words as w
from agile_strike.formats.foreign.document import document, units_in
from agile_strike.formats.foreign.found import Unit
from agile_strike.formats.foreign.timing import retimed
from agile_strike.formats.mapped import ceiling
from agile_strike.formats.motion_bids_unit import read_bag
from agile_strike.formats.motion_bids_write import write

Floats = NDArray[np.float64]
OTHER_WAY = "the other way round"
AS_NAMED = "as named"


def recording_of(files: list[tuple[Path, str]], answers: dict[str, Any], bag: Bag | None) -> Recording:
    """One recording of all units. Raises BadInput for a question that is open, BadFile for what can't be read."""
    units = units_in(files)
    asked = document(units)
    for question in asked["questions"]:
        if question["id"] not in answers:
            raise BadInput(
                f'{question["id"]}: {question["text"]} Answer it with --answers, as {{"{question["id"]}": …}}.'
            )
    for question in asked["questions"]:
        _answer(units[question["unit"]], question, answers[question["id"]])
    signals: dict[str, UnitSignal] = {}
    for unit in units:
        place = unit.placement or ""
        if place not in UNITS:
            raise BadInput(
                f"{unit.sheet.file}: “{place[:40]}” is no place of a unit: choose one of {', '.join(UNITS)}."
            )
        if place in signals:
            raise BadInput(f"{unit.sheet.file}: another unit is at {place} already. Give each one place.")
        signals[place] = _signal(unit)
    if "bag" in signals and bag is None:
        raise BadInput("A bag was struck: say which with --bag, a JSON of its mount, mass and lengths.")
    base_s = next((u.begins_s for u in units if u.placement == "bag"), min(u.begins_s for u in units))
    signals = {p: replace(s, starts_s=(s.starts_s or 0.0) - base_s) for p, s in signals.items()}
    began = asked["began"]
    when = dt.datetime.fromisoformat(began) + dt.timedelta(seconds=base_s) if began else None
    return Recording(
        Participant("01", None, None, None, None),
        when.strftime("%Y%m%d%H%M") if when else "01",
        "mixed",
        "01",
        bag if "bag" in signals else None,
        signals,
        acquired_at=when.isoformat() if when else None,
    )


def written(files: list[tuple[Path, str]], folder: Path, answers: dict[str, Any], bag: dict[str, Any] | None) -> None:
    """Write the data set into a folder that is not there yet."""
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise BadInput(f"{folder}: it is there already. Choose a folder that is new or empty.")
    write(folder, [recording_of(files, answers, None if bag is None else read_bag(bag, "--bag"))])


def _answer(unit: Unit, question: dict[str, Any], said: Any) -> None:
    """What an answer changes. Raises BadInput for one that answers nothing."""
    about, word = question["about"], str(said).strip()
    refuse = BadInput(f"{question['id']}: “{word[:60]}” is no answer. Choose one of {', '.join(question['choices'])}.")
    if about == "placement":
        unit.placement = word
    elif about == "accel.unit":
        assert unit.accel is not None
        unit.accel_factor = _factor(w.ACCEL_FACTORS, word, unit.accel_factor, refuse)
    elif about == "gyro.unit":
        unit.gyro_factor = _factor(w.GYRO_FACTORS, word, unit.gyro_factor, refuse, w.GYRO_FACTORS["deg/s"])
    elif about == "load":
        unit.load_factor = _factor(w.LOAD_FACTORS, word, unit.load_factor, refuse)
    elif about == "rate":
        try:
            rate = float(word)
        except ValueError:
            raise refuse from None
        retimed(unit, rate, None)
    elif about == "time":
        if word not in (*w.TIME_FACTORS, "counter", "epoch_s", "epoch_ms"):
            raise refuse
        retimed(unit, None, word)
    elif about == "accel.gravity":
        unit.gravity = word in ("in it", "true", "True", "yes")
    elif about == "accel.columns":
        if word == AS_NAMED:
            unit.accel, unit.gyro = unit.gyro, unit.accel
        elif word != OTHER_WAY:
            raise refuse
    elif about == "clock":
        _pause(unit, word, refuse)
    elif about == "gyro.columns":
        if word not in (AS_NAMED, OTHER_WAY):
            _turned(unit, word, refuse)


def _factor(
    known: dict[str, float], word: str, so_far: float, refuse: BadInput, of_counts: float | None = None
) -> float:
    if word in known:
        return known[word]
    if word == "counts" or " a g" in word:
        return so_far
    number = word.split(" ")[0]
    try:
        value = float(number)
    except ValueError:
        raise refuse from None
    if value <= 0 or not np.isfinite(value):
        raise refuse
    return of_counts / value if of_counts is not None and "a deg/s" in word else value


def _pause(unit: Unit, word: str, refuse: BadInput) -> None:
    """How many seconds were missing where a clock began anew."""
    try:
        seconds = float(word.split(" ")[0])
    except ValueError:
        raise refuse from None
    if unit.grid is None or seconds < 0:
        raise refuse
    for line in unit.grid.restarts:
        row = int(np.flatnonzero(unit.sheet.lines[unit.grid.rows] == line)[0])
        unit.grid.places[row:] += round(seconds * unit.grid.rate_hz)


def _turned(unit: Unit, word: str, refuse: BadInput) -> None:
    """Turn rates in another order, or with other signs, as `-y, x, z`."""
    parts = [p.strip() for p in word.split(",")]
    if len(parts) != 3 or any(p.lstrip("-") not in ("x", "y", "z") for p in parts) or unit.gyro is None:
        raise refuse
    unit.gyro_turn = [("xyz".index(p.lstrip("-")), -1.0 if p.startswith("-") else 1.0) for p in parts]


def _signal(unit: Unit) -> UnitSignal:
    sheet, grid = unit.sheet, unit.grid
    if grid is None:
        raise BadFile(
            sheet.file, "nothing tells how many samples a second it holds", "Answer the question about its rate."
        )
    n = int(grid.places[-1]) + 1

    def even(indices: list[int], factor: float) -> NDArray[np.float32]:
        out = np.full((n, len(indices)), np.nan, np.float32)
        out[grid.places] = np.column_stack([np.asarray(sheet.columns[k].numbers)[grid.rows] for k in indices]) * factor
        return out

    if unit.load:
        loads = even(unit.load, unit.load_factor)
        if loads.shape[1] == 1:
            loads = np.column_stack([np.full(n, np.nan, np.float32), loads])
        still = np.zeros((n, 3), np.float32)
        return UnitSignal(str(unit.placement), grid.rate_hz, still, still, sole_n=loads, starts_s=unit.begins_s)
    if not unit.gravity:
        raise BadFile(
            sheet.file,
            "gravity was taken off its acceleration",
            "Export it with gravity: without it no unit is turned upright.",
        )
    assert unit.accel is not None
    accel = even(unit.accel.indices, unit.accel_factor)
    gyro = np.full((n, 3), np.nan, np.float32)
    if unit.gyro is not None:
        gyro = even(unit.gyro.indices, unit.gyro_factor)
        if unit.gyro_turn:
            gyro = np.column_stack([gyro[:, k] * sign for k, sign in unit.gyro_turn]).astype(np.float32)
    ranges = ceiling(accel.astype(np.float64)), ceiling(gyro.astype(np.float64))
    return UnitSignal(
        str(unit.placement), grid.rate_hz, accel, gyro, *ranges, starts_s=unit.begins_s, serial=unit.serial or ""
    )
