"""All units' clocks at once, from contacts and from how alike units are jolted at both ends of the evening.

A limb that struck in the first set alone knows the beginning well and the end badly; one that kicked last, the other
way round. What jolts both, where no strike is, carries the one's knowledge to the other: a net of relative
measurements is adjusted by least squares (Gauss 1828), its anchors the contacts, its stays the usual drift of crystals.
"""

from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal
from agile_strike.core.student.alike import GRID_HZ, between, jolted
from agile_strike.core.student.clocks import DRIFT_PRIOR_PPM, Pairs, UnitClock
from agile_strike.core.student.stamps import DELAY_S

Floats = NDArray[np.float64]

REACH = 15  # steps by which two clocks that are tied loosely may be apart
ALIKE, SHARP, BLUNT = 0.3, 10, 0.95  # of two units, and how far that must have fallen so many steps beside its best
ALIKE_ALONE, CLOSES_S = 0.5, 0.008  # of two that no third bears out; of three lags round a triangle
RELATIVE_S, CONTACT_S = 0.007, 0.001  # of one such measurement, one contact
STAMP_S, STAMP_SAMPLES, SOLE_STAMP_S = 0.0005, 0.2, 0.0035  # of three stamps that a unit felt, or a sole
FEEL_S = 0.0008  # by which a limb feels all its contacts late: a filter, a strap, how hard it hits
FREE_S = 0.1  # of when stamps were
LEAST_MS = {"movement": 2.5, "strikes": 2.5, "stamps": 1.0}
ROUNDS, HUBER_SD = 6, 1.5


def adjusted(
    units: dict[str, UnitSignal],
    clocks: dict[str, UnitClock],
    pairs: dict[str, Pairs],
    felt: dict[str, tuple[Floats, Floats]],
    contact_s: Floats,
    length_s: float,
) -> dict[str, UnitClock]:
    """`clocks` that contacts (`pairs`), stamps (`felt`: by own clock and the reference) or movement have tied, each
    moved to where all agree best. Beside each clock's offset and drift stand how early or late each limb feels its
    contacts, which all of them share, and when the stamps of either end were."""
    names, struck = list(clocks), [n for n in clocks if n in pairs]
    middle = 0.5 * length_s
    rows: list[Floats] = []
    wanted: list[float] = []
    own_feel = 2 * len(names)
    stamped = own_feel + len(struck)

    def row(name: str, at_s: float, sign: float = 1.0) -> Floats:
        out = np.zeros(stamped + 2)
        place = 2 * names.index(name)
        out[place : place + 2] = sign, sign * (at_s - middle)
        return out

    def add(coefficients: Floats, seconds: float, sd_s: float) -> None:
        rows.append(coefficients / sd_s)
        wanted.append(seconds / sd_s)

    for first, last in between(contact_s, length_s):
        for (one, other), late_s in _lags(units, clocks, first, last):
            at = 0.5 * (first + last)
            add(row(other, at) + row(one, at, -1.0), -late_s, RELATIVE_S)
    for name, (own, when) in felt.items():
        for end, there in enumerate((when <= middle, when > middle)):
            if there.any():
                stamp = row(name, float(when[there].mean()))
                stamp[stamped + end] = -1.0
                behind = float(np.mean(clocks[name].reference(own[there]) - when[there]))
                add(stamp, -behind, _stamp_sd(units[name]))
    for end in (0, 1):
        free = np.zeros(stamped + 2)
        free[stamped + end] = 1.0
        add(free, 0.0, FREE_S)
    for name, clock in clocks.items():
        if name in pairs:
            told = pairs[name]
            left = told.reference_s - clock.reference(told.own_s)
            for at_s, seconds, weight in zip(told.reference_s, left, told.weight, strict=True):
                one_contact = row(name, float(at_s))
                one_contact[own_feel + struck.index(name)] = 1.0
                add(one_contact, float(seconds), CONTACT_S / np.sqrt(max(float(weight), 1e-3)))
            early = np.zeros(stamped + 2)
            early[own_feel + struck.index(name)] = 1.0
            add(early, 0.0, FEEL_S)
        drift = np.zeros(stamped + 2)
        drift[2 * names.index(name) + 1] = 1.0
        add(drift, -1e-6 * clock.drift_ppm, 1e-6 * DRIFT_PRIOR_PPM)
        if name not in pairs and name not in felt:
            add(row(name, middle), 0.0, 1e-3 * clock.residual_ms)
    design, seconds_sd = np.array(rows), np.array(wanted)
    weight = np.ones(len(seconds_sd))
    for _ in range(ROUNDS):  # likeness may be chance: what the others contradict counts less (Huber 1964)
        moved = np.linalg.lstsq(design * weight[:, None], seconds_sd * weight, rcond=None)[0]
        weight = 1.0 / np.sqrt(np.maximum(np.abs(seconds_sd - design @ moved) / HUBER_SD, 1.0))
    design *= weight[:, None]
    spread = np.asarray(np.linalg.pinv(design.T @ design), dtype=np.float64)
    return {
        n: _moved(clocks[n], moved[2 * i : 2 * i + 2], spread[2 * i : 2 * i + 2, 2 * i : 2 * i + 2], middle)
        for i, n in enumerate(names)
    }


