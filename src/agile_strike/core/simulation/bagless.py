"""Evenings without a bag: strikes on pads and in the air, and what hands do all day that is no strike.

A pad gives and then throws the limb back over some 20 to 40 ms; in the air the limb brakes itself over a tenth of a
second, turns at full reach and comes home. Truth is read from the noise-free course, as with a bag.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import Event, Participant, Recording, reference_of
from agile_strike.core.simulation.body_truth import body_truth
from agile_strike.core.simulation.limb_motion import LimbMotion
from agile_strike.core.simulation.plan import (
    ANYBODY,
    STAMPED_S,
    STAMPS_S,
    USUAL_BODY,
    USUAL_TECHNIQUE,
    USUAL_WEAR,
    varied,
)
from agile_strike.core.simulation.student import FINE_HZ, Body, Technique, Thrown, noise, smooth_step
from agile_strike.core.simulation.trunk_motion import Loads
from agile_strike.core.simulation.wear import Course, WearMess, Worn, sensed, wear

Floats = NDArray[np.float64]

MET_S, BRAKE_S = (0.02, 0.042), (0.075, 0.125)  # that a pad takes, and that a limb takes to stop itself
THROWN_BACK, TURNED_BACK = (0.05, 0.3), (0.15, 0.4)  # of the speed that came in
REACHED_SHARE = 0.1  # of the peak, at which the reach is full
NEEDS_IMPULSE = ("effective_mass_kg", "effective_mass_pct")
OF_CONTACT = ("contact_speed_m_s", "speed_held_pct")


@dataclass(frozen=True, slots=True)
class FreeSet:
    """Strikes of one limb on a pad (`met`) or in the `air`."""

    kind: str = "met"
    limb: str = "right_hand"
    code: str = "rear-straight"
    strikes: int = 10
    speed_m_s: float = 6.5
    gap_s: float = 2.6
    spread: float = 0.1
    technique: Technique = USUAL_TECHNIQUE


@dataclass(frozen=True, slots=True)
class Free:
    """A simulated recording without a bag."""

    recording: Recording
    kinds: list[str]
    contact_s: list[float]  #: true instants, the simulation's own clock
    limbs: list[str]
    truths: list[dict[str, float]]
    worn: Worn


def simulate_free(
    sets: tuple[FreeSet, ...],
    units: tuple[str, ...],
    rng: np.random.Generator,
    body: Body = USUAL_BODY,
    mess: WearMess = USUAL_WEAR,
    who: Participant = ANYBODY,
    at: str | None = None,
) -> Free:
    """Play an evening on pads and in the air; every unit keeps its own clock."""
    thrown, kinds, spans, now = [], [], [], STAMPED_S
    for one in sets:
        first = now
        for _ in range(one.strikes):
            thrown.append(_thrown(one, now, rng))
            kinds.append(one.kind)
            now += one.gap_s * rng.uniform(0.85, 1.2)
        spans.append((first, now, one))
        now += 4.0
    length = now + STAMPED_S
    stamps = [*STAMPS_S, *(length - s for s in reversed(STAMPS_S))]
    worn = wear(body, thrown, length, stamps, mess, rng, units)
    told = [_truth(worn.course, t, kind) for t, kind in zip(thrown, kinds, strict=True)]
    events = tuple(Event(a - 1.0, b - a, "set", f"{s.code};{s.limb};level=head") for a, b, s in spans)
    reference = reference_of(worn.units)
    assert reference is not None
    offset, drift = worn.clocks[reference]
    events = tuple(replace(e, onset_s=round((e.onset_s - offset) / (1.0 + 1e-6 * drift), 4)) for e in events)
    starts = {n: (u.starts_s or 0.0) - (worn.units[reference].starts_s or 0.0) for n, u in worn.units.items()}
    own = {n: u if n == reference else replace(u, starts_s=round(starts[n], 3)) for n, u in worn.units.items()}
    own[reference] = replace(own[reference], starts_s=None)
    recording = Recording(who, "01", "pads", "01", None, own, events, at)
    return Free(recording, kinds, [at for at, _ in told], [t.limb for t in thrown], [m for _, m in told], worn)


def truth(made: Free) -> dict[str, object]:
    """What is true of it, as plain data; instants on the simulation's own clock, which units are told against."""
    rows = zip(made.contact_s, made.limbs, made.kinds, made.truths, strict=True)
    return {
        "participant": made.recording.participant.label,
        "strikes": [{"contact_s": at, "limb": limb, "kind": kind, "measures": m} for at, limb, kind, m in rows],
        "clocks": {n: {"offset_s": o, "drift_ppm": d} for n, (o, d) in made.worn.clocks.items()},
    }


