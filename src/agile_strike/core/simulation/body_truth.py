"""What is true of the body in each made-up strike, read from the noise-free course by the measures' definitions."""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.simulation.student import FINE_HZ, Thrown
from agile_strike.core.simulation.trunk_motion import rotate, toward
from agile_strike.core.simulation.wear import Course
from agile_strike.core.target import GRAVITY_M_S2

Floats = NDArray[np.float64]
EDGE_S = 0.01  # of a tell's window, in which none is seen to begin


TOWARD_BAG = np.array([1.0, 0.0, 0.0])


def body_truth(course: Course, one: Thrown, impulse_n_s: float, along: Floats | None = None) -> dict[str, float]:
    """True measures of one strike by the registry's names; absent where the definition says so. `along` (3,) is u where
    it is not the velocity at contact."""
    out = upper_truth(course, one, impulse_n_s, along)
    return out | _feet(course, one, one.contact_s - out["flight_ms"] / 1e3)


def upper_truth(
    course: Course, one: Thrown, impulse_n_s: float, along: Floats | None = None, push: Floats = TOWARD_BAG
) -> dict[str, float]:
    """As `body_truth`, of limb and trunk alone. `push` (3,) is the direction of the impulse."""
    out = _Limb(course, one).measures(impulse_n_s, course.body.mass_kg, along, push)
    return out | _trunk(course, one, one.contact_s - out["flight_ms"] / 1e3)


def _slice(course: Course, start_s: float, end_s: float) -> slice:
    i, j = np.searchsorted(course.times_s, [start_s, end_s])
    return slice(int(i), int(j))


