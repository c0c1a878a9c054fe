"""What weakens a claim, in a coach's words: one evening, tiring or warming up, a gain that fades, picked strikes."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.trial.blocks import Blocks
from agile_strike.core.trial.effect import Effect
from agile_strike.core.trial.pool import Pooled

FEW_STRIKES = 16  # a level: the mean of fewer moves with every single one
FEW_EVENINGS = 3  # before a change from day to day shows itself
FADE_EVENINGS = 4  # before a trend of the effect can be told from days
FEW_STUDENTS = 3
MIXED_SHARE = 0.1  # of the other side's strikes: fewer are slips of a label
SIGMAS = 2.0
UNEVEN_P = 0.05
UNEVEN_SHARE = 0.6  # one level with fewer strikes than this share of the other


@dataclass(frozen=True, slots=True)
class Note:
    """One thing to know about a claim. `warn` is False for what is only told."""

    kind: str
    text: str
    warn: bool = True


def weakens(b: Blocks, e: Effect, first: float, levels: tuple[str, ...]) -> tuple[Note, ...]:
    """In the order in which they matter. `first` is the first level's mean, for per cent."""
    found = (_evenings(b), _few(b, levels), _same_order(e), _drift(b, e, first), fading(b, e, first), _drawn_in(b))
    return tuple(n for n in found if n is not None)


def _evenings(b: Blocks) -> Note | None:
    if b.sessions == 1:
        return Note("today_only", "Today only: one evening does not show how the change varies from day to day.")
    if b.sessions < FEW_EVENINGS:
        return Note("few_evenings", "Two evenings only: how the change varies from day to day is hardly known.")
    return None


def _few(b: Blocks, levels: tuple[str, ...]) -> Note | None:
    counts = [int(b.strikes[b.level == k].sum()) for k in (0, 1)]
    low = int(np.argmin(counts))
    if counts[low] < FEW_STRIKES:
        return Note("too_few", f"Too few: {_strikes(counts[low])} of {levels[low]}.")
    if counts[low] < UNEVEN_SHARE * counts[1 - low]:
        return Note("uneven", f"Uneven: {_strikes(counts[low])} of {levels[low]} against {counts[1 - low]}.")
    return None


def _strikes(n: int) -> str:
    return "1 strike" if n == 1 else f"{n} strikes"


def _same_order(e: Effect) -> Note | None:
    if e.drift is not None:
        return None
    return Note("same_order", "The levels always came in the same order: warming up or tiring can't be told from it.")


def _drift(b: Blocks, e: Effect, first: float) -> Note | None:
    if e.drift is None or e.drift_sd is None or abs(e.drift) < SIGMAS * e.drift_sd:
        return None
    share = 100.0 * e.drift / abs(first)
    word = "rose" if share > 0.0 else "fell"
    lean = _lean(b)
    fair = (
        "the blocks alternate, so it leans neither way" if abs(lean) < 0.25 else "it was taken out as a straight line"
    )
    kind = "warmer_at_the_end" if share > 0.0 else "tired_at_the_end"
    return Note(
        kind, f"It {word} by {abs(share):.1f} % from block to block along the evening; {fair}.", abs(lean) >= 0.25
    )


def _lean(b: Blocks) -> float:
    """How much later the second level came than the first, in blocks, on average."""
    count = np.bincount(b.session)
    rank = np.empty(len(b.order))
    rank[np.lexsort((b.order, b.session))] = np.arange(len(b.order)) - (np.cumsum(count) - count)[b.session]
    place, size = 2 * b.session + b.level, 2 * b.sessions
    blocks = np.bincount(place, minlength=size).reshape(-1, 2)
    mean = np.bincount(place, rank, size).reshape(-1, 2) / np.maximum(blocks, 1)
    both = (blocks > 0).all(axis=1)
    return float((mean[both, 1] - mean[both, 0]).mean()) if both.any() else 0.0


def fading(b: Blocks, e: Effect, first: float) -> Note | None:
    """A straight line through the effects of single evenings, weighed by how well each is known."""
    place = 2 * b.session + b.level
    size = 2 * b.sessions
    count = np.bincount(place, minlength=size).reshape(-1, 2)
    mean = np.bincount(place, b.mean, size).reshape(-1, 2) / np.maximum(count, 1)
    noise = (
        np.bincount(place, e.block_sd**2 + b.within_var / b.strikes, size).reshape(-1, 2) / np.maximum(count, 1) ** 2
    )
    at = np.flatnonzero((count > 0).all(axis=1))
    if len(at) < FADE_EVENINGS:
        return None
    t, d = at.astype(np.float64), mean[at, 1] - mean[at, 0]
    w = 1.0 / (e.day_sd**2 + noise[at].sum(axis=1))
    middle = float((w * t).sum() / w.sum())
    spread = float((w * (t - middle) ** 2).sum())
    usual = float((w * d).sum() / w.sum())
    slope = float((w * (t - middle) * d).sum() / spread)
    if abs(slope) < SIGMAS / spread**0.5:
        return None
    ends = [100.0 * (usual + slope * (t[i] - middle)) / abs(first) for i in (0, -1)]
    kind = "fading" if abs(ends[1]) < abs(ends[0]) else "growing"
    word = "faded" if kind == "fading" else "grew"
    course = f"from {signed(ends[0])} % on the first evening to {signed(ends[1])} % on the last"
    return Note(kind, f"The difference {word}: {course}.")


