"""Each unit's clock against the bag's: by the contacts that both feel, or by stamps that every worn unit feels.

Offset and drift are found by voting: pairs of events that could be the same vote for their difference, for each drift
that a crystal may have (a Hough transform over two unknowns); the winner is refined by a robust line (Huber 1964).
A clock that chance alone could have tied as well is refused.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import lgamma, log

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

MOST_DRIFT_PPM = 260.0  # rates differ from nominal by up to 200; temperature adds
SEARCH_S = 3.6  # files' own times are up to three seconds off
BIN_S = 0.004
CLOSE_S = 0.012  # of a pair to the winning line, before refinement
KEPT_S = 0.006
ROUNDS = 6
CHANCE = 0.01  # that unrelated events tie as well
HUBER_S = 0.0008
LEAST_SPAN_S = 20.0  # shorter stretches show no drift: crystals are then taken as nominal
DRIFT_PRIOR_PPM = 100.0


@dataclass(frozen=True, slots=True)
class UnitClock:
    """reference time = offset_s + unit time x (1 + drift_ppm 1e-6)."""

    unit: str
    offset_s: float
    drift_ppm: float
    residual_ms: float
    aligned_by: str
    aligned: bool

    def reference(self, unit_s: Floats) -> Floats:
        return self.offset_s + unit_s * (1.0 + 1e-6 * self.drift_ppm)

    def own(self, reference_s: Floats) -> Floats:
        return np.asarray((reference_s - self.offset_s) / (1.0 + 1e-6 * self.drift_ppm))


def not_aligned(unit: str) -> UnitClock:
    return UnitClock(unit, 0.0, 0.0, 0.0, "none", False)


def tie(reference_s: Floats, own_s: Floats, guess_s: float) -> tuple[float, float, float, NDArray[np.bool_]] | None:
    """Ties events at `own_s` (m,) to events at `reference_s` (k,); None where chance could have done as well.

    Returns offset (s), drift (ppm), residual (s, root mean square), and which reference events (k,) were met.
    """
    if len(reference_s) < 2 or len(own_s) < 2:
        return None
    span = float(max(own_s[-1], 1.0))
    steps = max(1, int(np.ceil(2e-6 * MOST_DRIFT_PPM * span / BIN_S)))
    best: tuple[int, float, float] | None = None
    pairs = 0
    for drift in np.linspace(-MOST_DRIFT_PPM, MOST_DRIFT_PPM, 2 * steps + 1):
        moved = own_s * (1.0 + 1e-6 * drift)
        low = np.searchsorted(moved, reference_s - guess_s - SEARCH_S)
        high = np.searchsorted(moved, reference_s - guess_s + SEARCH_S)
        count = high - low
        if count.sum() == 0:
            continue
        which = np.repeat(np.arange(len(reference_s)), count)
        place = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count) + np.repeat(low, count)
        apart = reference_s[which] - moved[place]
        votes = np.bincount(((apart - guess_s + SEARCH_S) / BIN_S).astype(np.int64), minlength=4)
        wide = votes[:-1] + votes[1:]
        top = int(np.argmax(wide))
        pairs = int(count.sum())
        if best is None or wide[top] > best[0]:
            best = (int(wide[top]), guess_s - SEARCH_S + (top + 1) * BIN_S, float(drift))
    if best is None or not _beats_chance(best[0], pairs, 2 * steps + 1):
        return None
    return _refined(reference_s, own_s, best[1], best[2])


def _beats_chance(votes: int, pairs: int, drifts: int) -> bool:
    """Would unrelated events give a bin with so many votes (Poisson, over all bins and drifts)?"""
    if votes < 2:
        return False
    bins = 2.0 * SEARCH_S / BIN_S
    mean = 2.0 * pairs / bins
    if votes <= 2.0 * mean:
        return False
    return log(bins * drifts) - mean + votes * log(mean) - lgamma(votes + 1) < log(CHANCE)


def _refined(
    reference_s: Floats, own_s: Floats, offset: float, drift: float
) -> tuple[float, float, float, NDArray[np.bool_]] | None:
    for turn in range(ROUNDS):
        moved = offset + own_s * (1.0 + 1e-6 * drift)
        nearest = np.clip(np.searchsorted(moved, reference_s), 1, len(moved) - 1)
        nearest -= (reference_s - moved[nearest - 1] < moved[nearest] - reference_s).astype(np.int64)
        error = reference_s - moved[nearest]
        use = np.abs(error) < (CLOSE_S if turn < 2 else KEPT_S)
        if use.sum() < 2:
            return None
        x, y = own_s[nearest[use]], reference_s[use]
        left = error[use] - np.median(error[use])
        weight = 1.0 / np.maximum(np.abs(left) / HUBER_S, 1.0)
        offset, drift = line(x, y, weight)
    moved = offset + x * (1.0 + 1e-6 * drift)
    return offset, drift, float(np.sqrt(np.average((y - moved) ** 2, weights=weight))), use


@dataclass(frozen=True, slots=True)
class Pairs:
    """Events that a unit and the reference both felt, by either clock (k,), and how much each says."""

    own_s: Floats
    reference_s: Floats
    weight: Floats

    @property
    def span_s(self) -> float:
        return float(np.ptp(self.reference_s)) if len(self.reference_s) else 0.0

    def joined(self, own_s: Floats, reference_s: Floats, weight: float) -> "Pairs":
        return Pairs(
            np.concatenate([self.own_s, own_s]),
            np.concatenate([self.reference_s, reference_s]),
            np.concatenate([self.weight, np.full(len(own_s), weight)]),
        )

    def clock(self, unit: str, aligned_by: str) -> UnitClock:
        """The line through the pairs, and what it leaves of them."""
        offset, drift = line(self.own_s, self.reference_s, self.weight)
        left = self.reference_s - (offset + self.own_s * (1.0 + 1e-6 * drift))
        residual = float(np.sqrt(np.average(left**2, weights=self.weight)))
        return UnitClock(unit, offset, drift, 1e3 * residual, aligned_by, True)


def sharpened(
    tied: tuple[float, float, float, NDArray[np.bool_]], contact_s: Floats, shift_at: Callable[[Floats], Floats]
) -> Pairs:
    """Pairs of contacts, from how much later than thought each began for the unit."""
    offset, drift = tied[0], tied[1]
    own = (contact_s - offset) / (1.0 + 1e-6 * drift)
    found = Pairs(own, contact_s, np.ones(len(own)))
    for _ in range(4):
        own = (contact_s - offset) / (1.0 + 1e-6 * drift)
        own = own + shift_at(own)
        left = contact_s - (offset + own * (1.0 + 1e-6 * drift))
        use = np.abs(left) < KEPT_S
        if use.sum() < 2:
            break
        weight = np.ones(int(use.sum()))
        for _ in range(ROUNDS):
            offset, drift = line(own[use], contact_s[use], weight)
            left = contact_s[use] - (offset + own[use] * (1.0 + 1e-6 * drift))
            weight = 1.0 / np.maximum(np.abs(left) / HUBER_S, 1.0)
        found = Pairs(own[use], contact_s[use], weight)
    return found


def line(own_s: Floats, reference_s: Floats, weight: Floats) -> tuple[float, float]:
    """Offset and drift (ppm) by weighted least squares; the drift is held near zero where time is too short, or events
    too ill felt, to tell it."""
    middle = float(np.average(own_s, weights=weight))
    away = own_s - middle
    apart = reference_s - own_s
    mean = float(np.average(apart, weights=weight))
    slope, spread = 0.0, HUBER_S
    for _ in range(2):  # what events scatter by against a crystal's usual drift
        held = (spread / (1e-6 * DRIFT_PRIOR_PPM)) ** 2
        slope = float((weight * away * (apart - mean)).sum() / ((weight * away * away).sum() + held))
        left = apart - mean - slope * away
        spread = max(HUBER_S, float(np.sqrt(np.average(left**2, weights=weight))))
    slope = float(np.clip(slope, -1e-6 * MOST_DRIFT_PPM, 1e-6 * MOST_DRIFT_PPM))
    return mean - slope * middle, 1e6 * slope
