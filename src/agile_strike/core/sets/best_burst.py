"""How many strikes in a burst a student throws before the force falls off.

Each strike of a burst is held against the first that the same limb threw in it, in logarithms, so that half and twice
weigh alike; over the bursts a place has a mean and Student's interval (90 % either way). Bursts are what repeats here:
strikes of one burst lean on each other, so a burst gives one figure to each place.
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

KEEPS = 0.8  # of the force: below it a strike is said to have fallen off
FEWEST = 4  # bursts that reach a place before anything is said of it
CONFIDENCE = 0.9  # one-sided
LOG_SD = 0.12  # of a strike against another: what is taken for known, so that three alike bursts aren't certainty
KNOWN_AS = 2.0  # bursts that this is worth


@dataclass(frozen=True, slots=True)
class Place:
    """What the strike at a place of the burst keeps of the force, per cent."""

    place: int  #: 2 is the second strike
    kept_pct: float
    low_pct: float
    high_pct: float
    bursts: int


@dataclass(frozen=True, slots=True)
class BestNumber:
    number: int | None  #: up to it the force is kept; None where too few bursts say
    falls_at: int | None  #: the first place that has fallen off for certain
    places: tuple[Place, ...]


def best_number(bursts: Sequence[Sequence[tuple[str, float | None]]]) -> BestNumber:
    """From bursts of (limb, impulse or force), in order of time."""
    logs: dict[int, list[float]] = defaultdict(list)
    for burst in bursts:
        first: dict[str, float] = {}
        for place, (limb, force) in enumerate(burst, 1):
            if not force or force <= 0:
                continue
            if limb in first:
                logs[place].append(float(np.log(force / first[limb])))
            else:
                first[limb] = force
    places = tuple(_place(k, np.array(logs[k])) for k in sorted(logs) if len(logs[k]) >= FEWEST)
    number: int | None = None
    falls_at: int | None = None
    for p in places:
        if p.high_pct < 100 * KEEPS:
            falls_at = p.place
            break
        if p.low_pct < 100 * KEEPS:
            break
        number = p.place
    return BestNumber(number, falls_at, places)


def _place(place: int, logs: np.ndarray) -> Place:
    n = len(logs)
    mean = float(logs.mean())
    spread = (KNOWN_AS * LOG_SD**2 + float(((logs - mean) ** 2).sum())) / (KNOWN_AS + n - 1)
    half = float(stdtrit(n - 1 + KNOWN_AS, CONFIDENCE)) * np.sqrt(spread / n)
    kept, low, high = (100.0 * float(np.exp(v)) for v in (mean, mean - half, mean + half))
    return Place(place, kept, low, high, n)
