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
NEARER = tuple(product((-0.09, -0.05, 0.0, 0.05, 0.09), (-0.06, 0.0, 0.06)))  # and goes on: share of hz, damping
SHRINK = 1e-3  # of a swing that the course says as well
WINDOW = round(SWINGS_S / STEP_S)


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
    for i, length in enumerate(length_s):
        first, end = first_after(float(length)), BEFORE + round(float(length) / STEP_S)
        since, felt = t[first : first + WINDOW] - length, v[i, first : first + WINDOW]
        hz, damping, _ = _best(since, felt, list(product(HZ, DAMPING)))
        hz, damping, size = _best(since, felt, [(hz * (1.0 + a), damping + b) for a, b in NEARER])
        rate = complex(-damping, 1.0) * 2.0 * np.pi * hz
        swing = np.exp(rate * (t[end:] - length))[:, None] * size
        v[i, end:] -= swing.real
        p[i, end:] -= (swing / rate).real
    return v, p


def _best(since: Floats, felt: Floats, tried: list[tuple[float, float]]) -> tuple[float, float, NDArray[np.complex128]]:
    """Frequency, damping and size (3,) of the swing that leaves least of the velocity felt (n, 3): its course is the
    real part of size exp(rate t), beside a cubic."""
    rates = np.array([complex(-d, 1.0) * 2.0 * np.pi * hz for hz, d in tried])
    course = np.vander(since / SWINGS_S, 4, increasing=True)
    swing = np.exp(rates[:, None] * since)
    design = np.concatenate(
        [np.broadcast_to(course, (len(tried), *course.shape)), np.stack([swing.real, swing.imag], axis=2)], axis=2
    )
    turned = np.swapaxes(design, 1, 2)
    fit = np.linalg.solve(turned @ design + np.diag([0.0] * 4 + [SHRINK] * 2), turned @ felt)
    k = int(np.argmin(((felt - design @ fit) ** 2).sum(axis=(1, 2))))
    return *tried[k], fit[k, 4] - 1j * fit[k, 5]
