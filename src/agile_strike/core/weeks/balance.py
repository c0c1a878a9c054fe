"""Sides against each other, how often the body is behind a strike, and how volume grows from week to week."""

import datetime as dt
from collections import Counter
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri, stdtrit

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
    days, day = np.unique([d.toordinal() for d in on], return_inverse=True)
    label = np.array(side)
    usable = np.isfinite(value) & (value > 0.0)
    both = []
    for s in (first, second):
        here = usable & (label == s)
        count = np.bincount(day[here], minlength=len(days))
        both.append((count, np.bincount(day[here], value[here], len(days)) / np.maximum(count, 1)))
    enough = np.minimum(both[0][0], both[1][0]) >= LEAST_STRIKES
    ratio = np.log(both[0][1][enough] / both[1][1][enough])
    n = len(ratio)
    if n < LEAST_EVENINGS:
        why = "two evenings with enough strikes of both sides are needed" + (": there is one" if n else "")
        return Sides(first, second, np.nan, np.nan, np.nan, n, "not_settled", why)
    middle, sd = float(np.mean(ratio)), float(np.std(ratio, ddof=1)) / n**0.5
    reach = float(stdtrit(n - 1, 0.975)) * sd
    pct, low, high = (100.0 * float(np.expm1(x)) for x in (middle, middle - reach, middle + reach))
    if -SAME_SIDE_PCT < low and high < SAME_SIDE_PCT:
        said = "level"
    else:
        said = "stronger" if low > 0.0 else "weaker" if high < 0.0 else "not_settled"
    return Sides(first, second, pct, low, high, n, said)


def mixed_sides(on: list[dt.date], limb: list[str], value: Floats) -> list[str]:
    """What to know of a course that runs through both hands' strikes at once; nothing where it runs through one's."""
    side = [name.split("_")[0] for name in limb]
    count = Counter(s for s, v in zip(side, value, strict=True) if np.isfinite(v)) if limb else Counter[str]()
    if min(count["left"], count["right"]) < LEAST_STRIKES:
        return []
    told = f"{count['left']} strikes by the left and {count['right']} by the right are in one mean"
    found = sides(on, side, value, "left", "right")
    if np.isfinite(found.pct):
        more = "more" if found.pct > 0.0 else "less"
        told += f"; left gives {abs(found.pct):.0f} % {more} than right"
    return [f"{told}. Look at one side at a time."]


def carries_more(effective_mass_pct: Floats, limb: list[str]) -> Floats:
    """1 where a strike carries more than its limb alone, 0 where not, NaN where it is not known."""
    kind = {name: LIMB_ALONE_PCT.get(name.split("_")[-1], np.nan) for name in set(limb)}
    alone = np.array([kind[name] for name in limb])
    return np.where(np.isfinite(effective_mass_pct) & np.isfinite(alone), effective_mass_pct > alone, np.nan)


def body_behind(effective_mass_pct: Floats, limb: list[str]) -> BodyBehind | None:
    """Of strikes whose effective mass is known; None where it is of none."""
    more = carries_more(effective_mass_pct, limb)
    n = int(np.isfinite(more).sum())
    if not n:
        return None
    p, z = float(np.nanmean(more)), float(ndtri(0.975))
    middle = (p + z**2 / (2 * n)) / (1 + z**2 / n)
    reach = z / (1 + z**2 / n) * (p * (1 - p) / n + z**2 / (4 * n**2)) ** 0.5
    return BodyBehind(p, max(0.0, middle - reach), min(1.0, middle + reach), n)


def weeks(on: list[dt.date], limb: list[str]) -> list[Week]:
    """Every week from the first strike to the last, empty ones too, with what is flagged of its volume."""
    if not on:
        return []
    by_week: dict[dt.date, dict[tuple[dt.date, str], int]] = {}
    for key, n in Counter(zip(on, limb, strict=True)).items():
        by_week.setdefault(_monday(key[0]), {})[key] = n
    at, last = min(by_week), max(by_week)
    out: list[Week] = []
    while at <= last:
        own = by_week.get(at, {})
        left, right = (sum(n for (_, name), n in own.items() if name.startswith(side)) for side in ("left", "right"))
        kicks = Counter[dt.date]()
        for (day, name), n in own.items():
            kicks[day] += n if name.endswith("foot") else 0
        heavy = sum(n >= KICK_DAY for n in kicks.values())
        total = sum(own.values())
        out.append(Week(at, total, left, right, heavy, _flags(total, heavy, out)))
        at += dt.timedelta(days=7)
    return out


def _monday(day: dt.date) -> dt.date:
    return day - dt.timedelta(days=day.weekday())


def _flags(strikes: int, heavy: int, before: list[Week]) -> tuple[str, ...]:
    flags = []
    usual = [w.strikes for w in before[-WEEKS_BEFORE:] if w.strikes]
    if usual and strikes >= LEAST_WEEK and strikes > JUMP * float(np.mean(usual)):
        before_it = f"after {float(np.mean(usual)):.0f} a week before"
        flags.append(f"{strikes} strikes, {before_it}: a sudden jump. Build up in smaller steps.")
    if heavy > MOST_KICK_DAYS:
        flags.append(f"{heavy} high-volume kick days in a week: three at the most.")
    return tuple(flags)
