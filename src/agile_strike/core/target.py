"""The bag as a rigid body: mass, size, mount, and how well each is known.

Lengths are measured down from the bag's top or up from its centre of mass; z is up along the bag's axis and x straight
out from the axis through the unit. Where no inertia was measured the body is a uniform solid cylinder.
"""

import math
from dataclasses import dataclass
from typing import Literal, get_args

from agile_strike.core.errors import ImpossibleBag

Mount = Literal["swivel", "fixed", "standing", "wall", "held"]
MOUNTS: tuple[Mount, ...] = get_args(Mount)
Filling = Literal["packed", "water"]
FILLINGS: tuple[Filling, ...] = get_args(Filling)

GRAVITY_M_S2 = 9.80665
DEFAULT_CHAIN_M = 0.5
MASS_SD_SHARE_UNSTATED = 0.02  # a bag weighed on a bathroom scale, straps and all
INERTIA_SD_SHARE_TIMED = 0.02  # timed free swing
INERTIA_SD_SHARE_CYLINDER = 0.08  # filling settles: real bags differ from a uniform cylinder by about this
#: of a bag's mass and inertia, where some of its filling moves by itself: a blow meets less than the scale does
LOOSE_SD_SHARE = 0.08
SENSOR_PLACE_SD_M = 0.005  # tape measure on a soft surface


