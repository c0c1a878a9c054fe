"""What a measure is: its name, unit, decimals, what it needs, and what it means."""

from dataclasses import dataclass
from typing import Literal

Better = Literal["more", "less", "neither"]


@dataclass(frozen=True, slots=True)
class Measure:
    """One measure of a strike."""

    name: str
    label: str  #: as a coach says it
    unit: str
    decimals: int
    needs: tuple[str, ...]  #: what it cannot do without: bag, limb, pelvis, torso, soles, ankle, body mass, cues
    better: Better
    meaning: str
    computed_from: str
    numeric: bool = True
