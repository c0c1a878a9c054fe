"""Makers of small worlds: evenings, data sets, and motion that is no striking."""

from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

import numpy as np
from kept import simulate
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d
from scipy.spatial.transform import Rotation

from agile_strike.core.analysis import Analysis, analyse
from agile_strike.core.recording import Participant, Recording, UnitSignal
from agile_strike.core.simulation.evening import simulate_motion
from agile_strike.core.simulation.plan import Evening, SetPlan, Simulated
from agile_strike.core.simulation.score import Score, pooled, score
from agile_strike.core.simulation.student import KICK, Body, Technique
from agile_strike.core.simulation.unit import Mess, sense
from agile_strike.core.simulation.wear import WORN
from agile_strike.core.target import Bag, Mount
from agile_strike.formats.motion_bids_write import write

G = 9.80665
BAG = Bag("swivel", 48.0, 1.15, 0.35, 0.28, mass_sd_kg=0.24, chain_m=0.5)
PERSON = Participant("01", 70.0, 1.75, 30.0, "orthodox", "right")


@dataclass(frozen=True)
class Played:
    """Simulated evenings with what the analysis made of them."""

    simulated: list[Simulated]
    analyses: list[Analysis]

    @cached_property
    def score(self) -> Score:
        return pooled([score(a, s) for a, s in zip(self.analyses, self.simulated, strict=True)])


def evening(
    strikes: int = 10,
    burst: int = 1,
    bumps: int = 0,
    mount: Mount = "swivel",
    kg: float = 48.0,
    length: float = 1.15,
    full_scale_g: float = 32.0,
    speed: float = 6.5,
    errors: bool = True,
    mess: Mess | None = None,
    declared: Mount | None = None,
) -> Evening:
    bag = replace(
        BAG, mount=mount, mass_kg=kg, length_m=length, pivot_to_top_m=0.15 if "fixed" in (mount, declared) else 0.0
    )
    half = strikes // 2
    sets = (
        SetPlan("rear-straight", "right_hand", "head", half, gap_s=2.4, burst=burst, speed_m_s=speed),
        SetPlan("lead-hook", "left_hand", "body", strikes - half, 2.2, speed, 18.0, 2.4, burst),
    )
    return Evening(
        bag,
        sets,
        bumps=bumps,
        declared_mount=declared,
        accel_full_scale_m_s2=full_scale_g * G,
        mess=mess or Mess(),
        mass_error_share=0.005 if errors else 0.0,
        inertia_error_share=0.02 if errors else 0.0,
        acquired_at="2026-11-03T18:30:00+00:00",
    )


def play(*evenings: Evening, seed: int = 1) -> Played:
    made = [simulate(e, np.random.default_rng([seed, i])) for i, e in enumerate(evenings)]
    return Played(made, [analyse(m.recording) for m in made])


def data_set(folder: Path, recording: Recording) -> Path:
    write(folder, [recording])
    return folder


def recorded(
    accel: NDArray[np.float64], gyro: NDArray[np.float64], rate_hz: float = 1000.0, bag: Bag = BAG
) -> Recording:
    unit = UnitSignal("bag", rate_hz, accel.astype(np.float32), gyro.astype(np.float32), 32 * G, 34.9)
    return Recording(PERSON, "01", "other", "01", bag, {"bag": unit})


def body_worn(kind: str, seconds: float = 60.0, rate_hz: float = 1000.0, seed: int = 1) -> Recording:
    """A unit on a person who walks, runs, jumps or handles it roughly, brought in as if from the bag.

    A limb's attitude and path are made up from smooth noise and steps; each foot-fall is a damped two-way jolt.
    """
    rng = np.random.default_rng(seed)
    n = int(seconds * rate_hz)
    t = np.arange(n) / rate_hz
    pace, swing_deg, jolt, lift = {
        "walking": (1.9, 25, 18, 2.0),
        "running": (2.8, 45, 60, 9.0),
        "jumping": (0.7, 15, 90, 8.0),
        "handling": (0.9, 160, 40, 3.0),
    }[kind]
    phase = 2 * np.pi * pace * (t + 0.02 * gaussian_filter1d(rng.standard_normal(n), 300) * 30)
    angles = np.radians(swing_deg) * np.column_stack(
        [np.sin(phase / 2 + k) + 3 * gaussian_filter1d(rng.standard_normal(n), 250) for k in range(3)]
    )
    attitude = Rotation.from_rotvec(angles)
    gyro = np.gradient(angles, 1 / rate_hz, axis=0)
    world = lift * np.column_stack([np.sin(phase), np.cos(phase / 2), np.sin(2 * phase)])
    for at in np.arange(0.5, seconds - 0.5, 1 / pace):
        since = t - at - 0.03 * rng.standard_normal()
        ring = np.exp(-np.maximum(since, 0) / 0.02) * np.sin(2 * np.pi * rng.uniform(15, 40) * np.maximum(since, 0))
        way = rng.standard_normal(3)
        world += jolt * rng.uniform(0.6, 1.3) * ring[:, None] * way / np.linalg.norm(way)
    accel = attitude.inv().apply(world + np.array([0.0, 0.0, G]))
    return recorded(accel + 0.1 * rng.standard_normal((n, 3)), gyro + 0.01 * rng.standard_normal((n, 3)), rate_hz)


