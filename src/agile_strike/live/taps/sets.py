"""Sets and what is called in them, by the server's clock: told late or twice they give the same."""

import datetime as dt
from dataclasses import dataclass

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from agile_strike.core.errors import BadInput, NotYours
from agile_strike.evening import services as evening
from agile_strike.evening.models import PlannedSet
from agile_strike.gym.models import Gym
from agile_strike.live.models import Mark, Take, new_key
from agile_strike.live.taps.own import own_take
from agile_strike.live.telling.queue import settle_soon
from agile_strike.live.telling.told import tell
from agile_strike.people.services import allow
from agile_strike.trials.services import plan_block

EARLIEST = dt.timedelta(hours=12)  # a tablet that had no network tells of the evening once it is back
LATEST = dt.timedelta(seconds=30)
LAST_OF_ALL = dt.datetime.max.replace(tzinfo=dt.UTC)
LAST_LANDS_S = 2.6  # after a set: its last strike is over, the student back in guard


@dataclass(frozen=True, slots=True, kw_only=True)
class When:
    """An instant that a tablet tells, by the server's clock as far as the tablet knows it."""

    at: dt.datetime
    doubt_ms: float = 0.0
    key: str = ""

    def checked(self, now: dt.datetime) -> dt.datetime:
        """Raises BadInput where the tablet's clock can't be right."""
        if not now - EARLIEST <= self.at <= now + LATEST:
            raise BadInput("The tablet's clock is off. Reload the page, then tap again.")
        return self.at


@dataclass(frozen=True, slots=True, kw_only=True)
class Which:
    """Which set: one that is planned, a trial's block, or one that is said now."""

    planned_id: int | None = None
    block: tuple[int, int] | None = None  #: of a trial, and its place in the evening
    text: evening.SetText | None = None


@transaction.atomic
def begin_set(gym: Gym, take_id: int, what: Which, when: When) -> Mark:
    """A set begins. What ran then ends with it; a second tap is the first. One that comes late ends nothing that was
    begun after it, and ended itself when that began."""
    take = own_take(gym, take_id)
    allow(take.session.student, gym.today)
    if take.ended_at is not None:
        raise BadInput("This student has stepped back from the bag. Tap the name, then begin.")
    again = take.marks.filter(key=when.key).first() if when.key else None
    if again is not None:
        return again
    at = max(when.checked(timezone.now()), take.began_at)
    sets = take.marks.filter(kind=Mark.Kind.SET)
    end_sets(take, at, list(sets.filter(Q(until__isnull=True) | Q(until__gt=at), at__lte=at)))
    later = sets.filter(at__gt=at).order_by("at").first()
    planned = _which(gym, take, what)
    evening.begin(gym, planned.pk, at)
    if later is not None:
        evening.end(gym, planned.pk, later.at)
    planned.refresh_from_db()
    mark = Mark.objects.create(
        take=take,
        kind=Mark.Kind.SET,
        key=when.key or new_key(),
        value=planned.value[:300],
        planned=planned,
        at=at,
        doubt_ms=when.doubt_ms,
        until=None if later is None else later.at,
    )
    tell(gym.pk, take.station_id, "set", take=take.pk)
    return mark


def _which(gym: Gym, take: Take, what: Which) -> PlannedSet:
    if what.block is not None:
        student = take.session.student_id
        planned: PlannedSet | None = plan_block(gym, what.block[0], student, what.block[1], gym.today).planned
    elif what.planned_id is not None:
        planned = PlannedSet.objects.for_gym(gym).filter(pk=what.planned_id, session=take.session).first()
    elif what.text is not None:
        planned = evening.plan(gym, take.session_id, what.text)
    else:
        raise BadInput("Say which set begins.")
    if planned is None:
        raise NotYours("set")
    if planned.ended_at is not None:
        raise BadInput("That set has been thrown. Choose the next, or plan it once more.")
    return planned


@transaction.atomic
def ask_stamps(gym: Gym, take_id: int, now: dt.datetime) -> Take:
    take = own_take(gym, take_id)
    take.stamped_at = now
    take.save(update_fields=["stamped_at"])
    tell(gym.pk, take.station_id, "stamps", take=take.pk)
    return take


@transaction.atomic
def end_set(gym: Gym, take_id: int, when: When, key: str = "") -> Take:
    """The set of that key ends, or without one whichever runs; it is settled. A tap that comes late ends the set that
    it was made for, as of its own instant, and no other. Where there is none nothing changes."""
    take = own_take(gym, take_id)
    at = when.checked(timezone.now())
    sets = take.marks.filter(kind=Mark.Kind.SET)
    ends = sets.filter(Q(until__isnull=True) | Q(until__gt=at), key=key) if key else sets.filter(until__isnull=True)
    if ending := list(ends):
        end_sets(take, at, ending)
        speed = float(take.stream.opening["speed"]) if take.stream else 1.0
        settle_soon(take, LAST_LANDS_S / speed)
        tell(gym.pk, take.station_id, "set", take=take.pk)
    return take


def end_sets(take: Take, at: dt.datetime, ending: list[Mark]) -> None:
    """What they had still to call is called no more, and a round ends with its set."""
    for mark in ending:
        until = mark.until or LAST_OF_ALL
        close(mark, at)
        take.marks.filter(kind=Mark.Kind.CUE, sounded=False, at__gt=at, at__lte=until).delete()
        for round_ in take.marks.filter(kind=Mark.Kind.ROUND, at__gte=mark.at, at__lte=until, until__gt=at):
            round_.until = max(at, round_.at)
            round_.save(update_fields=["until"])


@transaction.atomic
def call(gym: Gym, take_id: int, kind: str, value: str, when: When, until: dt.datetime | None = None) -> Mark:
    """Something was called or sounded. Told twice under one key it counts once."""
    take = own_take(gym, take_id)
    if kind not in (Mark.Kind.CUE, Mark.Kind.ROUND, Mark.Kind.STAMPS):
        raise BadInput("Only a cue, a round or stamps can be called.")
    again = take.marks.filter(key=when.key).first() if when.key else None
    if again is not None:
        return again
    at = when.checked(timezone.now())
    if until is not None and until < at:
        raise BadInput("It ends before it begins: give a later end.")
    mark = Mark.objects.create(
        take=take, kind=kind, key=when.key or new_key(), value=value[:300], at=at, doubt_ms=when.doubt_ms, until=until
    )
    tell(gym.pk, take.station_id, kind, take=take.pk)
    return mark


def close(mark: Mark, at: dt.datetime) -> None:
    mark.until = max(at, mark.at)
    mark.save(update_fields=["until"])
    if mark.planned is not None:
        evening.end(mark.take.station.gym, mark.planned.pk, mark.until)
