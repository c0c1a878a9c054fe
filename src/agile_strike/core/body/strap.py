"""The swing of a unit on its strap after a contact, taken off: what is left is the limb's own way.

A contact jerks the limb away under its unit, which then swings about it as a damped oscillator on a moved base for some
60 ms, by up to a centimetre. Beside the limb's own course, a cubic, the swing is linear in its size and phase; its
frequency and damping are looked for (variable projection, Golub and Pereyra 1973).
"""

from itertools import product

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.body.grid import BEFORE, STEP_S

Floats = NDArray[np.float64]

SETTLES_S, SWINGS_S = 0.003, 0.11  # after contact: the last of it, and some swings of a strap
HZ = (14.0, 15.5, 17.0, 19.0, 21.0, 23.0, 25.0, 27.5, 30.0, 33.0, 36.0, 40.0, 44.0, 48.0)
DAMPING = (0.12, 0.2, 0.3)
SHRINK = 1e-3  # of a swing that the course says as well
WINDOW = round(SWINGS_S / STEP_S)
_RATES = [complex(-d, 1.0) * 2.0 * np.pi * hz for hz, d in product(HZ, DAMPING)]  # 1/s: decay and turn


def first_after(length_s: float) -> int:
    """Index of the grid at which a contact of that length is over."""
    return BEFORE + int(np.ceil((length_s + SETTLES_S) / STEP_S))


def leaving(t: Floats, v: Floats, length_s: float) -> Floats:
    """Velocity (3,) at the end of contact of one steadied limb (n, 3): a cubic through what came soon after."""
    part = slice(first_after(length_s), first_after(length_s) + WINDOW)
    return np.asarray(np.polyfit(t[part] - length_s, v[part], 3)[-1])


def steadied(t: Floats, v: Floats, p: Floats, length_s: Floats) -> tuple[Floats, Floats]:
    """Velocity and place (s, n, 3) on the grid t (n,) from contact, after each contact without the strap's swing."""
    v, p = v.copy(), p.copy()
    turning = np.array(_RATES)[:, None]
    for i, length in enumerate(length_s):
        first = first_after(float(length))
        since = t[first : first + WINDOW] - length
        course = np.vander(since / SWINGS_S, 4, increasing=True)
        swing = np.exp(turning * since)
        design = np.concatenate(
            [np.broadcast_to(course, (len(_RATES), *course.shape)), np.stack([swing.real, swing.imag], axis=2)], axis=2
        )
        turned = np.swapaxes(design, 1, 2)
        felt = v[i, first : first + WINDOW]
        fit = np.linalg.solve(turned @ design + np.diag([0.0] * 4 + [SHRINK] * 2), turned @ felt)
        best = int(np.argmin(((felt - design @ fit) ** 2).sum(axis=(1, 2))))
        size = fit[best, 4] - 1j * fit[best, 5]  # (3,): the swing's velocity is the real part of size exp(rate t)
        end = BEFORE + round(float(length) / STEP_S)
        course_of = np.exp(_RATES[best] * (t[end:] - length))[:, None] * size
        v[i, end:] -= course_of.real
        p[i, end:] -= (course_of / _RATES[best]).real
    return v, p
