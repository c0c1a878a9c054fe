"""How the unit really sits on a hanging bag, read from the bag's own swinging.

While nobody touches it, the only force on a hanging bag is its chain, which pulls at the top. Its sideways part can be
had twice: from the accelerometer, and from the torque that it must exert to turn the body as the gyro says,
`T_x = I_t alpha_y / c`, `T_y = -I_t alpha_x / c` (Euler's equations with c the height of the top above the centre of
mass). Setting the two equal over the quiet minutes gives a linear regression for the tilt of the unit's z axis
(with the accelerometer's bias, which acts the same) and, where the bag spins, for where the unit sits round it.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from agile_strike.core.bag.leather import AT_ONCE, Tail
from agile_strike.core.target import GRAVITY_M_S2, SENSOR_PLACE_SD_M, Bag

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

MOUNT_YAW_SD_RAD = 0.10  # RECORDING.md: x is good to within 10 degrees
STILL_RAD_S = 0.6
MOST_BIAS_RAD_S, STILL_WITHIN_RAD_S, FEWEST_STILL = 0.12, 0.05, 100  # cheap units err by 0.05
SMOOTH_BLOCKS = 9  # 45 ms: below the ringing, above the swing
ROUNDS = 8  # of reweighting
HUBER = 2.0  # residuals beyond two robust spreads weigh less: somebody may be touching the bag
TUKEY = 4.7  # and in the later rounds, beyond 4.7, nothing (95 % efficient for normal residuals)
RUN_SHARE = 0.02
MOST_ROWS = 30_000  # of the regression: more say nothing new
LEAST_YAW_SD_RAD = 0.05
CLEARLY = 4.0  # by how much a unit's facing must fit better than the next best: fifty to one
UNKNOWN_YAW_SD_RAD = 1.6  # a quarter turn either way
UPRIGHT_COS = 0.77  # 40 degrees: beyond, z does not run up the bag's axis


@dataclass(frozen=True, slots=True)
class Mounting:
    """Rotation from unit to bag axes, and where the unit sits."""

    rotation: Floats  #: (3, 3), bag = rotation @ unit
    position_m: Floats  #: (3,) unit from centre of mass, bag frame
    tilt_deg: float
    yaw_deg: float
    yaw_sd_rad: float
    upright: bool  #: z is within 40 degrees of straight up for most of the recording
    gyro_bias_rad_s: Floats  #: (3,) unit axes
    quarters: int = 0  #: turns by 90 degrees about z until its x points out of the bag
    tail: Tail = AT_ONCE  #: how what it hangs on lets go of a blow


def mounting(
    accel: Floats, gyro: Floats, step_s: float, busy: Bools, bag: Bag, out_axis_known: bool = True
) -> Mounting:
    """From block means (m, 3) of specific force and angular rate `step_s` apart; `busy` (m,) marks contacts.

    Which of the level axes points out of the bag is asked of the bag's own swing, a quarter turn at a time: x, unless
    another fits clearly better. Where x is not known to be the likelier one, whichever fits best, with a doubt as wide
    as a quarter turn where none does clearly.
    """
    whole_accel, whole_gyro, whole_busy = accel, gyro, busy
    thin = slice(None, None, max(1, len(accel) // MOST_ROWS))  # means and medians need no more
    accel, gyro, busy = accel[thin], gyro[thin], busy[thin]
    quiet = ~busy & (np.linalg.norm(gyro, axis=1) < STILL_RAD_S)
    if quiet.sum() < 20:
        quiet = ~busy if (~busy).sum() >= 20 else np.ones(len(accel), bool)
    mean = np.median(accel[quiet], axis=0)
    norm = float(np.linalg.norm(mean))
    up = mean / norm if norm > 0 else np.array([0.0, 0.0, 1.0])
    leaning = accel[:, 2] / np.maximum(np.linalg.norm(accel, axis=1), 1e-6)
    upright = bool(abs(norm - GRAVITY_M_S2) < 2.5 and up[2] > UPRIGHT_COS and np.mean(leaning > UPRIGHT_COS) > 0.7)
    bias = _bias(gyro[~busy])
    level = _level(up) if upright else np.eye(3)
    yaw, yaw_sd, quarters = 0.0, MOUNT_YAW_SD_RAD, 0
    if upright and bag.mount == "swivel":
        found = []
        swing = _swing(whole_accel, whole_gyro - bias, step_s, ~whole_busy)
        for quarter in range(4):
            facing = _about_z(0.5 * np.pi * quarter) @ level
            fit = _swing_fit(swing.turned(facing), bag)
            found.append((fit.cost + (CLEARLY if quarter and out_axis_known else 0.0), quarter, facing, fit))
        found.sort(key=lambda one: one[:2])
        cost, quarters, level, best = found[0]
        yaw, yaw_sd = best.yaw_rad, best.yaw_sd_rad
        if quarters or not out_axis_known:
            yaw_sd = yaw_sd if found[1][0] - cost > CLEARLY else UNKNOWN_YAW_SD_RAD
        level = _level(best.up) @ level
    elif not out_axis_known:
        yaw_sd = UNKNOWN_YAW_SD_RAD
    turn = _about_z(yaw)
    position = np.array([bag.radius_m, 0.0, bag.sensor_above_com_m])
    tilt = float(np.degrees(np.arccos(np.clip((turn @ level)[2, 2], -1.0, 1.0))))
    return Mounting(turn @ level, position, tilt, float(np.degrees(yaw)), yaw_sd, upright, bias, quarters)


def _bias(gyro: Floats) -> Floats:
    """The gyro's bias (3,) from free samples (m, 3), nought where the bag never hung still: one that spins on its
    swivel turns as evenly as a bias does, but faster than any unit errs."""
    slow = gyro[np.linalg.norm(gyro, axis=1) < MOST_BIAS_RAD_S]
    if len(slow) <= FEWEST_STILL:
        return np.zeros(3)
    still = slow[np.linalg.norm(slow - np.median(slow, axis=0), axis=1) < STILL_WITHIN_RAD_S]
    return np.asarray(np.median(still, axis=0) if len(still) > FEWEST_STILL else np.zeros(3))


def _about_z(angle_rad: float) -> Floats:
    c, s = np.cos(angle_rad), np.sin(angle_rad)
    return np.array([[c, s, 0.0], [-s, c, 0.0], [0.0, 0.0, 1.0]])


def _level(up: Floats) -> Floats:
    """The smallest rotation that carries `up` (3,) onto z (Rodrigues)."""
    up = up / np.linalg.norm(up)
    axis = np.array([up[1], -up[0], 0.0])
    s, c = float(np.linalg.norm(axis)), float(up[2])
    if s < 1e-12:
        return np.eye(3)
    k = axis / s
    cross = np.array([[0.0, -k[2], k[1]], [k[2], 0.0, -k[0]], [-k[1], k[0], 0.0]])
    return np.asarray(np.eye(3) + s * cross + (1.0 - c) * cross @ cross)


@dataclass(frozen=True, slots=True)
class _Fit:
    up: Floats  #: (3,) what is left of tilt
    yaw_rad: float  #: of the unit round the bag
    yaw_sd_rad: float
    cost: float  #: minus the log of how likely it is, but for a constant


@dataclass(frozen=True, slots=True)
class _Swing:
    """The bag's free swinging, smoothed: (n, 3) each."""

    f: Floats  #: specific force
    w: Floats  #: angular rate
    alpha: Floats  #: angular acceleration

    def turned(self, turn: Floats) -> "_Swing":
        return _Swing(self.f @ turn.T, self.w @ turn.T, self.alpha @ turn.T)


