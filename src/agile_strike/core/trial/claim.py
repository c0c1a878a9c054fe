"""The claim that a comparison makes: means, effect, what is worth having, and the verdict, or why there can be none."""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.trial.blocks import Blocks, about_group_means, blocks
from agile_strike.core.trial.effect import Effect, effect
from agile_strike.core.trial.pool import Pooled, pool
from agile_strike.core.trial.refuse import refused
from agile_strike.core.trial.verdict import NOT_SETTLED, blocks_needed, verdict
from agile_strike.core.trial.weakens import Note, left_out, mixed_sides, of_several, weakens

Floats = NDArray[np.float64]

LEAST_WORTH_SHARE, WORTH_OF_SPREAD = 0.03, 0.2


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
    participant: tuple[str, ...] = ()  #: of each strike; empty where all are one student's
    limb: tuple[str, ...] = ()  #: of each strike, where it is told
    out: NDArray[np.bool_] | None = None  #: strikes that the coach threw out

    def part(self, use: NDArray[np.bool_]) -> "Strikes":
        if use.all():
            return self
        at = np.flatnonzero(use)
        return replace(
            self,
            session=self.session[use],
            block=self.block[use],
            order=self.order[use],
            level=self.level[use],
            value=self.value[use],
            held={c: [v[i] for i in at] for c, v in self.held.items()},
            body_mass_kg=None if self.body_mass_kg is None else self.body_mass_kg[use],
            participant=tuple(self.participant[i] for i in at) if self.participant else (),
            limb=tuple(self.limb[i] for i in at) if self.limb else (),
            out=None if self.out is None else self.out[use],
        )


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
    notes: tuple[Note, ...]
    sessions: int
    blocks: Blocks | None = None
    pooled: Pooled | None = None
    students: dict[str, "Claim"] = field(default_factory=dict)  #: where there are several


def claim(s: Strikes, worth: float | None = None) -> Claim:
    """The comparison of the second level with the first. `worth` is the coach's own smallest change, in per cent.

    Several students are each compared with themselves, then pooled.
    """
    kept = s if s.out is None else s.part(~s.out)
    people = tuple(dict.fromkeys(kept.participant))
    told = _one(kept, worth) if len(people) < 2 else _several(kept, people, worth)
    if s.out is not None and s.out.any() and told.effect is not None:
        everything = claim(replace(s, out=None), worth)
        words = left_out(s.level, s.out, s.levels, told.verdict, everything.verdict)
        told = replace(told, notes=(*told.notes, words))
    return told


def _one(s: Strikes, worth: float | None) -> Claim:
    n, means = _counts(s)
    s = s.part(s.level < 2)  # what else was tried is no part of this comparison
    told = blocks(s.session, s.block, s.order, s.level, s.value)
    why = refused(s.levels, s.held, s.body_mass_kg, s.per_body_mass, told)
    if why:
        return Claim(s.levels, n, means, None, None, None, None, None, None, why, (), told.sessions, told)
    found = effect(told)
    first = _level_mean(told, 0)
    smallest = abs(first) * worth / 100.0 if worth is not None else _worth(told, first)
    error = _typical_error(told, found)
    judged = verdict(found.low, found.high, smallest)
    needed = blocks_needed(told, found, smallest) if judged == NOT_SETTLED else 0
    return Claim(
        s.levels,
        n,
        means,
        found,
        smallest,
        error,
        1.96 * 2**0.5 * error,
        judged,
        needed,
        None,
        (*weakens(told, found, first, s.levels), *mixed_sides(s.limb, s.level, s.levels)),
        told.sessions,
        told,
    )


def _several(s: Strikes, people: tuple[str, ...], worth: float | None) -> Claim:
    """Each student's effect in per cent of the student's own first level; the mean of all, back in the unit."""
    n, means = _counts(s)
    names = np.array(s.participant)
    each = {p: _one(s.part(names == p), worth) for p in people}
    sound = {p: c for p, c in each.items() if c.effect is not None and c.blocks is not None}
    sessions = sum(c.sessions for c in each.values())
    if len(sound) < 2:
        if len(sound) == 1:
            only = next(iter(sound.values()))
            return replace(only, n=n, means=means, students=each)
        why = next((c.refused for c in each.values() if c.refused), "no student threw both levels")
        return Claim(s.levels, n, means, None, None, None, None, None, None, why, (), sessions, students=each)
    firsts = np.array([abs(_level_mean(c.blocks, 0)) for c in sound.values() if c.blocks is not None])
    effects = [c.effect for c in sound.values() if c.effect is not None]
    value = 100.0 * np.array([e.value for e in effects]) / firsts
    sd = 100.0 * np.array([e.sd for e in effects]) / firsts
    pooled = pool(value, sd)
    unit = float(np.mean(firsts)) / 100.0
    drifts = [e.drift for e in effects if e.drift is not None]
    whole = Effect(
        pooled.mean.value * unit,
        pooled.mean.low * unit,
        pooled.mean.high * unit,
        pooled.sd * unit,
        float(np.mean([e.day_sd for e in effects])),
        float(np.mean([e.block_sd for e in effects])),
        float(np.mean(drifts)) if drifts else None,
        float(np.sqrt(np.mean([(e.drift_sd or 0.0) ** 2 for e in effects]) / len(effects))) if drifts else None,
    )
    smallest = worth * unit if worth is not None else float(np.mean([c.swc or 0.0 for c in sound.values()]))
    error = float(np.sqrt(np.mean([(c.typical_error or 0.0) ** 2 for c in sound.values()])))
    judged = verdict(whole.low, whole.high, smallest)
    needed = sum(c.blocks_needed or 0 for c in sound.values()) if judged == NOT_SETTLED else 0
    return Claim(
        s.levels,
        n,
        means,
        whole,
        smallest,
        error,
        1.96 * 2**0.5 * error,
        judged,
        needed,
        None,
        of_several({p: c.effect for p, c in sound.items() if c.effect is not None}, firsts, pooled, _notes_of(sound)),
        sessions,
        None,
        pooled,
        each,
    )


def _notes_of(sound: dict[str, Claim]) -> dict[str, tuple[Note, ...]]:
    return {p: c.notes for p, c in sound.items()}


def _counts(s: Strikes) -> tuple[dict[str, int], dict[str, float]]:
    seen = np.isfinite(s.value)
    n = {name: int(((s.level == k) & seen).sum()) for k, name in enumerate(s.levels)}
    means = {name: float(s.value[(s.level == k) & seen].mean()) for k, name in enumerate(s.levels) if n[name]}
    return n, means


def _level_mean(b: Blocks, level: int) -> float:
    """Mean of a level's session means."""
    here = b.level == level
    strikes = np.bincount(b.session[here], b.strikes[here])
    total = np.bincount(b.session[here], b.strikes[here] * b.mean[here])
    return float(np.mean(total[strikes > 0] / strikes[strikes > 0]))


def _worth(b: Blocks, first: float) -> float:
    least = LEAST_WORTH_SHARE * abs(first)
    here = b.level == 0
    count = np.bincount(b.session[here])
    means = np.bincount(b.session[here], b.mean[here])[count > 0] / count[count > 0]
    return max(least, WORTH_OF_SPREAD * float(np.std(means, ddof=1))) if len(means) >= 3 else least


def _typical_error(b: Blocks, found: Effect) -> float:
    """Spread of block means, same level, same session; from the model where no level came twice in a session."""
    square, df = about_group_means(2 * b.session + b.level, b.mean)
    if df >= 2:
        return float(np.sqrt(square / df))
    return float(np.sqrt(found.block_sd**2 + b.within_var / float(np.mean(b.strikes))))
