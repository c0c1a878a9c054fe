"""A student's own spread, as shares of the mean: from strike to strike, from block to block, from day to day.

Where nothing is known yet the same priors serve as in `effect`. What is known is weighed against them by its degrees
of freedom (empirical-Bayes moderation of variances; Smyth 2004).
"""

from dataclasses import dataclass

import numpy as np

from agile_strike.core.trial.blocks import Blocks, about_group_means
from agile_strike.core.trial.effect import BLOCK_PRIOR_SHARE, DAY_PRIOR_SHARE, effect, scale_of

WITHIN_PRIOR_SHARE = 0.12  # of the mean: a trained student's strikes about their block
WITHIN_PRIOR_DF, BLOCK_PRIOR_DF = 8.0, 4.0


@dataclass(frozen=True, slots=True)
class Spread:
    """Standard deviations as shares of the mean."""

    within: float  #: of strikes about their block's mean
    block: float  #: of a block's mean beyond what its strikes explain
    day: float  #: of the effect from day to day
    strikes: int  #: that it was learnt from; 0 is nothing but priors


USUAL = Spread(WITHIN_PRIOR_SHARE, BLOCK_PRIOR_SHARE, DAY_PRIOR_SHARE, 0)


def spread(b: Blocks) -> Spread:
    """Of blocks of one student, level by level; where two levels came on one evening, of their difference too."""
    if not len(b.mean):
        return USUAL
    scale = scale_of(b)
    within = _moderated(b.within_var / scale**2, b.within_df, WITHIN_PRIOR_SHARE**2, WITHIN_PRIOR_DF)
    square, df = about_group_means(b.session * (int(b.level.max()) + 1) + b.level, b.mean)
    by_strikes = b.within_var / float(np.mean(b.strikes))
    seen = max(square / df - by_strikes, 0.0) / scale**2 if df else 0.0
    block = _moderated(seen, df, BLOCK_PRIOR_SHARE**2, BLOCK_PRIOR_DF)
    both = [set(b.level[b.session == s].tolist()) == {0, 1} for s in range(b.sessions)]
    day = effect(b).day_sd / scale if sum(both) > 1 and set(b.level.tolist()) == {0, 1} else DAY_PRIOR_SHARE
    return Spread(float(within**0.5), float(block**0.5), float(day), int(b.strikes.sum()))


def _moderated(seen: float, df: float, prior: float, prior_df: float) -> float:
    return (df * seen + prior_df * prior) / (df + prior_df)
