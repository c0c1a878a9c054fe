"""A trunk unit's clock by the strikes themselves, where neither stamps nor anything else ties it.

What a limb meets runs back through the body: pelvis and torso are jolted some milliseconds after each contact. No one
jolt is told from a step, but the mean of all, at every lag that a file's own times leave open, stands out where the lag
is right (stacking; Robinson 1967). How long the jolt is on its way differs from body to body, which is the doubt.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal
from agile_strike.core.student.clocks import MOST_DRIFT_PPM, SEARCH_S, UnitClock
from agile_strike.core.student.filters import band_passed

Floats = NDArray[np.float64]

BAND_HZ = (12.0, 60.0)  # above how a body turns, below what a strap rings
SLOWEST_HZ = 90.0
GRID_S = 0.002
FEWEST = 8  # contacts of a stack
STANDS_OUT, OVER = 2.5, 1.8  # of a stack, in spreads of one jolt, and times any other lag
APART_S = 0.15
CLIPPED_PCT = 99.5  # one fall is not to be all that is looked at
ON_ITS_WAY_S, ON_ITS_WAY_SD_S = 0.015, 0.008  # to the middle of what the trunk feels: simulated and other worlds
AGREE_S = 0.02  # of two halves of an evening, beyond what a crystal drifts


@dataclass(frozen=True, slots=True)
class _Stacked:
    at_s: float
    offset_s: float


def by_strikes(unit: UnitSignal, contact_s: Floats, length_s: float) -> UnitClock | None:
    """The clock of a trunk unit by contacts (k,) on the reference clock, over an evening of some length; None where
    they do not stand out."""
    if unit.rate_hz < SLOWEST_HZ or len(contact_s) < FEWEST:
        return None
    felt = _jolted(unit)
    guess = unit.starts_s or 0.0
    half = len(contact_s) // 2
    if half >= FEWEST:
        ends = [s for c in (contact_s[:half], contact_s[half:]) if (s := _stacked(felt, c, guess)) is not None]
    else:
        one = _stacked(felt, contact_s, guess)
        ends = [] if one is None else [one]
    if len(ends) < (2 if half >= FEWEST else 1):
        return None
    first, last = ends[0], ends[-1]
    apart, drifted = last.at_s - first.at_s, last.offset_s - first.offset_s
    if abs(drifted) > AGREE_S + 1e-6 * MOST_DRIFT_PPM * apart:
        return None
    known = (ON_ITS_WAY_SD_S / (1e-6 * MOST_DRIFT_PPM / 2.0)) ** 2  # halves that are good to so much tell little drift
    slope = drifted * apart / (apart**2 + known) if apart else 0.0
    middle, mean = 0.5 * (first.at_s + last.at_s), 0.5 * (first.offset_s + last.offset_s)
    offset = mean - slope * (middle - mean) + ON_ITS_WAY_S
    runs_away_s = 0.0 if apart else 1e-6 * MOST_DRIFT_PPM / 2.0 * max(middle, length_s - middle)
    residual = float(np.hypot(ON_ITS_WAY_SD_S, runs_away_s))
    return UnitClock(unit.unit, offset, 1e6 * slope, 1e3 * residual, "strikes", True)


def _jolted(unit: UnitSignal) -> tuple[Floats, Floats]:
    """Instants on the unit's clock, and how much it was jolted there, in spreads of itself."""
    accel = np.nan_to_num(unit.accel_m_s2.astype(np.float64))
    size = np.linalg.norm(band_passed(accel, BAND_HZ, unit.rate_hz), axis=1)
    size = np.minimum(size, np.percentile(size, CLIPPED_PCT))
    spread = float(size.std())
    return np.arange(len(size)) / unit.rate_hz, (size - size.mean()) / max(spread, 1e-9)


def _stacked(felt: tuple[Floats, Floats], contact_s: Floats, guess_s: float) -> _Stacked | None:
    """The lag at which the mean jolt at contacts stands out."""
    t, size = felt
    lags = np.arange(guess_s - SEARCH_S, guess_s + SEARCH_S, GRID_S)
    mean = np.zeros(len(lags))
    for at in contact_s:
        mean += np.interp(at - lags, t, size, left=0.0, right=0.0)
    mean /= len(contact_s)
    best = int(np.argmax(mean))
    far = np.abs(lags - lags[best]) > APART_S
    if mean[best] < STANDS_OUT or mean[best] < OVER * mean[far].max():
        return None
    return _Stacked(float(contact_s.mean()), float(lags[best]))