def dressed(stance: str = "orthodox", burst: int = 1, step_ms: float | None = None) -> Evening:
    """An evening of straights, hooks and kicks (or bursts) by a student with every unit on."""
    rear, lead = ("right", "left") if stance == "orthodox" else ("left", "right")
    usual = Technique(step_ms=step_ms)
    if burst > 1:
        quick = replace(usual, return_s=0.24)
        both = SetPlan(
            "one-two",
            f"{lead}_hand",
            "head",
            12,
            2.4,
            6.0,
            15.0,
            2.8,
            burst,
            0.3,
            other_limb=f"{rear}_hand",
            technique=quick,
        )
        sets: tuple[SetPlan, ...] = (both,)
    else:
        sets = (
            SetPlan("rear-straight", f"{rear}_hand", "head", 7, gap_s=2.6, technique=usual),
            SetPlan(
                "lead-straight", f"{lead}_hand", "head", 7, 2.0, 6.0, gap_s=2.6, technique=replace(usual, turn_deg=24.0)
            ),
            SetPlan("rear-round", f"{rear}_foot", "low", 4, 5.0, 10.0, 24.0, 3.5, technique=KICK),
        )
    person = replace(PERSON, stance=stance)
    body = Body(70.0, stance, bounce_m=0.014, sway_m=0.014)
    return Evening(BAG, sets, person, bumps=0, worn=WORN, body=body, acquired_at="2026-11-03T18:30:00+00:00")


#: what is wrong with a unit that is laid on its sides: accel = true / SCALE + OFFSET, gyro = true + BIAS
OFFSET, SCALE, BIAS = np.array([0.2, -0.15, 0.1]), np.array([1.01, 0.985, 1.004]), np.array([0.01, -0.02, 0.005])
SIDES = [[0, 0, 1], [0, 0, -1], [0, 1, 0.05], [0, -1, 0], [1, 0, 0.1], [-1, 0, 0], [0.5, 0.5, 0.7]]


def laid(sides: list[list[float]]) -> UnitSignal:
    """A unit laid on its sides for two seconds each, turned over by hand between."""
    rng = np.random.default_rng(1)
    accel: list[NDArray[np.float64]] = []
    gyro: list[NDArray[np.float64]] = []
    for side in sides:
        up = G * np.array(side) / np.linalg.norm(side)
        accel += [np.tile(up / SCALE + OFFSET, (400, 1)), rng.normal(0, 5, (100, 3))]
        gyro += [np.tile(BIAS, (400, 1)), rng.normal(0, 2, (100, 3))]
    a, g = np.concatenate(accel), np.concatenate(gyro)
    a, g = a + rng.normal(0, 0.08, a.shape), g + rng.normal(0, 0.004, g.shape)
    return UnitSignal("leftwrist", 200.0, a.astype(np.float32), g.astype(np.float32))


def swung(inertia: float, seconds: float = 40.0) -> UnitSignal:
    """The bag's unit while the bag swings freely from a pivot 5 cm above its top."""
    hung = Bag("fixed", 48.0, 1.15, 0.35, 0.28, pivot_to_top_m=0.05, inertia_cm_kg_m2=inertia)
    motion = simulate_motion(hung, [], [], seconds, (0.12, 0.0, 0.0))
    _, accel, gyro = sense(motion, [], Mess(), 1000.0, 300.0, 34.9, np.random.default_rng(2))
    return UnitSignal("bag", 1000.0, accel.astype(np.float32), gyro.astype(np.float32))


def logger_table(unit: UnitSignal, every: int = 1) -> bytes:
    """A unit's samples as a plain logger would write them: seconds, m/s2, rad/s; every so many of them."""
    samples = np.column_stack([unit.accel_m_s2, unit.gyro_rad_s])[::every]
    rows = [f"{i * every / unit.rate_hz:.4f},{','.join(f'{x:.5f}' for x in row)}" for i, row in enumerate(samples)]
    header = "time (s),ax (m/s^2),ay (m/s^2),az (m/s^2),gx (rad/s),gy (rad/s),gz (rad/s)"
    return "\n".join([header, *rows]).encode()
