"""What a coach does with notes: write, write anew, take away and back."""

import datetime as dt

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from agile_strike.core.errors import BadInput, ChangedMeanwhile, NotYours
from agile_strike.gym.models import Gym
from agile_strike.logbook.models import Note
from agile_strike.people.models import Earlier, Student


def write(gym: Gym, student: Student | None, day: dt.date, text: str, by: User) -> Note:
    """The same words of the same coach on one day stand once: a tablet whose answer was lost says them again."""
    if day > gym.today:
        raise BadInput("That day is still to come: the log tells what was. Plan holds what is to be.")
    same = Note.objects.filter(gym=gym, student=student, day=day, text=_said(text), by=by, removed_at__isnull=True)
    return same.first() or Note.objects.create(gym=gym, student=student, day=day, text=_said(text), by=by)


def _said(text: str) -> str:
    if not text.strip():
        raise BadInput("Write a few words first.")
    return text.strip()


@transaction.atomic
def reword(gym: Gym, note_id: int, text: str, version: int, by: User) -> Note:
    """Write it anew; what it said is kept. Raises ChangedMeanwhile where another coach wrote."""
    row = _own(gym, note_id)
    if row.version != version:
        raise ChangedMeanwhile("this note", f"it now says “{row.text[:200]}”")
    said = _said(text)
    if said != row.text:
        Earlier.objects.create(gym=gym, student_id=row.student_id, of=Earlier.Of.NOTE, key=row.pk, said=row.text, by=by)
        row.text, row.version = said, row.version + 1
        row.save(update_fields=["text", "version"])
    return row


@transaction.atomic
def remove(gym: Gym, note_id: int, gone: bool) -> Note:
    """Take a note away, or put it back."""
    row = _own(gym, note_id, gone)
    row.removed_at = timezone.now() if gone else None
    row.save(update_fields=["removed_at"])
    return row


def _own(gym: Gym, note_id: int, standing: bool = True) -> Note:
    rows = Note.objects.for_gym(gym) if standing else Note.objects.with_removed_of(gym)
    row = rows.select_for_update(of=("self",)).filter(pk=note_id).first()
    if row is None:
        raise NotYours("note")
    return row
