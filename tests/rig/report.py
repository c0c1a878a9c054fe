"""How right the figures are on the rig: `PYTHONPATH=src:tests python -m rig.report [EVENINGS]`, ten seconds each."""

import sys
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from agile_strike.core.analysis import analyse
from agile_strike.core.simulation.report import ROWS, STUDENT_ROWS
from agile_strike.core.simulation.score import Score, pooled
from rig.evening import drawn, evening

SEED = 3
FIRST = 200  # evenings before were looked at while the method was made
USUAL = 24
ENDS_S = 5.0


def play(seed: int) -> tuple[Score, dict[str, float]]:
    """One evening's score, and the worst error of each clock, s; infinite where it is not tied."""
    made = evening(drawn(np.random.default_rng([SEED, seed]), 20), np.random.default_rng([SEED, seed, 1]))
    found = analyse(made.recording)
    own = np.array([ENDS_S, made.recording.units["bag"].length_s - ENDS_S])
    clocks = {}
    for unit in found.units:
        offset, drift = made.clocks[unit.unit]
        error = np.abs(unit.reference(own) - (offset + own * (1.0 + 1e-6 * drift))).max()
        clocks[unit.unit] = float(error) if unit.aligned else np.inf
    return made.score(found), clocks


def table(played: list[tuple[Score, dict[str, float]]]) -> str:
    whole = pooled([score for score, _ in played])
    lines = [
        f"{len(played)} evenings, {whole.true_strikes} strikes, recall {whole.recall:.3f}, "
        f"precision {whole.precision:.3f}",
        "",
        "| | median | 95th | within 2 sd | lowest evening | there |",
        "|---|---|---|---|---|---|",
    ]
    rows = []
    for name, label, unit, scale, *_ in (*ROWS[1:], *STUDENT_ROWS):
        if name not in whole.errors:
            continue
        low = min(s.covered(name) for s, _ in played if len(s.errors.get(name, ())) >= 8)
        text = (
            f"| {label}, {unit} | {scale * whole.median(name):.2g} | {scale * whole.worst(name):.2g} | "
            f"{100 * whole.covered(name):.0f} % | {100 * low:.0f} % | {100 * whole.there(name):.0f} % |"
        )
        rows.append((whole.covered(name), text))
    lines += [text for _, text in sorted(rows)]
    lines += ["", "| clock of | tied | median error, ms | worst, ms |", "|---|---|---|---|"]
    for kind in ("wrist", "pelvis", "torso"):
        errors = np.array([e for _, clocks in played for n, e in clocks.items() if n.endswith(kind)])
        tied = errors[np.isfinite(errors)]
        share = 100 * len(tied) / len(errors)
        lines.append(f"| {kind} | {share:.0f} % | {1e3 * np.median(tied):.2g} | {1e3 * tied.max():.2g} |")
    return "\n".join(lines)


if __name__ == "__main__":
    with ProcessPoolExecutor(2) as pool:
        print(table(list(pool.map(play, range(FIRST, FIRST + (int(sys.argv[1]) if len(sys.argv) > 1 else USUAL))))))
