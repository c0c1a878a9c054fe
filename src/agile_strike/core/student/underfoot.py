"""Both soles' clocks by Newton's second law, where stamps did not tie them.

Whatever the feet carry, together they speed the body up: the sum of both loads follows what the trunk feels, though
each alone follows how weight is shifted from foot to foot. Of all pairs of lags that the files' own times leave open,
the right one is that at which the sum is most like the trunk's specific force (a matched filter over two unknowns;
Knapp and Carter 1976 on estimating delays). Strikes are left out: there a trunk feels its own turning.
"""

from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

from agile_strike.core.recording import Event, UnitSignal
from agile_strike.core.student import stamps
from agile_strike.core.student.clocks import MOST_DRIFT_PPM, SEARCH_S, Pairs, UnitClock
from agile_strike.core.student.filters import band_passed, products

Floats = NDArray[np.float64]

STEP_S = 0.008
BAND_HZ = (1.5, 15.0)
SLOWEST_HZ = 40.0
BEFORE_S, AFTER_S = 0.9, 1.2  # of contacts, left out
LEAST_S = 6.0  # without a strike
END_S = 150.0  # of a long evening, at either end: whole pieces
PIECE_S = 15.0  # over which a crystal drifts less than a step
DRIFTS_PPM = 50.0  # between those that are tried, at the most
CANDIDATES, APART_S = 5, 0.06  # of each sole, and so far apart
REACH = 10  # steps about a candidate that are looked at again
TURNS = 3
TRUNK = ("pelvis", "torso")
NEAR_S = 0.1  # of a clock that is nearly known, to the stamps in it
MOST_LEFT_MS = 4.0  # of six stamps, in an ankle of which nothing else is known
SOLE_MS = 4.0  # of stamps in soles at 100 Hz, against a clock of which little more is known
ALIKE, OVER = 0.5, 1.06  # of the sum to what the trunk feels, and times that of any other pair
DRIFT_WEIGHT = 0.001  # of a drift of 100 ppm, against likeness
RESIDUAL_MS, UNLIKE_MS = 6.0, 30.0  # of a clock; and of what the sum is unlike the trunk: simulated worlds


@dataclass(frozen=True, slots=True)
class _Course:
    """Something banded, from the first sample of its own clock."""

    rate_hz: float
    size: Floats

    def at(self, own_s: Floats) -> Floats:
        return np.asarray(np.interp(own_s * self.rate_hz, np.arange(len(self.size)), self.size, left=0.0, right=0.0))


@dataclass(frozen=True, slots=True)
class _Lag:
    offset_s: float  #: reference minus own, in the middle of the evening
    drift_ppm: float
    likeness: float = 0.0


@dataclass(frozen=True, slots=True)
class _Evening:
    """Instants (n,) from the middle of an evening, reference clock; what the trunk felt; one where no strike is."""

    middle_s: float
    from_middle_s: Floats
    felt: Floats
    free: Floats

    def load(self, course: _Course, lag: _Lag) -> Floats:
        """(n,) of a sole, at a lag of its clock."""
        own = self.from_middle_s + self.middle_s - lag.offset_s - 1e-6 * lag.drift_ppm * self.from_middle_s
        return course.at(np.asarray(own))

    def likeness(self, loads: list[_Course], lags: list[_Lag]) -> float:
        """Of the sum of both loads to what the trunk felt: 1 where it follows it exactly."""
        whole = self.free * sum(self.load(course, lag) for course, lag in zip(loads, lags, strict=True))
        return float(whole @ self.felt / np.sqrt(max(float(whole @ whole) * float(self.felt @ self.felt), 1e-12)))