def of_several(
    effects: dict[str, Effect], firsts: NDArray[np.float64], pooled: Pooled, own: dict[str, tuple[Note, ...]]
) -> tuple[Note, ...]:
    """What weakens a mean of several students: they disagree, they are few, or what weakens their own comparisons."""
    out = []
    up = [p for p, e in effects.items() if e.low > 0.0]
    down = [p for p, e in effects.items() if e.high < 0.0]
    share = {p: 100.0 * e.value / f for (p, e), f in zip(effects.items(), firsts, strict=True)}
    if up and down:
        told = ", ".join(f"{p} {signed(share[p])} %" for p in (*up, *down))
        out.append(Note("disagree", f"Students disagree outright ({told}): the mean of them describes nobody."))
    elif pooled.between_sd > abs(pooled.mean.value) and len(effects) >= FEW_STUDENTS:
        said = f"Students differ by {pooled.between_sd:.0f} % about a mean of {signed(pooled.mean.value)} %"
        out.append(Note("differ", f"{said}: look at each one before the mean."))
    if len(effects) < FEW_STUDENTS:
        out.append(Note("few_students", f"{len(effects)} students only: how much they differ is hardly known."))
    for kind in dict.fromkeys(n.kind for notes in own.values() for n in notes if n.warn):
        who = [p for p, notes in own.items() if any(n.kind == kind for n in notes)]
        first = next(n.text for n in own[who[0]] if n.kind == kind)
        out.append(Note(kind, f"{' and '.join(who) if len(who) < len(own) else 'Every student'}: {first}"))
    return tuple(out)


def mixed_sides(limb: tuple[str, ...], level: NDArray[np.int64], levels: tuple[str, ...]) -> tuple[Note, ...]:
    """Left and right in one comparison: a difference of hands may pass for one of levels."""
    side = np.array([name.split("_")[0] for name in limb])
    shares = []
    for k in (0, 1):
        here = side[level == k] if len(side) else side
        known = np.isin(here, ("left", "right"))
        if not known.any():
            return ()
        shares.append(float((here[known] == "right").mean()))
    if max(shares) < MIXED_SHARE or min(shares) > 1.0 - MIXED_SHARE:
        return ()
    told = ", ".join(f"{100.0 * s:.0f} % of {name}" for s, name in zip(shares, levels, strict=False))
    return (Note("mixed_sides", f"Left and right are in it together (right: {told}): hands differ too."),)


def signed(x: float, decimals: int = 0) -> str:
    """With its sign, a true minus; nothing before a figure that rounds to zero."""
    rounded = f"{abs(x):.{decimals}f}"
    return rounded if float(rounded) == 0.0 else ("+" if x > 0 else "−") + rounded


def _drawn_in(b: Blocks) -> Note | None:
    if not b.drawn_in:
        return None
    were = _strikes(b.drawn_in)
    return Note(
        "drawn_in", f"{were} far out of the level's others counted only up to the edge of what is usual.", False
    )


def left_out(
    level: NDArray[np.int64], out: NDArray[np.bool_], levels: tuple[str, ...], now: str | None, then: str | None
) -> Note:
    """Strikes that the coach threw out: unevenly, or such that the verdict hangs on it?"""
    from scipy.stats import fisher_exact  # takes most of a second to load, and is asked once a comparison

    table = [[int((out & (level == k)).sum()), int((~out & (level == k)).sum())] for k in (0, 1)]
    uneven = float(fisher_exact(table)[1]) < UNEVEN_P
    counts = f"{table[0][0]} of {levels[0]}, {table[1][0]} of {levels[1]}"
    if now != then:
        said = (then or "refused").replace("_", " ")
        return Note("picked", f"Picked: strikes were thrown out ({counts}), and with them back in it would be {said}.")
    if uneven:
        return Note("picked", f"More strikes were thrown out of one level than of the other ({counts}).")
    return Note("left_out", f"Strikes thrown out: {counts}. With them back in the verdict stays.", False)
