"""Load under the feet in a strike: where the weight was, went and settled, the step, and the push from the floor."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.measured import Measured
from agile_strike.core.recording import UnitSignal
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.target import GRAVITY_M_S2

Floats = NDArray[np.float64]

BACK_S = 0.3
AFTER_S = 2.0
GRID_S = 0.0025
LANDED_SHARE = 0.05  # of body weight
HEEL_FROM_SHARE = 0.1
SETTLED_POINTS = 10.0
GRAZE_POINTS = 0.8  # two standard uncertainties of an evened share
SPLIT_OF_LATE = 0.5  # of a load that changes, by how much one sole is late against the other, seen as a split
EVEN_S = 0.13  # weight does not move faster; a cell's noise does, and the last of many samples to stray would be noise
LAND_AFTER_S = 0.15
STEP_SD_S, STEP_SURE = 0.002, 0.7  # a landing is steep; both fitted on simulated evenings
POINTS_SD = 0.6  # of a share of load: cells' scale and noise
HARD_RISE_S = 0.025  # a foot lands within so much: the clock's doubt is then load's doubt


@dataclass(frozen=True, slots=True)
class SoleState:
    """What is slow about a pair of soles."""

    start_s: float  #: of their common grid, reference clock
    lead: str  #: left or right
    weight_n: float  #: of the student, on the soles' own scale
    clock_sd_s: float


@dataclass(frozen=True, slots=True)
class Soles:
    """Both soles on the reference clock: (n,) newtons on an even grid, and what the student weighs on them."""

    start_s: float
    first: int  #: point of the evening's grid that the first one here is
    times_s: Floats
    lead_n: Floats
    lead_heel_n: Floats
    total_n: Floats
    share_pct: Floats  #: the lead foot's, of the total
    even_pct: Floats  #: the same without the cells' noise
    weight_n: float
    clock_sd_s: float


def sole_state(
    units: dict[str, UnitSignal], clocks: dict[str, UnitClock], lead: str, body_mass_kg: float | None
) -> SoleState | None:
    """From both soles of an evening; None where one is missing or not aligned."""
    both = [f"{side}sole" for side in ("left", "right")]
    if any(n not in clocks or not clocks[n].aligned or units[n].sole_n is None for n in both):
        return None
    start = max(float(clocks[n].reference(np.array(0.0))) for n in both)
    residual = max(clocks[n].residual_ms for n in both) / 1e3
    found = soles(units, clocks, SoleState(start, lead, 1.0, max(0.003, residual)))
    # soles weigh the student themselves: their scale then cancels; far from body mass, load is being missed
    weight = float(np.median(found.total_n))
    if body_mass_kg and not 0.7 < weight / (body_mass_kg * GRAVITY_M_S2) < 1.4:
        weight = body_mass_kg * GRAVITY_M_S2
    return SoleState(start, lead, weight, max(0.003, residual))


def soles(units: dict[str, UnitSignal], clocks: dict[str, UnitClock], known: SoleState) -> Soles:
    """Both soles of an evening, or of a piece of it, on its grid."""
    both = [f"{side}sole" for side in ("left", "right")]
    start = max(float(clocks[n].reference(np.array(units[n].begins_s))) for n in both)
    end = min(float(clocks[n].reference(np.array(units[n].begins_s + units[n].length_s))) for n in both)
    first = int(np.ceil((start - known.start_s) / GRID_S - 1e-9))
    count = int(np.ceil((end - known.start_s) / GRID_S)) - first
    t: Floats = known.start_s + GRID_S * np.arange(first, first + max(count, 0), dtype=np.float64)
    cells = {}
    for n in both:
        loads = units[n].sole_n
        assert loads is not None
        own = clocks[n].own(t) * units[n].rate_hz - units[n].first_sample
        parts = (loads[:, 0], units[n].under_foot_n)  # the heel's, and all of it
        cells[n] = np.column_stack([np.interp(own, np.arange(len(loads)), part) for part in parts])
    lead_cells = cells[f"{known.lead}sole"]
    rear_cells = cells["rightsole" if known.lead == "left" else "leftsole"]
    total = lead_cells[:, 1] + rear_cells[:, 1]
    lead_n = lead_cells[:, 1]
    share = 100.0 * lead_n / np.maximum(total, 1.0)
    even = _evened(share)
    return Soles(
        known.start_s, first, t, lead_n, lead_cells[:, 0], total, share, even, known.weight_n, known.clock_sd_s
    )


def _evened(share: Floats) -> Floats:
    """A parabola through the points near each, as it stands there (Savitzky and Golay 1964)."""
    half = round(0.5 * EVEN_S / GRID_S)
    if len(share) <= 2 * half:
        return share
    weights = np.linalg.pinv(np.vander(np.arange(-half, half + 1, dtype=np.float64), 3))[-1]
    padded = np.concatenate([np.full(half, share[0]), share, np.full(half, share[-1])])
    return np.asarray(np.convolve(padded, weights, mode="valid"))


def feet_measures(s: Soles, contact_s: float, launch_s: float, next_s: float) -> dict[str, Measured]:
    """Measures of one strike; instants on the reference clock, `next_s` the strike after (infinite: none)."""
    t = s.times_s
    if launch_s - BACK_S < t[0] or contact_s + 0.1 > t[-1]:
        return {}
    total, share = s.total_n, s.share_pct
    a = int(np.searchsorted(t, launch_s - BACK_S))
    at_launch, at_contact = (_at(s, share, x) for x in (launch_s, contact_s))
    out = {}
    start_sd, contact_sd = _share_sd(s, share, launch_s), _share_sd(s, share, contact_s)
    out["lead_load_start_pct"] = Measured(at_launch, start_sd)
    out["lead_load_contact_pct"] = Measured(at_contact, contact_sd)
    out["load_shift_pct"] = Measured(at_contact - at_launch, float(np.hypot(start_sd, contact_sd)))
    c = int(np.searchsorted(t, contact_s))
    push = float((total[a:c] / s.weight_n - 1.0).sum() * GRID_S)
    out["push_bw_s"] = Measured(push, 0.0018)
    lead_now = _at(s, s.lead_n, contact_s)
    if lead_now >= HEEL_FROM_SHARE * s.weight_n:
        heel = 100.0 * _at(s, s.lead_heel_n, contact_s) / lead_now
        if np.isfinite(heel):  # a plate under the foot does not know its heel
            out["lead_heel_pct"] = Measured(heel, 0.4 + 10.0 / max(lead_now / 10.0, 1.0))
    out |= _step(s, a, c, contact_s)
    out |= _settle(s, a, c, contact_s, next_s)
    return out


def _at(s: Soles, values: Floats, at_s: float) -> float:
    """A value between two points of the even grid."""
    place = min(max((at_s - s.start_s) / GRID_S - s.first, 0.0), len(values) - 1.001)
    k = int(place)
    return float(values[k] + (place - k) * (values[k + 1] - values[k]))


def _share_sd(s: Soles, share: Floats, at_s: float) -> float:
    """A share of load that is changing carries the clock's doubt."""
    slope = abs(_at(s, share, at_s + HARD_RISE_S / 2) - _at(s, share, at_s - HARD_RISE_S / 2)) / HARD_RISE_S
    return float(np.hypot(POINTS_SD, slope * s.clock_sd_s))


