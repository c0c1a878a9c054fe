"""What the unit's own seat rings with, taken off the course of a push.

A unit on a strap, a pad or a shell that gives has a mode of its own: beside the push's own acceleration it feels
`k s^2 / (s^2 + 2 z w s + w^2)` of it, with k = -1 for a unit that hangs on a spring, and any k for a shell that dents
under it. Its frequency and damping are what it rings on with once the push is over (shift invariance of the signal's
own subspace, ESPRIT: Roy and Kailath 1989). Divided by the whole answer `1 + k s^2 / (...)`, the push leaves nothing
behind if k is right, and a ringing at another pitch if it is not: so k is the one that leaves least, and most like what
the gyro knows of the push.
"""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

LED_S = 0.004  # before the push, from where it is looked at
FROM_S, TO_S = 0.001, 0.034  # after the push, where the seat rings alone
ROWS = 12  # of the Hankel matrix: a period and a half of the lowest pitch, at 1 kHz
HZ, DAMPING = (60.0, 320.0), (0.01, 0.45)
HEARD = 0.015  # of the peak: less is not worth a correction
FEWEST = 4  # samples after a push beyond those rows: a slow unit hears no seat
TRIED = (-1.0, -0.85, -0.7, -0.55, -0.4, -0.3, -0.2, -0.1, 0.1, 0.2, 0.3, 0.45, 0.6)
BETTER = 0.8  # of what was odd before: a mode that explains less of it is none
ROUND_S, TAPER_S = 0.06, 0.03  # of a window that is looked at, and how softly it ends
PITCHES = 3.2  # as far above its pitch a seat tells anything of the push


def taken_off(rest: Floats, turning: Floats, times_s: Floats, start_s: Floats, end_s: Floats, usable: Bools) -> Floats:
    """What has to be added to accelerations without swing (s, n, k), so that they are as a seat that does not give
    would feel them; nought where no mode is heard. `turning` (s, n, 3) is the body's angular acceleration, `start_s`,
    `end_s` (s,) are the push's; samples that are not `usable` (s, n) say nothing."""
    rate = 1.0 / (times_s[1] - times_s[0])
    if round((TO_S - FROM_S) * rate) < _rows(rate) + FEWEST:
        return np.zeros_like(rest)
    hz, damping, heard = _rings(rest, times_s, end_s, usable, rate)
    if not heard.any():
        return np.zeros_like(rest)
    t = times_s[None, :]
    middle = 0.5 * (start_s + end_s)
    taper = np.clip((ROUND_S + TAPER_S - np.abs(t - middle[:, None])) / TAPER_S, 0.0, 1.0)
    near = rest * (taper * usable)[:, :, None]
    n = 2 * rest.shape[1]
    turns = np.fft.rfftfreq(n, 1.0 / rate)
    seen = np.fft.rfft(near, n, axis=1)
    w = 2.0 * np.pi * hz[:, None, :]
    s = 2j * np.pi * turns[None, :, None]
    mode = s * s / (s * s + 2.0 * damping[:, None, :] * w * s + w * w)
    soft = np.exp(-0.5 * np.log(2.0) * (turns[None, :, None] / (PITCHES * hz[:, None, :])) ** 2)
    told = usable & (t > start_s[:, None] - LED_S) & (t < end_s[:, None] + TO_S)
    beside = told & ((t < start_s[:, None] - FROM_S) | (t > end_s[:, None] + FROM_S))

    def odd(z: Floats) -> Floats:
        return _unlike(z, turning, told) * _size(z, beside)

    best = near
    least = BETTER * odd(near)
    for k in TRIED:
        made = np.fft.irfft(seen * soft / (1.0 + k * mode), n, axis=1)[:, : rest.shape[1]]
        left = odd(made)
        take = heard & (left < least)
        least = np.where(take, left, least)
        best = np.where(take[:, None, :], made, best)
    return best - near


def _size(z: Floats, use: Bools) -> Floats:
    """Root mean square (s, k) of z (s, n, k) where `use` (s, n)."""
    w = use[:, :, None].astype(np.float64)
    return np.asarray(np.sqrt((w * z * z).sum(axis=1) / np.maximum(w.sum(axis=1), 1.0)))


def _unlike(z: Floats, turning: Floats, use: Bools) -> Floats:
    """Root mean square (s, k) of what no mixture of the body's angular accelerations says of z (s, n, k) where `use`:
    they know the push too, and nothing of the seat."""
    w = use[:, :, None].astype(np.float64)
    known = np.swapaxes(turning * w, 1, 2)
    normal = known @ turning
    normal = normal + 1e-4 * np.trace(normal, axis1=1, axis2=2)[:, None, None] * np.eye(3) + 1e-9 * np.eye(3)
    off = z - turning @ np.linalg.solve(normal, known @ z)
    return np.asarray(np.sqrt((w * off * off).sum(axis=1) / np.maximum(w.sum(axis=1), 1.0)))


def _rows(rate_hz: float) -> int:
    return max(4, round(ROWS * rate_hz / 1000.0))


def _rings(rest: Floats, times_s: Floats, end_s: Floats, usable: Bools, rate_hz: float) -> tuple[Floats, Floats, Bools]:
    """Pitch, Hz, and damping of each channel (s, k) once the push is over, and where there is a mode to be heard."""
    length = round((TO_S - FROM_S) * rate_hz)
    first = np.searchsorted(times_s, end_s + FROM_S)
    places = np.minimum(first[:, None] + np.arange(length), rest.shape[1] - 1)
    rows = np.arange(len(rest))[:, None]
    after = rest[rows, places] - rest[rows, places].mean(axis=1, keepdims=True)
    rows_of = _rows(rate_hz)
    taken = np.arange(rows_of)[:, None] + np.arange(length - rows_of + 1)
    after = np.where(np.isfinite(after), after, 0.0)
    hankel = np.moveaxis(after, 1, 2)[:, :, taken]  # (s, k, rows, columns)
    left, sizes, _ = np.linalg.svd(hankel)
    pair = left[..., :2]
    turn = np.linalg.pinv(pair[..., :-1, :]) @ pair[..., 1:, :]
    pole = np.linalg.eigvals(turn)[..., 0].astype(np.complex128)
    pole = np.where(np.abs(pole) > 1e-9, pole, 1e-9)
    rate = np.log(pole) * rate_hz
    w = np.maximum(np.abs(rate), 1e-9)
    hz, damping = w / (2.0 * np.pi), -rate.real / w
    peak = np.abs(rest).max(axis=1)
    whole = usable[rows, places].all(axis=1)[:, None]
    heard = (
        whole
        & (np.abs(rate.imag) > 0.0)
        & (hz > HZ[0])
        & (hz < min(HZ[1], 0.4 * rate_hz))
        & (damping > DAMPING[0])
        & (damping < DAMPING[1])
        & (np.abs(after).max(axis=1) > HEARD * peak)
        & ((sizes[..., :2] ** 2).sum(axis=-1) > 0.7 * (sizes**2).sum(axis=-1))
    )
    return np.where(heard, hz, 100.0), np.where(heard, damping, 0.1), heard
