"""What the units of one evening delivered, on even grids and in SI units."""

from collections.abc import Collection
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.target import Bag

Samples = NDArray[np.float32]

CLIP_MARGIN = 0.005
UNITS = (
    "bag",
    "leftwrist",
    "rightwrist",
    "leftforearm",
    "rightforearm",
    "leftankle",
    "rightankle",
    "pelvis",
    "torso",
    "leftsole",
    "rightsole",
)


#: whose clock all else is told on, the first that is there
REFERENCES = ("bag", "rightwrist", "leftwrist", "rightforearm", "leftforearm", "rightankle", "leftankle")


@dataclass(frozen=True, slots=True)
class UnitSignal:
    """One unit's samples on an even grid of its own clock, from its first sample; NaN where none came."""

    unit: str
    rate_hz: float
    accel_m_s2: Samples  #: (n, 3) specific force
    gyro_rad_s: Samples  #: (n, 3) angular rate
    accel_full_scale_m_s2: float = np.inf
    gyro_full_scale_rad_s: float = np.inf
    load_n: Samples | None = None  #: (n,) a wall target's load cell
    sole_n: Samples | None = (
        None  #: (n, 2) load under heel and forefoot, newtons; a plate knows no heel: NaN, and all of it
    )
    starts_s: float | None = None  #: first sample after the reference's by the files' times, good to a second or three
    battery_pct: float | None = None  #: at the recording's start, where the unit says it
    first_sample: int = 0  #: of the evening, that the first one here is: of a piece cut out of it
    serial: str = ""  #: of the thing, whatever place it was worn at; empty where no file says it
    model_text: str = ""  #: what its maker calls it

    @property
    def length_s(self) -> float:
        return len(self.accel_m_s2) / self.rate_hz

    @property
    def begins_s(self) -> float:
        """The first sample here, on the unit's clock."""
        return self.first_sample / self.rate_hz

    @property
    def clips_at_m_s2(self) -> float:
        """A sample this near its full scale counts as clipped."""
        return (1.0 - CLIP_MARGIN) * self.accel_full_scale_m_s2

    @property
    def feels_turning(self) -> bool:
        """Whether the gyro says anything: one that was off, or left out of the file, says the same throughout."""
        if len(self.gyro_rad_s) == 0:
            return False
        few = self.gyro_rad_s[:: max(1, len(self.gyro_rad_s) // 1000)]  # of one that turns, a few samples say it
        if bool((np.fmax.reduce(few, axis=0) > np.fmin.reduce(few, axis=0)).any()):
            return True
        low, high = np.fmin.reduce(self.gyro_rad_s, axis=0), np.fmax.reduce(self.gyro_rad_s, axis=0)
        return bool((high > low).any())

    @property
    def under_foot_n(self) -> Samples:
        """(n,) all of the load under a foot, NaN where no sample came."""
        assert self.sole_n is not None
        whole_only = bool(np.isnan(self.sole_n[:, 0]).all())
        return self.sole_n[:, 1] if whole_only else self.sole_n.sum(axis=1)

    @property
    def kind(self) -> str:
        """The placement without its side: wrist, forearm, ankle, sole, pelvis, torso or bag."""
        return self.unit.removeprefix("left").removeprefix("right")

    @property
    def side(self) -> str:
        return "left" if self.unit.startswith("left") else "right" if self.unit.startswith("right") else ""


def reference_of(units: Collection[str]) -> str | None:
    """The unit whose clock is the reference; None where none of those is there that feel a strike."""
    return next((name for name in REFERENCES if name in units), None)


@dataclass(frozen=True, slots=True)
class Event:
    """Something planned or shown: a set, a cue, a round, stamps, a label. Seconds on the reference clock."""

    onset_s: float
    duration_s: float
    trial_type: str
    value: str

    @property
    def set_parts(self) -> tuple[str, str, dict[str, str]]:
        """A set's strike code, limb and `key=level` pairs; empty where the value does not say."""
        code, _, rest = self.value.partition(";")
        limb, _, pairs = rest.partition(";")
        levels = dict(p.split("=", 1) for p in pairs.split(",") if "=" in p)
        return code.strip(), limb.strip(), {k.strip(): v.strip() for k, v in levels.items()}


@dataclass(frozen=True, slots=True)
class Participant:
    label: str
    mass_kg: float | None = None
    height_m: float | None = None
    age: float | None = None
    stance: str | None = None
    handedness: str | None = None


@dataclass(frozen=True, slots=True)
class Recording:
    """One run of one participant: its units, the bag they struck, and what was planned."""

    participant: Participant
    session: str
    task: str
    run: str
    bag: Bag | None
    units: dict[str, UnitSignal]
    events: tuple[Event, ...] = ()
    acquired_at: str | None = None  #: ISO 8601 of the reference's first sample
    notes: tuple[str, ...] = field(default=())

    def set_at(self, seconds: float) -> Event | None:
        """The planned set that was running at a moment of the reference clock."""
        for event in self.events:
            if event.trial_type == "set" and event.onset_s <= seconds <= event.onset_s + event.duration_s:
                return event
        return None
