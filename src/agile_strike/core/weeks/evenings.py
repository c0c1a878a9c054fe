"""One evening's typical value from its strikes: the mean, with its interval, never the best strike.

Strikes of a set resemble each other, so an evening's mean is that of its sets, and its doubt has how much sets differ
within an evening beside how much strikes do (nested analysis of variance; Snedecor and Cochran, ch. 13).
"""

import datetime as dt
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from agile_strike.core.trial.blocks import about_group_means, blocks

Floats = NDArray[np.float64]

LEAST_STRIKES = 3  # of an evening: fewer say nothing of it
BEST_SIGMAS = 2.0


@dataclass(frozen=True, slots=True)
class Evening:
    on: dt.date
    mean: float
    var: float  #: of the mean, as its own strikes and sets tell it, and by what a whole evening may be off
    low: float  #: 95 %
    high: float
    strikes: int


def evenings(
    on: list[dt.date], set_of: NDArray[np.int64], value: Floats, shared_sd: Floats | None = None
) -> list[Evening]:
    """Evenings with at least three strikes, in order. `on`, `set_of`, `value` and `shared_sd` are of strikes (n,); the
    last is the part of their doubt that all strikes of a recording have in common, which no number of them averages."""
    days = sorted({d for d, v in zip(on, value, strict=True) if np.isfinite(v)})
    if not days:
        return []
    place = {d: i for i, d in enumerate(days)}
    use = np.isfinite(value)
    session = np.array([place.get(d, -1) for d in on], dtype=np.int64)[use]
    zeros = np.zeros(len(session), dtype=np.int64)
    common = np.zeros(len(value)) if shared_sd is None else np.nan_to_num(shared_sd)
    b = blocks(session, set_of[use], set_of[use].astype(np.float64), zeros, value[use])
    between = _between_sets(b.session, b.mean, b.within_var / b.strikes)
    out = []
    for s, day in enumerate(days):
        here = b.session == s
        count = int(b.strikes[here].sum())
        if count < LEAST_STRIKES:
            continue
        noise = between + b.within_var / b.strikes[here]
        weight = 1.0 / noise if (noise > 0.0).all() else np.ones(int(here.sum()))
        mean = float(np.average(b.mean[here], weights=weight))
        var = float(1.0 / weight.sum()) if (noise > 0.0).all() else 0.0
        var += float(np.median(common[use][session == s])) ** 2
        reach = float(stdtrit(max(b.within_df, 1), 0.975)) * var**0.5
        out.append(Evening(day, mean, var, mean - reach, mean + reach, count))
    return out


def _between_sets(session: NDArray[np.int64], mean: Floats, noise: Floats) -> float:
    """Variance of set means within an evening beyond what their strikes explain; 0 where no evening has two sets."""
    count = np.bincount(session)
    square, df = about_group_means(session, mean)
    usual = np.bincount(session, noise) / np.maximum(count, 1)
    expected = float((usual * np.maximum(count - 1, 0)).sum())
    return max((square - expected) / df, 0.0) if df else 0.0


def bests(contact: list[dt.date], value: Floats, sd: Floats) -> list[int]:
    """Places of strikes that beat every earlier one beyond doubt: by more than two sd of both together.

    Strikes are in order of time; the first evening sets the mark and has no bests.
    """
    found: list[int] = []
    top, top_sd, first = -np.inf, 0.0, contact[0] if contact else None
    for i, (day, v, u) in enumerate(zip(contact, value, sd, strict=True)):
        if not np.isfinite(v):
            continue
        doubt = float(np.hypot(u if np.isfinite(u) else 0.0, top_sd))
        if day != first and v - top > BEST_SIGMAS * doubt:
            found.append(i)
        if v > top:
            top, top_sd = float(v), float(u) if np.isfinite(u) else 0.0
    return found
