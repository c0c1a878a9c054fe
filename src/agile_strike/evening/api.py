"""A student's evenings: made, noted, their sets planned."""

import datetime as dt
from typing import Any

from django.db.models import QuerySet
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema, Status
from pydantic import Field

from agile_strike.evening import services
from agile_strike.evening.models import PlannedSet, Session
from agile_strike.gym.asking import found, gym, user
from agile_strike.gym.bodies import Changed, Count, Day, Id, In, Line, Problem, Text, Version, Word
from agile_strike.people.models import Student

router = Router()


class EveningRow(Schema):
    id: int
    student_id: int
    day: dt.date
    gear: str
    soreness: str
    notes: str
    version: int


class EveningIn(In):
    day: Day


class EveningNotesIn(In):
    gear: Word = ""
    soreness: Line = Field("", max_length=300)
    notes: Text = Field("", max_length=4000)
    version: Version


class LookedIn(In):
    point: Word
    good: bool | None  #: none takes it back


class DrilledIn(In):
    drill: Word
    on: bool


class PlannedOut(Schema):
    id: int
    key: str
    place: int
    code: str
    limb: str
    level: str
    levels: dict[str, str]
    school_id: int | None
    school: str
    strikes: int | None
    gear: str
    began_at: dt.datetime | None
    ended_at: dt.datetime | None
    trial: int | None  #: whose block it is

    @staticmethod
    def resolve_school(row: PlannedSet) -> str:
        return row.school.name if row.school else ""

    @staticmethod
    def resolve_trial(row: Any) -> int | None:
        return row.called.trial_id if hasattr(row, "called") else None


class PlanIn(In):
    """A set that is to be thrown."""

    code: Line = Field(max_length=60)
    limb: Line = ""
    level: Line = ""
    levels: dict[Word, Word] = {}
    school_id: Id | None = None
    strikes: Count | None = None
    gear: Word = ""


@router.get("/students/{student_id}/evenings", response=list[EveningRow])
def evenings(request: HttpRequest, student_id: int) -> "QuerySet[Session]":
    return Session.objects.for_gym(gym(request)).filter(student_id=student_id)


@router.post("/students/{student_id}/evenings", response={201: EveningRow, 422: Problem})
def start(request: HttpRequest, student_id: int, what: EveningIn) -> Any:
    """The evening of a day, before anything is recorded; the one that is there where there is one."""
    own = gym(request)
    student = found(Student.objects.for_gym(own), student_id, "student")
    return Status(201, services.start(own, student, what.day))


@router.put("/evenings/{evening_id}/notes", response={200: EveningRow, 422: Problem, 409: Problem})
def note(request: HttpRequest, evening_id: int, what: EveningNotesIn) -> Session:
    text = services.EveningText(gear=what.gear, soreness=what.soreness, notes=what.notes)
    return services.note(gym(request), evening_id, text, what.version, user(request))


@router.put("/evenings/{evening_id}/looked", response={200: Changed, 422: Problem})
def look(request: HttpRequest, evening_id: int, what: LookedIn) -> Changed:
    services.look(gym(request), evening_id, what.point, what.good)
    return Changed(changed=1)


@router.put("/evenings/{evening_id}/drilled", response={200: Changed, 422: Problem})
def drill(request: HttpRequest, evening_id: int, what: DrilledIn) -> Changed:
    services.drill(gym(request), evening_id, what.drill, what.on)
    return Changed(changed=1)


@router.post("/evenings/{evening_id}/sets", response={201: PlannedOut, 422: Problem})
def plan(request: HttpRequest, evening_id: int, what: PlanIn) -> Any:
    return Status(
        201, services.plan(gym(request), evening_id, services.said(gym(request), services.SetText(**what.model_dump())))
    )


class RampIn(In):
    code: Line = Field("rear-straight", max_length=60)
    limb: Line = ""


class VolumeIn(In):
    family: Line = Field(max_length=50)
    total: Count
    size: Count = 10


class MoveIn(In):
    place: Count


@router.post("/evenings/{evening_id}/ramp", response={201: list[PlannedOut], 422: Problem})
def ramp(request: HttpRequest, evening_id: int, what: RampIn) -> Any:
    return Status(201, services.plan_ramp(gym(request), evening_id, what.code, what.limb))


@router.post("/evenings/{evening_id}/volumes", response={201: Changed, 422: Problem})
def count(request: HttpRequest, evening_id: int, what: VolumeIn) -> Any:
    """A total of one family of strikes, chipped off through the evening; which, is in the answer."""
    return Status(201, Changed(changed=services.count(gym(request), evening_id, what.family, what.total, what.size).pk))


@router.delete("/volumes/{volume_id}", response={200: Changed, 422: Problem})
def uncount(request: HttpRequest, volume_id: int) -> Changed:
    """Counted no more; what was thrown stays."""
    return Changed(changed=services.uncount(gym(request), volume_id))


@router.put("/planned-sets/{planned_id}/place", response={200: list[PlannedOut], 422: Problem})
def move(request: HttpRequest, planned_id: int, what: MoveIn) -> Any:
    """Among the sets that have not begun; 0 is the next."""
    return services.move(gym(request), planned_id, what.place)


@router.delete("/planned-sets/{planned_id}", response={200: Changed, 422: Problem})
def drop(request: HttpRequest, planned_id: int) -> Changed:
    services.drop(gym(request), planned_id)
    return Changed(changed=1)


@router.post("/planned-sets/{planned_id}/begin", response={200: PlannedOut, 422: Problem})
def begin(request: HttpRequest, planned_id: int) -> PlannedSet:
    return services.begin(gym(request), planned_id, timezone.now())


@router.post("/planned-sets/{planned_id}/end", response={200: PlannedOut, 422: Problem})
def end(request: HttpRequest, planned_id: int) -> PlannedSet:
    return services.end(gym(request), planned_id, timezone.now())
