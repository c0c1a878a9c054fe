"""Injuries, breaks and the like: noted, over, taken back."""

import datetime as dt

from django.contrib.auth.models import User
from django.db import transaction

from agile_strike.core.errors import BadInput, NotYours
from agile_strike.gym.models import Gym
from agile_strike.people.models import Earlier, Mark, Student


@transaction.atomic
def add(student: Student, kind: str, since: dt.date, until: dt.date | None, text: str, by: User) -> Mark:
    """Said twice it stands once: a tablet whose answer was lost says it again."""
    if kind not in Mark.Kind.values:
        raise BadInput("A mark is an injury, a break or something other.")
    if not text.strip():
        raise BadInput("Say in a few words what happened.")
    _forward(since, until)
    Student.objects.select_for_update(of=("self",), no_key=True).get(pk=student.pk)
    same = student.marks.filter(kind=kind, since=since, until=until, text=text.strip()[:200]).first()
    if same is not None:
        return same
    return Mark.objects.create(student=student, kind=kind, since=since, until=until, text=text.strip()[:200], by=by)


def _forward(since: dt.date, until: dt.date | None) -> None:
    if until is not None and until < since:
        raise BadInput("It can't be over before it began.")


@transaction.atomic
def over(gym: Gym, mark_id: int, until: dt.date | None, by: User) -> Mark:
    """Note the last day of it; None: it is not over after all."""
    row = Mark.objects.for_gym(gym).select_for_update(of=("self",)).filter(pk=mark_id).first()
    if row is None:
        raise NotYours("mark")
    _forward(row.since, until)
    if row.until != until:
        was = f"{row.text}, {f'over on {row.until}' if row.until else 'not over'}"
        Earlier.objects.create(gym=gym, student_id=row.student_id, of=Earlier.Of.MARK, key=row.pk, said=was, by=by)
        row.until = until
        row.save(update_fields=["until"])
    return row


def remove(gym: Gym, mark_id: int) -> int:
    return Mark.objects.for_gym(gym).filter(pk=mark_id).delete()[0]
