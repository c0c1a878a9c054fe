"""The claim that a comparison makes: means, effect, what is worth having, and the verdict, or why there can be none."""

from dataclasses import dataclass
from math import ceil

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.trial.blocks import Blocks, blocks
from agile_strike.core.trial.effect import Effect, effect

Floats = NDArray[np.float64]

LEAST_WORTH_SHARE, WORTH_OF_SPREAD = 0.03, 0.2
LEAST_BLOCKS = 2
MOST_BLOCKS_NEEDED = 400
MASS_CHANGE_SHARE = 0.03
#: what must be the same throughout: column -> what a coach calls it
HELD = {"bag": "another bag", "mount": "another mount", "calibration": "another calibration", "gloves": "other gloves"}


@dataclass(frozen=True, slots=True)
class Strikes:
    """A trial's strikes (n,): coded sessions and blocks, levels by place in `levels`, and what was to be held."""

    session: NDArray[np.int64]
    block: NDArray[np.int64]
    order: Floats
    level: NDArray[np.int64]
    value: Floats
    levels: tuple[str, ...]
    held: dict[str, list[str]]
    body_mass_kg: Floats | None = None
    per_body_mass: bool = False


@dataclass(frozen=True, slots=True)
class Claim:
    levels: tuple[str, ...]
    n: dict[str, int]
    means: dict[str, float]
    effect: Effect | None
    swc: float | None  #: smallest change worth having, in the measure's unit
    typical_error: float | None
    mdc: float | None  #: minimal detectable change between two blocks
    verdict: str | None
    blocks_needed: int | None  #: of each level, beyond those there are
    refused: str | None
    notes: tuple[str, ...]
    sessions: int


def claim(s: Strikes, worth: float | None = None) -> Claim:
    """The comparison of the second level with the first. `worth` is the coach's own smallest change, in per cent."""
    seen = np.isfinite(s.value)
    n = {name: int(((s.level == k) & seen).sum()) for k, name in enumerate(s.levels)}
    means = {name: float(s.value[(s.level == k) & seen].mean()) for k, name in enumerate(s.levels) if n[name]}
    use = s.level < 2
    told = blocks(s.session[use], s.block[use], s.order[use], s.level[use], s.value[use])
    refused = _refused(s, told)
    if refused:
        return Claim(s.levels, n, means, None, None, None, None, None, None, refused, (), told.sessions)
    found = effect(told)
    first = _level_mean(told, 0)
    smallest = abs(first) * worth / 100.0 if worth is not None else _worth(told, first)
    error = _typical_error(told, found)
    verdict = _verdict(found, smallest)
    needed = _needed(told, found, smallest) if verdict == "not_settled" else 0
    notes = (
        ["today only: one session does not show how the effect varies from day to day"] if told.sessions == 1 else []
    )
    if found.drift is None:
        notes.append("the levels always came in the same order: warming up or tiring can't be told from the change")
    if told.drawn_in:
        notes.append(f"{told.drawn_in} strikes far out of their level were drawn in")
    return Claim(
        s.levels,
        n,
        means,
        found,
        smallest,
        error,
        1.96 * 2**0.5 * error,
        verdict,
        needed,
        None,
        tuple(notes),
        told.sessions,
    )


def _refused(s: Strikes, b: Blocks) -> str | None:
    if len(s.levels) < 2:
        return "there is only one level: a comparison needs two"
    for column, what in HELD.items():
        if len(set(s.held.get(column, []))) > 1:
            return f"{what} in part of it: compare within one {column}"
    mass = s.body_mass_kg
    if mass is not None and not s.per_body_mass and np.isfinite(mass).any():
        if float(np.nanmax(mass) / np.nanmin(mass)) - 1.0 > MASS_CHANGE_SHARE:
            return "body mass changed by more than 3 %: compare per body mass"
    for k in (0, 1):
        count = int((b.level == k).sum())
        if count < LEAST_BLOCKS:
            return f"{count} block{'' if count == 1 else 's'} of {s.levels[k]}: two of each level at the least"
    both = [set(b.level[b.session == i].tolist()) == {0, 1} for i in range(b.sessions)]
    return None if any(both) else "no session holds both levels: throw them on the same evening"


def _level_mean(b: Blocks, level: int) -> float:
    """Mean of a level's session means."""
    means = [
        float(np.average(b.mean[here], weights=b.strikes[here]))
        for i in range(b.sessions)
        if (here := (b.session == i) & (b.level == level)).any()
    ]
    return float(np.mean(means))


def _worth(b: Blocks, first: float) -> float:
    least = LEAST_WORTH_SHARE * abs(first)
    means = [float(b.mean[here].mean()) for i in range(b.sessions) if (here := (b.session == i) & (b.level == 0)).any()]
    return max(least, WORTH_OF_SPREAD * float(np.std(means, ddof=1))) if len(means) >= 3 else least


def _typical_error(b: Blocks, found: Effect) -> float:
    """Spread of block means, same level, same session; from the model where no level came twice in a session."""
    square, df = 0.0, 0
    for i in range(b.sessions):
        for k in (0, 1):
            here = (b.session == i) & (b.level == k)
            if here.sum() > 1:
                square += float(((b.mean[here] - b.mean[here].mean()) ** 2).sum())
                df += int(here.sum()) - 1
    if df >= 2:
        return float(np.sqrt(square / df))
    return float(np.sqrt(found.block_sd**2 + b.within_var / float(np.mean(b.strikes))))


def _verdict(e: Effect, worth: float) -> str:
    if e.low > worth or e.high < -worth:
        return "clear"
    if e.low > 0.0 or e.high < 0.0:
        return "likely"
    return "no_difference" if -worth < e.low and e.high < worth else "not_settled"


def _needed(b: Blocks, e: Effect, worth: float) -> int:
    """Blocks of each level still to throw until the interval should settle, as its width falls with the root of their
    number: beyond zero, or inside what is worth having, whichever comes first."""
    half = (e.high - e.low) / 2.0
    wanted = max(abs(e.value), worth - abs(e.value), 1e-9 * half)
    have = min(int((b.level == k).sum()) for k in (0, 1))
    return int(min(max(ceil(have * ((half / wanted) ** 2 - 1.0)), 1), MOST_BLOCKS_NEEDED))
