"""Motion of a bag as a whole rigid body under gravity, its mount and whatever pushes it.

`swivel`: a rigid axisymmetric body under a massless stiff link, in three dimensions without small angles.
The chain's tension is the Lagrange multiplier of its length (Featherstone, Rigid Body Dynamics Algorithms, ch. 3).
`fixed` and `standing`: the same body about a frictionless ball joint, the standing one held up by a stiff base.
Plain floats throughout: a step is some hundred multiplications, and small NumPy arrays would be ten times slower.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

from agile_strike.core.target import GRAVITY_M_S2, Bag

Vec = tuple[float, float, float]
#: position and velocity of the centre of mass, body z axis, body x axis, angular rate; world frame, 15 floats
State = tuple[float, ...]

SPIN_FRICTION_PER_S = 0.5  # a swivel's bearing stops a spinning bag in some seconds
AIR_DAMPING_PER_S = 0.02
HOOK_DAMPING_PER_S = 0.4  # the chain rubs where it hangs: a drag on the bag's top
SHACKLE_DAMPING_PER_S = 0.2  # straps rub where they meet the bag: a drag on its turning
BASE_STIFFNESS_N_M_RAD = 900.0  # a weighted plastic base rocks back


def cross(a: Vec, b: Vec) -> Vec:
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


def dot(a: Vec, b: Vec) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def add(a: Vec, b: Vec) -> Vec:
    return (a[0] + b[0], a[1] + b[1], a[2] + b[2])


def scale(a: Vec, k: float) -> Vec:
    return (a[0] * k, a[1] * k, a[2] * k)


def unit(a: Vec) -> Vec:
    return scale(a, 1.0 / math.sqrt(dot(a, a)))


@dataclass(frozen=True, slots=True)
class Load:
    """A force on the bag during one step: newtons in the world frame, lever from the centre of mass in metres."""

    force_n: Vec = (0.0, 0.0, 0.0)
    lever_m: Vec = (0.0, 0.0, 0.0)


NO_LOAD = Load()


def parts(s: State) -> tuple[Vec, Vec, Vec, Vec, Vec]:
    """Split a state into position, velocity, body z, body x and angular rate."""
    return (
        (s[0], s[1], s[2]),
        (s[3], s[4], s[5]),
        (s[6], s[7], s[8]),
        (s[9], s[10], s[11]),
        (s[12], s[13], s[14]),
    )


def body_point(s: State, point_m: Vec) -> Vec:
    """A lever given in the body frame (x, y, z from the centre of mass), turned into the world frame."""
    _, _, z, x, _ = parts(s)
    y = cross(z, x)
    return add(add(scale(x, point_m[0]), scale(y, point_m[1])), scale(z, point_m[2]))


@dataclass(frozen=True, slots=True)
class HangingBody:
    """Equations of motion of one bag on its mount."""

    bag: Bag

    def accelerations(self, s: State, load: Load) -> tuple[Vec, Vec]:
        """Linear (m/s2) and angular (rad/s2) acceleration of the centre of mass, world frame."""
        if self.bag.mount in ("fixed", "standing"):
            return self._about_pivot(s, load)
        return self._on_chain(s, load)

    def _turned_by(self, torque: Vec, z: Vec, across: float, along: float) -> Vec:
        return add(scale(torque, 1.0 / across), scale(z, (1.0 / along - 1.0 / across) * dot(z, torque)))

    def _torque_free(self, s: State, load: Load) -> Vec:
        _, _, z, _, w = parts(s)
        i_t, i_z = self.bag.inertia_across_kg_m2, self.bag.inertia_axial_kg_m2
        spin = dot(z, w)
        gyroscopic = scale(cross(w, z), -(i_z - i_t) * spin)
        friction = add(scale(z, -SPIN_FRICTION_PER_S * i_z * spin), scale(w, -SHACKLE_DAMPING_PER_S * i_t))
        return add(add(cross(load.lever_m, load.force_n), gyroscopic), friction)

    def _on_chain(self, s: State, load: Load) -> tuple[Vec, Vec]:
        bag = self.bag
        pos, vel, z, _, w = parts(s)
        mass, chain = bag.mass_kg, bag.chain_m
        i_t, i_z = bag.inertia_across_kg_m2, bag.inertia_axial_kg_m2
        top = scale(z, bag.com_below_top_m)
        up = unit(scale(add(pos, top), -1.0))  # the anchor is the origin
        v_top = add(vel, cross(w, top))
        v_along = dot(v_top, up)
        v_across2 = dot(v_top, v_top) - v_along * v_along
        rub = scale(v_top, -HOOK_DAMPING_PER_S * mass)
        pushed = add(add(load.force_n, rub), scale(vel, -AIR_DAMPING_PER_S * mass))
        free = (pushed[0] / mass, pushed[1] / mass, pushed[2] / mass - GRAVITY_M_S2)
        turn = self._turned_by(add(self._torque_free(s, load), cross(top, rub)), z, i_t, i_z)
        top_free = add(add(free, cross(turn, top)), cross(w, cross(w, top)))
        turn_per_n = self._turned_by(cross(top, up), z, i_t, i_z)
        yield_per_n = 1.0 / mass + dot(up, cross(turn_per_n, top))
        tension = (v_across2 / chain - dot(up, top_free)) / yield_per_n
        return add(free, scale(up, tension / mass)), add(turn, scale(turn_per_n, tension))

    def _about_pivot(self, s: State, load: Load) -> tuple[Vec, Vec]:
        bag = self.bag
        _, _, z, _, w = parts(s)
        to_com = scale(z, -bag.pivot_above_com_m)
        i_p = bag.inertia_across_kg_m2 + bag.mass_kg * bag.pivot_above_com_m**2
        i_z = bag.inertia_axial_kg_m2
        torque = add(
            self._torque_free(s, Load(load.force_n, add(to_com, load.lever_m))),
            cross(to_com, (0.0, 0.0, -bag.mass_kg * GRAVITY_M_S2)),
        )
        if bag.mount == "standing":
            torque = add(torque, add(scale(cross(z, (0.0, 0.0, 1.0)), BASE_STIFFNESS_N_M_RAD), scale(w, -18.0)))
        turn = self._turned_by(torque, z, i_p, i_z)
        return add(cross(turn, to_com), cross(w, cross(w, to_com))), turn

    def derivative(self, s: State, load: Load) -> State:
        _, vel, z, x, w = parts(s)
        a, turn = self.accelerations(s, load)
        return (*vel, *a, *cross(w, z), *cross(w, x), *turn)

    def step(self, s: State, h: float, load: Callable[[State], Load]) -> State:
        """One Runge-Kutta step of h seconds with the load as it stands at its start; axes are made unit again."""
        held = load(s)
        k1 = self.derivative(s, held)
        k2 = self.derivative(tuple(a + 0.5 * h * b for a, b in zip(s, k1, strict=True)), held)
        k3 = self.derivative(tuple(a + 0.5 * h * b for a, b in zip(s, k2, strict=True)), held)
        k4 = self.derivative(tuple(a + h * b for a, b in zip(s, k3, strict=True)), held)
        moved = tuple(a + h / 6.0 * (p + 2 * q + 2 * r + t) for a, p, q, r, t in zip(s, k1, k2, k3, k4, strict=True))
        return self._on_manifold(moved)

    def _on_manifold(self, s: State) -> State:
        pos, vel, z, x, w = parts(s)
        z = unit(z)
        x = unit(add(x, scale(z, -dot(z, x))))
        if self.bag.mount in ("fixed", "standing"):
            pos = scale(z, -self.bag.pivot_above_com_m)
            vel = cross(w, pos)
        else:
            top = scale(z, self.bag.com_below_top_m)
            hang = add(pos, top)
            pos = add(scale(unit(hang), self.bag.chain_m), scale(top, -1.0))
        return (*pos, *vel, *z, *x, *w)

    def at_rest(self, lean_rad: Vec = (0.0, 0.0, 0.0), chain_lean_rad: float = 0.0) -> State:
        """Hanging (or standing) still, optionally let go from a lean: x, y tilt of the body and of the chain."""
        z = unit((math.sin(lean_rad[1]), -math.sin(lean_rad[0]), 1.0))
        x = unit(add((1.0, 0.0, 0.0), scale(z, -z[0])))
        if self.bag.mount in ("fixed", "standing"):
            pos = scale(z, -self.bag.pivot_above_com_m)
        else:
            hang = unit((-math.sin(chain_lean_rad), 0.0, -1.0))
            pos = add(scale(hang, self.bag.chain_m), scale(z, -self.bag.com_below_top_m))
        return (*pos, 0.0, 0.0, 0.0, *z, *x, 0.0, 0.0, 0.0)