def _thrown(plan: FreeSet, at: float, rng: np.random.Generator) -> Thrown:
    speed = plan.speed_m_s * float(np.exp(plan.spread * rng.standard_normal()))
    met = plan.kind == "met"
    lasts = float(rng.uniform(*(MET_S if met else BRAKE_S)))
    back = float(rng.uniform(*(THROWN_BACK if met else TURNED_BACK)))
    t = np.linspace(0.0, lasts, 200)
    gone = 0.5 * (1.0 - np.cos(np.pi * t / lasts))
    return Thrown(
        at, at + lasts, plan.limb, varied(plan.technique, rng), speed, at + t, speed * (1.0 - (1.0 + back) * gone), 0.0
    )


def _truth(course: Course, one: Thrown, kind: str) -> tuple[float, dict[str, float]]:
    """When it met, or was at full reach, and what is true of it."""
    if kind == "met":
        out = body_truth(course, one, 0.0)
        return one.contact_s, {n: v for n, v in out.items() if n not in NEEDS_IMPULSE}
    first, brakes, last = np.searchsorted(course.times_s, [one.contact_s - 0.3, one.contact_s + 0.02, one.end_s])
    v = np.gradient(course.limbs[one.limb].position_m[first:last], 1.0 / FINE_HZ, axis=0)
    speed = np.linalg.norm(v, axis=1)
    top = int(np.argmax(speed[: brakes - first]))
    along = v[top] / speed[top]
    full = top + int(np.argmax(v[top:] @ along <= REACHED_SHARE * speed[top]))
    at = float(course.times_s[first + full])
    out = body_truth(course, replace(one, contact_s=at, end_s=at), 0.0, along)
    return at, {n: v for n, v in out.items() if n not in (*NEEDS_IMPULSE, *OF_CONTACT)}


# --- what is no strike


def daily(
    kind: str,
    length_s: float,
    rng: np.random.Generator,
    mess: WearMess = USUAL_WEAR,
    units: tuple[str, ...] = ("leftwrist", "rightwrist"),
) -> Recording:
    """Half a minute of hands and feet that strike nobody."""
    t = np.arange(int(length_s * FINE_HZ)) / FINE_HZ
    limbs = DAILY[kind](t, rng)
    rest = {f"{s}_{p}" for s in ("left", "right") for p in ("hand", "foot")} - set(limbs)
    limbs |= {n: LimbMotion(np.zeros((len(t), 3)), np.zeros((len(t), 3))) for n in rest}
    course = Course(t, limbs, {}, {}, Loads({}, {}), USUAL_BODY)
    signals, _ = sensed(course, [], mess, rng, units)
    return Recording(ANYBODY, "01", kind, "01", None, signals)


def _both(t: Floats, of: Callable[[float], tuple[Floats, Floats]]) -> dict[str, LimbMotion]:
    out = {}
    for side, sign in (("left", 1.0), ("right", -1.0)):
        position, angles = of(sign)
        out[f"{side}_hand"] = LimbMotion(position, np.radians(angles))
    return out


def _clapping(t: Floats, rng: np.random.Generator) -> dict[str, LimbMotion]:
    """Hands meet in front of the chest, and stop each other within some milliseconds."""
    phase = np.mod(2.3 * t + 0.15 * noise(rng, len(t), 0.1, 0.6), 1.0)
    apart = 0.28 * np.sin(np.pi * phase) ** 0.9

    def hand(sign: float) -> tuple[Floats, Floats]:
        p = np.column_stack(
            [0.02 * noise(rng, len(t), 0.1, 1.0), sign * 0.5 * apart, 0.01 * noise(rng, len(t), 0.1, 1.0)]
        )
        return p, np.column_stack([sign * 40.0 * apart / 0.28, np.full(len(t), -45.0), np.zeros(len(t))])

    return _both(t, hand)


def _waving(t: Floats, rng: np.random.Generator) -> dict[str, LimbMotion]:
    """A forearm that swings about its elbow, upright."""
    swing = np.radians(42.0) * np.sin(2 * np.pi * 2.2 * t + 0.5 * noise(rng, len(t), 0.1, 0.5))

    def hand(sign: float) -> tuple[Floats, Floats]:
        share = 1.0 if sign < 0 else 0.0
        p = 0.26 * np.column_stack([np.zeros(len(t)), -np.sin(share * swing), np.cos(share * swing) - 1.0])
        return p, np.column_stack([np.zeros(len(t)), np.full(len(t), -85.0), share * np.degrees(swing)])

    return _both(t, hand)


def _walking(t: Floats, rng: np.random.Generator) -> dict[str, LimbMotion]:
    return _gait(t, rng, 0.95, 0.45, 0.62, 0.0)


