"""What a student has behind a strike, from bag evenings, for strikes that no bag felt.

Impulse for each metre a second, strike by strike within evenings: a mean of evening means, with a spread between
evenings and one within. Few evenings show the first poorly, so it is drawn to what students usually show (variances
moderated by a prior, Smyth 2004), and the doubt is that of one more strike on one more evening.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from agile_strike.core.measured import Measured

Floats = NDArray[np.float64]

FEWEST = 8  # strikes on the bag: fewer say nothing of a spread
USUAL_BETWEEN, AS_GOOD_AS = 0.06, 4.0  # share of the mean by which evenings differ, and how many evenings that is worth
TWO_SD = 0.9545


@dataclass(frozen=True, slots=True)
class Behind:
    """A share of speed that becomes impulse, or a mass; and how much the next strike of a new evening may differ."""

    mean: float
    sd: float


def behind(evenings: Sequence[Floats]) -> Behind | None:
    """From values of each evening's strikes (n,); None where there are too few."""
    told = [np.asarray(e, dtype=np.float64) for e in evenings if len(e)]
    count = sum(len(e) for e in told)
    if count < FEWEST:
        return None
    means = np.array([e.mean() for e in told])
    mean, n = float(means.mean()), len(told)
    within = sum(float(((e - e.mean()) ** 2).sum()) for e in told) / max(count - n, 1)
    usual = (USUAL_BETWEEN * mean) ** 2
    seen = 0.0
    if n > 1:
        seen = max(float(means.var(ddof=1)) - within * float(np.mean([1.0 / len(e) for e in told])), 0.0)
    free = AS_GOOD_AS + n - 1
    between = (AS_GOOD_AS * usual + (n - 1) * seen) / free
    one_more = between * (1.0 + 1.0 / n) + within * (1.0 + 1.0 / count)
    wider = float(stdtrit(free, 0.5 + 0.5 * TWO_SD)) / 2.0  # +-2 sd then hold as many as of a normal one
    return Behind(mean, wider * float(np.sqrt(one_more)))


def estimated(speed: Measured, share: Behind) -> Measured:
    """Impulse that a speed would have brought, N s."""
    return Measured(share.mean * speed.value, float(np.hypot(share.mean * speed.sd, share.sd * speed.value)))
