"""What the columns of a foreign table are: which unit, which quantity, in which unit of measure."""

from dataclasses import dataclass, field, replace

import numpy as np

from agile_strike.core.errors import BadInput
from agile_strike.core.recording import UNITS
from agile_strike.core.target import GRAVITY_M_S2
from agile_strike.formats.loose_table import Layout

PLACES = tuple(u for u in UNITS if not u.endswith("sole"))
ACCEL_UNITS = {"m/s^2": 1.0, "g": GRAVITY_M_S2, "mg": GRAVITY_M_S2 / 1000.0}
GYRO_UNITS = {"rad/s": 1.0, "deg/s": np.pi / 180.0, "mdeg/s": np.pi / 180_000.0}
LOAD_UNITS = {"N": 1.0, "kgf": GRAVITY_M_S2, "lbf": 4.4482216}
SOLE_PLACES = ("leftsole", "rightsole")
TIME_UNITS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9}


@dataclass(slots=True)
class UnitMap:
    """One unit's columns; a minus before a name turns the axis round."""

    placement: str
    accel: list[str]
    gyro: list[str]
    accel_unit: str = "m/s^2"
    gyro_unit: str = "rad/s"
    accel_scale: float = 1.0  #: units of `accel_unit` a count
    gyro_scale: float = 1.0
    only: str = ""  #: where one column names the sensor of each row: its word for this unit
    load: list[str] = field(default_factory=list)  #: under a foot: heel and forefoot, or all of it; then no axes
    load_unit: str = "N"


@dataclass(slots=True)
class Mapping:
    units: list[UnitMap]
    time: str = ""  #: column; empty: none, the rate is given
    time_unit: str = "s"
    rate_hz: float | None = None
    sensor_column: str = ""


@dataclass(frozen=True, slots=True)
class Question:
    """What can't be known from the file, and which part of the mapping answers it."""

    about: str  #: `rate`, `time` or `columns` of the whole file; `placement`, `accel`, `gyro` or `load` of a unit
    unit: int | None  #: place of the unit in the mapping
    text: str

    @property
    def key(self) -> str:
        return self.about if self.unit is None else f"{self.about}:{self.unit}"


@dataclass(slots=True)
class Guess:
    mapping: Mapping
    questions: list[Question] = field(default_factory=list)
    told: list[str] = field(default_factory=list)  #: what was taken from physics rather than from the file's words

    def ask(self, about: str, unit: UnitMap | None, text: str) -> None:
        place = None if unit is None else next(i for i, u in enumerate(self.mapping.units) if u is unit)
        self.questions.append(Question(about, place, text))


#: fields of a mapping and of a unit's mapping by which a question about them is answered
ANSWERS = {
    "rate": ("rate_hz", "time"),
    "time": ("time", "time_unit", "rate_hz"),
    "columns": ("units",),
    "placement": ("placement",),
    "accel": ("accel_unit", "accel_scale", "accel"),
    "gyro": ("gyro_unit", "gyro_scale", "gyro"),
    "load": ("load_unit", "load"),
}


def still_open(questions: list[Question], was: Mapping, now: Mapping, answered: frozenset[str]) -> list[Question]:
    """Questions that a correction leaves open: neither said to be answered by `answered` keys, nor answered by a change
    of what they are about. Units that are gone take their questions along; the others keep their place in order."""
    places = _places(was.units, now.units)
    out = []
    for q in questions:
        before: Mapping | UnitMap = was
        after: Mapping | UnitMap = now
        if q.unit is not None:
            place = places[q.unit]
            if place is None:
                continue
            before, after, q = was.units[q.unit], now.units[place], replace(q, unit=place)
        said = any(getattr(before, f) != getattr(after, f) for f in ANSWERS[q.about]) or q.key in answered
        if not said or _still_empty(q.about, after):
            out.append(q)
    return out


def _still_empty(about: str, of: Mapping | UnitMap) -> bool:
    if isinstance(of, Mapping):
        return about == "rate" and not of.time and of.rate_hz is None
    return about == "placement" and not of.placement


def _places(was: list[UnitMap], now: list[UnitMap]) -> list[int | None]:
    """Where each unit is after a correction: by its place, or by its columns where some came or went."""
    if len(was) == len(now):
        return list(range(len(was)))
    own = [(u.accel, u.gyro, u.load, u.only) for u in now]
    return [own.index(k) if (k := (u.accel, u.gyro, u.load, u.only)) in own else None for u in was]


def layout_signature(layout: Layout) -> str:
    """What two files of one logger share: separator and names."""
    return f"{layout.separator}|{'|'.join(layout.names)}"


def factor(units: dict[str, float], name: str) -> float:
    """What to multiply by to get SI units."""
    if name not in units:
        raise BadInput(f"“{name}” is no unit that is known: choose one of {', '.join(units)}.")
    return units[name]
