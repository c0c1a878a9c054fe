"""How often the comparison is right, measured on made-up trials; writes the tables of docs/comparison-report.md.

python -m agile_strike.core.simulation.trial_report > docs/comparison-report.md
"""

import sys
from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from scipy.stats import norm
from scipy.stats import t as student_t

from agile_strike.core.simulation.trials import MEAN, TrialTruth, simulate_trial
from agile_strike.core.trial.claim import Claim, Strikes, claim
from agile_strike.core.trial.verdict import NOT_SETTLED

TRIALS = 400
SESSIONS = (3, 4, 5, 6, 8)
DAYS = (0.0, 0.015, 0.03, 0.045, 0.06)
MOST_SESSIONS = 60
HEAD = """# How often the comparison is right

Made by `python -m agile_strike.core.simulation.trial_report` from made-up trials whose truth the method does not share
(`core/simulation/trials.py`): effects, evenings and blocks scatter with heavy tails (t of 5), strikes are skewed, drift
bends, one block in twenty is missing, blocks hold 6 to 12 strikes. Effect 5 % unless said otherwise, evenings spread by
6 %, blocks by 2 %, strikes by 9 %. {trials} trials a row.
"""


def main() -> None:
    out = [HEAD.format(trials=TRIALS), *_coverage(), *_false(), *_needed(), *_order()]
    sys.stdout.write("\n".join(out) + "\n")


def _rngs(label: int) -> Iterable[np.random.Generator]:
    return (np.random.default_rng([label, i]) for i in range(TRIALS))


def _coverage() -> list[str]:
    lines = ["## Intervals: how often they hold the truth, and how wide they are\n"]
    lines.append("Half-width beside the plain t on differences of evenings, and beside one who knows every spread.\n")
    lines.append(
        "| evenings | effect differs by day | covers | plain t covers | against the plain t | against who knows |"
    )
    lines.append("|---|---|---|---|---|---|")
    total = {s: [0, 0] for s in SESSIONS}
    for sessions in SESSIONS:
        for day in DAYS:
            truth = TrialTruth(sessions, day=day)
            held, plain_held, half, plain, known = 0, 0, [], [], []
            for rng in _rngs(1000 * sessions + round(1000 * day)):
                s = simulate_trial(truth, rng)
                told = claim(s)
                if told.effect is None:
                    continue
                held += told.effect.low <= truth.gain * MEAN <= told.effect.high
                half.append((told.effect.high - told.effect.low) / 2.0)
                value, reach = _plain_t(s)
                plain_held += abs(value - truth.gain * MEAN) <= reach
                plain.append(reach)
                known.append(_known(s, truth))
            total[sessions][0] += held
            total[sessions][1] += len(half)
            n = len(half)
            by_plain = float(np.median(half) / np.median(plain))
            by_known = float(np.median(half) / np.median(known))
            lines.append(
                f"| {sessions} | {100 * day:g} % | {100 * held / n:.1f} % | {100 * plain_held / n:.1f} % "
                f"| {by_plain:.2f} | {by_known:.2f} |"
            )
    told_ = ", ".join(f"{100 * h / n:.1f} % over {s}" for s, (h, n) in total.items())
    return [*lines, "", f"Over all these days together: {told_} evenings.\n"]


def _plain_t(s: Strikes) -> tuple[float, float]:
    """A paired t on the evenings' differences of level means: its middle and its reach."""
    difference = [
        s.value[(s.session == i) & (s.level == 1)].mean() - s.value[(s.session == i) & (s.level == 0)].mean()
        for i in np.unique(s.session)
        if set(s.level[s.session == i].tolist()) == {0, 1}
    ]
    n = len(difference)
    if n < 2:
        return float(difference[0]), np.inf
    sd = float(np.std(difference, ddof=1)) / n**0.5
    return float(np.mean(difference)), float(student_t.ppf(0.975, n - 1)) * sd


def _known(s: Strikes, t: TrialTruth) -> float:
    """Half-width of one who knows every spread: evenings weighed by their known variances."""
    weight = 0.0
    for i in np.unique(s.session):
        var = t.day**2
        for k in (0, 1):
            here = (s.session == i) & (s.level == k)
            counts = np.unique(s.block[here], return_counts=True)[1]
            if not len(counts):
                break
            var += float((t.block**2 + t.strike**2 / counts).sum()) / len(counts) ** 2
        else:
            weight += 1.0 / var
    return float(norm.ppf(0.975) * MEAN / np.sqrt(weight))


