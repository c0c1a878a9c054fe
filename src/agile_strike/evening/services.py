"""What a coach does with an evening: make it, note what it is like, plan its sets."""

import datetime as dt
from dataclasses import dataclass, field, replace

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max

from agile_strike.core.children import MOST_STRIKES as MOST_OF_A_CHILD
from agile_strike.core.children import is_child
from agile_strike.core.errors import BadInput, ChangedMeanwhile, NotYours
from agile_strike.core.sets import volume
from agile_strike.core.sets.calls import limb_of
from agile_strike.core.strikes import LIMBS
from agile_strike.core.vocabulary import EFFORT, EFFORTS, RESERVED, STRIKE_CODES
from agile_strike.evening.models import PlannedSet, Session, Volume
from agile_strike.gym.models import Gym
from agile_strike.people.models import Earlier, Student
from agile_strike.people.services import age_of, allow
from agile_strike.playbook import entries
from agile_strike.playbook.models import School
from agile_strike.playbook.strikes import code_of

LEVELS = ("", "head", "body", "low")
LONGEST_LEVEL, MOST_LEVELS, MOST_SETS, MOST_STRIKES = 80, 12, 60, 1000
FARTHEST_AHEAD = dt.timedelta(days=366)


def evening_of(student: Student, day: dt.date) -> Session:
    """The student's evening on a day, made where there is none yet."""
    return Session.objects.get_or_create(student=student, day=day)[0]


def start(gym: Gym, student: Student, day: dt.date) -> Session:
    """An evening before anything is recorded in it; the one that is there already where there is one."""
    allow(student, gym.today)
    if day > gym.today + FARTHEST_AHEAD:
        raise BadInput("That evening lies more than a year ahead.")
    return evening_of(student, day)


@dataclass(frozen=True, slots=True, kw_only=True)
class EveningText:
    """What a coach notes of an evening."""

    gear: str = ""
    soreness: str = ""
    notes: str = ""


@transaction.atomic
def note(gym: Gym, session_id: int, text: EveningText, version: int, by: User) -> Session:
    """Write it over what was noted, which is kept; refused where another coach wrote meanwhile."""
    row = own(gym, session_id)
    was = "; ".join(filter(None, (row.gear, f"sore: {row.soreness}" if row.soreness else "", row.notes)))
    if row.version != version:
        raise ChangedMeanwhile("this evening", f"it now says “{was[:200] or 'nothing'}”")
    now = (text.gear.strip(), text.soreness.strip(), text.notes.strip())
    if now != (row.gear, row.soreness, row.notes):
        Earlier.objects.create(gym=gym, student_id=row.student_id, of=Earlier.Of.EVENING, key=row.pk, said=was, by=by)
    row.gear, row.soreness, row.notes = now
    row.version += 1
    row.save(update_fields=["gear", "soreness", "notes", "version"])
    return row


@transaction.atomic
def look(gym: Gym, session_id: int, point: str, good: bool | None) -> None:
    """What the coach saw of a point of the set-up check; None takes it back."""
    session = own(gym, session_id)
    if good is None:
        session.looked.filter(point=point).delete()
        return
    known = entries.points(gym).get(point)
    if known is None:
        raise NotYours("point of the set-up check")
    session.looked.update_or_create(point=point, defaults={"name": known.name, "good": good})


@transaction.atomic
def drill(gym: Gym, session_id: int, key: str, on: bool) -> None:
    """A drill was worked on, or was not after all."""
    session = own(gym, session_id)
    if not on:
        session.drilled.filter(drill=key).delete()
        return
    ladder = entries.ladders(gym).get(key)
    if ladder is None:
        raise NotYours("drill")
    if is_child(age_of(session.student.birth_date, gym.today)) and not ladder.children:
        raise BadInput(f"{ladder.name} is not for a child. Choose another drill.")
    session.drilled.get_or_create(drill=key, defaults={"name": ladder.name})


