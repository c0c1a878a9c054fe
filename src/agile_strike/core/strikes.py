"""A strike and what was measured of it; what was not, and why."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.measured import Measured

Floats = NDArray[np.float64]

BAG, MET, AIR = "bag", "met", "air"  #: what a strike landed on: our bag, something else, nothing
KINDS = (BAG, MET, AIR)
LIMBS = tuple(f"{side}_{part}" for side in ("left", "right") for part in ("hand", "elbow", "knee", "foot"))


@dataclass(frozen=True, slots=True)
class Lanes:
    """Curves (m,) of one strike from the floor up, by name; a lane whose unit is missing is not there."""

    curves: dict[str, Floats]


@dataclass(frozen=True, slots=True)
class Strike:
    """One contact, or full reach in the air: when, by which limb, what was measured, what is to be kept in mind."""

    contact_s: float
    limb: str
    measures: dict[str, Measured]
    level: str | None
    flags: tuple[str, ...]
    planned: str | None = None  #: value of the set that was running
    chain_order: str | None = None
    launch_s: float | None = None  #: from contact
    lanes: Lanes | None = None  #: curves from the floor up
    kind: str = BAG


@dataclass(frozen=True, slots=True)
class NotMeasured:
    measure: str
    why: str
    strike: int | None = None  #: index of the one strike, or None for the whole recording
