"""A planned evening: sets of strikes with a student's own spread, bumps between them, a bag known only so well."""

import math
from dataclasses import dataclass, replace

import numpy as np

from agile_strike.core.recording import Event, Participant, Recording, UnitSignal
from agile_strike.core.simulation.evening import BUMPS, Bump, Motion, Strike, Struck, Water, simulate_motion
from agile_strike.core.simulation.student import Body, Technique, Thrown
from agile_strike.core.simulation.unit import Mess, sense
from agile_strike.core.simulation.wear import WearMess, Worn, wear
from agile_strike.core.target import Bag, Mount

GYRO_FULL_SCALE_RAD_S = 34.9
ANYBODY = Participant("01", 70.0, 1.75, 30.0, "orthodox", "right")
USUAL_MESS = Mess()
USUAL_TECHNIQUE = Technique()
USUAL_WEAR = WearMess()
USUAL_BODY = Body()
REST_S = 12.0
SETTLE_S = 3.0
STAMPED_S = 8.0  # three stamps and a breath
STAMPS_S = (2.0, 2.75, 3.6)  # after the start, and before the end


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
    other_limb: str = ""  #: takes turns with `limb` inside a burst
    technique: Technique = USUAL_TECHNIQUE


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
    water_share: float = 0.0  #: of a chain bag's mass, which moves by itself
    mass_error_share: float = 0.005
    inertia_error_share: float = 0.02
    spread: float = 0.08  #: of a student's speed and mass from strike to strike
    declared_mount: Mount | None = None  #: if the sidecar is to say another mount than the true one
    worn: tuple[str, ...] = ()  #: units on the student
    wear_mess: WearMess = USUAL_WEAR
    body: Body = USUAL_BODY
    tail_share: float = 0.0  #: how much of a push the bag's leather gives back late


@dataclass(frozen=True, slots=True)
class Simulated:
    recording: Recording
    truths: list[tuple[Strike, Struck]]
    bumps: list[Bump]
    true_bag: Bag
    worn: Worn | None = None


def simulate(evening: Evening, rng: np.random.Generator) -> Simulated:
    """Play a planned evening. The same generator state gives the same samples."""
    bag = evening.bag
    if bag.inertia_cm_kg_m2 is None:
        bag = replace(bag, inertia_cm_kg_m2=bag.inertia_across_kg_m2)
    strikes, techniques, bumps, spans, length = _schedule(evening, rng)
    assert bag.inertia_cm_kg_m2 is not None
    stays = 1.0 - evening.water_share
    firm = replace(bag, mass_kg=stays * bag.mass_kg, inertia_cm_kg_m2=stays * bag.inertia_cm_kg_m2)
    water = Water.of(bag, evening.water_share) if evening.water_share else None
    motion = simulate_motion(firm, strikes, bumps, length, (0.03, 0.02, 0.0), water=water)
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
    worn = _wear(evening, strikes, techniques, motion, rng) if evening.worn else None
    recording = Recording(
        evening.participant,
        evening.session,
        evening.task,
        evening.run,
        _declared(evening, bag, rng),
        {"bag": unit} | (worn.units if worn else {}),
        _events(evening, spans, motion),
        evening.acquired_at,
    )
    return Simulated(recording, list(zip(strikes, motion.truths, strict=True)), bumps, bag, worn)


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
) -> tuple[list[Strike], list[Technique], list[Bump], list[tuple[int, int]], float]:
    bag, now = evening.bag, STAMPED_S if evening.worn else SETTLE_S
    strikes: list[Strike] = []
    techniques: list[Technique] = []
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
                limb = plan.other_limb if plan.other_limb and k % 2 else plan.limb
                strikes.append(_strike(evening, plan, limb, now, middle, band, rng))
                techniques.append(varied(plan.technique, rng) if evening.worn else plan.technique)
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
    return strikes, techniques, bumps, spans, now - REST_S + (STAMPED_S if evening.worn else SETTLE_S)