def _false() -> list[str]:
    lines = ["## Nothing changed: how often it is called a change\n"]
    lines += [
        "| evenings | effect differs by day | clear, up | clear, down | likely, up | likely, down |",
        "|---|---|---|---|---|---|",
    ]
    for sessions in SESSIONS:
        for day in (0.0, 0.03):
            told = [
                claim(simulate_trial(TrialTruth(sessions, 0.0, day=day), r))
                for r in _rngs(7 * sessions + round(1000 * day))
            ]
            share = [
                100.0
                * float(np.mean([c.verdict == v and c.effect is not None and (c.effect.value > 0) == up for c in told]))
                for v in ("clear", "likely")
                for up in (True, False)
            ]
            lines.append(f"| {sessions} | {100 * day:g} % | " + " | ".join(f"{x:.1f} %" for x in share) + " |")
    return [*lines, ""]


def _needed() -> list[str]:
    """Go on with every trial that is not settled until it is, and count."""
    lines = ["## Blocks still needed: foretold, and what it took\n"]
    lines += ["Effects drawn with 5 % about zero. Means over trials that were not settled.\n"]
    lines += [
        "| evenings thrown | effect differs by day | trials | foretold | it took | ratio |",
        "|---|---|---|---|---|---|",
    ]
    ratios = []
    for sessions in (3, 4, 6):
        for day in (0.0, 0.03, 0.05):
            foretold, took = [], []
            for rng in list(_rngs(31 * sessions + round(1000 * day)))[: TRIALS // 4]:
                truth = TrialTruth(MOST_SESSIONS, 0.05 * rng.standard_normal(), day=day)
                whole = simulate_trial(truth, rng)
                now = _until(whole, sessions)
                if now.verdict != NOT_SETTLED or now.blocks_needed is None:
                    continue
                foretold.append(now.blocks_needed)
                last = next(
                    (k for k in range(sessions + 1, MOST_SESSIONS) if _until(whole, k).verdict != NOT_SETTLED),
                    MOST_SESSIONS,
                )
                took.append(truth.blocks_each * (last - sessions))
            told, true = float(np.mean(foretold)), float(np.mean(took))
            ratios.append(told / true)
            cells = (
                f"{sessions}",
                f"{100 * day:g} %",
                f"{len(took)}",
                f"{told:.1f}",
                f"{true:.1f}",
                f"{told / true:.2f}",
            )
            lines.append(f"| {' | '.join(cells)} |")
    return [*lines, "", f"On average over the rows: {np.mean(ratios):.2f} times.\n"]


def _until(whole: Strikes, sessions: int) -> Claim:
    return claim(whole.part(whole.session < sessions))


def _order() -> list[str]:
    """The same tiredness under turns, and under first-then-second."""
    lines = ["## A drift of 4 % a block, and no change at all\n"]
    lines += ["| order | plain difference of means | this comparison | called a change |", "|---|---|---|---|"]
    base = TrialTruth(6, 0.0, drift=0.04, bend=0.0, lost=0.0)
    for name, truth in (
        ("A B B A, B A A B", base),
        ("A A B B every evening", replace(base, fixed_order="AABB")),
        ("A B every evening", replace(base, fixed_order="AB")),
    ):
        plain, told, called, noted = [], [], 0, 0
        for rng in list(_rngs(99))[: TRIALS // 2]:
            c = claim(simulate_trial(truth, rng))
            if c.effect is None:
                continue
            plain.append(100.0 * (c.means["full shift"] - c.means["centred"]) / c.means["centred"])
            told.append(100.0 * c.effect.value / c.means["centred"])
            called += c.verdict in ("clear", "likely")
            noted += any(n.kind == "same_order" for n in c.notes)
        warned = ", and said each time that the order was always the same" if noted == len(told) else ""
        lines.append(
            f"| {name} | {np.mean(plain):+.1f} % | {np.mean(told):+.1f} % | {100 * called / len(told):.0f} %{warned} |"
        )
    return [*lines, ""]


if __name__ == "__main__":
    main()
