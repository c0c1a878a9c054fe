"""How good the figures are in worlds drawn at random:
`python -m agile_strike.core.simulation.world_report [WORLDS [FIRST]]`.

Weak figures first. For each measure: errors and coverage over all worlds, in its worst family, and how often it is
there; and whether doubts that were stretched in all other families hold in the one that was left out.
"""

import sys
from collections import defaultdict
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.analysis import analyse
from agile_strike.core.simulation.plan import Evening, Simulated, simulate
from agile_strike.core.simulation.report import ROWS, STUDENT_ROWS
from agile_strike.core.simulation.score import Score, pooled, score
from agile_strike.core.simulation.worlds import FAMILIES, drawn
from agile_strike.core.student.clocks import UnitClock

Floats = NDArray[np.float64]

USUAL = 48
SEED = 7
FEWEST = 60  # strikes of a family: fewer say nothing of a share
LEAST, MOST = 0.90, 0.99
WORST_TIMES = 1.5  # a promise, in the worst family
ENDS_S = 5.0  # of an evening, where a clock is looked at


@dataclass(frozen=True, slots=True)
class Played:
    families: dict[str, str]
    score: Score
    clocks: dict[str, float]  #: worst error of each unit that is tied, s; infinite where it is not


def play(seed: int, make: Callable[[Evening, np.random.Generator], Simulated] = simulate) -> Played:
    """One world, from its seed; `make` may have its evening from before."""
    world = drawn(np.random.default_rng([SEED, seed]))
    made = make(world.evening, np.random.default_rng([SEED, seed, 1]))
    analysis = analyse(made.recording)
    return Played(world.families, score(analysis, made), _clocks(made, {u.unit: u for u in analysis.units}))


def _clocks(made: Simulated, units: dict[str, UnitClock]) -> dict[str, float]:
    assert made.worn is not None
    out = {}
    length = made.recording.units["bag"].length_s
    own = np.array([ENDS_S, 0.5 * length, length - ENDS_S])
    for name, (offset, drift) in made.worn.clocks.items():
        clock = units[name]
        true = offset + own * (1.0 + 1e-6 * drift)
        out[name] = float(np.abs(clock.reference(own) - true).max()) if clock.aligned else np.inf
    return out


def table(played: list[Played]) -> str:
    """The whole report as Markdown."""
    whole = pooled([p.score for p in played])
    of = by_family(played)
    rows = [
        _row(row, whole, of)
        for row in (*ROWS[1:], *STUDENT_ROWS)
        if row[0] in whole.errors and len(whole.errors[row[0]]) >= FEWEST
    ]
    rows.sort(key=lambda r: (-r[0], r[1]))
    lines = [
        f"{len(played)} worlds, {whole.true_strikes} strikes, "
        f"recall {whole.recall:.4f}, precision {whole.precision:.4f}",
        "",
        "| | median | 95th | promised | worst family: 95th | within 2 sd | lowest family | left out | there |",
        "|---|---|---|---|---|---|---|---|---|",
        *(text for _, _, text in rows),
        "",
        *_of_clocks(played),
    ]
    return "\n".join(lines)


def by_family(played: list[Played]) -> dict[str, Score]:
    """The scores of each value of each family, by both names."""
    out = {}
    for family in FAMILIES:
        for value in sorted({p.families[family] for p in played}):
            out[f"{family}: {value}"] = pooled([p.score for p in played if p.families[family] == value])
    return out


def _row(row: tuple[str, str, str, float, str, str], whole: Score, of: dict[str, Score]) -> tuple[float, str, str]:
    """How weak it is, its name, and its line."""
    name, label, unit, scale, median, worst = row
    told = {n: s for n, s in of.items() if len(s.errors.get(name, ())) >= FEWEST}
    covered = whole.covered(name)
    low_name, low = min(((n, s.covered(name)) for n, s in told.items()), key=lambda x: x[1], default=("", covered))
    far_name, far = max(
        ((n, s.worst(name)) for n, s in told.items()), key=lambda x: x[1], default=("", whole.worst(name))
    )
    left = _left_out(name, whole, told)
    there = whole.there(name)
    weak = max(0.0, LEAST - low) + max(0.0, 0.85 - there)
    if worst:
        weak += max(0.0, scale * far / (WORST_TIMES * float(worst)) - 1.0)
    promised = f"{median}; {worst}" if median else ""
    text = (
        f"| {label}, {unit} | {scale * whole.median(name):.2g} | {scale * whole.worst(name):.2g} | {promised} | "
        f"{scale * far:.2g} ({far_name}) | {100 * covered:.0f} % | {100 * low:.0f} % ({low_name}) | "
        f"{100 * left:.0f} % | {100 * there:.0f} % |"
    )
    return weak, label, text


def _left_out(name: str, whole: Score, told: dict[str, Score]) -> float:
    """The lowest coverage of a family with doubts that were stretched to hold 95 in 100 in all strikes but its own."""
    every = np.abs(whole.errors[name]) / np.maximum(2.0 * whole.doubts[name], 1e-12)
    shares = []
    for one in told.values():
        own = np.abs(one.errors[name]) / np.maximum(2.0 * one.doubts[name], 1e-12)
        others = _without(every, own)
        shares.append(float(np.mean(own <= np.percentile(others, 95)))) if len(others) >= FEWEST else None
    return min(shares, default=1.0)


def _without(every: Floats, own: Floats) -> Floats:
    """Those of all that are not of this family: floats are told apart by their bits."""
    left: dict[float, int] = defaultdict(int)
    for x in own.tolist():
        left[x] += 1
    out = []
    for x in every.tolist():
        if left[x]:
            left[x] -= 1
        else:
            out.append(x)
    return np.array(out)


def _of_clocks(played: list[Played]) -> Iterable[str]:
    yield "| clock of | tied | median error, ms | worst, ms |"
    yield "|---|---|---|---|"
    for kind in ("wrist", "ankle", "pelvis", "torso", "sole"):
        errors = np.array([e for p in played for n, e in p.clocks.items() if n.endswith(kind)])
        tied = errors[np.isfinite(errors)]
        worst = f"{1e3 * np.median(tied):.2g} | {1e3 * tied.max():.2g}" if len(tied) else " | "
        yield f"| {kind} | {100 * len(tied) / max(len(errors), 1):.0f} % | {worst} |"


def run(worlds: int, first: int = 0, processes: int = 2) -> list[Played]:
    with ProcessPoolExecutor(processes) as pool:
        return list(pool.map(play, range(first, first + worlds)))


if __name__ == "__main__":
    asked = [int(text) for text in sys.argv[1:]]
    print(table(run(*(asked or [USUAL]))))