def soles_by_load(
    units: dict[str, UnitSignal],
    names: list[str],
    tied: dict[str, UnitClock],
    events: tuple[Event, ...],
    contact_s: Floats,
    length_s: float,
) -> dict[str, UnitClock]:
    """Clocks of both soles by what they carry; and more firmly by stamps that they felt well and an ankle, whose clock
    is known, at least faintly. An ankle of which nothing is known is tied by the same stamps."""
    trunk = [(units[n], c) for n, c in tied.items() if units[n].kind in TRUNK]
    loose = _by_load([units[n] for n in names], trunk, contact_s, length_s)
    if not loose:
        return {}
    start, end = stamps.reference_stamps(units, loose, events, contact_s, length_s)
    late, residual_ms = [], []
    for name, clock in tied.items():
        if units[name].kind == "ankle":
            felt = stamps.felt_by(units[name], start, end, clock.offset_s, NEAR_S, stamps.FAINT_M_S2)
            if felt is not None:
                late.append(float(np.median(clock.reference(felt[0]) - felt[1])))
                residual_ms.append(clock.residual_ms)
    firm = loose
    if late:
        by = float(np.mean(late))
        start, end = start + by, end + by
        firm = {n: _stamped(units[n], c, by, start, end, min(residual_ms)) for n, c in loose.items()}
    out = dict(firm)
    for name in (n for n in units if units[n].kind == "ankle" and n not in tied):
        felt = stamps.felt_by(units[name], start, end, units[name].starts_s or 0.0, SEARCH_S, stamps.FAINT_M_S2)
        if felt is not None and len(start) and len(felt[0]) == len(start) + len(end):
            told = Pairs(*felt, np.ones(len(felt[0]))).clock(name, "stamps")
            if told.residual_ms < MOST_LEFT_MS:
                as_loose = min(c.residual_ms for c in firm.values())
                out[name] = replace(told, residual_ms=float(np.hypot(told.residual_ms, as_loose)))
    return out


def _stamped(
    unit: UnitSignal, loose: UnitClock, late_s: float, start_s: Floats, end_s: Floats, ankle_ms: float
) -> UnitClock:
    """A sole's clock by stamps that an ankle's clock, known so well, has placed `late_s` later than the loads had."""
    felt = stamps.felt_by(unit, start_s, end_s, loose.offset_s, NEAR_S)
    if felt is None:
        return replace(loose, offset_s=loose.offset_s + late_s)
    told = Pairs(*felt, np.ones(len(felt[0]))).clock(unit.unit, "stamps")
    return replace(told, residual_ms=float(np.linalg.norm([told.residual_ms, ankle_ms, SOLE_MS])))


def _by_load(
    soles: list[UnitSignal], trunk: list[tuple[UnitSignal, UnitClock]], contact_s: Floats, length_s: float
) -> dict[str, UnitClock]:
    """Clocks of the two soles against trunk units that are tied; none where they are not sure."""
    if len(soles) != 2 or not trunk or min(u.rate_hz for u in soles) < SLOWEST_HZ:
        return {}
    t = np.arange(0.0, length_s, STEP_S)
    if length_s > 2.0 * END_S:
        t = np.concatenate([t[: round(END_S / STEP_S)], t[-round(END_S / STEP_S) :]])
    free = _free(t, contact_s)
    if free.sum() * STEP_S < LEAST_S:
        return {}
    courses = [(_banded(np.linalg.norm(u.accel_m_s2.astype(np.float64), axis=1), u.rate_hz), c) for u, c in trunk]
    felt = free * np.mean([course.at(clock.own(t)) for course, clock in courses], axis=0)
    evening = _Evening(0.5 * length_s, t - 0.5 * length_s, felt, free)
    loads = [_banded(u.under_foot_n.astype(np.float64), u.rate_hz) for u in soles]
    near = [_candidates(evening, c, u.starts_s or 0.0) for c, u in zip(loads, soles, strict=True)]
    tried = sorted((_settled(evening, loads, list(pair)) for pair in product(*near)), key=lambda p: -p[0].likeness)
    if not tried or tried[0][0].likeness < ALIKE:
        return {}
    best = tried[0]
    others = [p[0].likeness for p in tried if any(_apart(a, b) for a, b in zip(p, best, strict=True))]
    if best[0].likeness < OVER * max(others, default=0.0):
        return {}
    residual_ms = RESIDUAL_MS + UNLIKE_MS * (1.0 - best[0].likeness)
    told = zip(soles, _drifting(evening, loads, best), strict=True)
    return {u.unit: _clock(u.unit, lag, residual_ms, length_s) for u, lag in told}


def _apart(one: _Lag, other: _Lag) -> bool:
    return abs(one.offset_s - other.offset_s) > APART_S


def _clock(unit: str, lag: _Lag, residual_ms: float, length_s: float) -> UnitClock:
    began = lag.offset_s - 1e-6 * lag.drift_ppm * 0.5 * length_s
    return UnitClock(unit, began, lag.drift_ppm, residual_ms, "load", True)


def _free(t: Floats, contact_s: Floats) -> Floats:
    """One where no strike is near, nought elsewhere."""
    after = np.searchsorted(contact_s, t)
    edged = np.concatenate([[-np.inf], contact_s, [np.inf]])
    return np.asarray((t - edged[after] > AFTER_S) & (edged[after + 1] - t > BEFORE_S), dtype=np.float64)