class _Limb:
    def __init__(self, course: Course, one: Thrown) -> None:
        self.course, self.one = course, one
        w = _slice(course, one.contact_s - 1.2, one.contact_s + 1.3)
        self.t = course.times_s[w] - one.contact_s
        motion = course.limbs[one.limb]
        self.p = motion.position_m[w]
        self.angles = motion.angles_rad[w]
        self.v = np.gradient(self.p, 1.0 / FINE_HZ, axis=0)
        self.c = int(np.searchsorted(self.t, 0.0)) - 1
        self.e = int(np.searchsorted(self.t, one.end_s - one.contact_s)) + 1

    def measures(self, impulse: float, mass_kg: float, along_u: Floats | None, push: Floats) -> dict[str, float]:
        t, p, v, c, e = self.t, self.p, self.v, self.c, self.e
        at_contact = v[c]
        u = at_contact / np.linalg.norm(at_contact) if along_u is None else along_u
        along = v @ u
        ended = [s.end_s for s in self.course.thrown if s.limb == self.one.limb and s.end_s < self.one.contact_s]
        since = max(-0.6, max(ended) - self.one.contact_s + 0.01) if ended else -0.6
        recent = slice(int(np.searchsorted(t, since)), c + 1)
        speed = np.linalg.norm(v, axis=1)
        # the peak belongs to this strike's own path
        peak = recent.start + int(np.argmax(speed[recent]))
        below = np.flatnonzero(along[: peak + 1] <= 0.1 * along[recent].max())
        launch = int(below[-1])
        out = {
            "peak_speed_m_s": float(speed[peak]),
            "contact_speed_m_s": float(speed[c]),
            "speed_held_pct": 100.0 * float(speed[c] / speed[peak]),
            "hand_before_ms": -1e3 * float(t[peak]),
            "flight_ms": -1e3 * float(t[launch]),
        }
        path = p[launch : c + 1]
        out["path_ratio"] = float(
            np.linalg.norm(np.diff(path, axis=0), axis=1).sum() / np.linalg.norm(path[-1] - path[0])
        )
        out |= self._tell(launch, u)
        out |= self._back(launch, u)
        roll = np.unwrap(self._roll_rate(launch))
        total = abs(float(roll.sum() / FINE_HZ))
        gone = np.cumsum(speed[launch : c + 1])
        late = gone >= gone[-1] * 2.0 / 3.0
        if self.one.limb.endswith("hand"):
            out["turnover_deg"] = float(np.degrees(total))
        if self.one.limb.endswith("hand") and np.degrees(total) > 15.0:
            out["turnover_late_pct"] = 100.0 * abs(float(roll[late].sum() / FINE_HZ)) / max(total, 1e-9)
        lost = float((v[c] - v[min(e, len(v) - 1)]) @ push)
        if lost > 0.5:
            out["effective_mass_kg"] = impulse / lost
            out["effective_mass_pct"] = 100.0 * out["effective_mass_kg"] / mass_kg
        return out

    def _roll_rate(self, launch: int) -> Floats:
        from agile_strike.core.simulation.trunk_motion import body_rates

        return np.asarray(body_rates(self.angles)[launch : self.c + 1, 0])

    def _tell(self, launch: int, u: Floats) -> dict[str, float]:
        t, p = self.t, self.p
        w = slice(int(np.searchsorted(t, t[launch] - 0.4)), launch + 1)
        x, z = p[w] @ u, p[w, 2]
        high = np.maximum.accumulate(x)
        back = high - x
        pulled, fell = float(back.max()), float(max((z[0] - z).max(), 0.0))
        out = {"pullback_mm": 1e3 * pulled, "drop_mm": 1e3 * fell}
        began = [k for k in (_began(x), _began(z)) if k is not None]
        if began and t[w][min(began)] > t[w][0] + EDGE_S:  # what began on the window's edge began before it, if at all
            out["tell_ms"] = 1e3 * float(t[launch] - t[w][min(began)])
        return out

    def _back(self, launch: int, u: Floats) -> dict[str, float]:
        t, p, c, e = self.t, self.p, self.c, self.e
        far = float(np.linalg.norm(p[c] - p[launch]))
        later = self._until_next()
        home = np.flatnonzero(np.linalg.norm(p[e:later] - p[launch], axis=1) <= 0.1 * far)
        if not len(home) or t[e + home[0]] - t[e] > 1.0:
            return {}
        end = e + int(home[0])
        out_x, out_z = p[launch : c + 1] @ u, p[launch : c + 1, 2]
        order = np.argsort(out_x)
        back_x, back_z = p[e : end + 1] @ u, p[e : end + 1, 2]
        sunk = np.interp(back_x, out_x[order], out_z[order]) - back_z
        return {"return_ms": 1e3 * float(t[end] - t[e]), "return_drop_mm": 1e3 * float(max(sunk.max(), 0.0))}

    def _until_next(self) -> int:
        own = [s.contact_s for s in self.course.thrown if s.limb == self.one.limb and s.contact_s > self.one.contact_s]
        return len(self.t) if not own else int(np.searchsorted(self.t, min(own) - self.one.contact_s))


def _began(x: Floats) -> int | None:
    """Where a quick way of 15 mm and more down to the place before launch had gone a twentieth of itself."""
    last = len(x) - round(0.12 * FINE_HZ)
    low = last + int(np.argmin(x[last:]))
    speed = -np.gradient(x[: low + 1])
    if low < 2:
        return None
    near = max(0, low - round(0.2 * FINE_HZ))
    quickest = near + int(np.argmax(speed[near:low]))
    slow = np.flatnonzero(speed[:quickest] < 0.15 * speed[quickest])
    first = int(slow[-1]) if len(slow) else 0
    way = x[first] - x[low]
    if way <= 0.015:
        return None
    return first + int(np.argmax(x[first] - x[first : low + 1] >= 0.05 * way)) if len(slow) else 0


