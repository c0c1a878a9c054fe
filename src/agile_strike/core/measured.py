"""A value and its doubt travel together."""

from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Measured:
    """A value and its standard uncertainty, in the same unit."""

    value: float
    sd: float


@dataclass(frozen=True, slots=True)
class MeasuredArray:
    """One measure over s strikes: values (s,) and sds (s,); NaN where it could not be had."""

    value: Floats
    sd: Floats

    def at(self, i: int) -> Measured | None:
        if not np.isfinite(self.value[i]) or not np.isfinite(self.sd[i]):
            return None
        return Measured(float(self.value[i]), float(self.sd[i]))

    def where(self, keep: NDArray[np.bool_]) -> Self:
        return type(self)(np.where(keep, self.value, np.nan), self.sd)
