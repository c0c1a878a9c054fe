"""An evening at one bag: strikes through a visco-elastic contact, and the bumps that are no strikes.

A strike is a free mass that runs into the bag through a Hunt and Crossley contact (force with the power 1.5 of the
dent, times one plus a loss with its rate) while the arm still pushes: pulse shapes come out of the collision and are
not drawn from the shapes that the analysis knows.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.simulation.body import (
    NO_LOAD,
    HangingBody,
    Load,
    State,
    Vec,
    add,
    body_point,
    cross,
    dot,
    parts,
    scale,
)
from agile_strike.core.target import GRAVITY_M_S2, Bag

Floats = NDArray[np.float64]

CONTACT_STEP_S = 0.00025
PUSH_STEP_S = 0.002
SWING_STEP_S = 0.01
TAIL_S, TAIL_ENDS_N = 0.012, 4.0
HERTZ_TIME = 2.94  # contact time = 2.94 x dent / speed for a power of 1.5 (Goldsmith, Impact, ch. 4)


@dataclass(frozen=True, slots=True)
class Strike:
    """A fist, foot, elbow or knee on its way to the bag."""

    time_s: float
    below_top_m: float
    off_centre_m: float
    bearing_rad: float  #: of the push, about the bag's axis from the unit's x axis
    mass_kg: float
    speed_m_s: float
    contact_ms: float = 16.0  #: aimed at; the collision decides
    loss: float = 0.05  #: Hunt and Crossley damping, s/m
    arm_push_n: float = 60.0
    upward_share: float = 0.0  #: of the force, along the bag's axis
    code: str = "rear-straight"
    limb: str = "right_hand"
    level: str = "body"
    tail_share: float = 0.0  #: of the push that leather and padding give back late, falling off by `TAIL_S`


@dataclass(frozen=True, slots=True)
class Bump:
    """Something that is no strike. `shove`, `lean`, `shoulder`, `steady` load the bag; `tap` jolts only the unit."""

    time_s: float
    kind: str
    below_top_m: float = 0.4
    bearing_rad: float = 0.0
    off_centre_m: float = 0.0


@dataclass(slots=True)
class Struck:
    """What truly happened at one strike."""

    contact_s: float = 0.0
    end_s: float = 0.0
    rise_ms: float = 0.0
    impulse_n_s: float = 0.0
    peak_force_n: float = 0.0
    bearing_deg: float = 0.0
    energy_j: float = 0.0
    times_s: list[float] = field(default_factory=list)
    force_n: list[float] = field(default_factory=list)
    speed_m_s: list[float] = field(default_factory=list)  #: of the striking mass, at the same instants


@dataclass(frozen=True, slots=True)
class Motion:
    """The bag's motion at uneven nodes: times (n,), specific force at the unit (n, 3) and angular rate (n, 3), bag
    frame; the pushing force (n,) that makes the shell ring; and the truth of each strike."""

    times_s: Floats
    specific_force: Floats
    angular_rate: Floats
    push_n: Floats
    truths: list[Struck]


#: kind -> seconds, newtons, power of the half-sine
BUMPS = {"shove": (0.35, 130.0, 1.0), "lean": (1.4, 45.0, 1.0), "shoulder": (0.13, 380.0, 1.5)}
STEADY_S, STEADY_N_S_M = 0.9, 300.0
FIRST_WAVE, WAVE_DAMPING = 1.841, 0.12  # of water in an upright cylinder; baffles and a folded lining
WILD_TILT, TOO_WILD = 0.12, 0.3  # radians


def line_of_action(bag: Bag, below_top_m: float, off_centre_m: float, bearing_rad: float) -> tuple[Vec, Vec]:
    """Lever from the centre of mass and direction of a horizontal push, body frame: (lever x direction)_z is the
    signed distance from the axis."""
    n = (math.cos(bearing_rad), math.sin(bearing_rad), 0.0)
    return (off_centre_m * n[1], -off_centre_m * n[0], bag.com_below_top_m - below_top_m), n


@dataclass(slots=True)
class _Fist:
    """The striking mass while it touches: its place along the push, its speed, and the surface's place at touch."""

    strike: Strike
    lever_body: Vec
    direction: Vec
    start_s: float
    travel_m: float
    speed_m_s: float
    dent_m: float = 0.0
    tail_n: float = 0.0
    truth: Struck = field(default_factory=Struck)

    @property
    def stiffness(self) -> float:
        s = self.strike
        dent = s.contact_ms * 1e-3 * s.speed_m_s / HERTZ_TIME
        return float(1.25 * s.mass_kg * s.speed_m_s**2 / dent**2.5)

    def push(self, s: State, h: float) -> tuple[Load, float]:
        _, vel, _, _, w = parts(s)
        lever = body_point(s, self.lever_body)
        surface_speed = dot(add(vel, cross(w, lever)), self.direction)
        closing = self.speed_m_s - surface_speed
        self.dent_m += closing * h
        force = 0.0
        if self.dent_m > 0.0:
            force = max(0.0, self.stiffness * self.dent_m**1.5 * (1.0 + self.strike.loss * closing))
        # leather as a Zener solid: a slow branch that takes up a share of what the quick one bears, and lets go late
        self.tail_n += h / TAIL_S * (self.strike.tail_share * force - self.tail_n)
        force = force + self.tail_n if force or self.tail_n > TAIL_ENDS_N else 0.0
        self.speed_m_s += h * (self.strike.arm_push_n * math.exp(-self.travel_m / 0.02) - force) / self.strike.mass_kg
        self.travel_m += abs(closing) * h
        return Load(scale(self.direction, force), lever), force


