"""A table as a file holds it, before anybody says what its columns mean."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(slots=True)
class Column:
    """One column: figures, or words."""

    name: str  #: as the file writes it; "" where it has none
    unit: str = ""  #: from a row of units under the names, or a metadata table
    device: str = ""  #: from a row of device names above the names, or the block it stands in
    numbers: Floats | None = None  #: (n,), NaN where blank or no figure
    words: list[str] | None = None  #: (n,) of a column that holds none
    strange: list[tuple[int, str]] = field(default_factory=list)  #: row and cell, of figures that are none: the first

    @property
    def words_or_none(self) -> Sequence[str]:
        return self.words or ()


@dataclass(slots=True)
class Sheet:
    file: str  #: as it was given; inside an archive `tables.zip/left.csv`
    columns: list[Column]
    lines: NDArray[np.int64]  #: (n,) of each row in the file, from 1
    above: list[str] = field(default_factory=list)  #: lines before the names
    told: list[str] = field(default_factory=list)  #: what was left out while reading

    @property
    def rows(self) -> int:
        return len(self.lines)
