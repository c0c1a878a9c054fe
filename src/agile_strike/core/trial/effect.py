"""The effect of one level against another from block means, and its interval from few sessions.

A mixed model of block means: a mean for every session, a drift along the evening, the effect, how much the effect
varies from day to day, and how much a block's mean wanders beyond what its strikes explain. The two spreads are known
poorly from few sessions, so they are integrated over, with priors stated in per cent of the mean (half-t; Gelman 2006,
Roever 2020 for random effects of few studies); given them the effect is normal, by restricted likelihood (Patterson
and Thompson 1971).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq
from scipy.special import ndtr, stdtrit

from agile_strike.core.trial.blocks import Blocks

Floats = NDArray[np.float64]

DAY_PRIOR_SHARE = 0.042  # of the mean: how much an effect varies from day to day, typically
BLOCK_PRIOR_SHARE = 0.025  # of the mean: how much a block wanders beyond its strikes, typically
MOST_VARIED_SHARE = 0.25  # spread of strikes against the mean beyond which a measure's mean is no scale for it
PRIOR_DF = 4.0
POINTS = 18  # of either spread, at equal shares of its prior
TAIL = 0.025
SAME = 1e-9


@dataclass(frozen=True, slots=True)
class Effect:
    """Second level less first, in the measure's unit."""

    value: float
    low: float
    high: float
    sd: float
    day_sd: float  #: posterior mean of how much it varies from day to day
    block_sd: float
    drift: float | None  #: of the measure from one block to the next; None where it can't be told from the levels
    drift_sd: float | None


def effect(b: Blocks) -> Effect:
    """From blocks of two levels (0 and 1)."""
    scale = scale_of(b)
    half = np.asarray(stdtrit(PRIOR_DF, 0.5 + 0.5 * (np.arange(POINTS) + 0.5) / POINTS), dtype=np.float64)
    days, wanders = DAY_PRIOR_SHARE * scale * half, BLOCK_PRIOR_SHARE * scale * half
    x: Floats = b.level.astype(np.float64) - 0.5
    z = _drift_column(b, x)
    fixed = np.column_stack([x] if z is None else [x, z])
    estimate, covariance, weight = _posterior(b, fixed, x, days, wanders)
    day, wander = np.repeat(days, POINTS), np.tile(wanders, POINTS)
    value, spread = estimate[:, 0], np.sqrt(covariance[:, 0, 0])
    mean = float(weight @ value)
    sd = float(np.sqrt(weight @ (covariance[:, 0, 0] + (value - mean) ** 2)))

    def beyond(at: float, share: float) -> float:
        return float(weight @ ndtr((at - value) / spread)) - share

    reach = 60.0 * sd
    low, high = (float(brentq(beyond, mean - reach, mean + reach, args=(share,))) for share in (TAIL, 1.0 - TAIL))
    drift = drift_sd = None
    if z is not None:
        drift = float(weight @ estimate[:, 1])
        drift_sd = float(np.sqrt(weight @ (covariance[:, 1, 1] + (estimate[:, 1] - drift) ** 2)))
    return Effect(mean, low, high, sd, float(weight @ day), float(weight @ wander), drift, drift_sd)


def scale_of(b: Blocks) -> float:
    """What priors are shares of: the mean; of a measure that lies about zero, what its strikes' spread implies."""
    mean = abs(float(np.average(b.mean, weights=b.strikes)))
    spread = float(np.sqrt(b.within_var))
    return max(mean, spread / MOST_VARIED_SHARE, 1e-12)


def _drift_column(b: Blocks, x: Floats) -> Floats | None:
    """Order within the session; None where it always goes with the level, as in A then B every evening."""
    count = np.bincount(b.session)
    start = np.cumsum(count) - count
    rank = np.empty(len(b.order))  # blocks stand in order of session and of the evening
    rank[np.lexsort((b.order, b.session))] = np.arange(len(b.order)) - start[b.session]
    z = rank - (count[b.session] - 1) / 2.0
    within = np.column_stack([c - (np.bincount(b.session, c) / count)[b.session] for c in (x, z)])
    cross = within.T @ within
    if cross[1, 1] < SAME:
        return None
    return None if cross[0, 1] ** 2 > 0.98 * cross[0, 0] * cross[1, 1] else z


def _posterior(b: Blocks, fixed: Floats, x: Floats, day: Floats, wander: Floats) -> tuple[Floats, Floats, Floats]:
    """At each pair of spreads (d, w), one row a pair: fixed effects (g, f), their covariance (g, f, f), and its
    posterior weight (g,).

    A session's mean is taken out first, then the effect of its day by a rank-one update (Woodbury), so all of it is
    sums over blocks and nothing is inverted but the few fixed effects. Sums know only `wander`; `day` comes after.
    """
    f = fixed.shape[1]
    noise = wander[:, None] ** 2 + b.within_var / b.strikes  # (w, b)
    weight = 1.0 / noise
    starts = np.flatnonzero(np.r_[True, np.diff(b.session) > 0])

    def by_session(term: Floats) -> Floats:
        return np.asarray(np.add.reduceat(weight * term, starts, axis=1), dtype=np.float64)

    total = by_session(np.ones(len(b.mean)))
    columns = [*fixed.T, b.mean, x]
    sums = [by_session(c) for c in columns]

    def inner(i: int, j: int) -> Floats:
        """(w, s): weighted product of two columns within a session, its mean taken out."""
        return by_session(columns[i] * columns[j]) - sums[i] * sums[j] / total

    of_day = [inner(i, f + 1) for i in range(f + 2)]
    var = (day**2)[:, None, None]
    share = var / (1.0 + var * of_day[f + 1])  # (d, w, s)

    def product(i: int, j: int) -> Floats:
        """(g,): the same over all sessions, what a day takes of the effect taken out."""
        taken = np.einsum("dws,ws->dw", share, of_day[i] * of_day[j])
        return np.asarray((inner(i, j).sum(axis=1) - taken).ravel(), dtype=np.float64)

    normal = np.stack([np.stack([product(i, j) for j in range(f)], axis=1) for i in range(f)], axis=1)
    target = np.stack([product(i, f) for i in range(f)], axis=1)
    normal += SAME * np.eye(f) / max(float(b.mean.std()), 1e-12) ** 2
    covariance: Floats = np.asarray(np.linalg.inv(normal), dtype=np.float64)
    estimate: Floats = np.einsum("gfh,gh->gf", covariance, target)
    logs = np.log(noise).sum(axis=1) + np.log(total).sum(axis=1) + np.log1p(var * of_day[f + 1]).sum(axis=2)
    square = product(f, f) - (target * estimate).sum(axis=1)
    like = -0.5 * (logs.ravel() + np.linalg.slogdet(normal)[1] + square)
    chance: Floats = np.exp(like - like.max())
    return estimate, covariance, np.asarray(chance / chance.sum(), dtype=np.float64)
