"""Contact mechanics of a bag that hangs free: impulse, line of action and energy from one six-axis unit.

During the 10 to 40 ms of contact a vertical chain carries no sideways load worth the name, so the bag is a free rigid
body (Goldsmith, Impact, ch. 2): `M dv = J` and `I dw = r x J`. Where the chain hangs askew in a swing, the blow jerks
it: its impulsive tension follows from the chain's constant length, and is taken off both equations.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag.contact import Contacts
from agile_strike.core.measured import MeasuredArray
from agile_strike.core.target import SENSOR_PLACE_SD_M, Bag

Floats = NDArray[np.float64]

SCALE_SD_SHARE = 0.004  # accelerometer and gyro scale of a unit calibrated in six positions
HORIZONTAL = np.array([1.0, 1.0, 0.0])
UPRIGHT = np.array([0.0, 0.0, 1.0])
SLACK_M_S2 = 2.0
ASKEW_SD_SHARE = 0.1  # of the impulse, for each radian between chain and bag
AXIAL_INERTIA_SD_SHARE = 0.045  # a loose core, a soft shell: nobody times a bag's spin
MODEL_SD_SHARE = 0.009  # what swing and ringing leave in an impulse beside the trends' own spread (simulated evenings)
HEIGHT_SD_M = 0.007


@dataclass(frozen=True, slots=True)
class Pushes:
    """Pushes on s contacts, in bag axes, horizontal."""

    impulse_n_s: MeasuredArray
    direction_rad: MeasuredArray
    hit_above_com_m: MeasuredArray
    off_centre_m: MeasuredArray
    energy_j: MeasuredArray


def pushes(c: Contacts, bag: Bag, yaw_sd_rad: float) -> Pushes:
    """Impulse, bearing, line of action and energy of each contact on a swivel mount."""
    mass, i_t, i_z = bag.mass_kg, bag.inertia_across_kg_m2, bag.inertia_axial_kg_m2
    inertia = np.array([i_t, i_t, i_z])
    top = np.array([0.0, 0.0, bag.com_below_top_m])
    pull = np.linalg.norm(c.chain, axis=1)
    # a slack chain shows no direction; one that pulls does, however far the bag has swung
    up = np.where((pull > SLACK_M_S2)[:, None], c.chain / np.maximum(pull, 1e-6)[:, None], UPRIGHT)
    top_yield = 1.0 / mass + (up * np.cross(np.cross(top, up) / inertia, top)).sum(axis=1)
    push = mass * c.dv_m_s * HORIZONTAL
    for _ in range(2):
        spin = (c.top_moment_n_m_s + np.cross(top, push)) / inertia
        # the push alone would move the top along the chain by this much; the chain's jerk takes it back
        jerk = -(up * (push / mass + np.cross(spin, top))).sum(axis=1) / top_yield
        push = (mass * c.dv_m_s - jerk[:, None] * up) * HORIZONTAL
    spin = (c.top_moment_n_m_s + np.cross(top, push)) / inertia
    size = np.maximum(np.linalg.norm(push, axis=1), 1e-9)
    along = push / size[:, None]
    turn_along = spin[:, 1] * along[:, 0] - spin[:, 0] * along[:, 1]
    height = i_t * turn_along / size
    off = i_z * spin[:, 2] / size

    d_mass, d_inertia = bag.mass_doubt_kg / mass, bag.inertia_doubt_share
    pz, radius = bag.sensor_above_com_m, bag.radius_m
    turn = np.abs(turn_along)
    velocity_sd = np.linalg.norm(c.dv_doubt_m_s[:, :2], axis=1)
    moment_sd = np.linalg.norm(c.top_moment_doubt_n_m_s[:, :2], axis=1)
    dv = np.linalg.norm(c.dv_m_s[:, :2], axis=1)
    yawed = yaw_sd_rad * radius * np.abs(spin[:, 2])
    dv_sd = np.sqrt(
        velocity_sd**2 + (SENSOR_PLACE_SD_M * turn) ** 2 + yawed**2 + (SCALE_SD_SHARE * (dv + np.abs(pz) * turn)) ** 2
    )
    # the farther the chain hangs from the bag's axis, the more its jerk and its pull during contact matter
    askew = ASKEW_SD_SHARE * np.hypot(up[:, 0], up[:, 1])
    size_sd = size * np.sqrt(d_mass**2 + MODEL_SD_SHARE**2 + askew**2 + (dv_sd / np.maximum(dv, 1e-9)) ** 2)
    bearing_sd = np.sqrt((dv_sd / np.maximum(dv, 1e-9)) ** 2 + yaw_sd_rad**2)
    # mass enters height twice with opposite sign only where the inertia was computed from it; take both as free
    height_sd = np.sqrt(height**2 * (d_inertia**2 + (size_sd / size) ** 2) + (moment_sd / size) ** 2 + HEIGHT_SD_M**2)
    off_sd = np.sqrt(
        off**2 * (AXIAL_INERTIA_SD_SHARE**2 + (size_sd / size) ** 2)
        + (c.top_moment_doubt_n_m_s[:, 2] / size) ** 2
        + 0.0005**2
    )
    linear, turning = size**2 / (2 * mass), 0.5 * i_t * turn**2
    spinning = 0.5 * i_z * spin[:, 2] ** 2
    energy_sd = np.sqrt(
        (2 * linear * size_sd / size) ** 2
        + (linear * d_mass) ** 2
        + (turning * (d_inertia + 2 * moment_sd / np.maximum(i_t * turn, 1e-3))) ** 2
        + (spinning * 2 * AXIAL_INERTIA_SD_SHARE) ** 2
        + (2.0 * MODEL_SD_SHARE * (linear + turning)) ** 2
    )
    return Pushes(
        MeasuredArray(size, size_sd),
        MeasuredArray(np.arctan2(push[:, 1], push[:, 0]), bearing_sd),
        MeasuredArray(height, height_sd),
        MeasuredArray(off, off_sd),
        MeasuredArray(linear + turning + spinning, energy_sd),
    )
