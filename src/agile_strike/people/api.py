"""Students: who they are, what they weigh, how they stand, what they may."""

import datetime as dt
from typing import Any, cast

from django.db.models import Count, Max, Prefetch, Q, QuerySet
from django.http import HttpRequest
from ninja import Router, Schema, Status
from pydantic import Field

from agile_strike.core.children import is_child, no_consent
from agile_strike.gym.asking import found, gym, user
from agile_strike.gym.bodies import Changed, Day, In, Line, Name, Problem, Version, Word
from agile_strike.people import marks, services
from agile_strike.people.models import BodyMass, Student

router = Router()


class MassOut(Schema):
    measured_on: dt.date
    mass_kg: float


class StanceOut(Schema):
    since: dt.date
    stance: str


class StudentOut(Schema):
    id: int
    name: str
    label: str
    stance: str
    birth_date: dt.date | None
    age: int | None
    consent: str
    counts_as_child: bool  #: under age, or nobody noted the date of birth
    stopped: str  #: why nothing may be recorded or handed out; empty where nothing stands against it
    left_on: dt.date | None  #: trains here no more since
    version: int
    mass_kg: float | None
    recordings: int
    last_recording: dt.datetime | None

    @staticmethod
    def resolve_age(row: Student) -> int | None:
        return services.age_of(row.birth_date, row.gym.today)

    @staticmethod
    def resolve_counts_as_child(row: Student) -> bool:
        return is_child(StudentOut.resolve_age(row))

    @staticmethod
    def resolve_stopped(row: Student) -> str:
        return no_consent(row.name, StudentOut.resolve_age(row), row.consent) or ""

    @staticmethod
    def resolve_mass_kg(row: Student) -> float | None:
        return max(row.masses.all(), key=lambda m: m.measured_on).mass_kg if row.masses.all() else None

    @staticmethod
    def resolve_recordings(row: Any) -> int:
        return cast(int, row.recording_count)

    @staticmethod
    def resolve_last_recording(row: Any) -> dt.datetime | None:
        return cast("dt.datetime | None", row.last_at)


class StudentPage(StudentOut):
    masses: list[MassOut]
    stances: list[StanceOut]


class StudentIn(In):
    name: Name
    stance: Line
    birth_date: Day | None = None
    mass_kg: float | None = None


class StanceIn(In):
    stance: Line
    version: Version


class ConsentIn(In):
    consent: Line  #: kept, missing or withdrawn
    version: Version


class LeftIn(In):
    left: bool
    version: Version


class BirthIn(In):
    birth_date: Day
    version: Version


class MassIn(In):
    measured_on: Day
    mass_kg: float
    was_kg: float | None = None  #: what the page showed for that day, where it showed anything


class MarkIn(In):
    kind: Word
    since: Day
    until: Day | None = None
    text: Line = Field(max_length=200)


class OverIn(In):
    until: Day | None  #: its last day; none: it is not over after all


STANDING = Q(recordings__removed_at__isnull=True)


def shown(request: HttpRequest) -> "QuerySet[Student]":
    """The gym's students with all that a page shows of them."""
    rows = Student.objects.for_gym(gym(request)).select_related("gym")
    counted = rows.annotate(
        recording_count=Count("recordings", filter=STANDING), last_at=Max("recordings__acquired_at", filter=STANDING)
    )
    counted = counted.order_by("name", "pk")  # counting drops the order of the model
    return counted.prefetch_related("stances", Prefetch("masses", queryset=BodyMass.objects.order_by("measured_on")))


@router.get("/students", response=list[StudentOut])
def students(request: HttpRequest) -> "QuerySet[Student]":
    return shown(request)


@router.post("/students", response={201: StudentPage, 422: Problem})
def add_student(request: HttpRequest, student: StudentIn) -> Any:
    own = gym(request)
    row = services.add_student(own, student.name, student.stance, student.birth_date, student.mass_kg, own.today)
    return Status(201, shown(request).get(pk=row.pk))


@router.get("/students/{student_id}", response=StudentPage)
def student(request: HttpRequest, student_id: int) -> Student:
    return found(shown(request), student_id, "student")


@router.post("/students/{student_id}/masses", response={200: StudentPage, 422: Problem, 409: Problem})
def add_mass(request: HttpRequest, student_id: int, mass: MassIn) -> Student:
    row = found(shown(request), student_id, "student")
    services.weigh(row, mass.mass_kg, mass.measured_on, row.gym.today, mass.was_kg)
    return shown(request).get(pk=student_id)


@router.post("/students/{student_id}/stance", response={200: StudentPage, 422: Problem, 409: Problem})
def change_stance(request: HttpRequest, student_id: int, stance: StanceIn) -> Student:
    row = found(shown(request), student_id, "student")
    services.set_stance(row, stance.stance, row.gym.today, stance.version)
    return shown(request).get(pk=student_id)


@router.post("/students/{student_id}/consent", response={200: StudentPage, 422: Problem, 409: Problem})
def note_consent(request: HttpRequest, student_id: int, consent: ConsentIn) -> Student:
    row = found(shown(request), student_id, "student")
    services.note_consent(row, consent.consent, row.gym.today, consent.version)
    return shown(request).get(pk=student_id)


@router.post("/students/{student_id}/birth-date", response={200: StudentPage, 422: Problem, 409: Problem})
def note_birth(request: HttpRequest, student_id: int, birth: BirthIn) -> Student:
    row = found(shown(request), student_id, "student")
    services.note_birth(row, birth.birth_date, row.gym.today, birth.version)
    return shown(request).get(pk=student_id)


@router.post("/students/{student_id}/left", response={200: StudentPage, 422: Problem, 409: Problem})
def note_left(request: HttpRequest, student_id: int, what: LeftIn) -> Student:
    row = found(shown(request), student_id, "student")
    services.note_left(row, what.left, row.gym.today, what.version)
    return shown(request).get(pk=student_id)


@router.post("/students/{student_id}/marks", response={200: Changed, 422: Problem})
def add_mark(request: HttpRequest, student_id: int, mark: MarkIn) -> Changed:
    who = found(Student.objects.for_gym(gym(request)), student_id, "student")
    return Changed(changed=marks.add(who, mark.kind, mark.since, mark.until, mark.text, user(request)).pk)


@router.post("/marks/{mark_id}/over", response={200: Changed, 422: Problem})
def mark_over(request: HttpRequest, mark_id: int, what: OverIn) -> Changed:
    return Changed(changed=marks.over(gym(request), mark_id, what.until, user(request)).pk)


@router.delete("/marks/{mark_id}", response=Changed)
def remove_mark(request: HttpRequest, mark_id: int) -> Changed:
    return Changed(changed=marks.remove(gym(request), mark_id))
