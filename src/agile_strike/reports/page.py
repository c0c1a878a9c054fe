"""What a report is made of, before it is drawn on paper."""

from base64 import b64encode
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class Plot:
    """A drawing with what it shows in words, for who can't see it too."""

    title: str
    caption: str
    svg: str
    told: str  #: instead of the drawing

    @property
    def data(self) -> str:
        """The drawing as an address that holds it."""
        return f"data:image/svg+xml;base64,{b64encode(self.svg.encode()).decode()}"


@dataclass(frozen=True, slots=True)
class Rows:
    title: str
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    note: str = ""


@dataclass(frozen=True, slots=True)
class Point:
    lead: str
    text: str


@dataclass(frozen=True, slots=True)
class Points:
    title: str
    points: tuple[Point, ...]


Part = Plot | Rows | Points


@dataclass(frozen=True, slots=True, kw_only=True)
class Page:
    """One report."""

    title: str
    about: str  #: who and when, in a line
    answer: str  #: what it comes to, in a sentence or two
    parts: list[Part] = field(default_factory=list)
    foot: str = ""
