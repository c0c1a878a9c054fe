"""How restless a guard is: a place that sways slowly and bounces fast about one point, as a Gaussian process.

A bouncing boxer's wrist wanders by centimetres and a standing foot hardly at all, sideways more than in height. The two
spreads, level and in height, are those under which a unit's own quiet pieces are likeliest, once a line and a parabola
(errors of velocity and of gravity) are taken off them (restricted likelihood, Patterson and Thompson 1971).
"""

from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

SWAY_S, BOUNCE_S = 0.4, 0.09  # time over which slow sway and bounce forget themselves
JITTER_M = 0.003
UNSEEN = 1e6
SLOW_M, FAST_M = (0.004, 0.007, 0.011, 0.016, 0.022, 0.03), (0.001, 0.003, 0.006, 0.01, 0.014, 0.02)
DOUBT_OCTAVES = 1.5  # of the usual spreads, before the evening has been seen
MOST_PIECES = 60  # of an evening: more say the same
BESIDE_LEVEL, BESIDE_HEIGHT = 1.5, 2.0  # beside a strike a guard is less steady than far from one: simulated evenings


@dataclass(frozen=True, slots=True)
class Sway:
    slow_m: float
    fast_m: float

    def times(self, by: float) -> "Sway":
        return Sway(by * self.slow_m, by * self.fast_m)


@dataclass(frozen=True, slots=True)
class Guard:
    level: Sway
    height: Sway

    def axes(self) -> tuple[tuple[Sway, list[int]], tuple[Sway, list[int]]]:
        """How each of the axes x, y and z, upward, sways: what is alike together."""
        return (self.level, [0, 1]), (self.height, [2])


USUAL = Guard(Sway(0.022, 0.006), Sway(0.011, 0.014))


def sway(t: Floats, seen: NDArray[np.bool_], how: Sway) -> Floats:
    """Covariance (s, k, k) of the guard's place at times t (k,), m^2; looks not `seen` (s, k) say nothing."""
    kernel = _kernel(t, how)
    out = np.broadcast_to(kernel, (len(seen), *kernel.shape)).copy()
    diagonal = np.arange(len(t))
    out[:, diagonal, diagonal] += JITTER_M**2 + np.where(seen, 0.0, UNSEEN)
    return out


def _kernel(t: Floats, how: Sway) -> Floats:
    apart = t[:, None] - t[None, :]
    slow, fast = (np.exp(-0.5 * (apart / over) ** 2) for over in (SWAY_S, BOUNCE_S))
    return np.asarray(how.slow_m**2 * slow + how.fast_m**2 * fast)


def restlessness(t: Floats, place: Floats, counts: NDArray[np.int64]) -> Guard:
    """From places (k, n, 3) of k quiet pieces at times t (n,), z up, of which the first `counts` (k,) looks count."""
    n = int(np.percentile(counts, 25))
    rows = np.flatnonzero(counts >= n)
    rows = rows[:: -(-len(rows) // MOST_PIECES)]
    centred = t[:n] - t[:n].mean()
    whole, _ = np.linalg.qr(np.vander(centred, 3), mode="complete")
    free = whole[:, 3:]  # all that a parabola can't be
    left = np.swapaxes(place[rows, :n], 0, 1).reshape(n, -1)
    beyond = (free.T @ left).reshape(n - 3, len(rows), 3)
    told: list[Sway] = []
    for usual, axes in USUAL.axes():
        best, most = usual, -np.inf
        for slow, fast in product(SLOW_M, FAST_M):
            how = Sway(slow, fast)
            likely = _likelihood(free, _kernel(t[:n], how), beyond[:, :, axes].reshape(n - 3, -1))
            away = np.log2(np.array([slow / usual.slow_m, fast / usual.fast_m])) / DOUBT_OCTAVES
            likely -= 0.5 * float(away @ away)
            if likely > most:
                best, most = how, likely
        told.append(best)
    level, height = told
    # a small slow sway in height hides behind the bounce
    slow = max(height.slow_m, height.fast_m)
    return Guard(level.times(BESIDE_LEVEL), Sway(slow, height.fast_m).times(BESIDE_HEIGHT))


def _likelihood(free: Floats, kernel: Floats, left: Floats) -> float:
    """Logarithm, up to a constant, of the likelihood of what is left (m, c), column by column."""
    lower = np.linalg.cholesky(free.T @ (kernel + JITTER_M**2 * np.eye(len(kernel))) @ free)
    whitened = np.linalg.solve(lower, left)
    return float(-0.5 * (whitened**2).sum() - left.shape[1] * np.log(np.diag(lower)).sum())
