"""From strikes to block means: strikes are nested in blocks, blocks in sessions, and never treated as independent."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

GROSS = 5.0  # robust spreads from the middle of its level and session: a slip of hand or unit, drawn in to that edge


@dataclass(frozen=True, slots=True)
class Blocks:
    """Blocks of one comparison, in order of session and of the evening; (b,) each."""

    session: NDArray[np.int64]  #: 0, 1, ...
    level: NDArray[np.int64]  #: place in the list of levels
    order: Floats  #: of the block within its session
    mean: Floats
    strikes: NDArray[np.int64]
    within_var: float  #: of single strikes about their block's mean, pooled
    within_df: int
    drawn_in: int  #: strikes that were grossly out

    @property
    def sessions(self) -> int:
        return int(self.session.max()) + 1 if len(self.session) else 0


def blocks(session: NDArray[np.int64], block: NDArray[np.int64], order: Floats, level: NDArray[np.int64],
           value: Floats) -> Blocks:  # fmt: skip
    """Means of every block from its strikes (n,); strikes without a value are left out."""
    seen = np.isfinite(value)
    session, block, order, level, value = session[seen], block[seen], order[seen], level[seen], value[seen].copy()
    drawn = _draw_in(session, level, value)
    _, session = np.unique(session, return_inverse=True)
    span = 1 + max(int(block.max(initial=0)), int(level.max(initial=0)))
    _, first, of = np.unique((session * span + block) * span + level, return_index=True, return_inverse=True)
    count = np.bincount(of)
    mean = np.bincount(of, value) / count
    within = float(((value - mean[of]) ** 2).sum())
    df = int((count - 1).sum())
    when = np.bincount(of, order) / count
    rank = np.lexsort((when, session[first]))
    return Blocks(
        session[first][rank], level[first][rank], when[rank], mean[rank], count[rank], within / max(df, 1), df, drawn
    )


def _draw_in(session: NDArray[np.int64], level: NDArray[np.int64], value: Floats) -> int:
    """Winsorise, in place, what is grossly out in its level and session; how many were."""
    if not len(value):
        return 0
    _, of = np.unique(session * (1 + int(level.max())) + level, return_inverse=True)
    middle = group_median(of, value)[of]
    reach = GROSS * 1.4826 * group_median(of, np.abs(value - middle))[of]
    out = (reach > 0.0) & (np.abs(value - middle) > reach)
    value[out] = np.clip(value, middle - reach, middle + reach)[out]
    return int(out.sum())


def group_median(of: NDArray[np.int64], value: Floats) -> Floats:
    """Median of each group, (groups,): `of` numbers the group of each value, 0 to the last without a gap."""
    ranked = value[np.lexsort((value, of))]
    count = np.bincount(of)
    start = np.cumsum(count) - count
    return np.asarray((ranked[start + (count - 1) // 2] + ranked[start + count // 2]) / 2.0, dtype=np.float64)


def about_group_means(of: NDArray[np.int64], value: Floats) -> tuple[float, int]:
    """Sum of squares about the means of groups, and its degrees of freedom; `of` numbers the groups."""
    _, of = np.unique(of, return_inverse=True)
    count = np.bincount(of)
    rest = value - (np.bincount(of, value) / count)[of]
    return float((rest**2).sum()), int((count - 1).sum())
