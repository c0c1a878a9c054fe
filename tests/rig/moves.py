"""What the student means to do: targets of every joint over one evening. What comes of it is for the engine to say."""

from dataclasses import dataclass

import mujoco
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d
from scipy.optimize import least_squares

from rig.model import ARM, BASE, TOP_M, TRUNK

Floats = NDArray[np.float64]
CONTROL_HZ = 1000.0
AWAY_M = 0.84  # from the bag's axis to the student's
STANCE_RAD = np.radians(-24.0)  # the right side stands back
#: where a fist waits, from the student's middle in the direction he faces, and where its arm would rather be
GUARD_M = {"left": np.array([0.24, 0.13, 1.42]), "right": np.array([0.15, -0.11, 1.40])}
RELAXED = {"left": np.array([-0.2, 0.9, -0.6, -2.0, 0.0]), "right": np.array([0.2, 0.9, 0.6, 2.0, 0.0])}
STRETCHED = {"left": np.array([0.1, 0.1, 0.0, -0.25, 0.0]), "right": np.array([-0.1, 0.1, 0.0, 0.25, 0.0])}
HOOKED = {"left": np.array([0.7, 0.1, -1.2, -1.5, 0.0]), "right": np.array([-0.7, 0.1, 1.2, 1.5, 0.0])}


@dataclass(frozen=True, slots=True)
class Manner:
    """How one evening's student guards, throws and stamps."""

    guard: str = "elsewhere"  #: still, sways, bounces, elsewhere, walks
    flight_s: float = 0.2
    pulls_m: float = 0.05  #: back before a strike, in every other one
    back_s: float = 0.3
    turn_rad: float = 0.55
    hooks: float = 0.2  #: share of the strikes
    stamp_n: float = 900.0
    stamp_s: float = 0.03
    strikes: int = 24
    gap_s: float = 2.6
    steadies: float = 1.0  #: how firmly a hand steadies the bag in between
    lunge_m: float = 0.1
    through_m: float = 0.17  #: behind the bag's skin, where a straight is meant to end


@dataclass(slots=True)
class Programme:
    """Targets (n, actuators) at CONTROL_HZ, a push under the student's feet (n,)."""

    targets: Floats
    pushes_n: Floats
    steadied: Floats  #: (n,) how firmly a hand steadies the bag, 0 to 1
    stamps_s: list[float]


def _smooth(x: Floats) -> Floats:
    x = np.clip(x, 0.0, 1.0)
    return np.asarray(x**3 * (10.0 - 15.0 * x + 6.0 * x**2))


class _Reach:
    """Which joint angles bring a fist to a place, the trunk being where it is."""

    def __init__(self, model: mujoco.MjModel) -> None:
        self.model, self.data = model, mujoco.MjData(model)
        self.at = {model.joint(j).name: model.joint(j).qposadr[0] for j in range(model.njnt)}

    def angles(self, side: str, place_m: Floats, trunk: dict[str, float], like: Floats, turned: float) -> Floats:
        q = self.data.qpos
        for name, value in trunk.items():
            q[self.at[name]] = value
        where = [self.at[f"{side}_{n}"] for n in ARM[:4]]
        fist = self.model.site(f"{side}_fist").id

        def off(a: Floats) -> Floats:
            q[where] = a
            mujoco.mj_kinematics(self.model, self.data)
            return np.concatenate([20.0 * (self.data.site_xpos[fist] - place_m), 0.25 * (a - like[:4])])

        return np.append(least_squares(off, like[:4]).x, turned)