def _step(s: Soles, a: int, c: int, contact_s: float) -> dict[str, Measured]:
    until = min(c + round(LAND_AFTER_S / GRID_S), len(s.times_s) - 1)
    lead, level = s.lead_n[a : until + 1], LANDED_SHARE * s.weight_n
    up = np.flatnonzero((lead[:-1] < level) & (lead[1:] >= level))
    if not len(up):
        return {}
    k = int(up[np.argmin(np.abs(up - (c - a)))])
    part = (level - lead[k]) / max(lead[k + 1] - lead[k], 1e-9)
    landed = s.times_s[a + k] + part * GRID_S
    sd = STEP_SURE * float(np.hypot(STEP_SD_S, s.clock_sd_s))
    return {"step_before_ms": Measured(1e3 * (contact_s - landed), 1e3 * sd)}


def _settle(s: Soles, a: int, c: int, contact_s: float, next_s: float) -> dict[str, Measured]:
    until = min(c + round(AFTER_S / GRID_S), len(s.times_s) - 1)
    if next_s < contact_s + 0.6:
        return {}
    until = min(until, int(np.searchsorted(s.times_s, next_s - 0.45)))
    if until - c < 3:
        return {}
    apart = np.abs(s.even_pct[c : until + 1] - s.even_pct[a])
    # of a load that bounces, two soles whose clocks are apart make a split
    total = s.total_n[c : until + 1]
    bounces = np.abs(np.gradient(total)) / GRID_S / np.maximum(total, 0.5 * s.weight_n)
    graze = float(np.hypot(GRAZE_POINTS, 100.0 * SPLIT_OF_LATE * s.clock_sd_s * np.percentile(bounces, 90)))
    at, early, late = (_last_beyond(apart, SETTLED_POINTS + by) for by in (0.0, graze, -graze))
    if at is None:
        return {}
    # where the split grazes the edge, a point more or less moves the instant far
    grazed = abs((late if late is not None else len(apart) - 1) - (early or 0.0)) * GRID_S / 2.0
    sd = float(np.hypot(s.clock_sd_s, grazed))
    began = s.times_s[c] - contact_s if at > 0.0 else 0.0
    return {"settle_ms": Measured(1e3 * (at * GRID_S + began), max(1e3 * sd, 4.0))}


def _last_beyond(apart: Floats, points: float) -> float | None:
    """Place after the last point beyond an edge, 0 where there is none, None where it is still beyond at the end."""
    off = np.flatnonzero(apart > points)
    if not len(off):
        return 0.0
    k = int(off[-1])
    if k >= len(apart) - 2:
        return None
    return k + float((apart[k] - points) / max(apart[k] - apart[k + 1], 1e-9))
