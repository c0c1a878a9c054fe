"""What is found of a unit in a sheet, and what is asked of it."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from agile_strike.formats.foreign.clock import Telling
from agile_strike.formats.foreign.grid import Grid
from agile_strike.formats.foreign.physics import Shape
from agile_strike.formats.foreign.sheet import Sheet

Floats = NDArray[np.float64]


@dataclass(slots=True)
class Question:
    about: str
    text: str
    choices: list[str]


@dataclass(slots=True)
class Triple:
    """Three columns, or four of a quaternion: what they are said to be, and what they look like."""

    indices: list[int]
    said: str  #: quantity by its names; "" for none
    stem: str
    unit: tuple[str, str] | None
    weak: bool
    shape: Shape
    kind: str = ""  #: what it is taken for


@dataclass(slots=True)
class Unit:
    sheet: Sheet
    placement: str | None
    only: tuple[int, str] | None
    rows: NDArray[np.int64]
    stem: str  #: what is left of its columns' names without quantity, axis and unit of measure
    accel: Triple | None = None
    accel_factor: float = 1.0
    gravity: bool = True
    gyro: Triple | None = None
    gyro_factor: float = 1.0
    gyro_turn: list[tuple[int, float]] = field(default_factory=list)  #: order and signs of its axes, where they differ
    load: list[int] = field(default_factory=list)
    load_factor: float = 1.0
    telling: Telling | None = None
    grid: Grid | None = None
    begins_s: float = 0.0  #: after the earliest of all files, where clocks are shared
    serial: str | None = None
    questions: list[Question] = field(default_factory=list)
    objections: list[str] = field(default_factory=list)
    told: list[str] = field(default_factory=list)

    def ask(self, about: str, text: str, choices: list[str]) -> None:
        self.questions.append(Question(about, text, choices))


def values_of(sheet: Sheet, indices: list[int], rows: NDArray[np.int64]) -> Floats:
    return np.column_stack([np.asarray(sheet.columns[k].numbers)[rows] for k in indices])


def who_is(unit: Unit) -> str:
    part = (unit.only[1] if unit.only else "") or unit.stem
    return f"{unit.sheet.file}: {part}" if part else unit.sheet.file