def programme(model: mujoco.MjModel, how: Manner, rng: np.random.Generator) -> Programme:
    """An evening: stamps, `how.strikes` strikes to and fro, stamps."""
    length = 7.0 + how.gap_s * how.strikes + 6.0
    n = int(length * CONTROL_HZ)
    t = np.arange(n) / CONTROL_HZ
    names = [model.actuator(k).name for k in range(model.nu)]
    out = Programme(
        np.zeros((n, model.nu)), np.zeros(n), np.zeros(n), [2.0, 2.9, 3.8, length - 4.2, length - 3.3, length - 2.4]
    )
    course = {name: np.zeros(n) for name in names}
    course["base_x"][:] = -AWAY_M
    course["pelvis_z"][:] = STANCE_RAD
    for stamp in out.stamps_s:
        own = how.stamp_n * rng.uniform(0.7, 1.3)
        wide = how.stamp_s * rng.uniform(0.8, 1.2)
        since = t - stamp
        dip = (since > -0.12) & (since < -0.02)
        out.pushes_n[dip] -= 0.2 * own * np.sin(np.pi * (since[dip] + 0.12) / 0.1)
        thud = (since >= 0.0) & (since < wide)
        out.pushes_n[thud] += own * np.sin(np.pi * since[thud] / wide)
    reach = _Reach(model)
    strikes = 6.0 + how.gap_s * np.arange(how.strikes) + rng.uniform(-0.3, 0.3, how.strikes)
    bearing = 0.0
    guards = {side: [(0.0, GUARD_M[side])] for side in ("left", "right")}
    for start in strikes:
        if how.guard == "walks":
            then = bearing + rng.uniform(-0.35, 0.35)
            step = _smooth((t - start + rng.uniform(1.2, 1.6)) / 0.7)
            for name, old, new in (
                ("base_x", -AWAY_M * np.cos(bearing), -AWAY_M * np.cos(then)),
                ("base_y", -AWAY_M * np.sin(bearing), -AWAY_M * np.sin(then)),
                ("pelvis_z", bearing, then),
            ):
                course[name] += (new - old) * step
            bearing = then
        for side in ("left", "right"):
            if how.guard == "elsewhere":
                moved = GUARD_M[side] + rng.uniform(-1, 1, 3) * [0.06, 0.06, 0.12]
                guards[side].append((start - rng.uniform(0.7, 0.95), moved))
        side = str(rng.choice(["left", "right"]))
        hook = bool(rng.random() < how.hooks)
        _strike(course, t, start, side, hook, bearing, reach, guards, how, rng)
        out.steadied += (
            how.steadies * _smooth((t - start - 0.5) / 0.2) * (1.0 - _smooth((t - start - how.gap_s + 0.7) / 0.3))
        )
    for side in ("left", "right"):
        _guard(course, t, side, guards[side], reach)
    _restless(course, t, how, rng)
    out.targets = np.column_stack([course[name] for name in names])
    # a servo's damping drags on what is meant to move: the target leads by as much
    lead_s = -model.actuator_biasprm[:, 2] / model.actuator_gainprm[:, 0]
    out.targets += lead_s * np.gradient(out.targets, 1.0 / CONTROL_HZ, axis=0)
    return out


def _trunk_at(bearing: float, turn: float = 0.0) -> dict[str, float]:
    return {
        "base_x": -AWAY_M * np.cos(bearing),
        "base_y": -AWAY_M * np.sin(bearing),
        "pelvis_z": STANCE_RAD + bearing + turn,
        "torso_z": 0.5 * turn,
    }


def _guard(course: dict[str, Floats], t: Floats, side: str, places: list[tuple[float, Floats]], reach: _Reach) -> None:
    """The arm rests where it was last put; strikes are already in the course, as what differs from the guard."""
    last = None
    for at, place in places:
        q = reach.angles(side, place - [AWAY_M, 0.0, 0.0], _trunk_at(0.0), RELAXED[side], 0.0)
        share = np.ones_like(t) if last is None else _smooth((t - at) / 0.45)
        for name, new, old in zip(ARM, q, np.zeros(5) if last is None else last, strict=True):
            course[f"{side}_{name}"] += share * (new - old)
        last = q


