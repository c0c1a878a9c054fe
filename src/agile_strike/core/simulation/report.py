"""How good the figures are: `python -m agile_strike.core.simulation.report` plays evenings and prints a table.

Bags, students and units are drawn at random within what the promise covers: ringing to 6 % at 60 to 140 Hz, 8 degrees
of mounting error, a swinging bag, mass known to 0.5 %, inertia to 2 %, singles and bursts, every kind of bump.
"""

import sys

import numpy as np

from agile_strike.core.analysis import analyse
from agile_strike.core.bag import Bag
from agile_strike.core.simulation.plan import Evening, SetPlan, simulate
from agile_strike.core.simulation.score import Score, pooled, score
from agile_strike.core.simulation.unit import Mess

EVENINGS = 8
ROWS = (
    ("contact_s", "contact time", "ms", 1e3, "0.5", "1.5"),
    ("impulse_n_s", "impulse", "%", 1.0, "2.5", "7"),
    ("peak_force_n", "peak force", "%", 1.0, "4", "10"),
    ("contact_ms", "contact length", "ms", 1.0, "1.2", "3.5"),
    ("hit_below_top_m", "hit height", "mm", 1e3, "15", "40"),
    ("off_centre_m", "off-centre", "mm", 1e3, "3", "8"),
    ("rise_ms", "rise", "ms", 1.0, "", ""),
    ("push_index", "push index", "", 1.0, "", ""),
    ("direction_deg", "direction", "deg", 1.0, "", ""),
    ("bag_energy_j", "bag energy", "%", 1.0, "", ""),
)


def evening(rng: np.random.Generator) -> Evening:
    """A random evening of 60 strikes."""
    length = float(rng.uniform(0.9, 1.4))
    bag = Bag(
        "swivel",
        float(rng.uniform(32, 70)),
        length,
        float(rng.uniform(0.3, 0.4)),
        float(rng.uniform(0.12, 0.4)) * length,
        chain_m=float(rng.uniform(0.3, 1.0)),
    )
    sets = tuple(
        SetPlan(
            code,
            limb,
            level,
            12,
            float(rng.uniform(1.4, 4.0)),
            float(rng.uniform(4.0, 8.5)),
            float(rng.uniform(10, 24)),
            2.6,
            burst,
        )
        for code, limb, level, burst in (
            ("lead-straight", "left_hand", "head", 1),
            ("rear-straight", "right_hand", "body", 1),
            ("lead-hook", "left_hand", "body", 3),
            ("rear-hook", "right_hand", "head", 2),
            ("rear-knee", "right_knee", "low", 1),
        )
    )
    mess = Mess(ringing_share=float(rng.uniform(0.02, 0.06)), ringing_hz=float(rng.uniform(75, 112)))
    return Evening(bag, sets, bumps=12, mess=mess)


def run(evenings: int, seed: int = 1) -> list[Score]:
    scores = []
    for i in range(evenings):
        made = simulate(evening(np.random.default_rng([seed, i])), np.random.default_rng([seed, i, 1]))
        scores.append(score(analyse(made.recording), made))
    return scores


def table(total: Score) -> str:
    lines = [
        f"{total.true_strikes} strikes, recall {total.recall:.4f}, precision {total.precision:.4f}",
        "",
        "| | median error | 95th | promised | within 2 sd |",
        "|---|---|---|---|---|",
    ]
    for name, label, unit, scale, median, worst in ROWS:
        covered = "" if name == "contact_s" else f"{100 * total.covered(name):.0f} %"
        promised = f"{median}; {worst}" if median else ""
        lines.append(
            f"| {label}, {unit} | {scale * total.median(name):.2g} | {scale * total.worst(name):.2g} | "
            f"{promised} | {covered} |"
        )
    return "\n".join(lines)


if __name__ == "__main__":
    print(table(pooled(run(int(sys.argv[1]) if len(sys.argv) > 1 else EVENINGS))))
