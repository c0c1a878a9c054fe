"""What the units on a student deliver, with the mess of real ones, and what is true of each strike.

Mounting is off by up to 15 degrees, straps wobble after contact, accelerometers end at 16 g, every unit has a clock of
its own. Truth is read from the noise-free course at 2.5 kHz by the definitions, not by the analysis's code.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, lfilter, sosfilt
from scipy.spatial.transform import Rotation

from agile_strike.core.recording import UnitSignal
from agile_strike.core.simulation import trunk_motion as trunk
from agile_strike.core.simulation.limb_motion import LimbMotion, limb_motion
from agile_strike.core.simulation.student import FINE_HZ, TRUNK_STEP_S, Body, Thrown, guard, quiet_share, steps
from agile_strike.core.simulation.trunk_motion import Loads, PartMotion
from agile_strike.core.target import GRAVITY_M_S2

Floats = NDArray[np.float64]

PACKET_S = 0.04
STAMP_DELAY_S = {"sole": 0.0, "ankle": 0.0, "pelvis": 0.002, "torso": 0.004, "wrist": 0.005, "forearm": 0.005}
STAMP_M_S2 = {"sole": 0.0, "ankle": 70.0, "pelvis": 35.0, "torso": 22.0, "wrist": 20.0, "forearm": 20.0}


@dataclass(frozen=True, slots=True)
class Stamps:
    """How the three stamps at either end reach the units."""

    size: float = 1.0  #: against a firm one
    width_s: float = 0.0  #: of a rounded pulse, after a dip while the foot is in the air; nought: a sharp thud
    uneven: float = 0.2  #: from one to the next
    missed: bool = False  #: one of the six does not come
    one_more: bool = False  #: a fourth one follows at either end
    announced: bool = True  #: in the events


@dataclass(frozen=True, slots=True)
class WearMess:
    """How far body-worn units are from ideal."""

    mounting_deg: float = 12.0  #: standard size of the error, at most 15
    accel_noise_m_s2: float = 0.08
    gyro_noise_rad_s: float = 0.004
    accel_bias_m_s2: float = 0.06
    gyro_bias_rad_s: float = 0.008
    scale_share: float = 0.003
    wobble_share: float = 0.25  #: of the contact's own jolt, by the strap
    wobble_hz: float = 28.0
    drift_ppm: float = 120.0
    offset_s: float = 0.8
    sole_noise_n: float = 5.0
    wrist_rate_hz: float = 1000.0
    trunk_rate_hz: float = 400.0
    sole_rate_hz: float = 100.0
    full_scale_m_s2: float = 16 * GRAVITY_M_S2
    gyro_full_scale_rad_s: float = 34.9
    low_pass_hz: float = 0.0  #: of the sensors themselves, with its delay; nought: none
    cross_axis_share: float = 0.0  #: of one axis that another feels
    gyro_per_m_s2: float = 0.0  #: rad/s that a push feigns
    warming_rad_s: float = 0.0  #: by which a gyro's bias drifts through the evening
    resolution_m_s2: float = 0.0
    lost_share: float = 0.0  #: of the samples, in packets of 40 ms
    stamps: "Stamps" = field(default_factory=lambda: Stamps())
    clocks: Mapping[str, tuple[float, float]] = field(default_factory=dict)  #: given ones, as in `Worn`
    seed: int | None = None  #: of how each unit sits and errs, where one evening is made piece by piece


WORN = ("leftwrist", "rightwrist", "leftankle", "rightankle", "pelvis", "torso", "leftsole", "rightsole")


@dataclass(frozen=True, slots=True)
class Worn:
    """Signals of the worn units and what is true."""

    units: dict[str, UnitSignal]
    clocks: dict[str, tuple[float, float]]  #: unit -> offset (s), drift (ppm): reference = offset + unit (1 + drift)
    course: "Course"


@dataclass(frozen=True, slots=True)
class Course:
    """The noise-free evening on the fine grid, from which truth is read."""

    times_s: Floats
    limbs: dict[str, LimbMotion]  #: by limb, as left_hand
    parts: dict[str, PartMotion]  #: pelvis, torso
    shank_yaw_deg: dict[str, Floats]
    loads: Loads
    body: Body
    thrown: list[Thrown] = field(default_factory=list)


def wear(
    body: Body,
    thrown: list[Thrown],
    length_s: float,
    stamps_s: list[float],
    mess: WearMess,
    rng: np.random.Generator,
    units: tuple[str, ...] = WORN,
) -> Worn:
    """Play the student through the evening and sense it with `units`."""
    t = np.arange(int(length_s * FINE_HZ)) / FINE_HZ
    if mess.stamps.one_more:
        stamps_s = sorted([*stamps_s, *(2.0 * b - a for a, b in (stamps_s[1:3], stamps_s[4:6]))])
    base = guard(body, t, rng) * quiet_share(t, thrown)[:, None]
    walk = steps(body, length_s, thrown, rng)
    walked = base + sum((s.gone(t, 0.0, TRUNK_STEP_S)[:, None] * s.way_m for s in walk), np.zeros(3))
    limbs = {
        f"{side}_{part}": limb_motion(body, part, side, t, walked if part == "hand" else base, thrown, walk, rng)
        for part in ("hand", "foot")
        for side in ("left", "right")
    }
    parts = trunk.trunk(body, t, walked, thrown, rng)
    yaw = trunk.shanks(body, t, thrown, rng)
    for side in ("left", "right"):
        limbs[f"{side}_foot"].angles_rad[:, 0] += np.radians(yaw[side])
    pelvis = parts["pelvis"]
    height = pelvis.position_m[:, 2] - base[:, 2]
    load = trunk.loads(body, t, base, height, thrown, stamps_s, walk, rng)
    course = Course(t, limbs, parts, yaw, load, body, thrown)
    return Worn(*sensed(course, stamps_s, mess, rng, units), course)


def sensed(
    course: Course, stamps_s: list[float], mess: WearMess, rng: np.random.Generator, units: tuple[str, ...]
) -> tuple[dict[str, UnitSignal], dict[str, tuple[float, float]]]:
    """What `units` deliver of a course, and their clocks as in `Worn`."""
    signals, clocks = {}, {}
    for name in units:
        drawn = (mess.offset_s * rng.uniform(-1, 1), mess.drift_ppm * rng.uniform(-1, 1))
        offset, drift = clocks[name] = mess.clocks.get(name, drawn)
        signals[name] = _sense(name, course, stamps_s, offset, drift, mess, rng)
    return signals, clocks


def _sense(
    name: str,
    course: Course,
    stamps_s: list[float],
    offset_s: float,
    drift_ppm: float,
    mess: WearMess,
    rng: np.random.Generator,
) -> UnitSignal:
    kind = name.removeprefix("left").removeprefix("right")
    side = "left" if name.startswith("left") else "right"
    rate = {"sole": mess.sole_rate_hz, "pelvis": mess.trunk_rate_hz, "torso": mess.trunk_rate_hz}.get(
        kind, mess.wrist_rate_hz
    )
    end_s = course.times_s[-1]
    n = int((end_s - max(offset_s, 0.0) - 0.2) * rate)
    at = offset_s + np.arange(n) / rate * (1.0 + drift_ppm * 1e-6)
    own = rng if mess.seed is None else np.random.default_rng([mess.seed, WORN.index(name)])
    if kind == "sole":
        gain = 1.0 + mess.scale_share * own.standard_normal()
        cells = [np.interp(at, course.times_s, f[side]) * gain for f in (course.loads.heel_n, course.loads.forefoot_n)]
        heel_forefoot = np.column_stack(cells) + mess.sole_noise_n * rng.standard_normal((n, 2))
        return UnitSignal(
            name,
            rate,
            np.zeros((n, 3), np.float32),
            np.zeros((n, 3), np.float32),
            sole_n=np.maximum(heel_forefoot, 0.0).astype(np.float32),
            starts_s=round(offset_s + rng.uniform(-0.5, 0.5), 3),
        )
    if kind in ("pelvis", "torso"):
        position, angles = course.parts[kind].position_m, course.parts[kind].angles_rad
    else:
        limb = f"{side}_{'foot' if kind == 'ankle' else 'hand'}"
        position, angles = course.limbs[limb].position_m, course.limbs[limb].angles_rad
    acc = np.gradient(np.gradient(position, 1.0 / FINE_HZ, axis=0), 1.0 / FINE_HZ, axis=0)
    acc[:, 2] += GRAVITY_M_S2
    force = trunk.to_body(angles, acc)
    rates = trunk.body_rates(angles)
    felt = np.column_stack([np.interp(at, course.times_s, force[:, i]) for i in range(3)])
    turn = np.column_stack([np.interp(at, course.times_s, rates[:, i]) for i in range(3)])
    how = mess.stamps
    for stamp in stamps_s[1:] if how.missed else stamps_s:
        size = STAMP_M_S2[kind] * how.size * rng.uniform(1.0 - how.uneven, 1.0 + how.uneven)
        since = at - stamp - STAMP_DELAY_S[kind]
        felt += _rounded(since, size, how.width_s, rng) if how.width_s else _stamp(since, size, rng)
    felt += _wobble(name, at, course, mess, rng)
    if mess.low_pass_hz:
        sos = butter(2, mess.low_pass_hz, fs=rate, output="sos") if mess.low_pass_hz < 0.45 * rate else None
        felt, turn = (x if sos is None else sosfilt(sos, x - x[:1], axis=0) + x[:1] for x in (felt, turn))
    axis = own.standard_normal(3)
    tilt = Rotation.from_rotvec(
        np.radians(min(mess.mounting_deg * abs(own.normal(1.0, 0.2)), 15.0)) * axis / np.linalg.norm(axis)
    )
    felt, turn = tilt.apply(felt), tilt.apply(turn)
    felt *= 1.0 + mess.scale_share * own.standard_normal(3)
    turn *= 1.0 + mess.scale_share * own.standard_normal(3)
    if mess.cross_axis_share:
        felt, turn = (x + x @ (mess.cross_axis_share * own.standard_normal((3, 3))) for x in (felt, turn))
    if mess.gyro_per_m_s2 or mess.warming_rad_s:
        turn = turn + felt @ (mess.gyro_per_m_s2 * own.standard_normal((3, 3)))
        turn += np.linspace(0.0, 1.0, n)[:, None] * mess.warming_rad_s * own.standard_normal(3)
    felt += mess.accel_bias_m_s2 * own.standard_normal(3) + mess.accel_noise_m_s2 * rng.standard_normal((n, 3))
    turn += mess.gyro_bias_rad_s * own.standard_normal(3) + mess.gyro_noise_rad_s * rng.standard_normal((n, 3))
    felt = np.clip(felt, -mess.full_scale_m_s2, mess.full_scale_m_s2)
    turn = np.clip(turn, -mess.gyro_full_scale_rad_s, mess.gyro_full_scale_rad_s)
    if mess.resolution_m_s2:
        felt = np.round(felt / mess.resolution_m_s2) * mess.resolution_m_s2
    before = at < 0.0
    if before.any():  # the unit began before the bag's: nothing is known of the student then, so they stand
        first = int(np.argmin(before))
        felt[before] = felt[first] + mess.accel_noise_m_s2 * rng.standard_normal((int(before.sum()), 3))
        turn[before] = turn[first] + mess.gyro_noise_rad_s * rng.standard_normal((int(before.sum()), 3))
    if mess.lost_share:
        packet = max(1, round(PACKET_S * rate))
        gone = np.repeat(rng.random(n // packet + 1) < mess.lost_share, packet)[:n]
        felt[gone], turn[gone] = np.nan, np.nan
    return UnitSignal(
        name,
        rate,
        felt.astype(np.float32),
        turn.astype(np.float32),
        mess.full_scale_m_s2,
        mess.gyro_full_scale_rad_s,
        starts_s=round(offset_s + rng.uniform(-0.5, 0.5), 3),
    )


def _stamp(since_s: Floats, size: float, rng: np.random.Generator) -> Floats:
    """A heel's thud: up, then a damped rebound; mostly vertical."""
    t = np.maximum(since_s, 0.0)
    jolt = size * np.exp(-t / 0.012) * np.sin(2 * np.pi * 26.0 * t)
    way = np.array([0.25 * rng.standard_normal(), 0.25 * rng.standard_normal(), 1.0])
    return np.asarray(jolt[:, None] * way)