def _stamp_sd(unit: UnitSignal) -> float:
    """Of the mean of three stamps in a unit, s: a slow one sees when they began between two samples."""
    return SOLE_STAMP_S if unit.kind == "sole" else float(np.hypot(STAMP_S, STAMP_SAMPLES / unit.rate_hz))


def _moved(clock: UnitClock, by: Floats, spread: Floats, middle_s: float) -> UnitClock:
    """A clock by an offset in the evening's middle and a drift more; its residual is what the net leaves open at the
    evening's worse end."""
    ends = np.array([[1.0, -middle_s], [1.0, middle_s]])
    open_ms = 1e3 * float(np.sqrt(np.max(np.einsum("ki,ij,kj->k", ends, spread, ends))))
    return UnitClock(
        clock.unit,
        clock.offset_s + float(by[0] - middle_s * by[1]),
        clock.drift_ppm + 1e6 * float(by[1]),
        clock.residual_ms if clock.aligned_by == "contacts" else max(open_ms, LEAST_MS[clock.aligned_by]),
        clock.aligned_by,
        True,
    )


def _lags(
    units: dict[str, UnitSignal], clocks: dict[str, UnitClock], first: float, last: float
) -> list[tuple[tuple[str, str], float]]:
    """Pairs of units that are jolted alike from `first` to `last`, and by how much the second is late by its clock."""
    t = np.arange(first, last, 1.0 / GRID_HZ)
    felt = {n: jolted(units[n], clock.own(t + DELAY_S[units[n].kind])) for n, clock in clocks.items()}
    steps = np.arange(-REACH - SHARP, REACH + SHARP + 1)
    inner = slice(-steps[0], len(t) + steps[0])
    out: dict[tuple[str, str], float] = {}
    alone = set()
    for one, other in combinations(felt, 2):
        x, y = felt[one][inner], felt[other]
        size = np.sqrt(max(float(x @ x), 1e-12))
        like = np.empty(len(steps))
        for i, k in enumerate(steps):
            moved = y[inner.start + k : inner.stop + k]
            like[i] = x @ moved / (size * np.sqrt(max(float(moved @ moved), 1e-12)))
        best = SHARP + int(np.argmax(like[SHARP:-SHARP]))
        at_edge = best in (SHARP, len(steps) - SHARP - 1)
        if like[best] < ALIKE or at_edge or max(like[best - SHARP], like[best + SHARP]) > BLUNT * like[best]:
            continue
        out[one, other] = float(steps[best]) / GRID_HZ
        if like[best] > ALIKE_ALONE:
            alone.add((one, other))
    return [(pair, late) for pair, late in out.items() if pair in alone or borne_out(pair, out)]


def borne_out(pair: tuple[str, str], lags: dict[tuple[str, str], float]) -> bool:
    """Whether some third unit's lags to both give the lag of a pair."""

    def late(one: str, other: str) -> float:
        return lags.get((one, other), -lags.get((other, one), np.nan))

    others = {n for both in lags for n in both} - set(pair)
    return any(abs(late(pair[0], n) + late(n, pair[1]) - lags[pair]) < CLOSES_S for n in others)
