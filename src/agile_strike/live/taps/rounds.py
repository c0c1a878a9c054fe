"""A round with calls: planned by the server when it begins, sounded by the tablet."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from django.db import transaction
from django.utils import timezone

from agile_strike.core.children import is_child
from agile_strike.core.errors import BadInput
from agile_strike.core.sets import calls as core
from agile_strike.evening import services as evening
from agile_strike.gym.models import Gym
from agile_strike.live.models import Mark, new_key
from agile_strike.live.taps.own import own_take
from agile_strike.live.taps.sets import When, Which, begin_set
from agile_strike.live.telling.told import tell
from agile_strike.people.services import age_of
from agile_strike.playbook.services import call_words

LEAD = dt.timedelta(seconds=4)  # between the tap and the round, in which the tablet fetches what to say
LONGEST_S, SHORTEST_S = 300.0, 15.0
CHILD_S = 90.0  # a round of a child's: short, and no rush
RUSH = "rush"
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
    # a tap that waited for the server: what is called can't have been heard, so the round begins now
    when = replace(when, at=max(when.at, timezone.now() - LEAD))
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
