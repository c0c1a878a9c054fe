"""The claim in one sentence, as a coach would say it: levels, how much, how sure, from how much; and what it trades."""

from dataclasses import dataclass
from math import ceil

from agile_strike.core.measures.measure import Measure
from agile_strike.core.trial.claim import Claim
from agile_strike.core.trial.weakens import signed

VERDICTS = {
    "clear": "Clear",
    "likely": "Likely",
    "no_difference": "No difference worth changing for",
    "not_settled": "Not settled",
}
#: told in per cent of the first level; all others in their own unit, since their zero is where good strikes lie
SHARES = ("N", "N s", "m/s", "kg", "J", "deg/s", "N/kg", "N s/kg", "J/kg")
MOST_MORE_EVENINGS = 6  # beyond these an open question costs more than its answer is worth
MOST_DECIMALS = 4
_NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


@dataclass(frozen=True, slots=True)
class Sentence:
    """In pieces, so that a screen can set the figures apart: `before` **figures** `after`."""

    before: str
    figures: str
    after: str

    @property
    def text(self) -> str:
        return " ".join(p for p in (self.before, self.figures, self.after) if p)


def in_shares(measure: Measure) -> bool:
    return measure.unit in SHARES


def sentence(c: Claim, measure: Measure, ci95_pct: tuple[float, float] | None) -> Sentence:
    """`ci95_pct` is the interval in per cent of the first level; it is not used for measures told in their unit."""
    if c.refused or c.effect is None:
        before = "Just begun:" if begun(c) else "No fair comparison:"
        return Sentence(before, f"{c.refused or 'nothing to compare'}.", "")
    first, second = c.levels[0], c.levels[1]
    noun = measure.in_a_sentence
    told = sum(c.n.get(k, 0) for k in c.levels[:2])
    who = f"{_number(len(c.students), 'student')}, " if len(c.students) > 1 else ""
    basis = f"over {who}{_number(c.sessions, 'evening')} and {told:,} strikes"
    cap = second[0].upper() + second[1:]
    share = in_shares(measure) and ci95_pct is not None
    low, high = ci95_pct if share and ci95_pct is not None else (c.effect.low, c.effect.high)
    unit, decimals = ("%", 0) if share else (measure.spoken_unit, measure.decimals)
    while decimals < MOST_DECIMALS and 0.0 < max(abs(low), abs(high)) < 0.5 * 10.0**-decimals:
        decimals += 1  # what is small is not nothing
    if c.verdict in ("clear", "likely"):
        a, b = sorted((abs(low), abs(high)))
        more, less = measure.directions
        way = more if c.effect.value > 0 else less
        figures = _joined(f"{a:.{decimals}f} to {b:.{decimals}f}", unit, way, noun)
        but = " But it faded." if faded(c) else ""
        harm = ", and for the worse" if worse(c, measure) else ""
        return Sentence(f"{cap} gives", figures, f"than {first}. {VERDICTS[c.verdict]}{harm}, {basis}.{but}")
    span = _joined(f"{signed(low, decimals)} to {signed(high, decimals)}", unit)
    if c.verdict == "no_difference":
        return Sentence(f"{cap} makes no difference worth changing for:", span, f"{noun} against {first}, {basis}.")
    return Sentence(f"{cap} against {first} is not settled:", span, f"{noun}, {basis}.")


def worse(c: Claim, measure: Measure) -> bool | None:
    """Is what moved to the student's harm? None where it did not move, or the measure has no better way."""
    if c.effect is None or c.verdict not in ("clear", "likely") or measure.better == "neither":
        return None
    return (c.effect.value > 0) != (measure.better == "more")


def faded(c: Claim) -> bool:
    return any(n.kind == "fading" for n in c.notes)


def begun(c: Claim) -> bool:
    """Whether there is nothing to compare yet, since one of the levels was never thrown."""
    return c.effect is None and any(not c.n.get(level) for level in c.levels[:2])


def outcome(c: Claim, measure: Measure) -> str:
    """What came of it for the student: `gained`, `faded`, `lost`, `same`, `open`, `begun` or `refused`."""
    if c.verdict is None or c.effect is None:
        return "begun" if begun(c) else "refused"
    if c.verdict in ("not_settled", "no_difference"):
        return "open" if c.verdict == "not_settled" else "same"
    harm = worse(c, measure)
    if harm or (harm is None and c.effect.value < 0.0):
        return "lost"
    return "faded" if faded(c) else "gained"


def trade(also: list[tuple[Measure, Claim]]) -> str:
    """What else the change brings and what it costs, in a line; empty where nothing else moved."""
    parts = {False: [], True: []}  # type: dict[bool, list[str]]
    for measure, c in also:
        harm = worse(c, measure)
        if harm is None or c.effect is None:
            continue
        name = measure.in_a_sentence
        parts[harm].append(_joined(name, signed(c.effect.value, measure.decimals), measure.spoken_unit))
    told = []
    if parts[True]:
        told.append(f"Worse with it: {', '.join(parts[True])}.")
    if parts[False]:
        told.append(f"Better with it: {', '.join(parts[False])}.")
    return " ".join(told)


def worth_settling(c: Claim, blocks_each: int) -> bool:
    """Whether an open question should settle within an evening count that a coach would give it."""
    return bool(c.verdict == "not_settled" and c.blocks_needed and c.blocks_needed <= MOST_MORE_EVENINGS * blocks_each)


def still_needed(c: Claim, strikes: int, blocks_each: int, minutes_a_block: float) -> str:
    """How to settle it, where it is not; or that it is not worth settling."""
    if c.verdict != "not_settled" or not c.blocks_needed:
        return ""
    evenings = _number(ceil(c.blocks_needed / blocks_each), "evening")
    if not worth_settling(c, blocks_each):
        return (
            f"Stop: it would take some {evenings} more to settle. Whatever there is between them is small or comes and "
            "goes; let the student choose, or test a bigger change."
        )
    blocks = f"{c.blocks_needed} more block{'' if c.blocks_needed == 1 else 's'} of each level, {strikes} strikes each,"
    took = 2 * c.blocks_needed * minutes_a_block
    return f"{blocks} should settle it: {evenings} at {blocks_each} a level, {took:.0f} minutes in all."


def _joined(*words: str) -> str:
    return " ".join(w for w in words if w)


def _number(n: int, what: str) -> str:
    word = _NUMBERS[n] if n < len(_NUMBERS) else str(n)
    return f"{word} {what}{'' if n == 1 else 's'}"
