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
RELATIVE_S, STAMP_S, CONTACT_S = 0.007, 0.0015, 0.001  # of one such measurement, one by three stamps, one contact
LEAST_MS = 2.5
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
    moved to where all agree best."""
    names = list(clocks)
    middle = 0.5 * length_s
    rows: list[Floats] = []
    wanted: list[float] = []

    def row(name: str, at_s: float, sign: float = 1.0) -> Floats:
        out = np.zeros((len(names), 2))
        out[names.index(name)] = sign, sign * (at_s - middle)
        return out.ravel()

    def add(coefficients: Floats, seconds: float, sd_s: float) -> None:
        rows.append(coefficients / sd_s)
        wanted.append(seconds / sd_s)

    for first, last in between(contact_s, length_s):
        for (one, other), late_s in _lags(units, clocks, first, last):
            at = 0.5 * (first + last)
            add(row(other, at) + row(one, at, -1.0), -late_s, RELATIVE_S)
    for one, other in combinations(felt, 2):
        for at, late_s in _late_at_stamps(clocks[one], felt[one], clocks[other], felt[other], middle):
            add(row(other, at) + row(one, at, -1.0), -late_s, STAMP_S)
    for name, clock in clocks.items():
        if name in pairs:
            told = pairs[name]
            left = told.reference_s - clock.reference(told.own_s)
            for at, seconds, weight in zip(told.reference_s, left, told.weight, strict=True):
                add(row(name, float(at)), float(seconds), CONTACT_S / np.sqrt(max(float(weight), 1e-3)))
        drift = np.zeros((len(names), 2))
        drift[names.index(name), 1] = 1.0
        add(drift.ravel(), -1e-6 * clock.drift_ppm, 1e-6 * DRIFT_PRIOR_PPM)
        if name not in pairs and name not in felt:
            add(row(name, middle), 0.0, 1e-3 * clock.residual_ms)
    design, seconds = np.array(rows), np.array(wanted)
    weight = np.ones(len(seconds))
    for _ in range(ROUNDS):  # likeness may be chance: what the others contradict counts less (Huber 1964)
        moved = np.linalg.lstsq(design * weight[:, None], seconds * weight, rcond=None)[0]
        weight = 1.0 / np.sqrt(np.maximum(np.abs(seconds - design @ moved) / HUBER_SD, 1.0))
    moved = moved.reshape(-1, 2)
    design *= weight[:, None]
    spread = np.asarray(np.linalg.pinv(design.T @ design), dtype=np.float64)
    return {
        n: _moved(clocks[n], moved[i], spread[2 * i : 2 * i + 2, 2 * i : 2 * i + 2], middle)
        for i, n in enumerate(names)
    }


def _moved(clock: UnitClock, by: Floats, spread: Floats, middle_s: float) -> UnitClock:
    """A clock by an offset in the evening's middle and a drift more; its residual is what the net leaves open at the
    evening's worse end."""
    ends = np.array([[1.0, -middle_s], [1.0, middle_s]])
    open_ms = 1e3 * float(np.sqrt(np.max(np.einsum("ki,ij,kj->k", ends, spread, ends))))
    return UnitClock(
        clock.unit,
        clock.offset_s + float(by[0] - middle_s * by[1]),
        clock.drift_ppm + 1e6 * float(by[1]),
        max(open_ms, LEAST_MS) if clock.aligned_by != "contacts" else clock.residual_ms,
        clock.aligned_by,
        True,
    )


def _late_at_stamps(
    one: UnitClock, felt: tuple[Floats, Floats], other: UnitClock, other_felt: tuple[Floats, Floats], middle_s: float
) -> list[tuple[float, float]]:
    """When, and by how much the second unit felt the stamps of either end later than the first."""
    out = []
    for late in (False, True):
        ends = [(own[(when > middle_s) == late], when[(when > middle_s) == late]) for own, when in (felt, other_felt)]
        if all(len(own) for own, _ in ends):
            behind = [
                float(np.mean(c.reference(own) - when)) for c, (own, when) in zip((one, other), ends, strict=True)
            ]
            out.append((float(ends[0][1].mean()), behind[1] - behind[0]))
    return out


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