@dataclass(slots=True)
class Water:
    """What moves inside a bag on a chain: its first sideways wave, as a mass on a spring (Ibrahim, Liquid Sloshing
    Dynamics, 2005, ch. 5). A blow is over before it has moved; it comes after."""

    mass_kg: float
    wave_per_s: float
    away_m: tuple[float, float] = (0.0, 0.0)
    speed_m_s: tuple[float, float] = (0.0, 0.0)

    @classmethod
    def of(cls, bag: Bag, share: float) -> "Water":
        return cls(share * bag.mass_kg, math.sqrt(FIRST_WAVE * GRAVITY_M_S2 / bag.radius_m))

    @property
    def push_n(self) -> Vec:
        """On the bag, at its centre of mass; its weight hangs there as well."""
        k, c = self.mass_kg * self.wave_per_s**2, 2.0 * WAVE_DAMPING * self.mass_kg * self.wave_per_s
        x, y = (k * a + c * v for a, v in zip(self.away_m, self.speed_m_s, strict=True))
        return (x, y, -self.mass_kg * GRAVITY_M_S2)

    def step(self, h: float, bag_m_s2: Vec) -> None:
        """Half-implicit, under the bag's own acceleration."""
        push = self.push_n
        u, v = (v - h * (p / self.mass_kg + a) for v, p, a in zip(self.speed_m_s, push[:2], bag_m_s2[:2], strict=True))
        self.speed_m_s = (u, v)
        self.away_m = (self.away_m[0] + h * u, self.away_m[1] + h * v)


def simulate_motion(
    bag: Bag,
    strikes: Sequence[Strike],
    bumps: Sequence[Bump],
    length_s: float,
    lean_rad: Vec = (0.0, 0.0, 0.0),
    chain_lean_rad: float = 0.0,
    water: Water | None = None,
) -> Motion:
    """Play an evening. Times are seconds from its start; the bag hangs still unless let go from a lean. `bag` is what
    does not move inside it."""
    body = HangingBody(bag)
    state = body.at_rest(lean_rad, chain_lean_rad)
    todo: list[Strike | Bump] = sorted([*strikes, *bumps], key=lambda e: e.time_s)
    sensor = (bag.radius_m, 0.0, bag.sensor_above_com_m)
    nodes: list[tuple[float, ...]] = []
    truths: list[Struck] = []
    fist: _Fist | None = None
    bump: Bump | None = None
    fist_s: float | None = None
    late = 0.0
    now = bump_s = 0.0
    while now < length_s + late:
        if todo and now >= todo[0].time_s + late - 1e-9 and fist is None:
            if isinstance(todo[0], Strike) and _tilt(bag, state) > TOO_WILD and (fist_s is None or now - fist_s > 0.5):
                late += 0.2  # nobody hits a bag that flies about: the whole plan waits
                continue
            event = todo.pop(0)
            if isinstance(event, Strike):
                fist = _meet(bag, state, event, now)
            elif event.kind != "tap":
                bump, bump_s = event, now
        elif (
            fist is None
            and bump is None
            and _tilt(bag, state) > WILD_TILT
            and (not todo or todo[0].time_s + late - now > STEADY_S)
            and (fist_s is None or now - fist_s > 0.5)
        ):
            bump, bump_s = (
                Bump(now, "steady", 0.4 * bag.length_m),
                now,
            )  # the student checks a bag that swings too far
        step = CONTACT_STEP_S if fist else PUSH_STEP_S if bump else SWING_STEP_S
        if todo:
            step = min(step, max(todo[0].time_s + late - now, CONTACT_STEP_S))
        load, pushed = NO_LOAD, 0.0
        if fist:
            load, pushed = fist.push(state, step)
            fist.truth.times_s.append(now)
            fist.truth.force_n.append(pushed)
            fist.truth.speed_m_s.append(fist.speed_m_s)
        if bump:
            load = _plus(load, _bump_load(bag, state, bump, now - bump_s))
            if now - bump_s > _bump_length(bump):
                bump = None
        if water is not None:
            body.inside_n = water.push_n
        begins = body.derivative(state, load)
        if water is not None:
            water.step(step, (begins[3], begins[4], begins[5]))
        nodes.append((now, pushed, *state, *begins))
        state = body.step(state, step, load, begins)
        now += step
        # the push is over once the fist has fallen behind the surface, or after a kick's longest contact
        if fist and (now - fist.start_s > 0.1 or (pushed == 0.0 and now - fist.start_s > 0.004)):
            truths.append(_close(bag, fist))
            fist, fist_s = None, now
    table = np.array(nodes)
    force, rate = _felt(table[:, 2:17], table[:, 17:], sensor)
    return Motion(table[:, 0], force, rate, table[:, 1], truths)


