"""By how much doubts must be stretched to hold in every family of worlds drawn at random, and how much of them a whole
recording shares: `python -m agile_strike.core.simulation.fit_doubts [WORLDS]` prints both tables of
`core.measures.doubts` anew.

These worlds are others than those of `world_report`, where it is looked at whether the stretched doubts hold.
"""

import sys

import numpy as np

from agile_strike.core.measures.doubts import STRETCH
from agile_strike.core.simulation.score import Score, pooled
from agile_strike.core.simulation.world_report import FEWEST, Played, by_family, run

USUAL = 50
FIRST = 100  # seed: beyond those of the report
WILD = 6.0  # doubts: beyond, one strike would be all that is looked at
FEWEST_WORLDS, LEAST_SHARE = 10, 0.05
HOLDS, MOST, STEP = 0.92, 2.0, 0.05


def stretches(played: list[Played]) -> dict[str, float]:
    """For each measure the least stretch, from 1 to `MOST`, at which two sd hold in `HOLDS` of every family."""
    whole = pooled([p.score for p in played])
    families = by_family(played)
    out = {}
    for name in sorted(whole.errors):
        parts = [s for s in families.values() if len(s.errors.get(name, ())) >= FEWEST]
        wanted = max((_least(s, name) for s in parts), default=0.0) * STRETCH.get(name, 1.0)
        if wanted > 1.0:
            out[name] = min(MOST, round(float(np.ceil(wanted / STEP)) * STEP, 2))
    return out


def _least(score: Score, name: str) -> float:
    """The stretch of the doubts as they are told now at which so many hold."""
    error = np.abs(score.errors[name]) / np.maximum(2.0 * score.doubts[name], 1e-12)
    return float(np.quantile(error, HOLDS))


def shared(played: list[Played]) -> dict[str, float]:
    """For each measure the part of the errors' variance that strikes of one world have in common (intraclass
    correlation by analysis of variance; Fisher 1925), errors in units of their doubts."""
    out = {}
    for name in sorted({n for p in played for n in p.score.errors}):
        every = [
            p.score.errors[name] / np.maximum(p.score.doubts[name], 1e-12) for p in played if name in p.score.errors
        ]
        groups = [np.clip(e, -WILD, WILD) for e in every if len(e) > 1]
        if len(groups) < FEWEST_WORLDS:
            continue
        count = np.array([len(g) for g in groups])
        within = sum(float(((g - g.mean()) ** 2).sum()) for g in groups) / float((count - 1).sum())
        # about nought, not about the mean of all worlds: what all share is shared as well
        between = float(np.mean([g.mean() ** 2 - within / len(g) for g in groups]))
        share = max(between, 0.0) / max(between + within, 1e-12)
        if share >= LEAST_SHARE:
            out[name] = round(share, 2)
    return out


if __name__ == "__main__":
    found = run(int(sys.argv[1]) if len(sys.argv) > 1 else USUAL, first=FIRST)
    for table in (stretches(found), shared(found)):
        for measure, figure in table.items():
            print(f'    "{measure}": {figure:g},')
        print()