def _jogging(t: Floats, rng: np.random.Generator) -> dict[str, LimbMotion]:
    return _gait(t, rng, 1.4, 0.5, 1.1, 0.25)


def _gait(
    t: Floats, rng: np.random.Generator, hz: float, swing: float, stride: float, fold: float
) -> dict[str, LimbMotion]:
    """Arms swing against the legs; each foot flies forward and is set down with a jolt."""
    phase = 2 * np.pi * hz * t + 0.4 * noise(rng, len(t), 0.05, 0.3)
    out = {}
    for side, at in (("left", 0.0), ("right", np.pi)):
        x = swing * np.sin(phase + at)
        p = np.column_stack([0.55 * x, np.zeros(len(t)), 0.55 * (1 - np.cos(x)) + 0.02 * np.sin(2 * phase)])
        out[f"{side}_hand"] = LimbMotion(
            p, np.radians(np.column_stack([np.zeros(len(t)), 75.0 - np.degrees(x), np.zeros(len(t))]))
        )
        cycle = np.mod(phase + at, 2 * np.pi) / (2 * np.pi)
        flying = smooth_step(np.clip((cycle - 0.55) / 0.45, 0.0, 1.0))
        foot = np.where(cycle < 0.55, 0.5 - cycle / 0.55, -0.5 + flying) * stride
        up = (0.08 + fold) * np.sin(np.pi * np.clip((cycle - 0.55) / 0.45, 0.0, 1.0)) ** 2
        tilt = (
            -20.0 * np.sin(2 * np.pi * cycle + 0.6)
            + (40.0 + 140.0 * fold) * np.sin(np.pi * np.clip((cycle - 0.5) / 0.4, 0.0, 1.0)) ** 2
        )
        q = np.column_stack([foot, np.zeros(len(t)), up])
        out[f"{side}_foot"] = LimbMotion(q, np.radians(np.column_stack([np.zeros(len(t)), tilt, np.zeros(len(t))])))
    return out


def _skipping(t: Floats, rng: np.random.Generator) -> dict[str, LimbMotion]:
    """A rope turned by the wrists: small circles, and the body hops."""
    phase = 2 * np.pi * 2.1 * t + 0.4 * noise(rng, len(t), 0.05, 0.3)
    hop = 0.06 * np.abs(np.sin(0.5 * phase)) ** 1.5

    def hand(sign: float) -> tuple[Floats, Floats]:
        p = np.column_stack([0.07 * np.cos(phase), sign * 0.02 * np.sin(phase), 0.07 * np.sin(phase) + hop])
        return p, np.column_stack([sign * 30.0 + 25.0 * np.sin(phase), 25.0 * np.cos(phase), np.zeros(len(t))])

    return _both(t, hand)


def _moving_about(
    t: Floats, rng: np.random.Generator, far_m: float, lasts_s: tuple[float, float]
) -> dict[str, LimbMotion]:
    """Hands go from place to place by minimum-jerk courses."""

    def hand(sign: float) -> tuple[Floats, Floats]:
        p, angles = np.zeros((len(t), 3)), np.zeros((len(t), 3))
        at = 0.5
        while at < t[-1] - 2.0:
            way = rng.standard_normal(3)
            lasts = float(rng.uniform(*lasts_s))
            share = smooth_step((t - at) / lasts)[:, None]
            p += share * (far_m * float(rng.uniform(0.4, 1.0)) * way / np.linalg.norm(way) - p[int(at * FINE_HZ)])
            angles += share * (25.0 * rng.standard_normal(3) - angles[int(at * FINE_HZ)])
            at += lasts + float(rng.uniform(0.05, 0.6))
        return p, angles

    return _both(t, hand)


def _guarding(t: Floats, rng: np.random.Generator) -> dict[str, LimbMotion]:
    """Parries and covers: short and quick."""
    return _moving_about(t, rng, 0.22, (0.16, 0.3))


def _gloves(t: Floats, rng: np.random.Generator) -> dict[str, LimbMotion]:
    return _moving_about(t, rng, 0.15, (0.2, 0.6))


def _reaching(t: Floats, rng: np.random.Generator) -> dict[str, LimbMotion]:
    """Shelves, bottles, doors."""
    return _moving_about(t, rng, 0.6, (0.45, 1.1))


DAILY: dict[str, Callable[[Floats, np.random.Generator], dict[str, LimbMotion]]] = {
    "clapping": _clapping,
    "waving": _waving,
    "walking": _walking,
    "jogging": _jogging,
    "skipping": _skipping,
    "guarding": _guarding,
    "gloves": _gloves,
    "reaching": _reaching,
}