def _strike(
    evening: Evening, plan: SetPlan, limb: str, at: float, middle: float, band: float, rng: np.random.Generator
) -> Strike:
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
        limb=limb,
        level=plan.level,
        tail_share=evening.tail_share,
    )


def varied(q: Technique, rng: np.random.Generator) -> Technique:
    """One strike of a set: no two are alike."""

    def about(value: float, sd: float) -> float:
        return float(value + sd * rng.standard_normal())

    tail = max(1.0, about(q.hand_before_ms, 2.0))
    lost = (1.0 - q.speed_held) * (tail / q.hand_before_ms) ** 2  # speed falls off as a parabola
    return replace(
        q,
        reach_m=about(q.reach_m, 0.02),
        climb=float(np.clip(about(q.climb, 0.12), 1.3, 2.4)),
        hand_before_ms=tail,
        speed_held=1.0 - lost,
        pullback_m=max(0.0, about(q.pullback_m, 0.006)),
        drop_m=max(0.0, about(q.drop_m, 0.004)),
        return_s=max(0.18, about(q.return_s, 0.03)),
        return_drop_m=max(0.0, about(q.return_drop_m, 0.01)),
        turnover_deg=about(q.turnover_deg, 5.0),
        turn_deg=about(q.turn_deg, 3.0),
        torso_turn_deg=about(q.torso_turn_deg, 3.0),
        pelvis_before_ms=about(q.pelvis_before_ms, 8.0),
        torso_before_ms=about(q.torso_before_ms, 6.0),
        lean_deg=about(q.lean_deg, 1.5),
        rise_m=about(q.rise_m, 0.006),
        lead_load_start=about(q.lead_load_start, 0.03),
        lead_load_contact=float(np.clip(about(q.lead_load_contact, 0.03), 0.0, 1.0)),
        step_ms=None if q.step_ms is None else about(q.step_ms, 12.0),
        pivot_deg=about(q.pivot_deg, 4.0),
        settle_ms=about(q.settle_ms, 30.0),
    )


def thrown_of(strikes: list[Strike], techniques: list[Technique], motion: Motion) -> list[Thrown]:
    """What the student did for the bag to be struck so."""
    thrown = []
    for strike, technique, struck in zip(strikes, techniques, motion.truths, strict=True):
        times, speeds = np.array(struck.times_s), np.array(struck.speed_m_s)
        use = times >= struck.contact_s - 1e-4
        thrown.append(
            Thrown(
                struck.contact_s,
                struck.end_s,
                strike.limb,
                technique,
                float(np.interp(struck.contact_s, times, speeds)),
                times[use],
                speeds[use],
                strike.upward_share,
            )
        )
    return thrown


def _wear(
    evening: Evening, strikes: list[Strike], techniques: list[Technique], motion: Motion, rng: np.random.Generator
) -> Worn:
    length = float(motion.times_s[-1])
    stamps = [*STAMPS_S, *(length - s for s in reversed(STAMPS_S))]
    return wear(
        evening.body, thrown_of(strikes, techniques, motion), length, stamps, evening.wear_mess, rng, evening.worn
    )


def _events(evening: Evening, spans: list[tuple[int, int]], motion: Motion) -> tuple[Event, ...]:
    events: list[Event] = []
    if evening.worn and evening.wear_mess.stamps.announced:
        end = float(motion.times_s[-1])
        span = STAMPS_S[-1] - STAMPS_S[0] + 1.0
        starts = (STAMPS_S[0], end - STAMPS_S[-1])
        events += [Event(round(at - 0.5, 4), span, "stamps", "") for at in starts]
    for plan, (first, last) in zip(evening.sets, spans, strict=True):
        start, end = motion.truths[first].contact_s - 1.0, motion.truths[last].contact_s + 1.0
        pairs = f"level={plan.level}" + (f",{plan.extra}" if plan.extra else "")
        events.append(Event(round(start, 4), round(end - start, 4), "set", f"{plan.code};{plan.limb};{pairs}"))
    return tuple(sorted(events, key=lambda e: e.onset_s))