@dataclass(frozen=True, slots=True, kw_only=True)
class SetText:
    """What is to be thrown in a set."""

    code: str
    limb: str = ""
    level: str = ""
    levels: dict[str, str] = field(default_factory=dict)
    school_id: int | None = None
    strikes: int | None = None
    gear: str = ""


def said(gym: Gym, text: SetText) -> SetText:
    """What a coach says of a set, its strike by the code that this gym knows it under. Raises BadInput where it knows
    none: only recordings bring strikes along that nobody added."""
    return replace(text, code=code_of(gym, text.code)) if text.code.strip() else text


def checked(gym: Gym, text: SetText) -> SetText:
    """Raises BadInput where a set can't be said so."""
    if not text.code.strip():
        raise BadInput("Say which strike it is, as rear straight.")
    code = text.code.strip()
    if any(sign in code for sign in RESERVED[:2]):
        raise BadInput("Leave ; and , out of a strike's name: recordings use them between words.")
    if text.limb and text.limb not in LIMBS:
        known = ", ".join(limb.replace("_", " ") for limb in LIMBS)
        raise BadInput(f"{text.limb[:40]} is no limb. Choose one of {known}.")
    if text.level not in LEVELS:
        raise BadInput("Height is head, body or low.")
    if len(text.levels) > MOST_LEVELS or any(len(w) > LONGEST_LEVEL for pair in text.levels.items() for w in pair):
        raise BadInput(f"Give at most {MOST_LEVELS} levels, of at most {LONGEST_LEVEL} letters each.")
    if text.school_id is not None and not School.objects.for_gym(gym).filter(pk=text.school_id).exists():
        raise NotYours("school")
    if text.strikes is not None and not 1 <= text.strikes <= MOST_STRIKES:
        raise BadInput("Plan 1 to 1,000 strikes in a set.")
    return SetText(
        code=code[:60],
        limb=text.limb,
        level=text.level,
        levels=text.levels,
        school_id=text.school_id,
        strikes=text.strikes,
        gear=text.gear.strip()[:80],
    )


@transaction.atomic
def plan(gym: Gym, session_id: int, text: SetText) -> PlannedSet:
    """A set more, at the end of the evening."""
    session = own(gym, session_id)
    allow(session.student, gym.today)
    text = checked(gym, text)
    if not text.limb and text.code in STRIKE_CODES:
        text = replace(text, limb=limb_of(text.code, session.student.stance))
    if any(sign in w for pair in text.levels.items() for w in pair for sign in RESERVED):
        raise BadInput(f"Leave {' '.join(RESERVED)} out of what is changed and of its levels: recordings use them.")
    last = session.planned.aggregate(last=Max("place"))["last"]
    if last is not None and last + 1 >= MOST_SETS:
        raise BadInput(f"An evening holds at most {MOST_SETS} sets.")
    return PlannedSet.objects.create(
        session=session,
        place=0 if last is None else last + 1,
        code=text.code,
        limb=text.limb,
        level=text.level,
        levels=text.levels,
        school_id=text.school_id,
        strikes=text.strikes,
        gear=text.gear,
    )


@transaction.atomic
def plan_ramp(gym: Gym, session_id: int, code: str, limb: str = "", strikes: int = 3) -> list[PlannedSet]:
    """Light, half and three-quarter, before any full strike: first of what has not begun."""
    made = [
        plan(gym, session_id, SetText(code=code, limb=limb, levels={EFFORT: effort}, strikes=strikes))
        for effort in EFFORTS
    ]
    for row in reversed(made):
        move(gym, row.pk, 0)
    return made


