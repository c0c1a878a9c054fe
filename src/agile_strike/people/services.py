"""What a coach does with students; what may be done with them; how they stood and what they weighed on a day."""

import datetime as dt
import re
import unicodedata
from itertools import islice

from django.db import IntegrityError, transaction

from agile_strike.core.children import is_child, no_consent
from agile_strike.core.errors import BadInput, ChangedMeanwhile
from agile_strike.gym.models import Gym
from agile_strike.people.models import BodyMass, StanceChange, Student

MASS_KG = (15.0, 300.0)


FIRST_YEAR = 1990


class BadStudent(BadInput):
    pass


class NotAllowed(BadInput):
    """A rule that protects a child stands against it."""


LONGEST_AGE = 120
LABEL_TRIES = 20  # of two coaches who add students of the same name at the same moment


def add_student(
    gym: Gym, name: str, stance: str, birth_date: dt.date | None, mass_kg: float | None, on: dt.date
) -> Student:
    """A new student. Under eighteen, or of unknown age, a guardian's consent counts as missing until it is recorded."""
    if not name.strip():
        raise BadStudent("A student needs a name.")
    if stance not in Student.Stance.values:
        raise BadStudent("Stance is orthodox or southpaw.")
    _check_birth(birth_date, on)
    consent = Student.Consent.MISSING if is_child(age_of(birth_date, on)) else Student.Consent.NOT_NEEDED
    for attempt in range(LABEL_TRIES):
        label = free_label(gym, name, beyond=attempt)
        try:
            with transaction.atomic():
                student = Student.objects.create(
                    gym=gym, name=name.strip(), label=label, stance=stance, birth_date=birth_date, consent=consent
                )
                StanceChange.objects.create(student=student, since=on, stance=stance)
                if mass_kg is not None:
                    weigh(student, mass_kg, on, on)
            return student
        except IntegrityError:
            continue  # another coach took the label in this moment
    raise BadStudent("Too many students of this name are being added at once. Try again.")


def _check_birth(birth_date: dt.date | None, on: dt.date) -> None:
    if birth_date is None:
        return
    if birth_date > on:
        raise BadStudent("The date of birth lies in the future.")
    if age_on(birth_date, on) > LONGEST_AGE:
        raise BadStudent("Nobody is that old: check the date of birth.")


@transaction.atomic
def weigh(student: Student, mass_kg: float, on: dt.date, today: dt.date, was_kg: float | None = None) -> BodyMass:
    """Note body mass on a day. A second figure for the day replaces the first if the coach saw that one (`was_kg`).

    Raises ChangedMeanwhile where another coach noted one that this one has not seen.
    """
    if on > today:
        raise BadStudent("That day is still to come: note the day on which it was weighed.")
    if not MASS_KG[0] <= mass_kg <= MASS_KG[1]:
        raise BadStudent(f"{mass_kg:g} kg is not a person's mass: give {MASS_KG[0]:g} to {MASS_KG[1]:g} kg.")
    if on.year < FIRST_YEAR:
        raise BadStudent("That day is too long ago: note the day on which it was weighed.")
    Student.objects.select_for_update().get(pk=student.pk)
    there = BodyMass.objects.filter(student=student, measured_on=on).first()
    if there is not None and there.mass_kg not in (was_kg, mass_kg):
        raise ChangedMeanwhile("the body mass of that day", f"it is {there.mass_kg:g} kg")
    row, _ = BodyMass.objects.update_or_create(student=student, measured_on=on, defaults={"mass_kg": mass_kg})
    return row


def _seen(student_id: int, version: int) -> Student:
    """The student's row, locked. Raises ChangedMeanwhile if it is no longer what a coach saw."""
    row = Student.objects.select_for_update().get(pk=student_id)
    if row.version != version:
        now = f"{row.stance}, consent {row.consent.replace('_', ' ')}, born {row.birth_date or 'not noted'}"
        raise ChangedMeanwhile(f"{row.name}'s page", f"now {now}")
    return row


