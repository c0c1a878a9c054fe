"""The swing of a unit on its strap after a contact, taken off: what is left is the limb's own way.

A contact jerks the limb away under its unit, which then swings about it as a damped oscillator on a moved base for some
60 ms, by up to a centimetre. Beside the limb's own course, a cubic, the swing is linear in its size and phase; its
frequency and damping are looked for (variable projection, Golub and Pereyra 1973).
"""

from itertools import product

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.student.grid import BEFORE, STEP_S

Floats = NDArray[np.float64]

SETTLES_S, SWINGS_S = 0.003, 0.11  # after contact: the last of it, and some swings of a strap
HZ, DAMPING = (14.0, 17.0, 21.0, 25.0, 30.0, 36.0, 43.0), (0.13, 0.25)  # where the search begins
FIRST = np.array(list(product(HZ, DAMPING)))
NEARER = np.array(list(product((-0.09, -0.05, 0.0, 0.05, 0.09), (-0.06, 0.0, 0.06))))  # then: share of hz, damping
SHRINK = 1e-3  # of a swing that the course says as well
#: of a speed at the end of contact, read from what came after: its least doubt, and times how far that is from smooth
LEFT_SD_M_S, LEFT_OFF = 0.3, 10.0
#: speed at the end of contact over that at its beginning, where nothing is seen of it: a glove and a bag give back
#: little of what they take, an arm that pushes on less, a springy pad more (Hunt and Crossley 1975; rigs)
SPRINGS_BACK, SPRINGS_SD = -0.35, 0.3
WINDOW = round(SWINGS_S / STEP_S)
CUBIC = 4  # coefficients


def _soon_after(t: Floats, length_s: Floats) -> tuple[NDArray[np.int64], Floats]:
    """Places (s, WINDOW) on the grid t (n,) soon after contacts that lasted `length_s` (s,), and the time since."""
    first = BEFORE + np.ceil((length_s + SETTLES_S) / STEP_S).astype(np.int64)
    places = np.minimum(first[:, None] + np.arange(WINDOW), len(t) - 1)
    return places, t[places] - length_s[:, None]


def leaving(t: Floats, v: Floats, length_s: Floats) -> tuple[Floats, Floats]:
    """Velocity (s, 3) at the end of contact of steadied limbs (s, n, 3), by a cubic through what came soon after, and
    its doubt (s,), by how far that was from the cubic."""
    places, since = _soon_after(t, length_s)
    course = _course(since)
    turned = np.swapaxes(course, 1, 2)
    felt = v[np.arange(len(v))[:, None], places]
    fit = np.linalg.solve(turned @ course, turned @ felt)
    off = felt - course @ fit
    rms = np.sqrt((off**2).mean(axis=(1, 2)))
    return np.asarray(fit[:, 0]), np.hypot(LEFT_SD_M_S, LEFT_OFF * rms)


def told_by_course(left_sd: Floats, speed_m_s: Floats | float) -> Floats:
    """How much of the speed at the end of contact the course after it tells, against what blows leave of
    `speed_m_s`: by their variances."""
    usual = (SPRINGS_SD * speed_m_s) ** 2
    return np.asarray(usual / (usual + left_sd**2))


def _course(since: Floats) -> Floats:
    """Powers (s, n, 4) of times (s, n), of one size."""
    return np.stack([(since / SWINGS_S) ** k for k in range(CUBIC)], axis=-1)


def steadied(t: Floats, v: Floats, p: Floats, length_s: Floats) -> tuple[Floats, Floats]:
    """Velocity and place (s, n, 3) on the grid t (n,) from contact, after each contact without the strap's swing."""
    places, since = _soon_after(t, length_s)
    felt = v[np.arange(len(v))[:, None], places]
    course = _course(since)
    tried = np.broadcast_to(FIRST, (len(v), *FIRST.shape))
    near, _ = _best(since, course, felt, tried)
    tried = np.stack([near[:, :1] * (1.0 + NEARER[:, 0]), near[:, 1:] + NEARER[:, 1]], axis=2)
    best, size = _best(since, course, felt, tried)
    rate = 2.0 * np.pi * best[:, 0] * (-best[:, 1] + 1j)
    from_end = t[None, :] - length_s[:, None]
    over = np.arange(len(t)) >= (BEFORE + np.rint(length_s / STEP_S))[:, None]
    swing = np.where(over, np.exp(np.where(over, rate[:, None] * from_end, 0.0)), 0.0)[:, :, None] * size[:, None, :]
    return v - swing.real, p - (swing / rate[:, None, None]).real


def _best(since: Floats, course: Floats, felt: Floats, tried: Floats) -> tuple[Floats, NDArray[np.complex128]]:
    """Of frequencies and dampings tried (s, k, 2), those (s, 2) and the size (s, 3) of the swing that leaves least of
    the velocity felt (s, n, 3): its course is the real part of size exp(rate t), beside a cubic."""
    rates = 2.0 * np.pi * tried[..., 0] * (-tried[..., 1] + 1j)
    swing = np.exp(rates[:, :, None] * since[:, None, :])
    whole = np.broadcast_to(course[:, None], (*swing.shape, CUBIC))
    design = np.concatenate([whole, swing.real[..., None], swing.imag[..., None]], axis=-1)
    turned = np.swapaxes(design, 2, 3)
    fit = np.linalg.solve(turned @ design + np.diag([0.0] * CUBIC + [SHRINK] * 2), turned @ felt[:, None])
    k = np.argmin(((felt[:, None] - design @ fit) ** 2).sum(axis=(2, 3)), axis=1)
    rows = np.arange(len(felt))
    return tried[rows, k], fit[rows, k, CUBIC] - 1j * fit[rows, k, CUBIC + 1]
