"""Schools and checks: a school is a named set of target ranges over measures; a strike is judged by the one it follows.

The tool never says which school is right. A value within its doubt of an edge is told as open, not as met or missed.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from agile_strike.core.measured import Measured
from agile_strike.core.measures.measure import Measure
from agile_strike.core.registry import MEASURES

Verdict = Literal["met", "missed", "open", "absent"]
ANY = "any"
CHAIN = "chain_order"
GROUND_UP = ("pelvis", "torso", "hand")


@dataclass(frozen=True, slots=True)
class Check:
    """A target range for one measure; either edge may be open. `chain_order` has no range: it wants ground-up."""

    name: str  #: as a coach says it
    measure: str
    low: float | None = None
    high: float | None = None
    strikes: tuple[str, ...] = ()  #: that it holds for, as straight, rear-straight, round-snapped; empty: all


@dataclass(frozen=True, slots=True)
class School:
    name: str
    belief: str  #: what it holds, in a coach's words
    checks: tuple[Check, ...]
    objects: tuple[str, ...] = ()  #: measures by which this school would object to the other's strikes


@dataclass(frozen=True, slots=True)
class Judged:
    check: Check
    verdict: Verdict
    value: Measured | None
    order: str | None = None


def fits(code: str, said: str) -> bool:
    """Whether a strike is of a family (round), of a variant (round-snapped), or of one side's (rear-straight)."""
    own = code if said.partition("-")[0] in ("lead", "rear") else code.removeprefix("lead-").removeprefix("rear-")
    return own == said or own.startswith(f"{said}-")


def holding(school: School, code: str) -> list[Check]:
    """The checks of a school that hold for a strike: of two on one measure, the one that names the strike closer."""
    close: dict[str, int] = {}
    found = [
        (c, max((len(s) for s in c.strikes if fits(code, s)), default=0 if not c.strikes else -1))
        for c in school.checks
    ]
    for c, near in found:
        close[c.measure] = max(close.get(c.measure, -1), near)
    return [c for c, near in found if near >= 0 and near == close[c.measure]]


def range_of(school: School, code: str, measure: str) -> Check | None:
    """The check that a school has on a measure of a strike."""
    return next((c for c in holding(school, code) if c.measure == measure), None)


def judge(school: School, code: str, measures: Mapping[str, Measured], order: str | None) -> list[Judged]:
    """Every check of the school that holds for this strike."""
    return [_one(c, measures, order) for c in holding(school, code)]


def _one(check: Check, measures: Mapping[str, Measured], order: str | None) -> Judged:
    if check.measure == CHAIN:
        if order is None:
            return Judged(check, "absent", None)
        return Judged(check, ground_up(order), None, order)
    value = measures.get(check.measure)
    if value is None:
        return Judged(check, "absent", None)
    return Judged(check, _within(value, check.low, check.high), value)


def _within(value: Measured, low: float | None, high: float | None) -> Verdict:
    for edge, inside in ((low, 1.0), (high, -1.0)):
        if edge is None:
            continue
        beyond = (value.value - edge) * inside
        if abs(beyond) < value.sd:
            return "open"
        if beyond < 0.0:
            return "missed"
    return "met"


def ground_up(order: str) -> Verdict:
    if order == ">".join(GROUND_UP):
        return "met"
    groups = [g.split("=") for g in order.split(">")]
    place = {name: i for i, group in enumerate(groups) for name in group}
    late = any(place[a] > place[b] for a, b in pairwise(GROUND_UP))
    return "missed" if late else "open"


def _objects(other: School, code: str, m: Measure, here: float, there: float | None) -> bool:
    here = round(here, m.decimals)  # as it will be told: nobody objects to what looks like the edge itself
    ranges = [c for c in holding(other, code) if c.measure == m.name]
    if ranges:
        return any((c.low is not None and here < c.low) or (c.high is not None and here > c.high) for c in ranges)
    if there is None or m.better == "neither":
        return there is not None
    return here < there if m.better == "more" else here > there


def order_in_words(order: str, limb: str) -> str:
    """An order of peaks with the limb that struck in it: `chain_order` calls it the hand, whichever it was."""
    return order.replace("hand", limb.split("_")[-1]) if "_" in limb else order


def objections(other: School, code: str, typical: Mapping[str, tuple[float, float | None]]) -> list[str]:
    """What `other` would hold against strikes thrown `own` way, in this student's numbers: `typical` gives, by measure,
    the usual value under `own` and, where there is one, under `other`. What lies inside the other's own range it has no
    quarrel with; where it has none, only a figure that is worse than under its own way is held against the strike."""
    out = []
    for name in other.objects:
        if name not in typical or name not in MEASURES:
            continue
        here, there = typical[name]
        m = MEASURES[name]
        if not _objects(other, code, m, here, there):
            continue
        text = f"{m.in_a_sentence} {m.told(here)} this way"
        if there is not None:
            text += f", {m.told(there)} {other.name}"
        out.append(text)
    return out


PUNCHES = ("straight", "hook", "uppercut", "overhand")


def _shared() -> Sequence[Check]:
    return (
        Check("Turns from the ground up", CHAIN),
        Check("No pull-back before launch", "pullback_mm", None, 20.0, PUNCHES),
        Check("No drop before launch", "drop_mm", None, 20.0, PUNCHES),
        Check("Straight out", "path_ratio", None, 1.05, ("straight",)),
        Check("Same line back", "return_drop_mm", None, 60.0, ("straight",)),
        Check("Speed held to the bag", "speed_held_pct", 90.0, None, ("round", "front", "side")),
        Check("Support foot turns", "pivot_deg", 75.0, None, ("round",)),
        Check("Support foot turns a little", "pivot_deg", 20.0, None, ("round-snapped", "round-rising")),
        Check("Rear foot turns", "pivot_deg", 15.0, None, ("rear-straight",)),
    )


SHIPPED = (
    School(
        "centred",
        "Balance through the middle, no lean, ready to strike and defend again at once.",
        (
            Check("Weight stays near even", "lead_load_contact_pct", 45.0, 60.0, PUNCHES),
            Check("No lean", "lean_deg", -5.0, 6.0, PUNCHES),
            Check("Balanced again soon", "settle_ms", None, 300.0),
            Check("Turn done as it lands", "turn_done_pct", 80.0, 105.0, PUNCHES),
            Check("Back at once", "return_ms", None, 260.0, PUNCHES),
            *_shared(),
        ),
        ("settle_ms", "lean_deg", "return_ms"),
    ),
    School(
        "full transfer",
        "All the weight onto the lead heel, head up to the knee and never past it.",
        (
            Check("Weight onto the lead foot", "lead_load_contact_pct", 70.0, None, PUNCHES),
            Check("On its heel", "lead_heel_pct", 55.0, None, PUNCHES),
            Check("Fist and foot together", "step_before_ms", -25.0, 25.0, PUNCHES),
            Check("Turn done as it lands", "turn_done_pct", 85.0, 105.0, PUNCHES),
            *_shared(),
        ),
        ("effective_mass_kg", "impulse_n_s"),
    ),
    School(
        "drive through",
        "Lean on purpose and drive, to hold the recoil and move the bag.",
        (
            Check("Lean into it", "lean_deg", 8.0, 25.0, PUNCHES),
            Check("Weight goes forward", "load_shift_pct", 15.0, None, PUNCHES),
            Check("Push, not slap", "push_index", 0.58, None),
            *_shared(),
        ),
        ("effective_mass_kg", "push_index"),
    ),
)
