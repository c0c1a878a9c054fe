"""Short jolts of a worn unit: its limb's contacts, and the stamps that tie the clocks.

A jolt is a step in specific force within a few milliseconds; limbs speed up over a hundred. Its instant is the onset,
since the rest of a contact is clipped.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from agile_strike.core.recording import UnitSignal

Floats = NDArray[np.float64]

STEP_S = 0.002  # a contact's force climbs in less; a limb's own speeding up takes 50 ms and more
APART_S = 0.06
ONSET_BACK_S = 0.04  # the longest contact
COURSE_S, LATEST_S = 0.012, 0.005  # samples looked at, and how early or late contact may begin
FELT_M_S2, FELT_SHARE, LEAST_FELT_M_S2 = 25.0, 0.1, 18.0  # of a soft contact's own jolt, above a limb's own motion
PEAK_S = 0.016  # within which a contact is at its hardest
BETWEEN_SAMPLES = 0.3  # a straight line between samples meets a push that grows faster than a line too early
#: of the time from one mark to one twice as high, above that of a hard contact, by which the first mark is late
TWICE, SLOWLY, AT_ONCE_S, LONGEST_CLIMB_S = 2.0, 2.0, 0.0007, 0.003
SOLE_SHARE = 0.5  # a step between two slow samples lies half-way
ONSET_SHARE = 0.3  # of a jolt's step: noise and the limb's own motion stay below


@dataclass(frozen=True, slots=True)
class Jolts:
    """Instants (k,) on the unit's clock, in order, and how large the step was, m/s2 (newtons for soles)."""

    at_s: Floats
    size: Floats


def jolts(unit: UnitSignal, floor: float, windows_s: list[tuple[float, float]] | None = None) -> Jolts:
    """Jolts of at least `floor`; with `windows_s` only inside these stretches of the unit's clock."""
    n = len(unit.accel_m_s2)
    spans = [(0, n)]
    if windows_s is not None:
        spans = [(max(0, int(a * unit.rate_hz)), min(n, int(b * unit.rate_hz))) for a, b in windows_s]
    found = [_in_span(unit, i, j, floor) for i, j in spans if j - i > 10]
    if not found:
        return Jolts(np.zeros(0), np.zeros(0))
    return Jolts(np.concatenate([f.at_s for f in found]), np.concatenate([f.size for f in found]))


def _in_span(unit: UnitSignal, first: int, last: int, floor: float) -> Jolts:
    if unit.sole_n is not None:
        signal = unit.under_foot_n[first:last, None]
    else:
        signal = unit.accel_m_s2[first:last]
    lag = max(1, round(STEP_S * unit.rate_hz))
    step = np.zeros(len(signal))
    moved = signal[lag:] - signal[:-lag]
    size = np.sqrt(np.einsum("ij,ij->i", moved, moved))  # a missing sample is no jolt
    step[lag:] = np.nan_to_num(size)
    near = 2 * max(1, round(APART_S * unit.rate_hz)) + 1
    peaks = np.flatnonzero((step >= floor) & (step == maximum_filter1d(step, near)))
    if len(peaks) > 1:
        peaks = peaks[np.concatenate([[True], np.diff(peaks) > near // 2])]
    if len(peaks) == 0:
        return Jolts(np.zeros(0), np.zeros(0))
    return Jolts(
        (first + _onsets(step, peaks, SOLE_SHARE if unit.sole_n is not None else ONSET_SHARE, unit.rate_hz))
        / unit.rate_hz,
        step[peaks].astype(np.float64),
    )


def _onsets(step: NDArray[np.floating], peaks: NDArray[np.int64], share: float, rate_hz: float) -> Floats:
    """Sample places (k,) at which each jolt began: the first passing of a share of its size, between samples.

    A contact steps twice, as it comes and as it lets go, and the second may be the larger: the first counts.
    """
    reach = max(3, round(ONSET_BACK_S * rate_hz))
    places = np.clip(peaks[:, None] - np.arange(reach, -1, -1), 0, len(step) - 1)
    along = step[places]
    level = share * along[:, -1:]
    out = np.argmax(along >= level, axis=1)
    rows = np.arange(len(peaks))
    low, high = along[rows, np.maximum(out - 1, 0)], along[rows, out]
    part = np.clip((level[:, 0] - low) / np.maximum(high - low, 1e-9), 0.0, 1.0)
    return np.asarray(places[rows, out] - 1.0 + part, dtype=np.float64)


def contact_shifts(unit: UnitSignal, near_s: Floats) -> Floats:
    """How much later than `near_s` (k,), on the unit's clock, each contact began; NaN where that is unclear.

    The limb is slowed at once and hard: its specific force leaves the straight line through the few samples before.
    What a limb that loses 7 m/s in 16 ms feels at 5 % of the push, where contact begins by definition, is the mark; of
    a light hand on a soft bag that would be a quarter of its push, and so its mark is lower.
    """
    rate = unit.rate_hz
    before, after = max(8, round(COURSE_S * rate)), max(3, round(LATEST_S * rate))
    centre = np.rint(near_s * rate).astype(np.int64)
    places = centre[:, None] + np.arange(-before, after + 1)
    inside = (places[:, 0] >= 0) & (places[:, -1] < len(unit.accel_m_s2))
    near = unit.accel_m_s2[np.clip(places, 0, len(unit.accel_m_s2) - 1)].astype(np.float64)
    x = np.arange(-before, after + 1) / rate
    away = np.zeros(near.shape[:2])
    slope = (near[:, 3:-1] - near[:, :-4]) / 3.0
    away[:, 4:] = np.linalg.norm(near[:, 4:] - near[:, 3:-1] - slope, axis=2)
    away[:, x < -LATEST_S] = 0.0
    felt = _felt(unit, centre)
    at = (centre - before + _passes(away, felt)) / rate
    # what climbs slowly, behind a soft glove and on a strap that gives, began the longer before it could be felt
    climbs = (_passes(away, TWICE * felt) - _passes(away, felt)) / rate
    began = at - SLOWLY * np.where(np.isfinite(climbs), np.clip(climbs - AT_ONCE_S, 0.0, LONGEST_CLIMB_S), 0.0)
    return np.where(inside, began - near_s, np.nan)


def _passes(away: Floats, level: Floats) -> Floats:
    """Where each course (k, n) first passes its level (k,), between samples; NaN where it never does."""
    past = away >= level[:, None]
    out = np.argmax(past, axis=1)
    rows = np.arange(len(away))
    low, high = away[rows, np.maximum(out - 1, 0)], away[rows, out]
    part = np.clip((level - low) / np.maximum(high - low, 1e-9), 0.0, 1.0)
    return np.where(past.any(axis=1), out - 1.0 + part + BETWEEN_SAMPLES, np.nan)


def _felt(unit: UnitSignal, centre: NDArray[np.int64]) -> Floats:
    """The mark (k,) of each contact: a share of its own jolt, between what is above a limb's motion and the usual."""
    places = centre[:, None] + np.arange(-round(COURSE_S * unit.rate_hz), round(PEAK_S * unit.rate_hz) + 1)
    near = unit.accel_m_s2[np.clip(places, 0, len(unit.accel_m_s2) - 1)].astype(np.float64)
    ahead = round(COURSE_S * unit.rate_hz)
    before = np.nan_to_num(near[:, : max(1, ahead // 2)]).mean(axis=1)
    jolt = np.nan_to_num(np.linalg.norm(near[:, ahead:] - before[:, None], axis=2)).max(axis=1)
    return np.asarray(np.clip(FELT_SHARE * jolt, LEAST_FELT_M_S2, FELT_M_S2))
