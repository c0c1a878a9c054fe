"""What a real motion unit makes of the bag's motion: mounting, shell ringing, clock, noise, bias, clipping, gaps."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter
from scipy.spatial.transform import Rotation

from agile_strike.core.simulation.evening import CONTACT_STEP_S, Bump, Motion

Floats = NDArray[np.float64]
TAP_M_S2 = 120.0
RING_TAIL_S = 0.25


@dataclass(frozen=True, slots=True)
class Mess:
    """How far the unit is from ideal. Zero everywhere is a perfect sensor."""

    mounting_deg: float = 8.0
    ringing_share: float = 0.06  #: ring amplitude against the peak of the hit's own acceleration
    ringing_hz: float = 95.0
    ringing_damping: float = 0.05
    accel_noise_m_s2: float = 0.08
    gyro_noise_rad_s: float = 0.003
    accel_bias_m_s2: float = 0.15
    gyro_bias_rad_s: float = 0.01
    drift_ppm: float = 0.0
    missing_share: float = 0.0  #: samples lost singly
    gap_s: float = 0.0  #: one stretch lost in the middle
    seed: int | None = None  #: of how the unit sits and errs, where one evening is made piece by piece


CLEAN = Mess(0, 0, 95.0, 0.05, 0, 0, 0, 0)


def sense(
    motion: Motion,
    bumps: list[Bump],
    mess: Mess,
    rate_hz: float,
    accel_full_scale: float,
    gyro_full_scale: float,
    rng: np.random.Generator,
) -> tuple[Floats, Floats, Floats]:
    """Sample the motion: times (n,) on the unit's clock, specific force (n, 3) m/s2 and rate (n, 3) rad/s.

    Missing samples are NaN. The clock runs `drift_ppm` fast.
    """
    length = motion.times_s[-1]
    n = int(length * rate_hz)
    unit_s = np.arange(n) / rate_hz
    true_s = unit_s / (1.0 + mess.drift_ppm * 1e-6)
    accel = np.column_stack([np.interp(true_s, motion.times_s, motion.specific_force[:, i]) for i in range(3)])
    gyro = np.column_stack([np.interp(true_s, motion.times_s, motion.angular_rate[:, i]) for i in range(3)])
    if mess.ringing_share:
        accel += _ringing(motion, true_s, mess, rng)
    for bump in bumps:
        if bump.kind == "tap":
            accel += _tap(true_s, bump.time_s, rng)
    own = rng if mess.seed is None else np.random.default_rng(mess.seed)
    tilt = Rotation.from_rotvec(np.radians(mess.mounting_deg) * _direction(own))
    accel, gyro = tilt.apply(accel), tilt.apply(gyro)
    accel += mess.accel_bias_m_s2 * own.standard_normal(3) + mess.accel_noise_m_s2 * rng.standard_normal((n, 3))
    gyro += mess.gyro_bias_rad_s * own.standard_normal(3) + mess.gyro_noise_rad_s * rng.standard_normal((n, 3))
    accel = np.clip(accel, -accel_full_scale, accel_full_scale)
    gyro = np.clip(gyro, -gyro_full_scale, gyro_full_scale)
    lost = rng.random(n) < mess.missing_share
    if mess.gap_s:
        lost |= np.abs(unit_s - length / 2.0) < mess.gap_s / 2.0
    accel[lost], gyro[lost] = np.nan, np.nan
    return unit_s, accel, gyro


def _direction(rng: np.random.Generator) -> Floats:
    v = rng.standard_normal(3)
    return np.asarray(v / np.linalg.norm(v))


def _ringing(motion: Motion, times_s: Floats, mess: Mess, rng: np.random.Generator) -> Floats:
    """The shell as one damped oscillator driven by each push; its acceleration, scaled to the hit's own peak."""
    out = np.zeros((len(times_s), 3))
    for truth in motion.truths:
        force = np.concatenate([truth.force_n, np.zeros(int(RING_TAIL_S / CONTACT_STEP_S))])
        w = 2 * np.pi * mess.ringing_hz * rng.uniform(0.8, 1.25)
        decay = np.exp(-mess.ringing_damping * w * CONTACT_STEP_S)
        turn = w * np.sqrt(1 - mess.ringing_damping**2) * CONTACT_STEP_S
        moved = lfilter([0.0, decay * np.sin(turn)], [1.0, -2 * decay * np.cos(turn), decay**2], force)
        moved = np.gradient(np.gradient(moved))  # the unit feels the shell's acceleration, not its dent
        after = moved[min(len(truth.force_n), int((truth.end_s - truth.times_s[0]) / CONTACT_STEP_S) + 2) :]
        at = truth.times_s[0] + CONTACT_STEP_S * (0.5 + np.arange(len(force)))
        own = np.interp(at, motion.times_s, np.linalg.norm(motion.specific_force[:, :2], axis=1)).max()
        along = np.array([np.cos(np.radians(truth.bearing_deg)), np.sin(np.radians(truth.bearing_deg)), 0.0])
        along = along + 0.6 * rng.standard_normal(3)
        along /= np.linalg.norm(along)
        ring = moved / np.abs(after).max() * mess.ringing_share * own
        i, j = np.searchsorted(times_s, [at[0], at[-1]])
        out[i:j] += np.interp(times_s[i:j], at, ring)[:, None] * along
    return out


def _tap(times_s: Floats, at_s: float, rng: np.random.Generator) -> Floats:
    """A finger or a glove's edge on the unit itself: a jolt of a few milliseconds that rings and moves no bag."""
    since = times_s - at_s
    jolt = np.exp(-np.maximum(since, 0.0) / 0.006) * np.sin(2 * np.pi * 180.0 * np.maximum(since, 0.0))
    return TAP_M_S2 * jolt[:, None] * _direction(rng)
