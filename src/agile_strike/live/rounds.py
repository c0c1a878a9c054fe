"""A round with calls: planned by the server when it begins, sounded by the tablet, told apart from what came of it."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from django.db import transaction
from django.utils import timezone

from agile_strike.core.children import is_child
from agile_strike.core.errors import BadInput
from agile_strike.core.sets import calls as core
from agile_strike.evening import services as evening
from agile_strike.gym.models import Gym
from agile_strike.live.models import Mark, Take, new_key
from agile_strike.live.reference import at_reference
from agile_strike.live.services import When, Which, begin_set, own_take
from agile_strike.live.told import tell
from agile_strike.people.services import age_of
from agile_strike.playbook.services import call_words
from agile_strike.review.models import Strike

LEAD = dt.timedelta(seconds=4)  # between the tap and the round, in which the tablet fetches what to say
LONGEST_S, SHORTEST_S = 300.0, 15.0
CHILD_S = 90.0  # a round of a child's: short, and no rush
RUSH = "rush"
FORCE = "impulse_n_s"  # that is to be kept: every bag that weighs something gives it
MOST_DOUBT_MS = 500.0


@dataclass(frozen=True, slots=True)
class Sounded:
    """When a cue was heard, by the server's clock."""

    key: str
    at: dt.datetime
    doubt_ms: float


@transaction.atomic
def begin_round(gym: Gym, take_id: int, plan: core.Round, when: When) -> Mark:
    """A round begins in some seconds; the mark of its set. Its calls are planned at once, and count when they sound."""
    take = own_take(gym, take_id)
    if when.key and (again := take.marks.filter(key=when.key).first()) is not None:
        return again  # its calls are planned
    student = take.session.student
    if not SHORTEST_S <= plan.length_s <= LONGEST_S:
        raise BadInput(f"A round lasts {SHORTEST_S:g} to {LONGEST_S:g} seconds.")
    if not (0.8 <= plan.gap_s <= 15.0 and 0.8 <= plan.last_gap_s <= 15.0):
        raise BadInput("Leave 0.8 to 15 seconds between calls.")
    if is_child(age_of(student.birth_date, gym.today)) and (plan.rush or plan.length_s > CHILD_S):
        raise BadInput(f"A child's round lasts {CHILD_S:g} seconds at most, and has no rush at its end.")
    planned = core.schedule(plan, call_words(gym), np.random.default_rng())
    text = evening.SetText(code=core.CALLED)
    mark = begin_set(gym, take_id, Which(text=text), when)
    starts = max(timezone.now(), mark.at) + LEAD
    until = starts + dt.timedelta(seconds=plan.length_s)
    Mark.objects.create(take=take, kind=Mark.Kind.ROUND, key=new_key(), value="", at=starts, until=until)
    if plan.rush:
        begins = until - dt.timedelta(seconds=core.RUSH_S)
        Mark.objects.create(take=take, kind=Mark.Kind.ROUND, key=new_key(), value=RUSH, at=begins, until=until)
    Mark.objects.bulk_create(
        Mark(
            take=take,
            kind=Mark.Kind.CUE,
            key=new_key(),
            value=core.cue_value(c.codes, [core.limb_of(code, student.stance) for code in c.codes], c.level),
            words=" ".join(c.words),
            at=starts + dt.timedelta(seconds=c.at_s),
            doubt_ms=when.doubt_ms,
            sounded=False,
        )
        for c in planned
    )
    tell(gym.pk, take.station_id, "round", take=take.pk)
    return mark


@transaction.atomic
def sounded(gym: Gym, take_id: int, heard: Iterable[Sounded]) -> int:
    """Cues that were heard, and when. Told twice they count once."""
    take = own_take(gym, take_id)
    told = {s.key: s for s in heard}
    rows = list(take.marks.filter(kind=Mark.Kind.CUE, key__in=told))
    for row in rows:
        row.at, row.doubt_ms = told[row.key].at, min(told[row.key].doubt_ms, MOST_DOUBT_MS)
        row.sounded = True
    return Mark.objects.bulk_update(rows, ["at", "doubt_ms", "sounded"])


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
