"""What the columns of a foreign table are: which unit, which quantity, in which unit of measure."""

from dataclasses import dataclass, field

import numpy as np

from agile_strike.core.bag import GRAVITY_M_S2
from agile_strike.core.errors import BadInput
from agile_strike.core.recording import UNITS
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


@dataclass(slots=True)
class Guess:
    mapping: Mapping
    questions: list[str] = field(default_factory=list)  #: what can't be known from the file
    told: list[str] = field(default_factory=list)  #: what was taken from physics rather than from the file's words


def layout_signature(layout: Layout) -> str:
    """What two files of one logger share: separator and names."""
    return f"{layout.separator}|{'|'.join(layout.names)}"


def factor(units: dict[str, float], name: str) -> float:
    """What to multiply by to get SI units."""
    if name not in units:
        raise BadInput(f"“{name}” is no unit that is known: choose one of {', '.join(units)}.")
    return units[name]
