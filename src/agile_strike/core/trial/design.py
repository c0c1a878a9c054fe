"""Planning a trial: counterbalanced blocks, and how small a change a number of evenings can be expected to show.

Blocks run forward, then mirrored (A B B A), and start one level later on each evening, so what drifts in a straight
line over an evening falls equally on every level (Cox 1958, Planning of Experiments, ch. 14). What can be seen is
found by simulating the plan with the student's own spread and reading the very interval that will judge it.
"""

from dataclasses import dataclass, replace

import numpy as np

from agile_strike.core.errors import BadInput
from agile_strike.core.trial.blocks import Blocks
from agile_strike.core.trial.effect import effect
from agile_strike.core.trial.spread import Spread

SECONDS_A_STRIKE = 4.0  # to throw, step back and settle the bag
CHANGE_S = 20.0  # to say what comes next
WARM_UP_MINUTES = 8.0  # the ramp before any full strike: what another evening costs beside its blocks
DRAWS = 40
EVENINGS = (1, 2, 3, 4, 5, 6, 8, 10)
POWER_Z = 0.8416  # seen four times in five
MOST_LEVELS = 4
#: what is proposed: whole turns, so that a drift falls on all levels alike, and blocks that stay fresh
BLOCKS_EACH, STRIKES = (2, 4), (6, 8, 10, 12)
MOST_MINUTES = 25.0  # of blocks, an evening
MOST_STRIKES, LEAST_STRIKES = 20, 4


@dataclass(frozen=True, slots=True)
class Design:
    """What every evening of a trial holds."""

    levels: tuple[str, ...]
    blocks_each: int = 2  #: of each level an evening
    strikes: int = 8  #: a block
    rest_s: float = 60.0


@dataclass(frozen=True, slots=True)
class Sight:
    """What a number of evenings can be expected to show."""

    evenings: int
    half_width_pct: float  #: of the 95 % interval, in per cent of the mean
    seen_pct: float  #: a change of this size ends beyond zero four times in five
    minutes: float  #: of all evenings together, warm-up left out


def check(d: Design) -> None:
    """Raises BadInput where a plan can't be thrown or can't tell."""
    if not 2 <= len(d.levels) <= MOST_LEVELS or len(set(d.levels)) != len(d.levels):
        raise BadInput(f"A trial compares two to {MOST_LEVELS} different levels.")
    if not 1 <= d.blocks_each <= 6:
        raise BadInput("Throw one to six blocks of each level an evening.")
    if not LEAST_STRIKES <= d.strikes <= MOST_STRIKES:
        raise BadInput(f"A block holds {LEAST_STRIKES} to {MOST_STRIKES} strikes.")
    if not 0.0 <= d.rest_s <= 600.0:
        raise BadInput("Rest between blocks is 0 to 600 seconds.")


def order(levels: int, blocks_each: int, evening: int) -> list[int]:
    """Levels of an evening's blocks, in order: forward, mirrored, forward...; started one level later each evening."""
    turned = [(k + evening) % levels for k in range(levels)]
    return [k for i in range(blocks_each) for k in (turned if i % 2 == 0 else turned[::-1])]


def minutes(d: Design) -> float:
    """Of one evening's blocks, warm-up left out."""
    blocks = len(d.levels) * d.blocks_each
    return (blocks * (d.strikes * SECONDS_A_STRIKE + CHANGE_S) + (blocks - 1) * d.rest_s) / 60.0


def sights(d: Design, spread: Spread, rng: np.random.Generator) -> list[Sight]:
    """What one to ten evenings of this plan would show of the first two levels."""
    check(d)
    out: list[Sight] = []
    for evenings in EVENINGS:
        half, sd = 0.0, 0.0
        for _ in range(DRAWS):
            found = effect(_thrown(d, spread, evenings, rng))
            half += (found.high - found.low) / 2.0 / DRAWS
            sd += found.sd / DRAWS
        seen = half + POWER_Z * sd
        before = out[-1].seen_pct if out else np.inf  # more evenings never show less: what is left is chance of draws
        out.append(Sight(evenings, 100.0 * half, min(100.0 * seen, before), evenings * minutes(d)))
    return out


def evenings_for(change_pct: float, told: list[Sight]) -> int | None:
    """The fewest evenings that should show a change of this size; None where even the most would not."""
    return next((s.evenings for s in told if s.seen_pct <= change_pct), None)


def sd_share(d: Design, spread: Spread, evenings: int) -> float:
    """Standard deviation of the effect, as a share of the mean, of one who knows the spreads."""
    block = spread.block**2 + spread.within**2 / d.strikes
    return float(np.sqrt((spread.day**2 + 2.0 * block / d.blocks_each) / evenings))


def suggest(d: Design, spread: Spread, change_pct: float, told: list[Sight]) -> tuple[Design, Sight] | None:
    """The plan that should show a change of this size in the fewest minutes, warm-ups counted; None where none would.

    `told` are the sights of `d`: how much wider the true interval is than that of one who knows the spreads depends on
    the evenings far more than on blocks and strikes, so it is taken from them.
    """
    best: tuple[float, Design, Sight] | None = None
    for blocks_each in BLOCKS_EACH:
        for strikes in STRIKES:
            plan = replace(d, blocks_each=blocks_each, strikes=strikes)
            if minutes(plan) > MOST_MINUTES:
                continue
            for sight in told:
                share = sd_share(plan, spread, sight.evenings) / sd_share(d, spread, sight.evenings)
                cost = sight.evenings * (minutes(plan) + WARM_UP_MINUTES)
                if sight.seen_pct * share > change_pct or (best is not None and cost >= best[0]):
                    continue
                half, seen = sight.half_width_pct * share, sight.seen_pct * share
                best = (cost, plan, Sight(sight.evenings, half, seen, sight.evenings * minutes(plan)))
    return None if best is None else (best[1], best[2])


def _thrown(d: Design, spread: Spread, evenings: int, rng: np.random.Generator) -> Blocks:
    """Block means of a trial in which nothing changed, about a mean of one."""
    session, level, rank = [], [], []
    for e in range(evenings):
        told = [k for k in order(len(d.levels), d.blocks_each, e) if k < 2]
        session += [e] * len(told)
        level += told
        rank += list(range(len(told)))
    of, k = np.array(session), np.array(level)
    day = spread.day * rng.standard_normal(evenings)
    noise = np.hypot(spread.block, spread.within / d.strikes**0.5)
    mean = 1.0 + day[of] * (k - 0.5) + noise * rng.standard_normal(len(of))
    df = len(of) * (d.strikes - 1)
    within = spread.within**2 * float(rng.chisquare(df)) / df
    return Blocks(of, k, np.array(rank, dtype=np.float64), mean, np.full(len(of), d.strikes), within, df, 0)
