"""Several students under one trial: each student's own effect, the mean, and what to expect of the next student.

Partial pooling: students' true effects are taken as normal about a common mean, with a spread that few students tell
poorly and that is integrated over under a half-t prior (Gelman and Hill 2007, ch. 12; Roever 2020). A student with
few strikes is drawn toward the others, one with many stands for itself.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq
from scipy.special import ndtr, stdtrit

Floats = NDArray[np.float64]

BETWEEN_PRIOR_PCT = 5.0  # points by which students' effects of one change differ, typically
PRIOR_DF = 4.0
POINTS = 60
TAIL = 0.025


@dataclass(frozen=True, slots=True)
class Interval:
    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Pooled:
    """In per cent of the first level."""

    mean: Interval
    sd: float  #: of the mean
    next_student: Interval
    between_sd: float  #: how much students differ
    each: tuple[Interval, ...]  #: students in the order given, drawn toward the others as far as their doubt goes


def pool(value: Floats, sd: Floats) -> Pooled:
    """Effects of two or more students (n,) with their standard deviations."""
    shares = (np.arange(POINTS) + 0.5) / POINTS
    tau = BETWEEN_PRIOR_PCT * np.asarray(stdtrit(PRIOR_DF, 0.5 + 0.5 * shares), dtype=np.float64)
    var = tau[:, None] ** 2 + sd**2  # (g, n)
    weight = 1.0 / var
    total = weight.sum(axis=1)
    mean = (weight @ value) / total
    square = (weight * (value - mean[:, None]) ** 2).sum(axis=1)
    like = -0.5 * (np.log(var).sum(axis=1) + np.log(total) + square)
    chance = np.exp(like - like.max())
    chance /= chance.sum()
    own = tau[:, None] ** 2 / var  # how much a student stands for itself
    each_mean = own * value + (1.0 - own) * mean[:, None]
    each_var = own * sd**2 + (1.0 - own) ** 2 / total[:, None]
    told = _interval(chance, mean, 1.0 / total)
    middle = told.value
    return Pooled(
        told,
        float(np.sqrt(chance @ (1.0 / total + (mean - middle) ** 2))),
        _interval(chance, mean, 1.0 / total + tau**2),
        float(chance @ tau),
        tuple(_interval(chance, each_mean[:, i], each_var[:, i]) for i in range(len(value))),
    )


def _interval(chance: Floats, mean: Floats, var: Floats) -> Interval:
    """Middle and 95 % of a mixture of normals (g,)."""
    middle, sd = float(chance @ mean), np.sqrt(var)
    reach = 60.0 * float(np.sqrt(chance @ (var + (mean - middle) ** 2)))

    def beyond(at: float, share: float) -> float:
        return float(chance @ ndtr((at - mean) / sd)) - share

    low, high = (float(brentq(beyond, middle - reach, middle + reach, args=(p,))) for p in (TAIL, 1.0 - TAIL))
    return Interval(middle, low, high)
