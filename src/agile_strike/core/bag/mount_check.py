"""Does a recording contradict the mount that was declared?

About a fixed pivot every hit moves the unit by `d_omega x (p - pivot)`: the ratio of speed gained to spin gained is the
same for all. On a swivel that ratio moves with the height of the hit. Using the wrong one is wrong by half.
"""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag.contact import Contacts
from agile_strike.core.target import Bag

Floats = NDArray[np.float64]

FEWEST = 4
SAME_TURNING_POINT_M = 0.15  # robust spread of the point about which hits turn a pivoted bag; on a swivel, metres
PIVOT_MISS_M = 0.12  # a declared pivot is known by tape measure; trends in a swing add some centimetres


def contradicts(points: Floats, turns: Floats, bag: Bag, strikes: NDArray[np.bool_]) -> bool:
    """True where the strikes' turning points (s,) fit the other kind of mount; needs at least four strikes."""
    use = strikes & np.isfinite(points) & (turns > 0.0)
    if use.sum() < FEWEST:
        return False
    points = points[use]
    middle = float(np.median(points))
    spread = 1.4826 * float(np.median(np.abs(points - middle)))
    if bag.mount == "swivel":
        # a pivot lies at the top or above; only hits low on a swivel turn it about such a point, and then not the same
        above_top = 0.85 * bag.com_below_top_m < middle < bag.com_below_top_m + 0.6 * bag.length_m
        return bool(spread < SAME_TURNING_POINT_M and above_top)
    return bool(spread > 2 * SAME_TURNING_POINT_M or abs(middle - bag.pivot_above_com_m) > PIVOT_MISS_M + spread)


def turning_points(c: Contacts, bag: Bag) -> tuple[Floats, Floats]:
    """Height above the centre of mass (s,) about which each hit turned the bag, and the spin behind it (rad/s).

    From the unit's own motion: `dv_unit = d_omega x (p - point)`, in the plane of the push. NaN for hits that hardly
    turned the bag, which fit no pivot; they are returned as infinitely far when the bag moved all the same.
    """
    spin = c.spin_change_rad_s
    turn = np.hypot(spin[:, 0], spin[:, 1])
    ahead = np.stack([spin[:, 1], -spin[:, 0]], axis=1) / np.maximum(turn, 1e-9)[:, None]
    dv = c.dv_unit_m_s[:, :2] - spin[:, 2:3] * np.array([0.0, bag.radius_m])
    gained = (dv * ahead).sum(axis=1)
    point = bag.sensor_above_com_m - gained / np.maximum(turn, 1e-9)
    far = turn < 5.0 * np.linalg.norm(c.spin_doubt_rad_s[:, :2], axis=1)
    return np.where(far, np.sign(gained) * 10.0, point), turn