def _strike(
    course: dict[str, Floats],
    t: Floats,
    start: float,
    side: str,
    hook: bool,
    bearing: float,
    reach: _Reach,
    guards: dict[str, list[tuple[float, Floats]]],
    how: Manner,
    rng: np.random.Generator,
) -> None:
    rear = side == "right"
    turn = (how.turn_rad if rear else -0.3 * how.turn_rad) * (1.3 if hook else 1.0) * rng.uniform(0.85, 1.15)
    flight = how.flight_s * rng.uniform(0.85, 1.15) * (1.2 if hook else 1.0)
    trunk = _trunk_at(bearing, turn)
    trunk["base_x"] += 0.8 * how.lunge_m * np.cos(bearing)
    trunk["base_y"] += 0.8 * how.lunge_m * np.sin(bearing)
    height = TOP_M - rng.uniform(0.5, 0.85)
    facing = np.array([np.cos(bearing), np.sin(bearing), 0.0])
    across = np.array([-facing[1], facing[0], 0.0])
    out = -1.0 if rear else 1.0
    from_m = guards[side][-1][1] - [AWAY_M, 0.0, 0.0]
    guard = reach.angles(side, from_m, _trunk_at(0.0), RELAXED[side], 0.0)
    if hook:
        wide = -0.32 * facing + across * out * 0.36 + [0.0, 0.0, height]
        through = -0.20 * facing - across * out * 0.02 + [0.0, 0.0, height]
        path = [
            reach.angles(side, wide, trunk, HOOKED[side], 0.6),
            reach.angles(side, through, trunk, HOOKED[side], 0.9),
        ]
    else:
        through = (how.through_m - 0.26) * facing + [0.0, 0.0, height] + across * rng.normal(0.0, 0.02)
        path = [reach.angles(side, through, trunk, STRETCHED[side], 1.4 if rear else 1.2)]
    path[-1][4] *= -1.0 if rear else 1.0
    back = _smooth((t - start - 0.85 * flight) / how.back_s)
    legs = [_smooth((t - start) / (1.25 * flight))]
    if hook:
        legs = [_smooth((t - start) / (0.7 * flight)), _smooth((t - start - 0.45 * flight) / (0.9 * flight))]
    before = guard
    for q, share in zip(path, legs, strict=True):
        for name, new, old in zip(ARM, q, before, strict=True):
            course[f"{side}_{name}"] += share * (1.0 - back) * (new - old)
        before = q
    if rng.random() < 0.5 and how.pulls_m:
        pulled = reach.angles(
            side, from_m - how.pulls_m * rng.uniform(0.6, 1.4) * np.array([0.9, 0.0, 0.4]), _trunk_at(0.0), guard, 0.0
        )
        lead = rng.uniform(0.1, 0.2)
        bump = _smooth((t - start + lead) / lead) * (1.0 - _smooth((t - start) / (0.6 * flight)))
        for name, new, old in zip(ARM, pulled, guard, strict=True):
            course[f"{side}_{name}"] += bump * (new - old)
    home = 1.0 - _smooth((t - start - flight - 0.12) / 0.5)
    course["pelvis_z"] += turn * _smooth((t - start + 0.06) / 0.26) * home
    course["torso_z"] += 0.5 * turn * _smooth((t - start + 0.02) / 0.24) * home
    course["torso_y"] += 0.08 * _smooth((t - start + 0.05) / 0.25) * home
    for name, share in (("base_x", np.cos(bearing)), ("base_y", np.sin(bearing))):
        course[name] += how.lunge_m * share * _smooth((t - start + 0.1) / 0.3) * home
    course["base_height"] -= 0.015 * _smooth((t - start + 0.1) / 0.3) * home


def _restless(course: dict[str, Floats], t: Floats, how: Manner, rng: np.random.Generator) -> None:
    """No guard stands like a statue; some sway, some bounce."""
    size = {"still": 0.15, "elsewhere": 0.3, "sways": 1.0, "bounces": 0.6, "walks": 0.6}[how.guard]

    def wander(hz: float) -> Floats:
        raw = gaussian_filter1d(rng.standard_normal(len(t)), CONTROL_HZ / (6.28 * hz))
        return np.asarray(raw / max(raw.std(), 1e-12))

    for name in course:
        if name in BASE:
            course[name] += size * (0.004 if name == "base_height" else 0.012) * wander(0.4)
        elif name in TRUNK:
            course[name] += size * 0.025 * wander(0.5)
        else:
            course[name] += size * 0.03 * wander(0.8)
    if how.guard == "bounces":
        pace = 2.0 * np.pi * np.cumsum(1.9 + 0.15 * wander(0.3)) / CONTROL_HZ
        course["base_height"] += 0.018 * np.sin(pace)
