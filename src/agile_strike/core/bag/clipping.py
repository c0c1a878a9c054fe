"""Contacts on which the accelerometer ran into its limit: what it missed, put back as far as can be known.

While the line of action stands, acceleration follows the same shape in time as the body's angular acceleration, which
the gyro still sees. Each clipped axis is fitted to that shape over the samples that were not clipped, and the missing
ones are taken from the fit. So impulse survives; the peak, which rests on those very samples, does not.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from agile_strike.core.bag.windows import Windows
from agile_strike.core.recording import UnitSignal

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

NEAR_S = 0.03
SMOOTH_S = 0.0007
FEWEST_FREE = 5  # unclipped samples on the flanks
CLEAR_TURN = 10.0  # peak of the gyro's shape over its noise


@dataclass(frozen=True, slots=True)
class Restored:
    windows: Windows
    share: Floats  #: (s,) of the velocity gained near contact that was put back; 0 where nothing was clipped
    ok: Bools  #: (s,) the missing part could be had, or nothing was missing


def restore(windows: Windows, unit: UnitSignal) -> Restored:
    """Windows with clipped samples replaced; the marks of clipping stay."""
    near = np.abs(windows.times_s) < NEAR_S
    hit = np.flatnonzero((windows.clipped & near).any(axis=1))
    share, ok = np.zeros(windows.count), np.ones(windows.count, bool)
    if len(hit) == 0:
        return Restored(windows, share, ok)
    accel = windows.accel.copy()
    limit = unit.clips_at_m_s2
    turn = np.gradient(
        gaussian_filter1d(windows.gyro[hit], SMOOTH_S * windows.rate_hz, axis=1), 1.0 / windows.rate_hz, axis=1
    )
    for row, i in enumerate(hit):
        share[i], ok[i] = _restore_one(accel[i], turn[row], windows.times_s, near, limit)
    return Restored(replace(windows, accel=accel), share, ok)


def _restore_one(accel: Floats, turn: Floats, t: Floats, near: Bools, limit: float) -> tuple[float, bool]:
    swing = near & (np.abs(t) > 0.02)
    quiet = turn - turn[swing].mean(axis=0)
    centre = np.abs(t) < 0.02
    way = quiet[centre].sum(axis=0)
    size = float(np.linalg.norm(way))
    if size == 0.0:
        return 0.0, False
    shape = quiet @ (way / size)
    noise = float(np.std(shape[swing]))
    clipped = np.abs(accel) >= limit
    whole = np.flatnonzero(~clipped[near].any(axis=0))
    if shape[centre].max() < CLEAR_TURN * noise:  # hit through the centre of mass: a whole axis may carry the shape
        if len(whole) == 0:
            return 0.0, False
        best = whole[np.argmax(np.abs(accel[centre][:, whole]).max(axis=0))]
        shape = accel[:, best] - accel[swing, best].mean()
        if np.abs(shape[centre]).max() < CLEAR_TURN * np.std(shape[swing]):
            return 0.0, False
    put_back = total = 0.0
    for axis in range(3):
        lost = clipped[:, axis] & near
        if not lost.any():
            total += abs(float(accel[centre, axis].sum()))
            continue
        flank = near & ~clipped[:, axis] & (np.abs(shape) > 0.04 * np.abs(shape[near]).max())
        if flank.sum() < FEWEST_FREE:
            return 0.0, False
        base = near & ~clipped[:, axis]
        design = np.column_stack([shape, np.ones_like(t), t])
        fit, *_ = np.linalg.lstsq(design[base], accel[base, axis], rcond=None)
        # the fit cannot lie below the limit that the unit ran into
        filled = np.sign(accel[lost, axis]) * np.maximum(np.abs(design[lost] @ fit), limit)
        put_back += float(np.abs(filled - accel[lost, axis]).sum())
        accel[lost, axis] = filled
        total += abs(float(accel[centre, axis].sum()))
    return put_back / max(total, 1e-9), True
