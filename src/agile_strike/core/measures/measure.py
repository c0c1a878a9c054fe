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
    noun: str = ""  #: as it stands in a sentence, where its label can't

    @property
    def spoken_unit(self) -> str:
        """The unit as a sentence has it."""
        return self.unit.replace("deg", "°")

    def told(self, value: float) -> str:
        """A value as a sentence has it."""
        figure = f"{abs(value):.{self.decimals}f}"
        minus = "−" if value < 0.0 and float(figure) else ""
        return f"{minus}{figure} {self.spoken_unit}".rstrip()

    @property
    def in_a_sentence(self) -> str:
        return self.noun or self.label[:1].lower() + self.label[1:]

    @property
    def directions(self) -> tuple[str, str]:
        """What a sentence calls a higher and a lower value: time is longer or shorter, all else is more or less."""
        if self.name.endswith("_before_ms"):
            return "earlier", "later"
        return ("longer", "shorter") if self.unit == "ms" else ("more", "less")
