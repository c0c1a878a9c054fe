"""A planned evening: sets of strikes with a student's own spread, bumps between them, a bag known only so well."""

import math
from dataclasses import dataclass, replace

import numpy as np

from agile_strike.core.bag import Bag, Mount
from agile_strike.core.recording import Event, Participant, Recording, UnitSignal
from agile_strike.core.simulation.evening import BUMPS, Bump, Motion, Strike, Struck, simulate_motion
from agile_strike.core.simulation.unit import Mess, sense

GYRO_FULL_SCALE_RAD_S = 34.9
ANYBODY = Participant("01", 70.0, 1.75, 30.0, "orthodox", "right")
USUAL_MESS = Mess()
REST_S = 12.0
SETTLE_S = 3.0


@dataclass(frozen=True, slots=True)
class SetPlan:
    """A set: one strike code thrown a number of times, singly or in bursts."""

    code: str = "rear-straight"
    limb: str = "right_hand"
    level: str = "body"
    strikes: int = 10
    mass_kg: float = 2.6  #: of the limb with what is behind it
    speed_m_s: float = 6.5
    contact_ms: float = 16.0
    gap_s: float = 3.0
    burst: int = 1
    burst_gap_s: float = 0.24
    extra: str = ""  #: further `key=level` pairs, comma separated


@dataclass(frozen=True, slots=True)
class Evening:
    """What is to be simulated."""

    bag: Bag
    sets: tuple[SetPlan, ...]
    participant: Participant = ANYBODY
    session: str = "01"
    task: str = "mixed"
    run: str = "01"
    acquired_at: str | None = None
    bumps: int = 6
    mess: Mess = USUAL_MESS
    rate_hz: float = 1000.0
    accel_full_scale_m_s2: float = 32 * 9.80665
    mass_error_share: float = 0.005
    inertia_error_share: float = 0.02
    spread: float = 0.08  #: of a student's speed and mass from strike to strike
    declared_mount: Mount | None = None  #: if the sidecar is to say another mount than the true one


@dataclass(frozen=True, slots=True)
class Simulated:
    recording: Recording
    truths: list[tuple[Strike, Struck]]
    bumps: list[Bump]
    true_bag: Bag


def simulate(evening: Evening, rng: np.random.Generator) -> Simulated:
    """Play a planned evening. The same generator state gives the same samples."""
    bag = evening.bag
    if bag.inertia_cm_kg_m2 is None:
        bag = replace(bag, inertia_cm_kg_m2=bag.inertia_across_kg_m2)
    strikes, bumps, spans, length = _schedule(evening, rng)
    motion = simulate_motion(bag, strikes, bumps, length, (0.03, 0.02, 0.0))
    _, accel, gyro = sense(
        motion, bumps, evening.mess, evening.rate_hz, evening.accel_full_scale_m_s2, GYRO_FULL_SCALE_RAD_S, rng
    )
    unit = UnitSignal(
        "bag",
        evening.rate_hz,
        accel.astype(np.float32),
        gyro.astype(np.float32),
        evening.accel_full_scale_m_s2,
        GYRO_FULL_SCALE_RAD_S,
    )
    recording = Recording(
        evening.participant,
        evening.session,
        evening.task,
        evening.run,
        _declared(evening, bag, rng),
        {"bag": unit},
        _events(evening, spans, motion),
        evening.acquired_at,
    )
    return Simulated(recording, list(zip(strikes, motion.truths, strict=True)), bumps, bag)


def _declared(evening: Evening, bag: Bag, rng: np.random.Generator) -> Bag:
    """The bag as the gym knows it: weighed and timed with some error."""
    assert bag.inertia_cm_kg_m2 is not None
    if not evening.mass_error_share and not evening.inertia_error_share:
        return bag
    mass = bag.mass_kg * (1.0 + evening.mass_error_share * rng.standard_normal())
    inertia = bag.inertia_cm_kg_m2 * (1.0 + evening.inertia_error_share * rng.standard_normal())
    mount = evening.declared_mount or bag.mount
    return replace(
        bag,
        mount=mount,
        mass_kg=round(mass, 3),
        mass_sd_kg=round(evening.mass_error_share * mass, 3),
        inertia_cm_kg_m2=round(inertia, 4),
    )


def _schedule(
    evening: Evening,
    rng: np.random.Generator,
) -> tuple[list[Strike], list[Bump], list[tuple[int, int]], float]:
    bag, now = evening.bag, SETTLE_S
    strikes: list[Strike] = []
    bumps: list[Bump] = []
    spans: list[tuple[int, int]] = []
    kinds = [*BUMPS, "steady", "tap"]
    every = max(1, sum(s.strikes for s in evening.sets) // max(evening.bumps, 1))
    for plan in evening.sets:
        first = len(strikes)
        middle, band = bag.level_middle_m(plan.level)
        thrown = 0
        while thrown < plan.strikes:
            for k in range(min(plan.burst, plan.strikes - thrown)):
                if k:
                    now += plan.burst_gap_s * rng.uniform(0.85, 1.2)
                strikes.append(_strike(evening, plan, now, middle, band, rng))
                thrown += 1
            now += plan.gap_s * rng.uniform(0.85, 1.2)
            if evening.bumps and len(strikes) % every == 0 and len(bumps) < evening.bumps:
                bumps.append(
                    Bump(
                        now,
                        kinds[len(bumps) % len(kinds)],
                        rng.uniform(0.2, 0.7) * bag.length_m,
                        rng.uniform(-math.pi, math.pi),
                        0.04 * rng.standard_normal(),
                    )
                )
                now += 2.5
        spans.append((first, len(strikes) - 1))
        now += REST_S
    return strikes, bumps, spans, now - REST_S + SETTLE_S


def _strike(evening: Evening, plan: SetPlan, at: float, middle: float, band: float, rng: np.random.Generator) -> Strike:
    spread = evening.spread
    height = float(np.clip(middle + 0.5 * band * rng.standard_normal(), 0.05, evening.bag.length_m - 0.05))
    return Strike(
        at,
        height,
        0.022 * rng.standard_normal(),
        math.pi + 0.35 * rng.standard_normal(),
        plan.mass_kg * math.exp(spread * rng.standard_normal()),
        plan.speed_m_s * math.exp(spread * rng.standard_normal()),
        plan.contact_ms * math.exp(0.5 * spread * rng.standard_normal()),
        upward_share=0.04 * rng.standard_normal(),
        code=plan.code,
        limb=plan.limb,
        level=plan.level,
    )


def _events(evening: Evening, spans: list[tuple[int, int]], motion: Motion) -> tuple[Event, ...]:
    events = []
    for plan, (first, last) in zip(evening.sets, spans, strict=True):
        start, end = motion.truths[first].contact_s - 1.0, motion.truths[last].contact_s + 1.0
        pairs = f"level={plan.level}" + (f",{plan.extra}" if plan.extra else "")
        events.append(Event(round(start, 4), round(end - start, 4), "set", f"{plan.code};{plan.limb};{pairs}"))
    return tuple(events)
