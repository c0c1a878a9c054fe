"""What a limb's own speeding up lost at the accelerometer's limit, put back with its doubt.

Voluntary motion is slow: what a limb's acceleration was a twentieth of a second ago it is no longer, and what it was a
hundredth ago it nearly still is. Each clipped axis is a Gaussian process of that memory, conditioned on the samples
that were not clipped (Rasmussen and Williams, ch. 2), up to contact where there is no far side to go by; what it gives
for the clipped ones does not fall below the limit, and its covariance is the doubt of the speed gained there. Its
course is thrice differentiable (Matern, 7/2), no smoother: an endlessly smooth one would run on too far beyond the last
sample.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

SPEEDING_S = 0.25  # before contact: the limb's own way there
MEMORY_S, SPREAD_M_S2, NOISE_M_S2 = 0.035, 150.0, 1.0
FLANK_S = 0.06  # of samples on either side that still say something
FLUNG_S = 0.09  # after contact
LAST_S = 0.002  # before contact: its onset is not surer
LONGEST_S = 0.07  # clipped in one go: beyond, the flanks say nothing
SHAPE_TIMES = 1.3  # a limb's course is less even than a Gaussian process: fitted on simulated kicks and hooks


@dataclass(frozen=True, slots=True)
class Clipped:
    """On the way to each contact, and after it."""

    share: Floats  #: (s,) of the samples in the quarter second before it
    sd_m_s: Floats  #: (s,) doubt of the speed at contact, from what was put back
    until_s: (
        Floats  #: (s,) from contact until the unit, which its strap flings about, no longer clips; nought: never did
    )

    def part(self, rows: slice | NDArray[np.int64]) -> "Clipped":
        return Clipped(self.share[rows], self.sd_m_s[rows], self.until_s[rows])

    @staticmethod
    def none(strikes: int) -> "Clipped":
        return Clipped(np.zeros(strikes), np.zeros(strikes), np.zeros(strikes))


def unclip(samples: NDArray[np.float32], contact_s: Floats, unit: UnitSignal) -> Clipped:
    """Puts specific force (n, 3) back in place before each of the limb's contacts (s,), seconds of the unit's clock."""
    limit = unit.clips_at_m_s2
    if not np.isfinite(limit):
        return Clipped.none(len(contact_s))
    share, variance, until_s = (np.zeros(len(contact_s)) for _ in range(3))
    reach, flank = round(SPEEDING_S * unit.rate_hz), round(FLANK_S * unit.rate_hz)
    for i, at in enumerate(contact_s * unit.rate_hz - unit.first_sample):
        end = min(int(np.floor(at)), len(samples))
        after = samples[max(end, 0) : max(end, 0) + round(FLUNG_S * unit.rate_hz)]
        late = np.flatnonzero((np.abs(after) >= limit).any(axis=1))
        until_s[i] = (end + late[-1] + 1 - at) / unit.rate_hz if len(late) else 0.0
        start = max(end - reach, 0)
        if end <= start:
            continue
        first = max(start - flank, 0)
        part = samples[first:end]
        clipped = np.abs(part) >= limit
        onset = np.arange(first, end) >= at - LAST_S * unit.rate_hz
        hit = clipped & (np.arange(first, end) >= start)[:, None]
        share[i] = hit.any(axis=1).sum() / (end - start)
        for axis in np.flatnonzero(hit.any(axis=0)):
            free = ~clipped[:, axis] & ~onset
            filled, more = _filled(part[:, axis].astype(np.float64), hit[:, axis], free, unit.rate_hz, limit)
            part[hit[:, axis], axis] = filled
            variance[i] += more
    return Clipped(share, SHAPE_TIMES * np.sqrt(variance), until_s)


def _filled(felt: Floats, hit: Bools, known: Bools, rate_hz: float, limit: float) -> tuple[Floats, float]:
    """Values (k,) of the clipped samples, m/s2, from those that are `known`; and the variance of the speed, (m/s)2."""
    at = np.flatnonzero(hit)
    edge = np.flatnonzero(np.diff(at) > 1)
    runs = np.diff(np.concatenate([[-1], edge, [len(at) - 1]]))
    free = np.flatnonzero(known)
    free = free[np.abs(free - at[np.clip(np.searchsorted(at, free), 0, len(at) - 1)]) <= FLANK_S * rate_hz]
    if runs.max() > LONGEST_S * rate_hz or not len(free):
        return felt[hit], float((limit * len(at) / rate_hz) ** 2)

    def alike(a: NDArray[np.int64], b: NDArray[np.int64]) -> Floats:
        r = np.sqrt(7.0) * np.abs(a[:, None] - b[None, :]) / (rate_hz * MEMORY_S)
        return np.asarray(SPREAD_M_S2**2 * (1.0 + r + 0.4 * r**2 + r**3 / 15.0) * np.exp(-r))

    among = alike(free, free) + NOISE_M_S2**2 * np.eye(len(free))
    across = alike(at, free)
    solved = np.linalg.solve(among, np.column_stack([felt[free], across.T]))
    spread = alike(at, at) - across @ solved[:, 1:]
    way = np.sign(felt[hit])
    return way * np.maximum(way * (across @ solved[:, 0]), limit), max(float(spread.sum()), 0.0) / rate_hz**2
