"""The shape of a contact in time: when it starts and ends, how it rises, how peaked it is.

While a push keeps its line of action, the unit's acceleration and the body's angular acceleration all follow the
force in the same proportion: `z(t) = s(t) dz`, with s of unit area and dz the jumps of velocity and spin across the
contact. A fist that rolls and rubs moves that line by centimetres: a moment beside the force's own, which every channel
feels in its known way. Generalised least squares (Aitken 1936) over the five channels, with that moment's covariance
beside their noise, gives s: what only a wandering line could have done counts for little, a channel that rings or is
noisy counts less, and no gyro is differentiated where the accelerometer does as well.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

EDGE = 0.05  # contact: from where force passes 5 % of its peak
SMOOTH_S = 0.0004  # sd of the zero-phase Gaussian low-pass
CUT_OFF_HZ = 0.1874 / SMOOTH_S  # its -6 dB frequency: sqrt(ln 2 / 2) / (pi sd)
LONGEST_S = 0.09
RINGS_HARDER = 5.0  # in variance: a seat swings higher while it is pushed than afterwards
RINGS_FROM_S, RINGS_TO_S = 0.001, 0.02  # after contact
# sampling and smoothing round the foot of a contact off: its edges come out early and late by these shares of a sample
# (simulated visco-elastic contacts of 8 to 30 ms)
EARLY_SAMPLES, LATE_SAMPLES = 0.22, 0.38


@dataclass(frozen=True, slots=True)
class Pulse:
    """Shape s (s, n), per second, and its landmarks (s,) in seconds from the candidate instant."""

    shape: Floats
    start_s: Floats
    end_s: Floats
    peak_s: Floats
    rise_s: Floats
    peak_per_s: Floats  #: highest s: peak force = impulse times this
    one_sided: Floats  #: net over absolute area round the contact; 1 is a pure push
    share_inside: Floats  #: of the whole jump, what the contact itself holds; 1 if the bag keeps what it got
    left_over: Floats  #: root mean square of s outside the contact, over its peak
    ringing: Floats  #: standard deviation of s just after contact, over its peak: what the unit's seat rings on with


def channels(accel: Floats, gyro: Floats, rate_hz: float) -> Floats:
    """(s, n, 5): horizontal acceleration of the unit and angular acceleration of the body."""
    turn = np.gradient(gyro, 1.0 / rate_hz, axis=1)
    return np.concatenate([accel[:, :, :2], turn], axis=2)


def without_swing(
    z: Floats, times_s: Floats, start_s: Floats, end_s: Floats, use: Bools, late: Floats
) -> tuple[Floats, Floats]:
    """Take off the swing: straight lines through 40 ms on either side, bridged across the contact.

    `late` (s, n, k) is what is no swing there, since the leather lets go late. Returns the rest (s, n, k), with it, and
    the mean square (s, k) of the rest without it on both sides, where the shell rings.
    """
    z = z - late
    t = times_s[None, :]
    before, after = _beside(times_s, start_s, end_s, use)
    low, low_slope = _line(z, t - start_s[:, None], before)
    high, high_slope = _line(z, t - end_s[:, None], after)
    share = np.clip((t - start_s[:, None]) / np.maximum(end_s - start_s, 1e-3)[:, None], 0.0, 1.0)[:, :, None]
    ahead = np.minimum(t - start_s[:, None], 0.0)[:, :, None]
    behind = np.maximum(t - end_s[:, None], 0.0)[:, :, None]
    rest = z - (low * (1 - share) + high * share + low_slope * ahead + high_slope * behind)
    return rest + late, beside(rest, times_s, start_s, end_s, use)


def _beside(times_s: Floats, start_s: Floats, end_s: Floats, use: Bools) -> tuple[Bools, Bools]:
    t = times_s[None, :]
    before = use & (t < start_s[:, None] - 0.002) & (t > start_s[:, None] - 0.045)
    return before, use & (t > end_s[:, None] + 0.002) & (t < end_s[:, None] + 0.045)


def beside(rest: Floats, times_s: Floats, start_s: Floats, end_s: Floats, use: Bools) -> Floats:
    """Mean square (s, k) of what is without swing (s, n, k) in 40 ms on either side of the contact."""
    before, after = _beside(times_s, start_s, end_s, use)
    inside = (before | after).astype(np.float64)
    return np.asarray((inside[:, None, :] @ (rest * rest))[:, 0] / np.maximum(inside.sum(axis=1), 1.0)[:, None])


def _line(z: Floats, since: Floats, use: Bools) -> tuple[Floats, Floats]:
    """Straight line through each channel where `use`: value at since = 0 and slope, (s, 1, k) each."""
    w = use.astype(np.float64)
    n = np.maximum(w.sum(axis=1), 1.0)
    mid_t = ((w * since).sum(axis=1) / n)[:, None]
    away = w * (since - mid_t)
    mid_z = (w[:, None, :] @ z) / n[:, None, None]
    slope = (away[:, None, :] @ z) / ((away * away).sum(axis=1) + 2e-3)[:, None, None]
    return mid_z - slope * mid_t[:, :, None], slope


def shape_of(rest: Floats, noise: Floats, jump: Floats, floor: Floats, wander: Floats) -> Floats:
    """s (s, n) from channels `rest` (s, n, 5), their mean squares `noise` (s, 5) and jumps (s, 5).

    `floor` (5,) is the variance that each channel has at the least; `wander` (s, 5, 3) what each feels of the moment
    that a line of action brings which lies a standard deviation beside its mean.
    """
    noise = noise * np.array([RINGS_HARDER, RINGS_HARDER, 1.0, 1.0, 1.0])
    spread = np.eye(5) * (noise + floor)[:, :, None] + wander @ wander.transpose(0, 2, 1)
    weight = np.linalg.solve(spread, jump[:, :, None])[:, :, 0]
    return np.asarray((rest @ weight[:, :, None])[:, :, 0] / np.maximum((jump * weight).sum(axis=1), 1e-12)[:, None])


def landmarks(shape: Floats, times_s: Floats, usable: Bools) -> Pulse:
    """Edges, peak and rise of shapes (s, n), by tracking back and forth from the peak nearest the candidate."""
    rate = 1.0 / (times_s[1] - times_s[0])
    smooth = gaussian_filter1d(shape, SMOOTH_S * rate, axis=1)
    near = np.abs(times_s) <= 0.025
    peak = np.argmax(np.where(near, smooth, -np.inf), axis=1)
    rows = np.arange(len(shape))
    peak_value = np.maximum(smooth[rows, peak], 1e-9)
    peak_s, top = _parabola(smooth, peak, times_s)
    start = _edge(smooth, peak, EDGE * peak_value, -1, times_s) + EARLY_SAMPLES / rate
    end = _edge(smooth, peak, EDGE * peak_value, +1, times_s) - LATE_SAMPLES / rate
    rise = _edge(smooth, peak, 0.9 * peak_value, -1, times_s) - _edge(smooth, peak, 0.1 * peak_value, -1, times_s)
    t = times_s[None, :]
    inside = (t >= start[:, None]) & (t <= end[:, None])
    round_it = usable & (t >= start[:, None] - 0.012) & (t <= end[:, None] + 0.015)
    net = (shape * inside).sum(axis=1)
    total = (np.abs(shape) * round_it).sum(axis=1)
    outside = usable & ~inside & (t > start[:, None] - 0.06) & (t < end[:, None] + 0.08)
    left = np.sqrt((smooth**2 * outside).sum(axis=1) / np.maximum(outside.sum(axis=1), 1)) / peak_value
    after = usable & (t > end[:, None] + RINGS_FROM_S) & (t < end[:, None] + RINGS_TO_S)
    n = np.maximum(after.sum(axis=1), 1)
    mean = (smooth * after).sum(axis=1) / n
    rings = np.sqrt(((smooth - mean[:, None]) ** 2 * after).sum(axis=1) / n) / peak_value
    whole = net / np.maximum(total, 1e-12)
    return Pulse(shape, start, end, peak_s, rise, top, whole, net / rate, left, rings)


def _parabola(smooth: Floats, peak: NDArray[np.int64], times_s: Floats) -> tuple[Floats, Floats]:
    rows = np.arange(len(smooth))
    at = np.clip(peak, 1, smooth.shape[1] - 2)
    a, b, c = smooth[rows, at - 1], smooth[rows, at], smooth[rows, at + 1]
    bend = a - 2 * b + c
    off = np.where(bend < 0, 0.5 * (a - c) / np.where(bend < 0, bend, -1.0), 0.0)
    off = np.clip(off, -1.0, 1.0)
    return times_s[at] + off * (times_s[1] - times_s[0]), b - 0.25 * (a - c) * off


def _edge(smooth: Floats, peak: NDArray[np.int64], level: Floats, way: int, times_s: Floats) -> Floats:
    """Where each shape first falls below `level` going `way` from its peak, between samples; at most 90 ms away."""
    reach = int(LONGEST_S / (times_s[1] - times_s[0]))
    steps = np.clip(peak[:, None] + way * np.arange(reach + 1), 0, smooth.shape[1] - 1)
    along = np.take_along_axis(smooth, steps, axis=1)
    below = along < level[:, None]
    below[:, -1] = True
    below[:, 0] = False
    out = np.argmax(below, axis=1)
    rows = np.arange(len(smooth))
    high, low = along[rows, out - 1], along[rows, out]
    part = np.clip((high - level) / np.maximum(high - low, 1e-12), 0.0, 1.0)
    dt = times_s[1] - times_s[0]
    return np.asarray(times_s[np.clip(steps[rows, out - 1], 0, None)] + way * part * dt)
