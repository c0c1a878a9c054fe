"""A worn unit's angle and velocity increments between any instants, from running integrals made once.

Between two samples the signal is a straight line, so its integral is a parabola. Samples that are missing are bridged
and remembered; what a limb's own speeding up lost at the accelerometer's limit is put back.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal
from agile_strike.core.student.unclip import Clipped, unclip

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

BRIDGED_SHARE = 0.04  # of samples: what a lossy link drops singly does no harm


@dataclass(frozen=True, slots=True)
class Integrals:
    """Of one unit; rates about body axes (gyro bias not yet taken off) and specific force."""

    rate_hz: float
    samples: NDArray[np.float32]  #: (n, 6) angular rate, specific force
    summed: Floats  #: (n, 6) from the first sample
    lost: NDArray[np.int64]  #: (n,) samples missing up to here

    @property
    def length_s(self) -> float:
        return (len(self.samples) - 1) / self.rate_hz

    def upto(self, at_s: Floats) -> Floats:
        """Integrals (..., 6) up to instants (...) of the unit's clock; beyond the ends they stand still."""
        place = np.clip(at_s * self.rate_hz, 0.0, len(self.samples) - 1.001)
        whole = place.astype(np.int64)
        f = (place - whole)[..., None]
        x = self.samples[whole]
        return np.asarray(self.summed[whole] + f * (x + 0.5 * f * (self.samples[whole + 1] - x)) / self.rate_hz)

    def seen(self, from_s: Floats, to_s: Floats) -> Bools:
        """Whether the samples between instants (...) were there, but for single ones, which are bridged."""
        n = len(self.samples)
        a, b = from_s * self.rate_hz, to_s * self.rate_hz
        inside = (a >= 0) & (b <= n - 1)
        i, j = (np.clip(x, 0, n - 1).astype(np.int64) for x in (a, np.ceil(b)))
        return np.asarray(inside & (self.lost[j] - self.lost[i] <= BRIDGED_SHARE * (j - i)))


def integrals(unit: UnitSignal, contact_s: Floats) -> tuple[Integrals, Clipped]:
    """Integrals of a unit, and what was clipped on the way to each of its limb's contacts (s,)."""
    samples = np.concatenate([unit.gyro_rad_s, unit.accel_m_s2], axis=1)
    missing = ~np.isfinite(samples).all(axis=1)
    if missing.any():
        _bridge(samples, missing)
    clipped = unclip(samples[:, 3:], contact_s, unit)
    summed = np.zeros(samples.shape)
    for k in range(samples.shape[1]):  # a channel at a time: an hour of six at once would take half a gigabyte
        channel = samples[:, k].astype(np.float64)
        np.cumsum((channel[1:] + channel[:-1]) * (0.5 / unit.rate_hz), out=summed[1:, k])
    return Integrals(unit.rate_hz, samples, summed, np.cumsum(missing)), clipped


def _bridge(samples: NDArray[np.float32], missing: Bools) -> None:
    good = np.flatnonzero(~missing)
    for k in range(samples.shape[1]):
        samples[missing, k] = np.interp(np.flatnonzero(missing), good, samples[good, k]) if len(good) else 0.0
