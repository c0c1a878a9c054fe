"""What a coach does with students."""

import datetime as dt
import re
import unicodedata

from django.db import transaction

from agile_strike.core.errors import BadInput
from agile_strike.gym.models import Gym
from agile_strike.people.models import BodyMass, StanceChange, Student

MASS_KG = (15.0, 300.0)


class BadStudent(BadInput):
    pass


@transaction.atomic
def add_student(
    gym: Gym, name: str, stance: str, birth_date: dt.date | None, mass_kg: float | None, on: dt.date
) -> Student:
    """A new student. Under eighteen, a guardian's consent counts as missing until it is recorded."""
    if not name.strip():
        raise BadStudent("A student needs a name.")
    if stance not in Student.Stance.values:
        raise BadStudent("Stance is orthodox or southpaw.")
    consent = Student.Consent.NOT_NEEDED
    if birth_date is not None:
        if birth_date > on:
            raise BadStudent("The date of birth lies in the future.")
        if age_on(birth_date, on) < 18:
            consent = Student.Consent.MISSING
    student = Student.objects.create(
        gym=gym, name=name.strip(), label=free_label(gym, name), stance=stance, birth_date=birth_date, consent=consent
    )
    StanceChange.objects.create(student=student, since=on, stance=stance)
    if mass_kg is not None:
        weigh(student, mass_kg, on, on)
    return student


def weigh(student: Student, mass_kg: float, on: dt.date, today: dt.date) -> BodyMass:
    """Note body mass on a day; a second figure for the day replaces the first."""
    if on > today:
        raise BadStudent("That day is still to come: note the day on which it was weighed.")
    if not MASS_KG[0] <= mass_kg <= MASS_KG[1]:
        raise BadStudent(f"{mass_kg:g} kg is not a person's mass: give {MASS_KG[0]:g} to {MASS_KG[1]:g} kg.")
    row, _ = BodyMass.objects.update_or_create(student=student, measured_on=on, defaults={"mass_kg": mass_kg})
    return row


@transaction.atomic
def set_stance(student: Student, stance: str, on: dt.date) -> Student:
    """Note a change of stance; a second one on a day replaces the first."""
    if stance not in Student.Stance.values:
        raise BadStudent("Stance is orthodox or southpaw.")
    StanceChange.objects.update_or_create(student=student, since=on, defaults={"stance": stance})
    student.stance = stance
    student.save(update_fields=["stance"])
    return student


def note_consent(student: Student, kept: bool, on: dt.date) -> Student:
    """Note that the guardian's consent is kept at the gym, or that it is missing. Adults need none."""
    if student.birth_date is None or age_on(student.birth_date, on) >= 18:
        raise BadStudent(f"{student.name} needs no guardian's consent.")
    student.consent = Student.Consent.KEPT if kept else Student.Consent.MISSING
    student.save(update_fields=["consent"])
    return student


def age_on(birth_date: dt.date, on: dt.date) -> int:
    return on.year - birth_date.year - ((on.month, on.day) < (birth_date.month, birth_date.day))


def free_label(gym: Gym, name: str) -> str:
    """A label of letters and digits from the first name that no other student of the gym has."""
    plain = unicodedata.normalize("NFKD", name.split()[0]).encode("ascii", "ignore").decode()
    base = re.sub(r"[^A-Za-z0-9]", "", plain).lower()[:30] or "student"
    taken = set(Student.objects.for_gym(gym).filter(label__startswith=base).values_list("label", flat=True))
    return next(label for label in (base, *(f"{base}{i}" for i in range(2, 10_000))) if label not in taken)