@transaction.atomic
def set_stance(student: Student, stance: str, on: dt.date, version: int) -> Student:
    """Note a change of stance; a second one on a day replaces the first."""
    if stance not in Student.Stance.values:
        raise BadStudent("Stance is orthodox or southpaw.")
    row = _seen(student.pk, version)
    StanceChange.objects.update_or_create(student=row, since=on, defaults={"stance": stance})
    row.stance, row.version = stance, row.version + 1
    row.save(update_fields=["stance", "version"])
    return row


@transaction.atomic
def note_birth(student: Student, birth_date: dt.date, on: dt.date, version: int) -> Student:
    """Note a date of birth. An adult needs no consent; a child whose consent is kept keeps it."""
    _check_birth(birth_date, on)
    row = _seen(student.pk, version)
    row.birth_date = birth_date
    if not is_child(age_on(birth_date, on)):
        row.consent = Student.Consent.NOT_NEEDED
    elif row.consent == Student.Consent.NOT_NEEDED:
        row.consent = Student.Consent.MISSING
    row.version += 1
    row.save(update_fields=["birth_date", "consent", "version"])
    return row


@transaction.atomic
def note_consent(student: Student, consent: str, on: dt.date, version: int) -> Student:
    """Note that the guardian's consent is kept at the gym, missing, or withdrawn. Adults need none."""
    if not is_child(age_of(student.birth_date, on)):
        raise BadStudent(f"{student.name} needs no guardian's consent.")
    if consent not in (Student.Consent.KEPT, Student.Consent.MISSING, Student.Consent.WITHDRAWN):
        raise BadStudent("A guardian's consent is kept, missing or withdrawn.")
    row = _seen(student.pk, version)
    row.consent, row.version = Student.Consent(consent), row.version + 1
    row.save(update_fields=["consent", "version"])
    return row


@transaction.atomic
def note_left(student: Student, left: bool, on: dt.date, version: int) -> Student:
    """Note that a student trains here no more, or does again. Only the lists of an evening leave them out."""
    row = _seen(student.pk, version)
    row.left_on, row.version = (row.left_on or on) if left else None, row.version + 1
    row.save(update_fields=["left_on", "version"])
    return row


def allow(student: Student, on: dt.date) -> None:
    """Raises NotAllowed where nothing may be recorded of this student or handed out."""
    if why := no_consent(student.name, age_of(student.birth_date, on), student.consent):
        raise NotAllowed(why)


def mass_on(student: Student, day: dt.date) -> float | None:
    """Body mass as it was last noted by a day, else as it was first noted after it."""
    masses = sorted(student.masses.all(), key=lambda m: m.measured_on)
    before = [m for m in masses if m.measured_on <= day]
    found = before[-1] if before else masses[0] if masses else None
    return found.mass_kg if found else None


def stance_on(student: Student, day: dt.date) -> str:
    """How the student stood on a day, by the changes that were noted; the first of them holds for all before it too."""
    changes = sorted(student.stances.all(), key=lambda c: c.since)
    before = [c for c in changes if c.since <= day]
    return (before[-1] if before else changes[0]).stance if changes else student.stance


def age_of(birth_date: dt.date | None, on: dt.date) -> int | None:
    return None if birth_date is None else age_on(birth_date, on)


def age_on(birth_date: dt.date, on: dt.date) -> int:
    return on.year - birth_date.year - ((on.month, on.day) < (birth_date.month, birth_date.day))


def free_label(gym: Gym, name: str, beyond: int = 0) -> str:
    """A label of letters and digits from the first name that no other student has; `beyond` skips as many."""
    plain = unicodedata.normalize("NFKD", name.split()[0]).encode("ascii", "ignore").decode()
    base = re.sub(r"[^A-Za-z0-9]", "", plain).lower()[:30] or "student"
    known = Student.objects.with_removed_of(gym).filter(label__startswith=base)
    taken = set(known.values_list("label", flat=True))
    free = (label for label in (base, *(f"{base}{i}" for i in range(2, 100_000))) if label not in taken)
    return next(islice(free, beyond, None))
