"""The striking limb: launch, speed, path, tell, return, turn-over, and how much of the student is behind the strike.

All from one stretch of the limb's unit (see `stretch`), by the definitions of the measures. u is the direction of the
limb's velocity at contact.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.measured import Measured
from agile_strike.core.student.grid import BEFORE, STEP_S
from agile_strike.core.student.rotation import conjugate, rotate
from agile_strike.core.student.strap import SPRINGS_BACK, told_by_course
from agile_strike.core.student.stretch import Stretches
from agile_strike.core.student.tell import SPEED_FLOOR_M_S, tell

Floats = NDArray[np.float64]

LAUNCH_SHARE = 0.1
LONGEST_FLIGHT_S = 0.6
REACHED_WITHIN_S = 0.1  # of where a limb's strokes alone put its full reach
HOME_SHARE, HOME_SD_SHARE = 0.1, 0.6
RETURN_WITHIN_S = 1.0
MOST_CLIPPED_SHARE = 0.3  # of the samples in the 250 ms before contact: beyond, too little was felt
LEAST_SPEED_M_S = 1.0
OF_CONTACT = ("contact_speed_m_s", "speed_held_pct")  # of what was met
MOST_SPEED_SD_SHARE = 0.15  # beyond, a speed says nothing

#: what definition and grid add to each doubt, fitted on simulated evenings that the method had not seen
CONTACT_SHARE = 0.008
#: of a speed: what cross axes, a warming gyro, a slow or filtered unit add, which no signal of its own shows; worlds
SENSOR_SHARE, FLIGHT_FLOOR_MS, PEAK_FLOOR_MS = 0.01, 1.7, 1.4
ONSET_SD_S = 0.0012  # of contact on the limb's clock: a glove, a strap and a filter make what it feels late; rigs
TURNOVER_SD_DEG, TURNOVER_SHARE = 2.0, 0.055  # the forearm rolls in its skin and strap as it turns
MOST_RETURN_SD_MS = 75.0  # beyond, the limb hung about where home begins, and an instant says nothing
HELD_SD, LOST_SHARE = 0.65, 0.13
MARK_SD_S, MARK_SURE = 0.0006, 0.65
STRAIGHT_RATIO = 1.02
NEAR_NOMINAL_DEG, MOUNTING_DEG, IN_LINE_DEG = 32.0, 9.0, 12.0
LEFT_SHARE = 0.035  # of the speed lost: at contact's end a limb turns
MOST_LOST_SD_SHARE = 0.2  # of it: beyond, a mass says nothing
LEAST_ROLL_DEG = 15.0  # below, which part of the roll was late says nothing
FEWEST_STRAIGHT, MOST_STRAIGHT = 3, 6


@dataclass(frozen=True, slots=True)
class Reach:
    """Measures of one limb in one strike, and where its launch was; absent ones are missing from the dictionary."""

    measures: dict[str, Measured]
    launch_s: float | None  #: from contact, negative
    forward: Floats | None = None  #: (3,) u in the unit's own axes at contact; None unless the path was straight
    along: Floats | None = None  #: (3,) u, world axes of the stretch


def reach(
    s: Stretches,
    i: int,
    length_s: float,
    impulse: Measured | None,
    body_mass_kg: float | None,
    launched_after_s: float,
    air: bool = False,
) -> Reach:
    """Measures of strike i. `launched_after_s` is the end of the limb's last strike from this contact (-inf: none). In
    the air full reach stands for contact, and u is the direction at the limb's fastest."""
    if not s.ok[i] or s.clipped.share[i] > MOST_CLIPPED_SHARE:
        return Reach({}, None)
    t, v, p = s.times_s, s.velocity_m_s[i], s.place_m[i]
    c = BEFORE
    speed = np.linalg.norm(v, axis=1)
    at_contact = _at_contact(v)
    if air:
        early = max(int(s.first[i]) + 1, c - round(LONGEST_FLIGHT_S / STEP_S))
        at_contact = v[early + int(np.argmax(speed[early:c]))]
    contact_speed = float(np.linalg.norm(at_contact))
    along = at_contact / max(contact_speed, 1e-9)
    clipped_sd = float(s.clipped.sd_m_s[i])
    speed_sd = float(np.hypot(s.velocity_sd_m_s[i], clipped_sd))
    if contact_speed < LEAST_SPEED_M_S or speed_sd > MOST_SPEED_SD_SHARE * contact_speed:
        return Reach({}, None)
    start = max(int(s.first[i]) + 1, c - round(LONGEST_FLIGHT_S / STEP_S))
    forward = v[start : c + 1] @ along
    peak = start + int(np.argmax(speed[start:c]))
    top_speed, top_s = _top(speed, peak, t)
    if contact_speed > top_speed and not air:
        top_speed, top_s = contact_speed, 0.0
    launch_s = _launch(forward, t[start : c + 1], peak - start, LAUNCH_SHARE * max(float(forward.max()), contact_speed))
    sensor_sd = SENSOR_SHARE * top_speed
    held = 100.0 * contact_speed / top_speed
    lost_sd = LOST_SHARE * (100.0 - held)  # what is lost last is lost fast: a millisecond's doubt of contact is a share
    sd = float(np.sqrt(speed_sd**2 + SPEED_FLOOR_M_S**2 + sensor_sd**2))
    gained_sd = ONSET_SD_S * abs(float(speed[c - 1] - speed[c - 3])) / (2.0 * STEP_S)
    out = {
        "peak_speed_m_s": Measured(top_speed, sd),
        "contact_speed_m_s": Measured(
            contact_speed, float(np.sqrt(sd**2 + (CONTACT_SHARE * contact_speed) ** 2 + gained_sd**2))
        ),
        "speed_held_pct": Measured(
            held,
            float(
                np.sqrt(
                    (HELD_SD + 80.0 * clipped_sd / top_speed) ** 2
                    + lost_sd**2
                    + (held * gained_sd / contact_speed) ** 2
                )
            ),
        ),
        "hand_before_ms": Measured(-1e3 * top_s, float(np.hypot(_flatness_ms(speed, peak), PEAK_FLOOR_MS))),
    }
    if air:
        out = {n: m for n, m in out.items() if n not in OF_CONTACT}
    if launch_s is None:
        return Reach(out, None, None, along)
    launch = int(np.searchsorted(t, launch_s))
    rate = float((v[launch + 1] - v[launch - 1]) @ along) / (2.0 * STEP_S)
    mark_sd = 1e3 * MARK_SURE * float(np.hypot(MARK_SD_S, sd / max(abs(rate), 5.0)))
    out["flight_ms"] = Measured(-1e3 * launch_s, float(np.hypot(mark_sd, FLIGHT_FLOOR_MS)))
    path = p[launch : c + 1]
    straight = float(np.linalg.norm(path[-1] - path[0]))
    length = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
    ratio = length / max(straight, 1e-6)
    out["path_ratio"] = Measured(ratio, 0.0012 + 0.08 * (ratio - 1.0))
    out |= tell(s, i, launch, along, launched_after_s, sensor_sd)
    out |= _return(s, i, launch, along, length_s, straight, sensor_sd)
    out |= _mass(s, i, at_contact, impulse, body_mass_kg)
    own = rotate(conjugate(s.attitude[i, c - 1]), along) if ratio < STRAIGHT_RATIO else None
    return Reach(out, launch_s, own, along)


