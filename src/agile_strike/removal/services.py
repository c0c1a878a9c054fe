"""What a coach does with what is no longer wanted: remove it, take that back, or erase a person for good.

What is removed is only out of sight, with all that hangs on it. A person who is erased is gone with every sample.
"""

import datetime as dt
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models import Model, Q
from django.utils import timezone
from procrastinate.contrib.django import app as queue
from procrastinate.contrib.django.models import ProcrastinateJob

from agile_strike.archive.services import forget_all
from agile_strike.capture.models import Recording, StoredFile, Upload
from agile_strike.core.errors import BadInput, NotYours
from agile_strike.gym.database import take_time
from agile_strike.gym.models import Gym
from agile_strike.intake.models import ForeignFile, Reanalysis
from agile_strike.intake.sweep import JOBS
from agile_strike.kit.models import Bag
from agile_strike.live.taps.takes import forget
from agile_strike.people.models import Student
from agile_strike.playbook.models import School
from agile_strike.trials.compare import refresh
from agile_strike.trials.models import Claim, ClaimPage, Trial

LONGEST_S = 60.0  # that all samples of a person take to go, on a busy machine
KINDS: dict[str, type[Model]] = {
    "student": Student,
    "recording": Recording,
    "bag": Bag,
    "school": School,
    "trial": Trial,
}


@dataclass(frozen=True, slots=True)
class Removed:
    """Something that was removed and can be taken back."""

    kind: str
    id: int
    name: str
    removed_at: dt.datetime


def remove(gym: Gym, kind: str, key: int) -> Removed:
    """Take something out of sight, with all that hangs on it. Removing it twice is removing it once."""
    return _set(gym, kind, key, timezone.now())


def take_back(gym: Gym, kind: str, key: int) -> Removed:
    """Put something that was removed where it was."""
    return _set(gym, kind, key, None)


def _set(gym: Gym, kind: str, key: int, at: dt.datetime | None) -> Removed:
    model = _model(kind)
    with transaction.atomic():
        row = model._default_manager.with_removed_of(gym).select_for_update(of=("self",)).filter(pk=key).first()  # type: ignore[attr-defined]
        if row is None:
            raise NotYours(kind)
        was = row.removed_at or timezone.now()
        if (row.removed_at is None) != (at is None):
            row.removed_at = at
            row.save(update_fields=["removed_at"])
    refresh(_touched(row))
    return Removed(kind, row.pk, _name(row), at or was)


def removed(gym: Gym) -> list[Removed]:
    """All that can be taken back, the latest first."""
    out = [
        Removed(kind, row.pk, _name(row), row.removed_at)
        for kind, model in KINDS.items()
        for row in _with_student(model._default_manager.with_removed_of(gym).filter(removed_at__isnull=False), kind)  # type: ignore[attr-defined]
    ]
    return sorted(out, key=lambda r: r.removed_at, reverse=True)


def _with_student(rows: Any, kind: str) -> Any:
    return rows.select_related("student", "gym") if kind == "recording" else rows


def _model(kind: str) -> type[Model]:
    if kind not in KINDS:
        raise BadInput(f"{kind[:40]} is nothing that can be removed: choose one of {', '.join(KINDS)}.")
    return KINDS[kind]


def _name(row: Any) -> str:
    if isinstance(row, Recording):
        return f"{row.student.name}, {row.task}, {row.gym.day(row.acquired_at)}"
    return str(row)


def _touched(row: Any) -> set[int]:
    """Students whose claims rest on it."""
    if isinstance(row, Student):
        return {row.pk}
    if isinstance(row, Recording):
        return {row.student_id}
    return set()


@transaction.atomic
def erase(gym: Gym, student_id: int, name: str) -> None:
    """Erase a person for good: samples, strikes, notes, shared claims, waiting files, and what the queue holds.

    The coach types the name, so that no slip of a finger does it.
    """
    student = asked_by_name(gym, student_id, name, "erase")
    without_files(gym, student)
    shared = list(Trial.objects.filter(students=student).values_list("pk", flat=True))
    for kind in (Claim, ClaimPage):  # pooled ones show every strike of everybody
        kind.objects.filter(trial__in=shared).delete()
    forget(student)
    student.delete()
    Trial.objects.filter(pk__in=shared, students__isnull=True).delete()
    forget_all(gym)


def asked_by_name(gym: Gym, student_id: int, name: str, deed: str) -> Student:
    """The student, to be dealt with for good, where the name was typed as it stands."""
    student = Student.objects.with_removed_of(gym).select_for_update().filter(pk=student_id).first()
    if student is None:
        raise NotYours("student")
    if name.strip() != student.name:
        raise BadInput(f"To {deed} {student.name} for good, type the name as it stands here.")
    take_time(LONGEST_S)
    return student


def without_files(gym: Gym, student: Student) -> None:
    """What was brought for a person and waits, what the queue holds of it, and what was said of its import."""
    recordings = set(Recording.objects.filter(student=student).values_list("pk", flat=True))
    uploads = Upload.objects.filter(Q(student=student) | Q(recordings__in=recordings)).distinct()
    tables = ForeignFile.objects.filter(student=student)
    _out_of_the_queue(Upload, set(uploads.values_list("pk", flat=True)))
    _out_of_the_queue(ForeignFile, set(tables.values_list("pk", flat=True)))
    _out_of_reanalyses(gym, recordings)
    files = set(uploads.values_list("file_id", flat=True)) | set(tables.values_list("file_id", flat=True))
    files |= set(tables.values_list("columns_id", flat=True))
    StoredFile.objects.filter(pk__in=[f for f in files if f is not None]).delete()
    tables.delete()
    Upload.objects.filter(pk__in=[u.pk for u in uploads]).delete()


def _out_of_the_queue(model: Any, keys: set[int]) -> None:
    task, argument = JOBS[model]
    for job in ProcrastinateJob.objects.filter(task_name=task).values_list("pk", "args"):
        if job[1].get(argument) in keys:
            queue.job_manager.cancel_job_by_id(job[0], abort=True, delete_job=True)


def _out_of_reanalyses(gym: Gym, recordings: set[int]) -> None:
    for row in Reanalysis.objects.filter(gym=gym):
        if not recordings & set(row.recordings):
            continue
        row.recordings = [r for r in row.recordings if r not in recordings]
        row.results = [r for r in row.results if r["recording_id"] not in recordings]
        row.save(update_fields=["recordings", "results"])
