"""Motion of a bag as a whole rigid body under gravity, its mount and whatever pushes it.

`swivel`: a rigid axisymmetric body under a massless stiff link, in three dimensions without small angles.
The chain's tension is the Lagrange multiplier of its length (Featherstone, Rigid Body Dynamics Algorithms, ch. 3).
`fixed` and `standing`: the same body about a frictionless ball joint, the standing one held up by a stiff base.
Plain floats throughout: a step is some hundred multiplications, and small NumPy arrays would be ten times slower.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from agile_strike.core.target import GRAVITY_M_S2, Bag

Vec = tuple[float, float, float]
#: position and velocity of the centre of mass, body z axis, body x axis, angular rate; world frame, 15 floats
State = Sequence[float]

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


class HangingBody:
    """Equations of motion of one bag on its mount."""

    def __init__(self, bag: Bag) -> None:
        self.bag = bag
        self.held = bag.mount in ("fixed", "standing")
        self.i_t, self.i_z = bag.inertia_across_kg_m2, bag.inertia_axial_kg_m2
        self.top_m, self.pivot_m = bag.com_below_top_m, bag.pivot_above_com_m
        self.inside_n: Vec = (0.0, 0.0, 0.0)  #: at the centre of mass of a bag on a chain: water that moves by itself

    def derivative(self, s: State, load: Load) -> State:
        """Of each of a state's members, per second: its 4th to 6th is the acceleration of the centre of mass (m/s2),
        its last three the angular acceleration (rad/s2), world frame."""
        return self._about_pivot(s, load) if self.held else self._on_chain(s, load)

    def _turned_by(self, torque: Vec, z: Vec, across: float, along: float) -> Vec:
        return add(scale(torque, 1.0 / across), scale(z, (1.0 / along - 1.0 / across) * dot(z, torque)))

    def _on_chain(self, s: State, load: Load) -> State:
        # One piece, component by component: most of an evening's simulation is spent here, and calls that pass small
        # tuples about took four times as long.
        (px, py, pz, vx, vy, vz, zx, zy, zz, ax, ay, az, wx, wy, wz), (fx, fy, fz), (lx, ly, lz) = (
            s,
            load.force_n,
            load.lever_m,
        )
        mass, per_t, top_m = self.bag.mass_kg, 1.0 / self.i_t, self.top_m
        along = 1.0 / self.i_z - per_t
        # the chain: from the bag's top up to its anchor, which is the origin
        tx, ty, tz = zx * top_m, zy * top_m, zz * top_m
        ux, uy, uz = -(px + tx), -(py + ty), -(pz + tz)
        k = 1.0 / math.sqrt(ux * ux + uy * uy + uz * uz)
        ux, uy, uz = ux * k, uy * k, uz * k
        # the top's velocity, and what rubs there
        sx, sy, sz = wy * tz - wz * ty, wz * tx - wx * tz, wx * ty - wy * tx
        hx, hy, hz = vx + sx, vy + sy, vz + sz
        v_along = hx * ux + hy * uy + hz * uz
        v_across2 = hx * hx + hy * hy + hz * hz - v_along * v_along
        k = -HOOK_DAMPING_PER_S * mass
        rx, ry, rz = hx * k, hy * k, hz * k
        # as it would move without the chain
        k = -AIR_DAMPING_PER_S * mass
        ex, ey, ez = self.inside_n
        bx, by = (fx + ex + rx + vx * k) / mass, (fy + ey + ry + vy * k) / mass
        bz = (fz + ez + rz + vz * k) / mass - GRAVITY_M_S2
        spin = zx * wx + zy * wy + zz * wz
        dx, dy, dz = wy * zz - wz * zy, wz * zx - wx * zz, wx * zy - wy * zx
        k, q, r = (
            -(self.i_z - self.i_t) * spin,
            -SPIN_FRICTION_PER_S * self.i_z * spin,
            -SHACKLE_DAMPING_PER_S * self.i_t,
        )
        mx = ly * fz - lz * fy + dx * k + (zx * q + wx * r) + (ty * rz - tz * ry)
        my = lz * fx - lx * fz + dy * k + (zy * q + wy * r) + (tz * rx - tx * rz)
        mz = lx * fy - ly * fx + dz * k + (zz * q + wz * r) + (tx * ry - ty * rx)
        k = along * (zx * mx + zy * my + zz * mz)
        gx, gy, gz = mx * per_t + zx * k, my * per_t + zy * k, mz * per_t + zz * k
        # what a newton of tension does, and the tension that keeps the chain's length
        nx, ny, nz = ty * uz - tz * uy, tz * ux - tx * uz, tx * uy - ty * ux
        k = along * (zx * nx + zy * ny + zz * nz)
        nx, ny, nz = nx * per_t + zx * k, ny * per_t + zy * k, nz * per_t + zz * k
        yields = 1.0 / mass + (ux * (ny * tz - nz * ty) + uy * (nz * tx - nx * tz) + uz * (nx * ty - ny * tx))
        top_free = (
            ux * (bx + (gy * tz - gz * ty) + (wy * sz - wz * sy))
            + uy * (by + (gz * tx - gx * tz) + (wz * sx - wx * sz))
            + uz * (bz + (gx * ty - gy * tx) + (wx * sy - wy * sx))
        )
        tension = (v_across2 / self.bag.chain_m - top_free) / yields
        k = tension / mass
        return (
            *(vx, vy, vz, bx + ux * k, by + uy * k, bz + uz * k, dx, dy, dz),
            *(wy * az - wz * ay, wz * ax - wx * az, wx * ay - wy * ax),
            *(gx + nx * tension, gy + ny * tension, gz + nz * tension),
        )

    def _about_pivot(self, s: State, load: Load) -> State:
        bag = self.bag
        _, vel, z, x, w = parts(s)
        to_com = scale(z, -self.pivot_m)
        i_p = self.i_t + bag.mass_kg * self.pivot_m**2
        spin = dot(z, w)
        torque = add(
            cross(add(to_com, load.lever_m), load.force_n),
            scale(cross(w, z), -(self.i_z - self.i_t) * spin),
        )
        torque = add(
            torque, add(scale(z, -SPIN_FRICTION_PER_S * self.i_z * spin), scale(w, -SHACKLE_DAMPING_PER_S * self.i_t))
        )
        torque = add(torque, cross(to_com, (0.0, 0.0, -bag.mass_kg * GRAVITY_M_S2)))
        if bag.mount == "standing":
            torque = add(torque, add(scale(cross(z, (0.0, 0.0, 1.0)), BASE_STIFFNESS_N_M_RAD), scale(w, -18.0)))
        turn = self._turned_by(torque, z, i_p, self.i_z)
        a = add(cross(turn, to_com), cross(w, cross(w, to_com)))
        return (*vel, *a, *cross(w, z), *cross(w, x), *turn)

    def step(self, s: State, h: float, load: Load, begins: State) -> State:
        """One Runge-Kutta step of h seconds under a load that is held, from the derivative at its start; axes are made
        unit again."""
        half = 0.5 * h
        k2 = self.derivative([a + half * b for a, b in zip(s, begins, strict=True)], load)
        k3 = self.derivative([a + half * b for a, b in zip(s, k2, strict=True)], load)
        k4 = self.derivative([a + h * b for a, b in zip(s, k3, strict=True)], load)
        k = h / 6.0
        together = zip(s, begins, k2, k3, k4, strict=True)
        return self._on_manifold([a + k * (p + 2 * q + 2 * r + t) for a, p, q, r, t in together])

    def _on_manifold(self, s: State) -> State:
        pos, vel, z, x, w = parts(s)
        z = unit(z)
        x = unit(add(x, scale(z, -dot(z, x))))
        if self.held:
            pos = scale(z, -self.pivot_m)
            vel = cross(w, pos)
        else:
            top = scale(z, self.top_m)
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
