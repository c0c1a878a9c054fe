"""What stood out in one set against what is usual for this student: one thing, or nothing.

A set's mean is held against the means of the student's earlier sets of the same strike. What a new set may bring is the
spread between those sets and the doubt of its own mean (the predictive interval of a random-effects mean); of several
measures the one furthest outside is told, and only if chance would bring it in few of many sets, counted over all
measures that were looked at (Bonferroni).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtr

FEWEST_STRIKES = 4  # of a set
FEWEST_SETS = 4  # earlier ones: fewer show no spread
CHANCE = 0.05  # of a word where there is nothing, a set


@dataclass(frozen=True, slots=True)
class StoodOut:
    measure: str
    mean: float
    usual: float
    by: float  #: mean minus usual
    by_sd: float  #: what a set of this student's may be off by, and this one's own doubt
    sets: int  #: earlier ones


def stood_out(now: Mapping[str, Sequence[float]], before: Mapping[str, Sequence[Sequence[float]]]) -> StoodOut | None:
    """`now`: a set's values by measure; `before`: the same of earlier sets, each a sequence of values."""
    looked = [m for m in now if len(now[m]) >= FEWEST_STRIKES and len(_means(before.get(m, ()))) >= FEWEST_SETS]
    best: tuple[float, StoodOut] | None = None
    for measure in looked:
        one = _against(measure, np.array(now[measure], np.float64), before[measure])
        if one is None:
            continue
        p, found = one
        if p * len(looked) < CHANCE and (best is None or p < best[0]):
            best = (p, found)
    return best[1] if best else None


def _means(sets: Sequence[Sequence[float]]) -> list[float]:
    return [float(np.mean(s)) for s in sets if len(s) >= FEWEST_STRIKES]


def _against(
    measure: str, values: "np.ndarray[tuple[int], np.dtype[np.float64]]", before: Sequence[Sequence[float]]
) -> tuple[float, StoodOut] | None:
    """Two-sided chance of a set so far off, and what there is to say."""
    sets = [np.array(s, np.float64) for s in before if len(s) >= FEWEST_STRIKES]
    means = np.array([s.mean() for s in sets])
    k = len(means)
    free = sum(len(s) - 1 for s in (*sets, values))
    within = sum(float(((s - s.mean()) ** 2).sum()) for s in (*sets, values)) / free  # of single strikes, pooled
    spread = float(np.var(means, ddof=1))
    between = max(0.0, spread - within * float(np.mean([1.0 / len(s) for s in sets])))
    sd = float(np.sqrt(between + within / len(values) + spread / k))
    if sd <= 0.0:
        return None
    by = float(values.mean() - means.mean())
    p = float(2.0 * stdtr(k - 1, -abs(by) / sd))
    return p, StoodOut(measure, float(values.mean()), float(means.mean()), by, sd, k)
