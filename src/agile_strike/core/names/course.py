"""A limb's course as figures that names are told apart by: where it goes and how it turns, however fast."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.student.lanes import COURSE, TIMES_S

Floats = NDArray[np.float64]

#: seconds from contact: the way there closely, the way back in passing
AT_S = np.array([-0.24, -0.18, -0.14, -0.11, -0.085, -0.065, -0.045, -0.03, -0.015, -0.004, 0.08, 0.16])
NEAR_S = 0.03  # before contact, whose mean speed is the measure of all others
TURN_DEG_S = 1000.0


def figures(curves: Mapping[str, NDArray[Any]]) -> Floats | None:
    """The course of one strike (d,), from its drawn curves; None where they lack the limb's own.

    Velocities by the speed near contact, turns by a thousand degrees a second, and the paths that velocities give, by
    their length: what is left is the shape.
    """
    if any(name not in curves for name in COURSE):
        return None
    course = np.stack([np.asarray(curves[name], np.float64) for name in COURSE], axis=1)
    near = (TIMES_S >= -NEAR_S) & (TIMES_S <= 0.0)
    speed = float(np.linalg.norm(course[near, :3], axis=1).mean())
    if not np.isfinite(course).all() or speed <= 0.0:
        return None
    course = course / np.array([speed] * 3 + [TURN_DEG_S] * 3)
    sampled = np.stack([np.interp(AT_S, TIMES_S, course[:, k]) for k in range(6)], axis=1)
    there = (TIMES_S >= AT_S[0]) & (TIMES_S <= 0.0)
    way = course[there, :3].sum(axis=0)
    turned = course[there, 3:].sum(axis=0) * (TIMES_S[1] - TIMES_S[0]) * 10.0
    return np.concatenate([sampled.ravel(), way / max(float(np.linalg.norm(way)), 1e-9), turned])
