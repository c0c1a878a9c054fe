"""Contact mechanics of a bag that turns about a point: fixed above its top, or standing on its base.

`J = I_p d_omega / h`: the lever h from pivot to hit cannot be seen from such a body, since every hit turns it about the
same axis. It comes from the planned level, and its doubt is carried into the impulse.
"""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag.contact import Contacts
from agile_strike.core.bag.swivel import AXIAL_INERTIA_SD_SHARE, SCALE_SD_SHARE, Pushes
from agile_strike.core.measured import MeasuredArray
from agile_strike.core.target import Bag

Floats = NDArray[np.float64]

OFF_CENTRE_SD_M = 0.004  # a bag on a base or a bracket rocks while it twists
ENERGY_SD_SHARE = 0.025


def pushes(c: Contacts, bag: Bag, planned_levels: list[str | None], yaw_sd_rad: float) -> Pushes:
    """Pushes of each contact given its planned level; the height of the hit is the plan's, with the band's width."""
    mass, i_z = bag.mass_kg, bag.inertia_axial_kg_m2
    arm = bag.pivot_above_com_m
    i_p = bag.inertia_across_kg_m2 + mass * arm**2
    levels = [bag.level_middle_m(level) for level in planned_levels]
    below_top = np.array([m for m, _ in levels]).reshape(-1)
    below_sd = np.array([sd for _, sd in levels]).reshape(-1)
    above_com = bag.com_below_top_m - below_top
    lever = above_com - arm  # below a pivot overhead: negative
    spin = c.spin_change_rad_s
    push = i_p / lever[:, None] * np.stack([spin[:, 1], -spin[:, 0], np.zeros(len(spin))], axis=1)
    turn = np.maximum(np.hypot(spin[:, 0], spin[:, 1]), 1e-9)
    size = np.maximum(np.linalg.norm(push, axis=1), 1e-9)
    turn_sd = np.hypot(np.linalg.norm(c.spin_doubt_rad_s[:, :2], axis=1), SCALE_SD_SHARE * turn)
    share_ip = np.hypot(bag.mass_doubt_kg / mass, bag.inertia_doubt_share * bag.inertia_across_kg_m2 / i_p)
    size_sd = size * np.sqrt(share_ip**2 + (below_sd / lever) ** 2 + (turn_sd / turn) ** 2)
    off = i_z * spin[:, 2] / size
    off_sd = np.sqrt(
        off**2 * (AXIAL_INERTIA_SD_SHARE**2 + (size_sd / size) ** 2)
        + (i_z * c.spin_doubt_rad_s[:, 2] / size) ** 2
        + OFF_CENTRE_SD_M**2
    )
    energy = 0.5 * i_p * turn**2 + 0.5 * i_z * spin[:, 2] ** 2
    energy_sd = energy * np.sqrt(share_ip**2 + (2 * turn_sd / turn) ** 2 + ENERGY_SD_SHARE**2)
    bearing_sd = np.hypot(turn_sd / turn, yaw_sd_rad)
    return Pushes(
        MeasuredArray(size, size_sd),
        MeasuredArray(np.arctan2(push[:, 1], push[:, 0]), bearing_sd),
        MeasuredArray(above_com, below_sd),
        MeasuredArray(off, off_sd),
        MeasuredArray(energy, energy_sd),
    )
