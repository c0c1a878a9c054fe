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
    _, first, of = np.unique(np.column_stack([session, block, level]), axis=0, return_index=True, return_inverse=True)
    of = of.ravel()
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
    drawn = 0
    for s, k in {(int(a), int(b)) for a, b in zip(session, level, strict=True)}:
        here = (session == s) & (level == k)
        middle = float(np.median(value[here]))
        spread = 1.4826 * float(np.median(np.abs(value[here] - middle)))
        if spread <= 0.0:
            continue
        low, high = middle - GROSS * spread, middle + GROSS * spread
        drawn += int(((value[here] < low) | (value[here] > high)).sum())
        value[here] = np.clip(value[here], low, high)
    return drawn
