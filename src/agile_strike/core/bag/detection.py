"""Where a contact may be: every short jolt of the bag, found once. Whether it is a strike is judged afterwards.

The search runs on means of 5 ms: short enough for a 10 ms contact, long enough to be cheap over an hour. A jolt shows
in the acceleration of the unit or, where the unit sits at the centre of percussion of that hit and feels nothing, in
the angular acceleration: both are added.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from agile_strike.core.recording import UnitSignal

Floats = NDArray[np.float64]

BLOCK_S = 0.005
BASELINE_S = 0.12  # the swing is slower
APART_S = 0.06  # contacts of one limb pair come no closer than 150 ms; a kick lasts 40
JOLT_FLOOR_M_S2 = 2.5  # 2 N s on a 40 kg bag in 15 ms gives 3.3
NEIGHBOURS = 4  # jolts 60 ms apart that fit into a window's half
DISTURBS = 0.3  # a jolt a third as large as this one spoils its trends more than a short window does
TURN_ARM_M = 0.25  # a typical lever: turns rad/s2 of the body into m/s2 comparable with the unit's


def block_means(samples: NDArray[np.float32], block: int) -> Floats:
    """Means of `block` samples: (n, k) to (n // block, k); a block with a missing sample keeps the mean of the rest."""
    n = len(samples) // block
    means = np.zeros((n, samples.shape[1]))
    for k in range(block):  # five strided sums are ten times faster than a mean over a short axis
        means += samples[k : n * block : block]
    means /= block
    for i in np.flatnonzero(np.isnan(means).any(axis=1)):
        part = samples[i * block : (i + 1) * block].astype(np.float64)
        good = part[~np.isnan(part).any(axis=1)]
        means[i] = good.mean(axis=0) if len(good) else np.nan
    for channel in range(means.shape[1]):
        bad = np.isnan(means[:, channel])
        if bad.any() and not bad.all():
            means[bad, channel] = np.interp(np.flatnonzero(bad), np.flatnonzero(~bad), means[~bad, channel])
    return np.nan_to_num(means)


def block_length(unit: UnitSignal) -> int:
    return max(1, round(BLOCK_S * unit.rate_hz))


def candidates(
    block: int, rate_hz: float, accel_blocks: Floats, gyro_blocks: Floats
) -> tuple[NDArray[np.int64], Floats]:
    """Sample indices (s,) of jolts, in order of time, at least 60 ms apart, and their sizes (s,) in m/s2.

    accel_blocks, gyro_blocks: means of the unit's samples over `block` of them, (m, 3).
    """
    step_s = block / rate_hz
    wide = max(3, round(BASELINE_S / step_s)) | 1
    sideways = accel_blocks[:, :2] - uniform_filter1d(accel_blocks[:, :2], wide, axis=0, mode="nearest")
    turn = np.gradient(gyro_blocks, step_s, axis=0) if len(gyro_blocks) > 1 else np.zeros_like(gyro_blocks)
    turn -= uniform_filter1d(turn, wide, axis=0, mode="nearest")
    jolt = np.sqrt((sideways**2).sum(axis=1) + TURN_ARM_M**2 * (turn**2).sum(axis=1))
    near = 2 * max(1, round(APART_S / step_s)) + 1
    peaks = np.flatnonzero((jolt >= JOLT_FLOOR_M_S2) & (jolt == maximum_filter1d(jolt, near, mode="nearest")))
    if len(peaks) > 1:  # equal neighbours: one jolt
        peaks = peaks[np.concatenate([[True], np.diff(peaks) > near // 2])]
    return peaks * block + block // 2, jolt[peaks]


def neighbours(centres: NDArray[np.int64], sizes: Floats, rate_hz: float) -> tuple[Floats, Floats]:
    """Seconds (s,) to the last jolt before and the first after each that could disturb its window."""
    before, after = np.full(len(centres), np.inf), np.full(len(centres), np.inf)
    for away in range(1, NEIGHBOURS + 1):
        gap = (centres[away:] - centres[:-away]) / rate_hz
        earlier, later = sizes[:-away], sizes[away:]
        before[away:] = np.minimum(before[away:], np.where(earlier > DISTURBS * later, gap, np.inf))
        after[:-away] = np.minimum(after[:-away], np.where(later > DISTURBS * earlier, gap, np.inf))
    return before, after
