"""Sides against each other, how often the body is behind a strike, and how volume grows from week to week."""

import datetime as dt
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm
from scipy.stats import t as student_t

Floats = NDArray[np.float64]

#: per cent of body mass that a limb alone brings: hand and forearm with a third of the upper arm, foot and shank with a
#: third of the thigh (segment masses of de Leva 1996); half a forearm less for an elbow, thigh alone for a knee
LIMB_ALONE_PCT = {"hand": 3.1, "elbow": 2.5, "foot": 10.4, "knee": 9.4}
LEAST_EVENINGS = 2
LEAST_STRIKES = 3  # of a side, on an evening
JUMP = 1.5  # of the mean of the weeks before: a sudden jump
WEEKS_BEFORE = 3
LEAST_WEEK = 60  # strikes a week below which growth is no strain
KICK_DAY = 60  # kicks on one day: a high-volume day
MOST_KICK_DAYS = 3  # a week


@dataclass(frozen=True, slots=True)
class Sides:
    """First side against the second, evening by evening: in per cent of the second."""

    first: str
    second: str
    pct: float
    low: float
    high: float
    evenings: int
    verdict: str  #: `level`, `stronger`, `weaker` or `not_settled`
    why_not: str | None = None


@dataclass(frozen=True, slots=True)
class BodyBehind:
    """Share of strikes that carry more than the limb alone would."""

    share: float
    low: float  #: 95 % (Wilson 1927)
    high: float
    strikes: int


@dataclass(frozen=True, slots=True)
class Week:
    monday: dt.date
    strikes: int
    left: int
    right: int
    kick_days: int
    flags: tuple[str, ...]  #: in words


SAME_SIDE_PCT = 10.0  # sides within it are level: what a coach would not train for


def sides(on: list[dt.date], side: list[str], value: Floats, first: str, second: str) -> Sides:
    """Mean log ratio of the sides over evenings that had both; a t over evenings, since strikes are nested in them."""
    ratio = []
    label = np.array(side)
    days = np.array([d.toordinal() for d in on])
    for day in sorted(set(days.tolist())):
        a, b = (value[(days == day) & (label == s) & np.isfinite(value) & (value > 0.0)] for s in (first, second))
        if min(len(a), len(b)) >= LEAST_STRIKES:
            ratio.append(float(np.log(a.mean() / b.mean())))
    n = len(ratio)
    if n < LEAST_EVENINGS:
        why = f"{n} evening{'' if n == 1 else 's'} with both sides: two at the least"
        return Sides(first, second, np.nan, np.nan, np.nan, n, "not_settled", why)
    middle, sd = float(np.mean(ratio)), float(np.std(ratio, ddof=1)) / n**0.5
    reach = float(student_t.ppf(0.975, n - 1)) * sd
    pct, low, high = (100.0 * float(np.expm1(x)) for x in (middle, middle - reach, middle + reach))
    if -SAME_SIDE_PCT < low and high < SAME_SIDE_PCT:
        said = "level"
    else:
        said = "stronger" if low > 0.0 else "weaker" if high < 0.0 else "not_settled"
    return Sides(first, second, pct, low, high, n, said)


def body_behind(effective_mass_pct: Floats, limb: list[str]) -> BodyBehind | None:
    """Of strikes whose effective mass is known; None where it is of none."""
    alone = np.array([LIMB_ALONE_PCT.get(name.split("_")[-1], np.nan) for name in limb])
    known = np.isfinite(effective_mass_pct) & np.isfinite(alone)
    n = int(known.sum())
    if not n:
        return None
    p, z = float((effective_mass_pct[known] > alone[known]).mean()), float(norm.ppf(0.975))
    middle = (p + z**2 / (2 * n)) / (1 + z**2 / n)
    reach = z / (1 + z**2 / n) * (p * (1 - p) / n + z**2 / (4 * n**2)) ** 0.5
    return BodyBehind(p, max(0.0, middle - reach), min(1.0, middle + reach), n)


def weeks(on: list[dt.date], limb: list[str]) -> list[Week]:
    """Every week from the first strike to the last, empty ones too, with what is flagged of its volume."""
    if not on:
        return []
    mondays = [d - dt.timedelta(days=d.weekday()) for d in on]
    count: dict[dt.date, list[int]] = {}
    at = min(mondays)
    while at <= max(mondays):
        count[at] = []
        at += dt.timedelta(days=7)
    for i, monday in enumerate(mondays):
        count[monday].append(i)
    out: list[Week] = []
    for monday, places in count.items():
        kicks: dict[dt.date, int] = {}
        for i in places:
            if limb[i].endswith("foot"):
                kicks[on[i]] = kicks.get(on[i], 0) + 1
        heavy = sum(n >= KICK_DAY for n in kicks.values())
        left = sum(limb[i].startswith("left") for i in places)
        right = sum(limb[i].startswith("right") for i in places)
        out.append(Week(monday, len(places), left, right, heavy, _flags(len(places), heavy, out)))
    return out


def _flags(strikes: int, heavy: int, before: list[Week]) -> tuple[str, ...]:
    flags = []
    usual = [w.strikes for w in before[-WEEKS_BEFORE:] if w.strikes]
    if usual and strikes >= LEAST_WEEK and strikes > JUMP * float(np.mean(usual)):
        before_it = f"after {float(np.mean(usual)):.0f} a week before"
        flags.append(f"{strikes} strikes, {before_it}: a sudden jump. Build up in smaller steps.")
    if heavy > MOST_KICK_DAYS:
        flags.append(f"{heavy} high-volume kick days in a week: three at the most.")
    return tuple(flags)
