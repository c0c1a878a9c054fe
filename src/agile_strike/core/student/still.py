"""Still moments of a limb: where its unit neither turns nor is pushed, it hardly moves.

A zero-velocity update (Foxlin 2005; Skog and others 2010) whose doubt is what the unit's own signals leave open: who
moves a hand by some decimetres in half a second or two pushes it and turns the forearm about the elbow, and both are
felt. A velocity that neither turned nor pushed for a tenth of a second is that of a hand that pauses.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from agile_strike.core.student.grid import STEP_S

Floats = NDArray[np.float64]

WIDE_S = 0.1  # of a moment
EVERY_S = 0.05  # moments overlap: each counts for the half of what it says
SMOOTH_S = 0.012  # noise of a sensor says nothing
FLOOR_M_S = 0.02
PUSHED_S = 0.1  # a push of 1 m/s2 goes with so much velocity: movements last half a second to two
LEVER_M = 0.3  # from the elbow, or the shoulder, about which a limb turns
MOST_M_S = 0.3  # beyond, a moment says nothing
OVERLAP = 1.5


@dataclass(frozen=True, slots=True)
class Still:
    """Moments (m,) on the grid, and how still each strike's limb was there."""

    at: NDArray[np.int64]  #: (m,) places on the grid
    sd_m_s: Floats  #: (s, m) of a velocity of nought; infinite where that says nothing


def still(t: Floats, velocity: Floats, rate: Floats, gravity: Floats, usable: NDArray[np.bool_]) -> Still:
    """From velocities (s, n, 3) summed with gravity in them, rates (s, n - 1, 3) and specific force at rest (s, 3);
    `usable` (s, n) is where no contact was near."""
    pushed = np.diff(velocity, axis=1) / STEP_S - gravity[:, None, :]
    smooth = max(1, round(SMOOTH_S / STEP_S))
    wide = round(WIDE_S / STEP_S)
    pushed, rate = (uniform_filter1d(x, smooth, axis=1, mode="nearest") for x in (pushed, rate))
    half = wide // 2
    at = np.arange(half, len(t) - 1 - half, round(EVERY_S / STEP_S))
    sd = still_sd(pushed, rate, wide)[:, at]
    free = np.stack([usable[:, k - half : k + half + 1].all(axis=1) for k in at], axis=1)
    return Still(at, np.where(free & (sd < MOST_M_S), OVERLAP * sd, np.inf))


def still_sd(pushed: Floats, rate: Floats, wide: int, pushed_s: float = PUSHED_S, lever_m: float = LEVER_M) -> Floats:
    """Doubt (..., n) of a velocity of nought, m/s, from accelerations and rates (..., n, 3) over `wide` samples."""
    push, turn = (uniform_filter1d((x**2).sum(axis=-1), wide, axis=-1, mode="nearest") for x in (pushed, rate))
    return np.asarray(np.sqrt(FLOOR_M_S**2 + pushed_s**2 * push + lever_m**2 * turn))
