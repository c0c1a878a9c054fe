"""How well names are told by courses on students who were left out: `python -m ...names_report [STUDENTS [FIRST]]`.

Each student throws five kinds of punches and three of kicks in a world of their own, each kind in their own way; then
others do whose kinds are far less apart than any book has them.
"""

import sys
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace

import numpy as np

from agile_strike.core.analysis import analyse
from agile_strike.core.names.course import Floats, figures
from agile_strike.core.names.learnt import UNSURE, Courses, Learnt, learn
from agile_strike.core.simulation.plan import SetPlan, simulate
from agile_strike.core.simulation.worlds import drawn

HANDS: dict[str, dict[str, float]] = {
    "straight": {"bow_m": 0.02, "bow_up_m": 0.0, "turnover_deg": 80.0, "drop_m": 0.01},
    "hook": {"bow_m": 0.14, "bow_up_m": 0.0, "turnover_deg": 35.0, "drop_m": 0.01},
    "uppercut": {"bow_m": 0.03, "bow_up_m": -0.12, "turnover_deg": -50.0, "drop_m": 0.12},
    "overhand": {"bow_m": 0.08, "bow_up_m": 0.12, "turnover_deg": 60.0, "drop_m": 0.0},
    "hammer-fist": {"bow_m": 0.02, "bow_up_m": 0.18, "turnover_deg": -10.0, "drop_m": 0.0},
}
KICKS: dict[str, dict[str, float]] = {
    "round": {"bow_m": 0.16, "bow_up_m": 0.0, "turnover_deg": 0.0},
    "front-push": {"bow_m": 0.01, "bow_up_m": 0.08, "turnover_deg": 0.0},
    "side": {"bow_m": 0.05, "bow_up_m": -0.05, "turnover_deg": 60.0},
}
OWN_SHARE, OWN_M, OWN_DEG = (0.7, 1.3), 0.012, 12.0  # of a student's own way with a kind
BLURRED = (0.25, 1.0)  # of the way from the first kind to each other one

Named = tuple[int, str, str, Floats]  #: student, part of the body, name, course


def thrown(seed: int, blurred: bool) -> list[Named]:
    """One student's strikes, as the analysis found them."""
    rng = np.random.default_rng([77, seed])
    evening = drawn(rng).evening
    share = float(rng.uniform(*BLURRED)) if blurred else 1.0
    hand, kick = evening.sets[0].technique, evening.sets[3].technique
    sets = []
    for name, kind in HANDS.items():
        own = _own(kind, HANDS["straight"], share, rng)
        limb, speed = f"{rng.choice(['left', 'right'])}_hand", 6.3 * float(rng.uniform(0.9, 1.1))
        sets.append(SetPlan(name, limb, "head", 8, 2.6, speed, 15.0, technique=replace(hand, **own)))  # type: ignore[arg-type]
    for name, kind in KICKS.items():
        own = _own(kind, KICKS["round"], share, rng)
        sets.append(SetPlan(name, "right_foot", "body", 6, 4.5, 9.5, 22.0, technique=replace(kick, **own)))  # type: ignore[arg-type]
    found = analyse(simulate(replace(evening, sets=tuple(sets)), rng).recording)
    out = []
    for strike in found.strikes:
        course = figures(strike.lanes.curves) if strike.planned and strike.lanes else None
        if course is not None and strike.planned is not None:
            out.append((seed, strike.limb.split("_")[1], strike.planned.split(";")[0], course))
    return out


def _own(kind: dict[str, float], first: dict[str, float], share: float, rng: np.random.Generator) -> dict[str, float]:
    out = {}
    for name, value in kind.items():
        spread = OWN_DEG if name.endswith("_deg") else OWN_M
        own = (first[name] + share * (value - first[name])) * float(
            rng.uniform(*OWN_SHARE)
        ) + spread * rng.standard_normal()
        out[name] = max(own, 0.0) if name == "drop_m" else own
    return out


def courses(named: Iterable[Named], part: str) -> Courses:
    own = [n for n in named if n[1] == part]
    return Courses(np.array([n[3] for n in own]), [n[2] for n in own], [n[0] for n in own])


def told(learnt: Learnt | None) -> str:
    """Its table, as Markdown."""
    if learnt is None:
        return "Nothing was learnt.\n"
    held = learnt.held_out
    names = [*held.names, "unsure"]
    head = f"{held.students} students left out in turn; named {held.said:.0%}, of these right {held.right:.0%}.\n"
    rows = ["| thrown \\ called | " + " | ".join(names) + " |", "|---" * (len(names) + 1) + "|"]
    rows += [f"| {n} | " + " | ".join(map(str, row)) + " |" for n, row in zip(held.names, held.table, strict=True)]
    return "\n".join([head, *rows, ""])


def unknown(of: Courses) -> str:
    """How often each name is called something where nobody ever named it."""
    names = np.array(of.names)
    out = []
    for name in sorted(set(of.names)):
        learnt = learn(of.part(np.flatnonzero(names != name)))
        if learnt is not None:
            called = [n != UNSURE for n, _ in learnt.say(of.figures[names == name])]
            out.append(f"{name} {np.mean(called):.0%}")
    return f"Called by another name where it was never labelled: {', '.join(out) or 'not to be told'}.\n"


def report(students: int, first: int) -> str:
    out = []
    with ProcessPoolExecutor() as pool:
        for title, blurred in (("Kinds as they are taught", False), ("Kinds far less apart", True)):
            seeds = range(first, first + students)
            named = [n for some in pool.map(thrown, seeds, [blurred] * students) for n in some]
            for part in ("hand", "foot"):
                own = courses(named, part)
                out.append(f"## {title}: {part}, {len(own.names)} strikes\n\n{told(learn(own))}\n{unknown(own)}")
    return "\n".join(out)


if __name__ == "__main__":
    arguments = [int(a) for a in sys.argv[1:3]]
    print(report(*(arguments + [20, 0][len(arguments) :])))
