"""The grid of times round a strike's contact, the looks at the guard beside it, and a limb's other contacts near it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

STEP_S = 0.002
BEFORE_S, AFTER_S = 0.8, 1.1
BEFORE, AFTER = round(BEFORE_S / STEP_S), round(AFTER_S / STEP_S)
LOOK_S = 0.05  # between looks at the guard; its bounce is slower
LOOK_BEFORE_S, LOOK_AFTER_S = 2.2, 1.6
GUARD_FROM_S, GUARD_TO_S = 0.62, 0.65  # of a strike: earlier than its tell, later than its return
_FAR = np.arange(-LOOK_BEFORE_S, LOOK_AFTER_S + 1e-9, LOOK_S)
LOOKS_S: Floats = _FAR[(_FAR < -GUARD_FROM_S) | (_FAR > GUARD_TO_S)]  #: looks at the guard, from contact


@dataclass(frozen=True, slots=True)
class Neighbours:
    """Own contacts beside this one, seconds from it: (s,) each, infinite where there is none."""

    last_from_s: Floats
    last_to_s: Floats
    before_last_to_s: Floats
    next_from_s: Floats
    next_to_s: Floats

    def part(self, rows: slice | NDArray[np.int64]) -> "Neighbours":
        every = (self.last_from_s, self.last_to_s, self.before_last_to_s, self.next_from_s, self.next_to_s)
        return Neighbours(*(one[rows] for one in every))
