"""A trunk or ankle unit's clock by how alike it and the tied units are jolted, where no stamps could be made out.

Stamps that reach a wrist rounded, and steps: what jolts a body between strikes jolts all of it within some
milliseconds. The size of specific force, in a band below straps' ringing, is held against that of each tied unit at
every lag that a file's own times leave open (matched filter; Knapp and Carter 1976 on estimating delays). A lag is
believed where no other one comes near it, and both ends of the evening give one crystal.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal
from agile_strike.core.student.clocks import MOST_DRIFT_PPM, SEARCH_S, UnitClock
from agile_strike.core.student.filters import band_passed, products
from agile_strike.core.student.stamps import DELAY_S

Floats = NDArray[np.float64]

GRID_HZ = 500.0
BAND_HZ = (3.0, 15.0)
SLOWEST_HZ = 40.0  # samples a second that carry it
SETTLES_S = 1.0  # of a stretch's ends, for the filter
MOST_M_S2 = 10.0  # beyond, one jolt would be all that is looked at
LEAST_S, LONGEST_S = 2.5, 25.0  # of a stretch without a strike
BEFORE_S, AFTER_S = 0.5, 0.8  # of contacts, left out
ALIKE, OVER = 0.12, 1.35  # of a lag's likeness, and times any other one; of one end, with no other to agree with it:
ALIKE_ALONE, OVER_ALONE = 0.4, 1.6
APART_S = 0.1  # of other lags
SHARP, BLUNT = 10, 0.915  # steps beside the best lag, where likeness must have fallen to that share of its own
AGREE_S = 0.008  # of two stretches, beyond what a crystal drifts
CRYSTAL_PPM = 60.0  # of a unit's clock against the bag's, where one end alone is known
RESIDUAL_MS = 4.5  # of a clock that is tied so: simulated and other worlds, and a rig whose arms lag their trunk


@dataclass(frozen=True, slots=True)
class _Tied:
    at_s: float  #: middle of the stretch, reference clock
    offset_s: float  #: reference minus own
    likeness: float
    over: float  #: times that of any other lag


def alike(
    unit: UnitSignal, tied: list[tuple[UnitSignal, UnitClock]], contact_s: Floats, length_s: float
) -> UnitClock | None:
    """The clock of a unit against others that are tied; None where it is not sure."""
    found = [
        one
        for first, last in between(contact_s, length_s)
        if (one := _tied(unit, tied, first, last, unit.starts_s or 0.0)) is not None
    ]
    if not found:
        return None
    if len(found) == 1:
        if found[0].likeness < ALIKE_ALONE or found[0].over < OVER_ALONE:
            return None
        runs_away_ms = 1e-3 * CRYSTAL_PPM * max(found[0].at_s, length_s - found[0].at_s)
        return UnitClock(
            unit.unit, found[0].offset_s, 0.0, float(np.hypot(RESIDUAL_MS, runs_away_ms)), "movement", True
        )
    first, last = found[0], found[-1]
    apart, drifted = last.at_s - first.at_s, last.offset_s - first.offset_s
    if abs(drifted) > AGREE_S + 1e-6 * MOST_DRIFT_PPM * apart:
        return None
    # two ends that are each good to some milliseconds tell a crystal only over minutes
    slope = drifted / apart * apart**2 / (apart**2 + (1e-3 * RESIDUAL_MS / (1e-6 * MOST_DRIFT_PPM / 2)) ** 2)
    middle, mean = 0.5 * (first.at_s + last.at_s), 0.5 * (first.offset_s + last.offset_s)
    return UnitClock(unit.unit, mean - slope * (middle - mean), 1e6 * slope, RESIDUAL_MS, "movement", True)


def between(contact_s: Floats, length_s: float) -> list[tuple[float, float]]:
    """Stretches without a strike, reference clock: before the first contact and after the last, where stamps are."""
    if len(contact_s) == 0:
        return []
    first, last = float(contact_s[0]) - BEFORE_S, float(contact_s[-1]) + AFTER_S
    spans = [(max(0.0, first - LONGEST_S), first), (last, min(length_s, last + LONGEST_S))]
    return [(a, b) for a, b in spans if b - a >= LEAST_S]


def _tied(
    unit: UnitSignal, tied: list[tuple[UnitSignal, UnitClock]], first: float, last: float, guess_s: float
) -> _Tied | None:
    t = np.arange(first, last, 1.0 / GRID_HZ)
    reach = SEARCH_S + 1e-6 * MOST_DRIFT_PPM * last
    wide = np.arange(first - guess_s - reach, last - guess_s + reach, 1.0 / GRID_HZ)
    own = jolted(unit, wide)
    energy = np.convolve(own**2, np.ones(len(t)), "valid")
    likeness = np.zeros(len(energy))
    told = 0
    for other, clock in tied:
        felt = jolted(other, clock.own(t + DELAY_S[other.kind] - DELAY_S[unit.kind]))
        size = float(felt @ felt)
        if size <= 0.0:
            continue
        likeness += products(own, felt) / np.sqrt(np.maximum(energy * size, 1e-9))
        told += 1
    if not told:
        return None
    likeness /= told
    best = int(np.argmax(likeness))
    far = np.abs(np.arange(len(likeness)) - best) > APART_S * GRID_HZ
    over = float(likeness[best] / max(likeness[far].max(), 1e-3)) if far.any() else 0.0
    if likeness[best] < ALIKE or over < OVER:
        return None
    near = likeness[max(0, best - SHARP) : best + SHARP + 1 : SHARP]
    if len(near) < 3 or max(near[0], near[2]) > BLUNT * near[1]:
        return None  # a slow bounce alone fits itself over tens of milliseconds
    return _Tied(0.5 * (first + last), first - float(wide[0]) - best / GRID_HZ, float(likeness[best]), over)


def jolted(unit: UnitSignal, at_s: Floats) -> Floats:
    """How much a unit was jolted at instants (n,) of its own clock: specific force's size in the band, m/s2. One that
    is too slow for the band, or has nothing there, felt nothing."""
    first, last = (max(0, int(s * unit.rate_hz)) for s in (at_s[0] - SETTLES_S, at_s[-1] + SETTLES_S))
    size = np.linalg.norm(unit.accel_m_s2[first:last].astype(np.float64), axis=1)
    here = np.flatnonzero(np.isfinite(size))
    if unit.rate_hz < SLOWEST_HZ or len(here) < SETTLES_S * unit.rate_hz:
        return np.zeros(len(at_s))
    even = band_passed(np.interp(np.arange(len(size)), here, size[here]), BAND_HZ, unit.rate_hz)
    felt = np.interp(at_s * unit.rate_hz - first, np.arange(len(even)), even, left=0.0, right=0.0)
    return np.asarray(np.clip(felt, -MOST_M_S2, MOST_M_S2))