def _trunk(course: Course, one: Thrown, launch_s: float) -> dict[str, float]:
    sign = toward(one)
    w = _slice(course, launch_s - 0.3, one.contact_s + 0.6)
    t = course.times_s[w] - one.contact_s
    c = int(np.searchsorted(t, 0.0))
    out: dict[str, float] = {}
    yaw = {part: np.degrees(sign * course.parts[part].angles_rad[w, 0]) for part in ("pelvis", "torso")}
    near = t <= 0.05
    for part in ("pelvis", "torso"):
        rate = np.gradient(yaw[part], 1.0 / FINE_HZ)
        peak = int(np.argmax(np.where(near, rate, -np.inf)))
        out[f"{part}_peak_deg_s"] = float(rate[peak])
        out[f"{part}_before_ms"] = -1e3 * float(t[peak])
    lag = yaw["pelvis"] - yaw["torso"]
    until = t <= 0.02
    out["separation_deg"] = float((lag[until] - lag[0]).max())
    rate = np.gradient(yaw["pelvis"], 1.0 / FINE_HZ)
    peak = int(np.argmax(np.where(near, rate, -np.inf)))
    ends = np.flatnonzero(rate[peak:] <= 0.0)
    end = peak + int(ends[0]) if len(ends) else len(rate) - 1
    out["turn_deg"] = float(yaw["pelvis"][end] - yaw["pelvis"][0])
    out["turn_done_pct"] = 100.0 * float(yaw["pelvis"][c] - yaw["pelvis"][0]) / out["turn_deg"]
    for name, part, which in (
        ("lean_deg", "torso", 1),
        ("hip_tilt_deg", "pelvis", 2),
        ("shoulder_tilt_deg", "torso", 2),
    ):
        tilt = np.degrees(_tilt(course.parts[part].angles_rad[w][[0, c]], which))
        out[name] = float(tilt[1] - tilt[0])
    height = course.parts["pelvis"].position_m[w, 2]
    out["pelvis_rise_mm"] = 1e3 * float(height[c] - height[0])
    return out


def _tilt(angles: Floats, which: int) -> Floats:
    """Forward tilt (1) of z, or right-side-down (2) from y, of attitudes (n, 3)."""
    n = len(angles)
    if which == 1:
        x = rotate(angles, np.tile([1.0, 0.0, 0.0], (n, 1)))
        return np.asarray(np.arcsin(-x[:, 2]))
    y = rotate(angles, np.tile([0.0, 1.0, 0.0], (n, 1)))
    return np.asarray(np.arcsin(y[:, 2]))


def _feet(course: Course, one: Thrown, launch_s: float) -> dict[str, float]:
    body, loads, t = course.body, course.loads, course.times_s
    lead, rear = body.lead, "right" if body.lead == "left" else "left"
    weight = body.mass_kg * GRAVITY_M_S2
    lead_n = loads.heel_n[lead] + loads.forefoot_n[lead]
    total = lead_n + loads.heel_n[rear] + loads.forefoot_n[rear]
    share = 100.0 * lead_n / np.maximum(total, 1.0)
    a, b, c = (int(np.searchsorted(t, s)) for s in (launch_s - 0.3, launch_s, one.contact_s))
    out = {
        "lead_load_start_pct": float(share[b]),
        "lead_load_contact_pct": float(share[c]),
        "load_shift_pct": float(share[c] - share[b]),
        "push_bw_s": float((total[a:c] / weight - 1.0).sum() / FINE_HZ),
    }
    if lead_n[c] >= 0.1 * weight:
        out["lead_heel_pct"] = 100.0 * float(loads.heel_n[lead][c] / lead_n[c])
    before = lead_n[a : c + int(0.15 * FINE_HZ)]
    up = np.flatnonzero((before[:-1] < 0.05 * weight) & (before[1:] >= 0.05 * weight))
    if len(up):
        nearest = up[np.argmin(np.abs(up - (c - a)))]
        out["step_before_ms"] = 1e3 * float(one.contact_s - t[a + nearest + 1])
    off = np.abs(share[c : c + int(2.0 * FINE_HZ)] - share[a]) > 10.0
    gone = np.flatnonzero(off)
    if len(gone) and gone[-1] < len(off) - 1:
        out["settle_ms"] = 1e3 * float((gone[-1] + 1) / FINE_HZ)
    elif not len(gone):
        out["settle_ms"] = 0.0
    kick = one.limb.endswith(("foot", "knee"))
    standing = ({"left": "right", "right": "left"}[one.side]) if kick else rear
    yaw = course.limbs[f"{standing}_foot"].angles_rad[:, 0]
    out["pivot_deg"] = abs(float(np.degrees(yaw[c] - yaw[a])))
    return out