@dataclass(frozen=True, slots=True)
class Bag:
    """One bag as it hung during a recording. All lengths in metres."""

    mount: Mount
    mass_kg: float
    length_m: float
    diameter_m: float
    sensor_below_top_m: float
    mass_sd_kg: float | None = None
    pivot_to_top_m: float = 0.0  #: fixed mount: pivot above the top
    chain_m: float = DEFAULT_CHAIN_M  #: swivel mount: anchor to the bag's top
    inertia_cm_kg_m2: float | None = None  #: about a horizontal axis through the centre of mass
    com_from_top_m: float | None = None
    level_bands_m: tuple[float, float] | None = None  #: below the top: where head ends, where body ends
    inertia_sd_kg_m2: float | None = None
    impulse_gain: float = 1.0  #: of a swung-ball check: true impulse over what mass and motion give
    impulse_gain_sd: float = 0.0
    filling: Filling = "packed"  #: packed cloth, sand or foam moves as one; water moves by itself

    def __post_init__(self) -> None:
        limits = {"mass_kg": (1.0, 400.0), "length_m": (0.15, 3.0), "diameter_m": (0.08, 1.5)}
        if self.mount not in MOUNTS:
            raise ImpossibleBag("mount", self.mount, f"one of {', '.join(MOUNTS)}")
        if self.filling not in FILLINGS:
            raise ImpossibleBag("filling", self.filling, f"one of {', '.join(FILLINGS)}")
        for name, (low, high) in limits.items():
            value = getattr(self, name)
            if not low <= value <= high:
                raise ImpossibleBag(name, value, f"between {low:g} and {high:g}")
        if not 0.0 <= self.sensor_below_top_m <= self.length_m:
            raise ImpossibleBag("sensor_below_top_m", self.sensor_below_top_m, "on the bag, 0 to its length")
        if not 0.0 <= self.pivot_to_top_m <= 5.0:
            raise ImpossibleBag("pivot_to_top_m", self.pivot_to_top_m, "between 0 and 5")
        if not 0.02 <= self.chain_m <= 10.0:
            raise ImpossibleBag("chain_m", self.chain_m, "between 0.02 and 10")
        if self.mass_sd_kg is not None and not 0.0 <= self.mass_sd_kg <= 0.5 * self.mass_kg:
            raise ImpossibleBag("mass_sd_kg", self.mass_sd_kg, "between 0 and half the mass")
        if self.com_from_top_m is not None and not 0.0 < self.com_from_top_m < self.length_m:
            raise ImpossibleBag("com_below_top_m", self.com_from_top_m, "inside the bag")
        if self.inertia_cm_kg_m2 is not None:
            largest = self.mass_kg * self.length_m**2 / 3.0
            if not 0.0 < self.inertia_cm_kg_m2 <= largest:
                raise ImpossibleBag("inertia_cm_kg_m2", self.inertia_cm_kg_m2, f"above 0 and at most {largest:.2f}")
        sd = self.inertia_sd_kg_m2
        if sd is not None and not 0.0 <= sd <= self.inertia_across_kg_m2:
            raise ImpossibleBag("inertia_sd_kg_m2", sd, "between 0 and the inertia itself")
        if not 0.0 <= self.impulse_gain_sd <= 0.3:
            raise ImpossibleBag("impulse_gain_sd", self.impulse_gain_sd, "between 0 and 0.3")
        if not 0.7 <= self.impulse_gain <= 1.3:
            raise ImpossibleBag("impulse_gain", self.impulse_gain, "between 0.7 and 1.3")
        if self.level_bands_m is not None and not 0.0 < self.level_bands_m[0] < self.level_bands_m[1] <= 10.0:
            raise ImpossibleBag("level_bands_m", self.level_bands_m, "two heights below the top, the upper first")

    @property
    def radius_m(self) -> float:
        return self.diameter_m / 2.0

    @property
    def com_below_top_m(self) -> float:
        return self.length_m / 2.0 if self.com_from_top_m is None else self.com_from_top_m

    @property
    def mass_doubt_kg(self) -> float:
        """Of the mass that a blow meets, which of a bag of water is not what the scale showed."""
        scale = MASS_SD_SHARE_UNSTATED * self.mass_kg if self.mass_sd_kg is None else self.mass_sd_kg
        return math.hypot(scale, self.loose_share * self.mass_kg)

    @property
    def loose_share(self) -> float:
        """How much lighter to a blow than to the scale a bag may be (sd): nothing in its free swing tells, a swung ball
        of known mass does."""
        return LOOSE_SD_SHARE if self.filling == "water" and self.impulse_gain_sd == 0.0 else 0.0

    @property
    def inertia_across_kg_m2(self) -> float:
        """About a horizontal axis through the centre of mass."""
        if self.inertia_cm_kg_m2 is not None:
            return self.inertia_cm_kg_m2
        return self.mass_kg * (3.0 * self.radius_m**2 + self.length_m**2) / 12.0

    @property
    def inertia_doubt_share(self) -> float:
        if self.inertia_cm_kg_m2 is None:
            known = INERTIA_SD_SHARE_CYLINDER
        elif self.inertia_sd_kg_m2 is not None:
            known = self.inertia_sd_kg_m2 / self.inertia_cm_kg_m2
        else:
            known = INERTIA_SD_SHARE_TIMED
        return math.hypot(known, self.loose_share)

    @property
    def inertia_axial_kg_m2(self) -> float:
        """About the bag's own axis."""
        return 0.5 * self.mass_kg * self.radius_m**2

    @property
    def sensor_above_com_m(self) -> float:
        return self.com_below_top_m - self.sensor_below_top_m

    @property
    def pivot_above_com_m(self) -> float:
        """Where the body turns: above the top (fixed) or at the foot (standing, negative)."""
        if self.mount == "standing":
            return self.com_below_top_m - self.length_m
        return self.com_below_top_m + self.pivot_to_top_m

    @property
    def bands_m(self) -> tuple[float, float]:
        return self.level_bands_m or (self.length_m / 3.0, self.length_m * 2.0 / 3.0)

    def level_at(self, below_top_m: float) -> str:
        head_ends, body_ends = self.bands_m
        return "head" if below_top_m < head_ends else "body" if below_top_m < body_ends else "low"

    def level_middle_m(self, level: str | None) -> tuple[float, float]:
        """Middle of a planned level below the top and a standard uncertainty (uniform over the band)."""
        head_ends, body_ends = self.bands_m
        edges = {"head": (0.0, head_ends), "body": (head_ends, body_ends), "low": (body_ends, self.length_m)}
        low, high = edges.get(level or "", (0.1 * self.length_m, 0.8 * self.length_m))
        return (low + high) / 2.0, (high - low) / 12.0**0.5