@transaction.atomic
def count(gym: Gym, session_id: int, family: str, total: int, size: int) -> Volume:
    """A total of one family of strikes to be chipped off; where it is counted already, another total."""
    session = own(gym, session_id)
    student = session.student
    allow(student, gym.today)
    if f"lead-{family}" not in STRIKE_CODES:
        raise BadInput(f"{family[:40] or 'Nothing'} is no strike that is thrown from both sides, as round or straight.")
    if not 1 <= total <= volume.MOST:
        raise BadInput(f"Count 1 to {volume.MOST} strikes an evening.")
    if size not in volume.SET_SIZES:
        raise BadInput(f"Count them in sets of {', '.join(map(str, volume.SET_SIZES))}.")
    if is_child(age_of(student.birth_date, gym.today)) and total > MOST_OF_A_CHILD:
        raise BadInput(f"{total} are too many for a child. Count at most {MOST_OF_A_CHILD}, and look at each.")
    return Volume.objects.update_or_create(session=session, family=family, defaults={"total": total, "size": size})[0]


@transaction.atomic
def uncount(gym: Gym, volume_id: int) -> int:
    row = Volume.objects.for_gym(gym).filter(pk=volume_id).first()
    if row is None:
        raise NotYours("count")
    return row.delete()[0]


@transaction.atomic
def move(gym: Gym, planned_id: int, place: int) -> list[PlannedSet]:
    """Put a planned set elsewhere among those of its evening that have not begun; they in their new order."""
    row = _set(gym, planned_id)
    if row.began_at is not None:
        raise BadInput("That set has begun: it stays where it is.")
    coming = list(row.session.planned.select_for_update().filter(began_at__isnull=True).order_by("place", "pk"))
    places = sorted(s.place for s in coming)
    coming = [s for s in coming if s.pk != row.pk]
    coming.insert(max(0, min(place, len(coming))), row)
    for at, one in zip(places, coming, strict=True):
        one.place = at
    PlannedSet.objects.bulk_update(coming, ["place"])
    return coming


@transaction.atomic
def came(gym: Gym, student: Student, day: dt.date, here: bool) -> Session:
    """Whether a student is here on a day."""
    allow(student, gym.today)
    row = Session.objects.select_for_update().get(pk=evening_of(student, day).pk)
    if row.here != here:
        row.here = here
        row.save(update_fields=["here"])
    return row


@transaction.atomic
def drop(gym: Gym, planned_id: int) -> int:
    """Take a planned set back. What was thrown in it stays, as a set of its own."""
    row = _set(gym, planned_id)
    return row.delete()[0]


@transaction.atomic
def begin(gym: Gym, planned_id: int, now: dt.datetime) -> PlannedSet:
    """The student begins a set; one that is still open ends with it. A second tap never moves a beginning."""
    row = _set(gym, planned_id)
    allow(row.session.student, gym.today)
    if row.began_at is None:
        end_open(row.session, now)
        row.began_at = now
        row.save(update_fields=["began_at"])
    return row


@transaction.atomic
def end(gym: Gym, planned_id: int, now: dt.datetime) -> PlannedSet:
    row = _set(gym, planned_id)
    if row.began_at is None:
        raise BadInput("That set has not begun.")
    if row.ended_at is None or now < row.ended_at:  # a tap may come after what it came before
        row.ended_at = max(now, row.began_at + dt.timedelta(seconds=1))
        row.save(update_fields=["ended_at"])
    return row


def end_open(session: Session, now: dt.datetime) -> None:
    """What is still running in an evening ends."""
    for row in session.planned.select_for_update().filter(began_at__isnull=False, ended_at__isnull=True):
        assert row.began_at is not None
        row.ended_at = max(now, row.began_at + dt.timedelta(seconds=1))
        row.save(update_fields=["ended_at"])


def own(gym: Gym, session_id: int) -> Session:
    """The evening's row, locked."""
    rows = Session.objects.for_gym(gym).select_for_update(of=("self",)).select_related("student")
    row = rows.filter(pk=session_id).first()
    if row is None:
        raise NotYours("evening")
    return row


def _set(gym: Gym, planned_id: int) -> PlannedSet:
    rows = PlannedSet.objects.for_gym(gym).select_for_update(of=("self",)).select_related("session__student")
    row = rows.filter(pk=planned_id).first()
    if row is None:
        raise NotYours("set")
    return row