def _rounded(since_s: Floats, size: float, width_s: float, rng: np.random.Generator) -> Floats:
    """A stamp that knees and hips have rounded: a small dip while the foot is in the air, then one pulse."""
    x = np.clip(since_s / width_s, 0.0, 1.0)
    dip = np.clip(since_s / 0.2 + 1.0, 0.0, 1.0)
    jolt = size * np.sin(np.pi * x) ** 2 - 0.08 * size * np.sin(np.pi * dip) ** 2
    way = np.array([0.2 * rng.standard_normal(), 0.2 * rng.standard_normal(), 1.0])
    return np.asarray(jolt[:, None] * way)


def _wobble(name: str, at: Floats, course: Course, mess: WearMess, rng: np.random.Generator) -> Floats:
    """The strap's give: the unit swings on it when a contact jerks the limb, as a damped oscillator on a moved base;
    the trunk feels a little of every contact."""
    out = np.zeros((len(at), 3))
    side = "left" if name.startswith("left") else "right"
    for one in course.thrown:
        part = "wrist" if one.limb.endswith("hand") else "ankle"
        share = mess.wobble_share if name == f"{side}{part}" and one.side == side else 0.02
        times = one.contact_s + np.arange(int(0.3 * FINE_HZ)) / FINE_HZ
        jerk = np.gradient(np.interp(times, one.contact_times_s, one.contact_speeds_m_s), 1.0 / FINE_HZ)
        w, damping = 2 * np.pi * mess.wobble_hz * rng.uniform(0.8, 1.25), rng.uniform(0.12, 0.3)
        decay, turn = np.exp(-damping * w / FINE_HZ), w * np.sqrt(1 - damping**2) / FINE_HZ
        # impulse response of the oscillator, sampled; what the unit feels beside the limb is its second derivative
        moved = lfilter([0.0, decay * np.sin(turn) / (w * FINE_HZ)], [1.0, -2 * decay * np.cos(turn), decay**2], -jerk)
        felt = share * np.gradient(np.gradient(moved)) * FINE_HZ**2
        i, j = np.searchsorted(at, [times[0], times[-1]])
        way = rng.standard_normal(3)
        out[i:j] += np.interp(at[i:j], times, felt)[:, None] * way / np.linalg.norm(way)
    return out
