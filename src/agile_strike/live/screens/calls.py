"""What came of a round's calls, and of its rush."""

import datetime as dt
from dataclasses import dataclass

import numpy as np

from agile_strike.core.sets import calls as core
from agile_strike.live.models import Mark, Take
from agile_strike.live.taps.rounds import RUSH
from agile_strike.live.whose.reference import at_reference
from agile_strike.review.models import Strike

FORCE = "impulse_n_s"  # that is to be kept: every bag that weighs something gives it


@dataclass(frozen=True, slots=True)
class CallMade:
    """A call, and what landed after it."""

    key: str
    words: str
    codes: list[str]
    at: dt.datetime
    at_s: float | None
    sounded: bool
    wanted: int
    landed: int
    right: int
    response_ms: float | None
    doubt_ms: float


@dataclass(frozen=True, slots=True)
class Burst:
    """The rush at a round's end."""

    strikes: int
    rate_hz: float | None
    force_kept_pct: float | None


def calls_of(take: Take, marks: list[Mark], strikes: list[Strike]) -> list[CallMade]:
    cues = sorted((m for m in marks if m.kind == Mark.Kind.CUE), key=lambda m: m.at)
    at = [at_reference(take.clock, m.at) for m in cues]
    known = [(a, core.cue_parts(m.value)[1]) for a, m in zip(at, cues, strict=True) if a is not None and m.sounded]
    landed = [core.Landed(s.contact_s, s.limb_said) for s in strikes if not s.excluded_reason]
    answers = iter(core.answered(known, landed))
    clock_ms = 1e3 * take.clock["sd_s"] if take.clock else 0.0
    out = []
    for a, mark in zip(at, cues, strict=True):
        answer = next(answers) if a is not None and mark.sounded else core.Answer((), 0, None)
        response = None if answer.response_s is None else 1e3 * answer.response_s
        codes, limbs, _ = core.cue_parts(mark.value)
        out.append(
            CallMade(
                key=mark.key,
                words=mark.words,
                codes=codes,
                at=mark.at,
                at_s=a,
                sounded=mark.sounded,
                wanted=len(limbs),
                landed=len(answer.strikes),
                right=answer.right,
                response_ms=response,
                doubt_ms=float(np.hypot(mark.doubt_ms, clock_ms)),
            )
        )
    return out


def rush_of(take: Take, marks: list[Mark], strikes: list[Strike]) -> Burst | None:
    """What came in the last seconds of the latest round that had a rush."""
    mark = next((m for m in reversed(marks) if m.kind == Mark.Kind.ROUND and m.value == RUSH), None)
    begins = None if mark is None else at_reference(take.clock, mark.at)
    if mark is None or begins is None or mark.until is None:
        return None
    ends = at_reference(take.clock, mark.until)
    own = [s for s in strikes if not s.excluded_reason and ends is not None and begins <= s.contact_s <= ends + 0.5]
    span = own[-1].contact_s - own[0].contact_s if len(own) > 2 else 0.0
    force = [v for s in own if (v := getattr(s, FORCE))]
    kept = 100.0 * float(np.mean(force[-3:]) / np.mean(force[:3])) if len(force) >= 6 else None
    return Burst(len(own), (len(own) - 1) / span if span > 0 else None, kept)