def _tilt(bag: Bag, s: State) -> float:
    """The larger of the body's and the chain's lean from the plumb line, radians."""
    if bag.mount != "swivel":
        return 0.0
    pos, _, z, _, _ = parts(s)
    top = add(pos, scale(z, bag.com_below_top_m))
    return max(math.acos(min(1.0, max(-1.0, z[2]))), math.asin(min(1.0, math.hypot(top[0], top[1]) / bag.chain_m)))


def _meet(bag: Bag, s: State, strike: Strike, now: float) -> _Fist:
    lever, n = line_of_action(bag, strike.below_top_m, strike.off_centre_m, strike.bearing_rad)
    horizontal = body_point(s, n)
    _, _, z, _, _ = parts(s)
    direction = add(horizontal, scale(z, strike.upward_share))
    _, vel, _, _, w = parts(s)
    surface = dot(add(vel, cross(w, body_point(s, lever))), direction)
    return _Fist(strike, lever, direction, now, 0.0, strike.speed_m_s + max(0.0, surface))


def _close(bag: Bag, fist: _Fist) -> Struck:
    truth, strike = fist.truth, fist.strike
    t, f = np.array(truth.times_s), np.array(truth.force_n)
    peak = int(np.argmax(f))
    level = f[peak]
    above = np.flatnonzero(f >= 0.05 * level)
    first, last = above[0], above[-1]
    truth.contact_s = float(np.interp(0.05 * level, f[max(first - 1, 0) : first + 1], t[max(first - 1, 0) : first + 1]))
    tail = slice(last, min(last + 2, len(f)))
    truth.end_s = float(np.interp(-0.05 * level, -f[tail], t[tail]))
    climb = f[: peak + 1]
    truth.rise_ms = 1e3 * float(
        np.interp(0.9 * level, climb, t[: peak + 1]) - np.interp(0.1 * level, climb, t[: peak + 1])
    )
    truth.impulse_n_s = float(f.sum() * CONTACT_STEP_S)
    truth.peak_force_n = float(level)
    truth.bearing_deg = math.degrees(strike.bearing_rad)
    lever = fist.lever_body
    yields = 1.0 / bag.mass_kg + lever[2] ** 2 / bag.inertia_across_kg_m2
    if bag.mount in ("fixed", "standing"):
        about_pivot = bag.inertia_across_kg_m2 + bag.mass_kg * bag.pivot_above_com_m**2
        yields = (lever[2] - bag.pivot_above_com_m) ** 2 / about_pivot
    truth.energy_j = truth.impulse_n_s**2 / 2.0 * (yields + strike.off_centre_m**2 / bag.inertia_axial_kg_m2)
    return truth


def _plus(a: Load, b: Load) -> Load:
    if a is NO_LOAD:
        return b
    return Load(
        add(a.force_n, b.force_n), b.lever_m if dot(b.force_n, b.force_n) > dot(a.force_n, a.force_n) else a.lever_m
    )


def _bump_length(bump: Bump) -> float:
    return STEADY_S if bump.kind == "steady" else BUMPS[bump.kind][0]


def _bump_load(bag: Bag, s: State, bump: Bump, since: float) -> Load:
    lever_body, n = line_of_action(bag, bump.below_top_m, bump.off_centre_m, bump.bearing_rad)
    lever = body_point(s, lever_body)
    if bump.kind == "steady":
        _, vel, _, _, w = parts(s)
        grip = min(1.0, since / 0.15)  # hands close on the bag, they do not snap
        v = add(vel, cross(w, lever))
        return Load(scale((v[0], v[1], 0.0), -STEADY_N_S_M * grip), lever)
    seconds, newtons, power = BUMPS[bump.kind]
    shape = math.sin(math.pi * min(max(since / seconds, 0.0), 1.0)) ** power
    return Load(scale(body_point(s, n), newtons * shape), lever)


def _felt(states: Floats, changes: Floats, sensor: Vec) -> tuple[Floats, Floats]:
    """Specific force at the unit (m/s2) and angular rate (rad/s), n x 3 each in the bag's frame, of states and their
    derivatives, n x 15."""
    z, x, w = states[:, 6:9], states[:, 9:12], states[:, 12:]
    axes = np.stack([x, np.cross(z, x), z], axis=1)
    p = np.einsum("k,nki->ni", sensor, axes)
    at = changes[:, 3:6] + np.cross(changes[:, 12:], p) + np.cross(w, np.cross(w, p))
    at[:, 2] += GRAVITY_M_S2
    return np.einsum("nki,ni->nk", axes, at), np.einsum("nki,ni->nk", axes, w)