def _swing(f: Floats, w: Floats, step_s: float, free: Bools) -> _Swing:
    f = uniform_filter1d(f, SMOOTH_BLOCKS, axis=0)
    w = uniform_filter1d(w, SMOOTH_BLOCKS, axis=0)
    alpha = np.gradient(w, step_s, axis=0)
    # a smoothed block is free only if all that it averages is
    free = uniform_filter1d(free.astype(np.float64), SMOOTH_BLOCKS + 4) > 0.999
    every = slice(None, None, max(SMOOTH_BLOCKS // 2, len(f) // MOST_ROWS))
    f, w, alpha, free = f[every], w[every], alpha[every], free[every]
    return _Swing(f[free], w[free], alpha[free])


def _swing_fit(swing: _Swing, bag: Bag) -> _Fit:
    f, w, alpha = swing.f, swing.w, swing.alpha
    if len(f) < 200:
        return _Fit(np.array([0.0, 0.0, 1.0]), 0.0, MOUNT_YAW_SD_RAD, 0.0)
    ratio = bag.inertia_axial_kg_m2 / bag.inertia_across_kg_m2 - 1.0
    arm = bag.inertia_across_kg_m2 / (bag.mass_kg * bag.com_below_top_m)
    pz = bag.sensor_above_com_m
    ones, none = np.ones(len(f)), np.zeros(len(f))
    # unknowns: tilt (as m/s2) in x and y, arm + p_z, p_x, p_y
    x_eq = np.column_stack([ones, none, alpha[:, 1], -(w[:, 1] ** 2 + w[:, 2] ** 2), w[:, 0] * w[:, 1] - alpha[:, 2]])
    y_eq = np.column_stack([none, ones, -alpha[:, 0], w[:, 0] * w[:, 1] + alpha[:, 2], -(w[:, 0] ** 2 + w[:, 2] ** 2)])
    x_known = pz * w[:, 0] * w[:, 2] - arm * ratio * w[:, 0] * w[:, 2]
    y_known = pz * w[:, 1] * w[:, 2] - arm * ratio * w[:, 1] * w[:, 2]
    design = np.vstack([x_eq, y_eq])
    target = np.concatenate([f[:, 0] - x_known, f[:, 1] - y_known])
    prior = np.array([0.0, 0.0, arm + pz, bag.radius_m, 0.0])
    prior_sd = np.array([2.0, 2.0, 0.1 * arm + SENSOR_PLACE_SD_M, 0.01, MOUNT_YAW_SD_RAD * bag.radius_m])
    weight = np.ones(len(target))
    fit, covariance = prior, np.diag(prior_sd**2)
    for turn in range(ROUNDS):
        left = target - design @ fit
        spread = max(1.4826 * float(np.median(np.abs(left))), 0.01)
        if turn < ROUNDS // 2:
            share = 1.0 / np.maximum(np.abs(left) / (HUBER * spread), 1.0)
        else:  # hands on the bag are not of the swing at all
            share = np.maximum(1.0 - (left / (TUKEY * spread)) ** 2, 0.0) ** 2
        weight = share / spread**2
        # samples 20 ms apart share the swing's model error: count one in fifty
        normal = (design * weight[:, None]).T @ design * RUN_SHARE + np.diag(prior_sd**-2)
        covariance = np.linalg.inv(normal)
        fit = covariance @ ((design * weight[:, None]).T @ target * RUN_SHARE + prior / prior_sd**2)
    up = np.array([fit[0], fit[1], GRAVITY_M_S2])
    yaw = float(np.arctan2(fit[4], fit[3]))
    left = target - design @ fit
    spread = max(1.4826 * float(np.median(np.abs(left))), 0.01)
    size = RUN_SHARE * len(left) * float(np.log(spread))
    off = float((((fit - prior) / prior_sd) ** 2).sum()) / 2.0
    return _Fit(up, yaw, max(float(np.sqrt(covariance[4, 4])) / bag.radius_m, LEAST_YAW_SD_RAD), size + off)
