"""What a coach said of strikes against what the units say of the same: where both look at one thing, do they agree?"""

from collections.abc import Sequence
from dataclasses import dataclass

from agile_strike.core.drills.advice import Seen, edge_of
from agile_strike.core.drills.signs import Sign
from agile_strike.core.measured import Measured


@dataclass(frozen=True, slots=True)
class Heard:
    """A remark, in how many strikes, and what the units say of those and of the others."""

    what: str
    strikes: int
    measure: str = ""  #: by which units see the same; empty where only a coach does
    shown: int = 0  #: of the strikes remarked on, in which the measure lies beyond its edge
    told: int = 0  #: of them, in which the measure is there and clear of its edge
    others_shown: int = 0  #: the same of the strikes nobody remarked on
    others_told: int = 0


def tally(strikes: Sequence[Seen], signs: Sequence[Sign]) -> list[Heard]:
    """Every remark of these strikes, the most frequent first. A value within its doubt of the edge counts nowhere."""
    words = [word for one in strikes for word in one.remarks]
    out = []
    for what in sorted(set(words), key=lambda w: (-words.count(w), w)):
        sign = next((s for s in signs if what in s.remarks and s.measure), None)
        if sign is None or sign.measure is None:
            out.append(Heard(what, words.count(what)))
            continue
        counts = [0, 0, 0, 0]
        for one in strikes:
            value, edge = one.measures.get(sign.measure), edge_of(sign, one)
            if value is None or edge is None or not sign.fits(one.code):
                continue
            verdict = _beyond(value, edge, sign.low)
            if verdict is not None:
                at = 0 if what in one.remarks else 2
                counts[at] += verdict
                counts[at + 1] += 1
        out.append(Heard(what, words.count(what), sign.measure, *counts))
    return out


def _beyond(value: Measured, edge: float, low: bool) -> bool | None:
    past = edge - value.value if low else value.value - edge
    return None if abs(past) <= value.sd else past > 0.0