def _banded(signal: Floats, rate_hz: float) -> _Course:
    here = np.flatnonzero(np.isfinite(signal))
    if len(here) < rate_hz:
        return _Course(rate_hz, np.zeros(len(signal)))
    whole = np.interp(np.arange(len(signal)), here, signal[here])
    return _Course(rate_hz, band_passed(whole, BAND_HZ, rate_hz))


def _candidates(evening: _Evening, load: _Course, guess_s: float) -> list[_Lag]:
    """Lags at which one sole alone follows the trunk, the likeliest first."""
    reach = SEARCH_S + 1e-6 * MOST_DRIFT_PPM * 2.0 * evening.middle_s
    pieces = []
    for first in range(0, len(evening.felt), round(PIECE_S / STEP_S)):
        piece = slice(first, first + round(PIECE_S / STEP_S))
        felt, free, away = evening.felt[piece], evening.free[piece], evening.from_middle_s[piece]
        count = len(felt) + 2 * round(reach / STEP_S)
        own = load.at(away[0] + evening.middle_s - guess_s - reach + STEP_S * np.arange(count))
        pieces.append((float(away.mean()), products(own, felt), products(own**2, free)))
    lags = guess_s + reach - STEP_S * np.arange(len(pieces[0][1]))
    size = float(evening.felt @ evening.felt)
    found = []
    between = min(DRIFTS_PPM, 1e6 * STEP_S / max(evening.middle_s, 1.0))  # a step at either end
    for drift in np.arange(-MOST_DRIFT_PPM, MOST_DRIFT_PPM + 1.0, between):
        moved = [(round(1e-6 * drift * away / STEP_S), a, e) for away, a, e in pieces]
        along = np.sum([np.roll(a, s) for s, a, _ in moved], axis=0)
        energy = np.sum([np.roll(e, s) for s, _, e in moved], axis=0)
        likeness = along / np.sqrt(np.maximum(energy * size, 1e-9))
        tops = np.flatnonzero((likeness[1:-1] > likeness[:-2]) & (likeness[1:-1] >= likeness[2:])) + 1
        tops = tops[np.argsort(-likeness[tops])[:CANDIDATES]]
        found += [_Lag(float(lags[i]), float(drift), float(likeness[i])) for i in tops]
    out: list[_Lag] = []
    for lag in sorted(found, key=lambda one: -one.likeness):
        if all(_apart(lag, other) for other in out):
            out.append(lag)
    return out[:CANDIDATES]


def _settled(evening: _Evening, loads: list[_Course], lags: list[_Lag]) -> list[_Lag]:
    """The likeliest pair of lags near one, and its likeness; drifts as they are."""
    steps = np.arange(-REACH, REACH + 1)
    wide = np.arange(-2 * REACH, 2 * REACH + 1)
    for _ in range(TURNS):
        one, other = (evening.free * evening.load(c, lag) for c, lag in zip(loads, lags, strict=True))
        along = [np.array([evening.felt @ np.roll(x, -k) for k in steps]) for x in (one, other)]
        between = np.array([one @ np.roll(other, -k) for k in wide])
        energy = one @ one + other @ other + 2.0 * between[steps[None, :] - steps[:, None] + 2 * REACH]
        like = (along[0][:, None] + along[1]) / np.sqrt(np.maximum(energy * (evening.felt @ evening.felt), 1e-12))
        i, j = np.unravel_index(int(np.argmax(like)), like.shape)
        lags = [
            _Lag(lag.offset_s - STEP_S * float(steps[k]), lag.drift_ppm, float(like[i, j]))
            for lag, k in zip(lags, (i, j), strict=True)
        ]
        if i == j == REACH:
            break
    return lags


def _drifting(evening: _Evening, loads: list[_Course], lags: list[_Lag]) -> list[_Lag]:
    """Both lags and drifts where the sum is most like what the trunk felt."""

    def moved(by: Floats) -> list[_Lag]:
        return [
            _Lag(lag.offset_s + STEP_S * by[k], float(np.clip(100.0 * by[2 + k], -MOST_DRIFT_PPM, MOST_DRIFT_PPM)))
            for k, lag in enumerate(lags)
        ]

    def unlike(by: Floats) -> float:
        return -evening.likeness(loads, moved(by)) + DRIFT_WEIGHT * float(by[2:] @ by[2:])

    start = np.array([0.0, 0.0, lags[0].drift_ppm / 100.0, lags[1].drift_ppm / 100.0])
    best = minimize(unlike, start, method="Powell", options={"xtol": 0.02, "ftol": 1e-5})
    return moved(best.x)
