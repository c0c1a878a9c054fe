"""Made-up trials with a known effect, richer than the model that judges them.

Sessions, days and blocks scatter with heavy tails where the model takes them as normal, strikes are skewed, drift bends
where the model draws a line, counts are unequal and blocks are missing.
"""

from dataclasses import dataclass

import numpy as np

from agile_strike.core.trial.claim import Strikes
from agile_strike.core.trial.design import order

MEAN = 25.0  # N s, a good cross
TAILS_DF = 5.0


@dataclass(frozen=True, slots=True)
class TrialTruth:
    """Everything as shares of the mean."""

    sessions: int
    gain: float = 0.05
    day: float = 0.03  #: how much the gain differs from day to day
    session: float = 0.06
    block: float = 0.02
    strike: float = 0.09
    drift: float = 0.01  #: a block, along the evening
    bend: float = 0.3  #: how much of the drift comes early
    lost: float = 0.05  #: of blocks
    uneven: int = 3  #: strikes a block, more or fewer
    strikes: int = 9
    blocks_each: int = 2
    fixed_order: str = ""  #: as AABB on every evening, instead of turns


def simulate_trial(t: TrialTruth, rng: np.random.Generator, participant: str = "01") -> Strikes:
    """Strikes of a trial between `centred` and `full shift`."""
    rows: list[tuple[int, int, int, float]] = []
    for s in range(t.sessions):
        mean = MEAN * (1.0 + t.session * _heavy(rng))
        own = t.gain + t.day * _heavy(rng)
        turn = ["AB".index(c) for c in t.fixed_order] or order(2, t.blocks_each, s)
        for place, level in enumerate(turn):
            if rng.random() < t.lost:
                continue
            along = place + t.bend * np.sin(np.pi * place / max(len(turn) - 1, 1))
            block = mean * (1.0 + level * own + t.drift * along + t.block * _heavy(rng))
            count = t.strikes + int(rng.integers(-t.uneven, t.uneven + 1))
            rows += [(s, place, level, block * (1.0 + t.strike * e)) for e in (rng.gamma(4.0, 1.0, count) - 4.0) / 2.0]
    table = np.array(rows, dtype=np.float64).reshape(-1, 4)
    session, block_, level_ = (table[:, i].astype(np.int64) for i in range(3))
    return Strikes(
        session,
        block_,
        table[:, 1],
        level_,
        table[:, 3],
        ("centred", "full shift"),
        {},
        participant=(participant,) * len(table),
    )


def _heavy(rng: np.random.Generator) -> float:
    """Heavier tails than a normal, the same standard deviation."""
    return float(rng.standard_t(TAILS_DF) * np.sqrt((TAILS_DF - 2.0) / TAILS_DF))
