"""Pelvis and torso in a strike: turn, order, lag, lean and tilt, and whether the student sank or rose."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.measured import Measured
from agile_strike.core.student.grid import BEFORE, STEP_S
from agile_strike.core.student.rotation import rotate
from agile_strike.core.student.stretch import Stretches

Floats = NDArray[np.float64]

BACK_S = 0.3  # of the definitions, before launch
PEAK_TO_S = 0.05
SEPARATION_TO_S = 0.02
TURN_ENDS_S = 0.6
FIT_S = 0.012  # half-width of the parabola through a peak of turn rate
#: a belt that swings at 17 to 45 hz answers a turn by some per cent more than it is: rigs and worlds
RATE_SD_SHARE, RATE_SD_DEG_S = {"pelvis": 0.016, "torso": 0.014}, 0.8
BETWEEN_SAMPLES, SAMPLED_SHARE = 0.25, 0.3  # what a top that lies between two samples loses, and where in between it is
PEAK_SD_MS = 0.9
PEAK_SURE = 0.9  # clocks tied by six stamps are better than each stamp
MOST_VELOCITY_SD_M_S = 0.05  # beyond, there was too little guard to say how high the pelvis was
CROWDED_TIMES = {
    "turn_deg": 6.0,
    "turn_done_pct": 9.0,
    "pivot_deg": 5.0,
    "pelvis_peak_deg_s": 2.0,
    "torso_peak_deg_s": 2.0,
}
LEAN_SD_DEG, HIP_SD_DEG, SHOULDER_SD_DEG = 0.68, 0.6, 0.7
ASKEW = 0.15  # of how far who wears a unit leans, seen as a tilt to the side: a unit sits up to 15 degrees askew
STAMPS_SD_MS = 2.0  # of clocks that stamps tie, which the doubts below hold already
TILTS_DEG_S = 60.0  # at contact
TURN_SD_DEG, TURN_FLOOR_DEG, PIVOT_FLOOR_DEG = 0.17, 0.25, 0.35
AXES_SHARE = 0.011  # of a turn: axes of a unit as delivered are a per cent askew, its gyro's scale half of one
SEPARATION_SD_DEG = 0.45


def trunk_measures(
    parts: dict[str, Stretches],
    i: int,
    launch_s: float,
    sign: float,
    clock_sd_ms: dict[str, float],
    sampled_s: dict[str, float],
) -> dict[str, Measured]:
    """Measures of strike i from the stretches of `pelvis` and `torso`, as far as they are there. `sign` is +1 where the
    turn into the strike is to the left; `sampled_s`, the time from one sample of a unit to the next."""
    out: dict[str, Measured] = {}
    yaw: dict[str, Floats] = {}
    for part, s in parts.items():
        if not s.ok[i]:
            continue
        t = s.times_s
        first = int(np.searchsorted(t, launch_s - BACK_S))
        if first < 1:
            continue
        rate = np.degrees(sign * s.rate_rad_s[i, :, 2])
        last = BEFORE + round(PEAK_TO_S / STEP_S)
        peak = first + int(np.argmax(rate[first : last + 1]))
        value, at, bend = _peak(rate, peak, t)
        between = BETWEEN_SAMPLES * bend * sampled_s[part] ** 2
        value_sd = RATE_SD_SHARE[part] * abs(value) + RATE_SD_DEG_S
        out[f"{part}_peak_deg_s"] = Measured(value, float(np.hypot(value_sd, between)))
        clock = float(np.hypot(PEAK_SD_MS, clock_sd_ms.get(part, 0.0)))
        when_sd = float(np.hypot(PEAK_SURE * clock, SAMPLED_SHARE * 1e3 * sampled_s[part]))
        out[f"{part}_before_ms"] = Measured(-1e3 * at, when_sd)
        turned = np.concatenate([[0.0], np.cumsum(rate[:-1]) * STEP_S])
        yaw[part] = turned - turned[first]
        late_s = _beyond_stamps_s(clock_sd_ms.get(part, 0.0))
        askew = AXES_SHARE * abs(float(yaw[part][BEFORE]))  # of a turn, seen as a tilt
        if part == "pelvis":
            out |= _turn(rate, yaw[part], peak, late_s)
            rise = s.place_m[i, BEFORE, 2] - s.place_m[i, first, 2]
            velocity_sd = float(s.rise_sd_m_s[i])
            if velocity_sd < MOST_VELOCITY_SD_M_S:
                sd = np.hypot(0.0022 + 0.14 * velocity_sd, abs(s.velocity_m_s[i, BEFORE, 2]) * late_s)
                out["pelvis_rise_mm"] = Measured(1e3 * float(rise), 1e3 * float(sd))
            out["hip_tilt_deg"] = _across(s, i, first, float(np.hypot(HIP_SD_DEG, askew)), late_s)
        else:
            out["lean_deg"] = _tilted(
                _lean(s, i, BEFORE) - _lean(s, i, first), float(np.hypot(LEAN_SD_DEG, askew)), late_s
            )
            out["shoulder_tilt_deg"] = _across(s, i, first, float(np.hypot(SHOULDER_SD_DEG, askew)), late_s)
    if len(yaw) == 2:
        first = int(np.searchsorted(parts["pelvis"].times_s, launch_s - BACK_S))
        until = BEFORE + round(SEPARATION_TO_S / STEP_S)
        lag = (yaw["pelvis"] - yaw["torso"])[first : until + 1]
        most = first + int(np.argmax(lag))
        late = max(_beyond_stamps_s(clock_sd_ms.get(p, 0.0)) for p in ("pelvis", "torso"))
        fast = float(np.degrees(abs(parts["pelvis"].rate_rad_s[i, most, 2])))
        out["separation_deg"] = Measured(float(lag.max()), float(np.hypot(SEPARATION_SD_DEG, fast * late)))
    return out


def _beyond_stamps_s(clock_sd_ms: float) -> float:
    """By how much a clock that is tied more loosely than by stamps may be off, s."""
    return 1e-3 * float(np.sqrt(max(clock_sd_ms**2 - STAMPS_SD_MS**2, 0.0)))


def _tilted(degrees: float, sd_deg: float, late_s: float) -> Measured:
    return Measured(degrees, float(np.hypot(sd_deg, TILTS_DEG_S * late_s)))


def _across(s: Stretches, i: int, first: int, sd_deg: float, late_s: float) -> Measured:
    """How much farther a part is tilted to its right at contact than at `first`."""
    leant = _lean(s, i, BEFORE) - _lean(s, i, first)
    return _tilted(_side_tilt(s, i, BEFORE) - _side_tilt(s, i, first), float(np.hypot(sd_deg, ASKEW * leant)), late_s)


def chain_order(measures: dict[str, Measured]) -> str | None:
    """Order of the three peaks, earliest first; `=` between peaks closer than their own doubt."""
    names = ("pelvis", "torso", "hand")
    if any(f"{n}_before_ms" not in measures for n in names):
        return None
    order = sorted(names, key=lambda n: -measures[f"{n}_before_ms"].value)
    text = order[0]
    for before, after in pairwise(order):
        a, b = measures[f"{before}_before_ms"], measures[f"{after}_before_ms"]
        tie = a.value - b.value < np.hypot(a.sd, b.sd)
        text += ("=" if tie else ">") + after
    return text


def widened(told: dict[str, Measured]) -> dict[str, Measured]:
    """The same with wider doubts: in a burst the trunk is still busy with the strike before."""
    return {n: Measured(m.value, m.sd * CROWDED_TIMES.get(n, 1.5)) for n, m in told.items()}


def _peak(rate: Floats, peak: int, t: Floats) -> tuple[float, float, float]:
    """Value, instant, and how sharply it bends, per second squared: of a parabola through the top."""
    half = round(FIT_S / STEP_S)
    at = np.arange(max(peak - half, 0), min(peak + half + 1, len(rate)))
    x = t[at] - t[peak]
    a, b, c = np.polyfit(x, rate[at], 2)
    if a >= 0.0:
        return float(rate[peak]), float(t[peak]), 0.0
    off = float(np.clip(-b / (2 * a), -FIT_S, FIT_S))
    return float(c + b * off + a * off * off), float(t[peak] + off), abs(2.0 * float(a))


def _turn(rate: Floats, yaw: Floats, peak: int, late_s: float) -> dict[str, Measured]:
    ends = np.flatnonzero(rate[peak : BEFORE + round(TURN_ENDS_S / STEP_S)] <= 0.0)
    if not len(ends):
        return {}
    whole = float(yaw[peak + int(ends[0])])
    if whole < 3.0:
        return {}
    done = 100.0 * float(yaw[BEFORE]) / whole
    return {
        "turn_deg": Measured(whole, float(np.hypot(AXES_SHARE * whole, TURN_FLOOR_DEG))),
        "turn_done_pct": Measured(
            done, float(np.hypot(40.0 * TURN_SD_DEG / whole + 0.15, 100.0 * abs(rate[BEFORE]) * late_s / whole))
        ),
    }


def _lean(s: Stretches, i: int, at: int) -> float:
    """Forward tilt, degrees: how far the wearer's front points down."""
    return float(np.degrees(np.arcsin(np.clip(-rotate(s.attitude[i, at], np.array([1.0, 0.0, 0.0]))[2], -1.0, 1.0))))


def _side_tilt(s: Stretches, i: int, at: int) -> float:
    """Right side down, degrees: how far the wearer's left points up."""
    return float(np.degrees(np.arcsin(np.clip(rotate(s.attitude[i, at], np.array([0.0, 1.0, 0.0]))[2], -1.0, 1.0))))


def pivot_deg(s: Stretches, i: int, launch_s: float) -> Measured | None:
    """Turn of a standing shank about the vertical, from 300 ms before launch to contact."""
    first = int(np.searchsorted(s.times_s, launch_s - BACK_S))
    if not s.ok[i] or first < 1:
        return None
    turned = abs(float(np.degrees(s.rate_rad_s[i, first:BEFORE, 2].sum() * STEP_S)))
    return Measured(turned, float(np.hypot(AXES_SHARE * turned, PIVOT_FLOOR_DEG)))