def full_reach_s(s: Stretches, i: int) -> float | None:
    """When a limb that stopped itself had lost nine tenths of its highest speed along u, from the instant that was
    taken for it; None where it had not within a tenth of a second of it."""
    reach = round(REACHED_WITHIN_S / STEP_S)
    v = s.velocity_m_s[i, BEFORE - round(LONGEST_FLIGHT_S / STEP_S) : BEFORE + reach]
    speed = np.linalg.norm(v[: -reach // 2], axis=1)
    top = int(np.argmax(speed))
    forward = v[top:] @ v[top] / speed[top]
    slow = np.flatnonzero(forward <= LAUNCH_SHARE * speed[top])
    if not len(slow) or not s.ok[i] or slow[0] == 0:
        return None
    k = int(slow[0])
    part = (forward[k - 1] - LAUNCH_SHARE * speed[top]) / max(forward[k - 1] - forward[k], 1e-9)
    at = top + k - 1 + float(np.clip(part, 0.0, 1.0)) - round(LONGEST_FLIGHT_S / STEP_S)
    return STEP_S * at if abs(STEP_S * at) < REACHED_WITHIN_S else None


def long_axis(forward: list[Floats], nominal: Floats) -> Floats:
    """The forearm's long axis in its unit's axes: in a straight strike fist, wrist and elbow end in line with the path.

    The format's axis, known to 15 degrees, is drawn to the mean direction of straight strikes: each is good to 12, and
    six no better than 5, since a forearm that ends off the line does so every time.
    """
    near = [f for f in forward if f @ nominal > np.cos(np.radians(NEAR_NOMINAL_DEG))]
    if len(near) < FEWEST_STRAIGHT:
        return nominal
    mean = np.mean(near, axis=0)
    axis = nominal * MOUNTING_DEG**-2 + mean * min(len(near), MOST_STRAIGHT) * IN_LINE_DEG**-2
    return np.asarray(axis / np.linalg.norm(axis))


def _at_contact(v: Floats) -> Floats:
    """Velocity (3,) at contact from the steps before it: the step that ends there may hold the first of the contact."""
    a, b = v[BEFORE - 2], v[BEFORE - 1]
    return np.asarray(b + (b - a))


def _top(speed: Floats, peak: int, t: Floats) -> tuple[float, float]:
    """Height and instant of a peak by a parabola through 5 steps."""
    at = np.arange(max(peak - 2, 0), min(peak + 3, BEFORE))
    if len(at) < 3 or peak >= BEFORE - 1:
        return float(speed[peak]), float(t[peak])
    a, b, c = np.polyfit(t[at] - t[peak], speed[at], 2)
    if a >= 0.0:
        return float(speed[peak]), float(t[peak])
    off = float(np.clip(-b / (2 * a), -2 * STEP_S, 2 * STEP_S))
    return float(c + b * off + a * off * off), float(t[peak] + off)


def _flatness_ms(speed: Floats, peak: int) -> float:
    """Doubt of a peak's instant: how long speed stays within its own noise of the top."""
    near = speed[max(peak - 15, 0) : BEFORE]
    return 0.15 + 0.09 * 1e3 * STEP_S * float(np.sqrt((near > 0.995 * speed[peak]).sum()))


def _launch(forward: Floats, t: Floats, peak: int, level: float) -> float | None:
    below = np.flatnonzero(forward[: peak + 1] <= level)
    if not len(below):
        return None
    k = int(below[-1])
    if k + 1 >= len(forward):
        return None
    part = (level - forward[k]) / max(forward[k + 1] - forward[k], 1e-9)
    return float(t[k] + np.clip(part, 0.0, 1.0) * STEP_S)


def _return(
    s: Stretches, i: int, launch: int, along: Floats, length_s: float, straight: float, sensor_sd: float
) -> dict[str, Measured]:
    t, p = s.times_s, s.place_m[i]
    e = BEFORE + int(np.ceil(length_s / STEP_S))
    last = min(int(s.last[i]), e + round(RETURN_WITHIN_S / STEP_S), len(t) - 1)
    home = np.linalg.norm(p[e : last + 1] - p[launch], axis=1)
    within = np.flatnonzero(home <= HOME_SHARE * straight)
    if not len(within):
        return {}
    k = int(within[0])
    if k == 0:
        return {}
    part = (home[k - 1] - HOME_SHARE * straight) / max(home[k - 1] - home[k], 1e-9)
    back_s = t[e] + (k - 1 + part) * STEP_S - length_s
    slow = max((home[k - 1] - home[k]) / STEP_S, 0.2)
    sd = float(np.hypot(HOME_SD_SHARE * s.home_sd_m[i], 0.17 * sensor_sd)) + 0.001
    out_x, out_z = p[launch : BEFORE + 1] @ along, p[launch : BEFORE + 1, 2]
    order = np.argsort(out_x)
    back_x, back_z = p[e : e + k + 1] @ along, p[e : e + k + 1, 2]
    sunk = np.interp(back_x, out_x[order], out_z[order]) - back_z
    dropped_sd = 0.0015 + float(np.hypot(HOME_SD_SHARE * s.home_sd_m[i], 0.04 * sensor_sd))
    out = {"return_drop_mm": Measured(1e3 * float(max(sunk.max(), 0.0)), 1e3 * dropped_sd)}
    back_sd = 1.5 + 800.0 * sd / slow
    if back_sd <= MOST_RETURN_SD_MS:
        out["return_ms"] = Measured(1e3 * back_s, back_sd)
    return out


def turnover(s: Stretches, i: int, launch_s: float, forearm: Floats) -> dict[str, Measured]:
    """Roll of the forearm from launch to contact; `forearm` (3,) is its long axis in its unit's axes."""
    launch = int(np.searchsorted(s.times_s, launch_s))
    axis = rotate(s.attitude[i, launch : BEFORE + 1], np.broadcast_to(forearm, (BEFORE + 1 - launch, 3)))
    roll = (s.rate_rad_s[i, launch : BEFORE + 1] * axis).sum(axis=1)[:-1]
    total = float(roll.sum() * STEP_S)
    gone = np.cumsum(np.linalg.norm(s.velocity_m_s[i, launch:BEFORE], axis=1))
    late = gone >= gone[-1] * 2.0 / 3.0
    degrees = abs(float(np.degrees(total)))
    out = {"turnover_deg": Measured(degrees, TURNOVER_SD_DEG + TURNOVER_SHARE * degrees)}
    if degrees > LEAST_ROLL_DEG:
        share = 100.0 * float(roll[late].sum() * STEP_S) / total
        out["turnover_late_pct"] = Measured(share, 1.2 + 70.0 / degrees)
    return out


def _mass(
    s: Stretches, i: int, at_contact: Floats, impulse: Measured | None, body_mass_kg: float | None
) -> dict[str, Measured]:
    """Impulse over the speed lost along it. The bag's push is level and lies along what the limb lost."""
    if impulse is None:
        return {}
    usual = SPRINGS_BACK * at_contact
    seen = float(told_by_course(s.leaving_sd_m_s[i], float(np.linalg.norm(at_contact))))
    lost = at_contact - seen * s.leaving_m_s[i] - (1.0 - seen) * usual
    lost[2] = 0.0
    size = float(np.linalg.norm(lost))
    if size < LEAST_SPEED_M_S:
        return {}
    left_sd = float(s.leaving_sd_m_s[i]) * seen**0.5  # of two that are combined, the better one's share
    sd = float(np.sqrt(s.velocity_sd_m_s[i] ** 2 + s.after_sd_m_s[i] ** 2 + (LEFT_SHARE * size) ** 2 + left_sd**2))
    if sd > MOST_LOST_SD_SHARE * size:
        return {}
    mass = impulse.value / size
    mass_sd = mass * float(np.hypot(impulse.sd / impulse.value, sd / size))
    out = {"effective_mass_kg": Measured(mass, mass_sd)}
    if body_mass_kg:
        share = 100.0 / body_mass_kg
        out["effective_mass_pct"] = Measured(share * mass, share * mass_sd)
    return out
