"""The log of a student or a gym: read, searched, exported; notes written at once."""

import datetime as dt
from dataclasses import replace

import pyarrow as pa
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from agile_strike.formats.tabular import as_csv
from agile_strike.gym.asking import CSV, attached, found, gym, user
from agile_strike.gym.bodies import Changed, Day, Id, In, Line, Problem, Text, Version, Word
from agile_strike.gym.models import Gym
from agile_strike.logbook import services
from agile_strike.logbook.lines import PAGE, Asked, find, not_over
from agile_strike.logbook.telling import before, tell
from agile_strike.people.models import Student
from agile_strike.people.services import allow

router = Router()
MOST_EXPORTED = 20_000


class LogAsked(Schema):
    student: Id | None = None
    show: Line = Field("", max_length=80)  #: groups of kinds, with a full stop between them; none: all
    text: Line = Field("", max_length=200)
    since: Day | None = None
    until: Day | None = None
    skip: int = 0


class NoteTextIn(In):
    student: Id | None = None
    day: Day
    text: Text = Field(max_length=4000)


class RewordIn(In):
    text: Text = Field(max_length=4000)
    version: Version


class GoneIn(In):
    gone: bool


class SaidOut(Schema):
    title: str
    text: str
    to: str
    by: str
    version: int | None
    open: bool
    mass_kg: float | None


class LogLine(Schema):
    kind: str
    key: int
    day: dt.date
    student_id: int | None
    student: str
    said: SaidOut
    earlier: int


class LogOut(Schema):
    not_over: list[LogLine]  #: what still hurts, whatever else was asked for
    lines: list[LogLine]
    more: bool


class BeforeOut(Schema):
    said: str
    by: str
    at: dt.datetime


def _student(own: Gym, key: int | None) -> Student | None:
    return None if key is None else found(Student.objects.for_gym(own).select_related("gym"), key, "student")


def _asked(own: Gym, what: LogAsked) -> Asked:
    return Asked(
        student=_student(own, what.student),
        groups=tuple(g for g in what.show.split(".") if g),
        text=what.text,
        since=what.since,
        until=what.until,
        skip=what.skip,
    )


@router.get("/log", response={200: LogOut, 422: Problem})
def log(request: HttpRequest, what: Query[LogAsked]) -> dict[str, object]:
    """A page of it, the latest first."""
    own = gym(request)
    asked = _asked(own, what)
    rows = find(own, asked)
    return {
        "not_over": tell(own, not_over(own, asked.student)),
        "lines": tell(own, rows[:PAGE]),
        "more": len(rows) > PAGE,
    }


@router.get("/log.csv", response={422: Problem})
def log_csv(request: HttpRequest, what: Query[LogAsked]) -> HttpResponse:
    """All lines that were asked for, the latest first."""
    own = gym(request)
    asked = _asked(own, what)
    if asked.student is not None:
        allow(asked.student, own.today)
    lines = tell(own, find(own, replace(asked, handed_out=True), MOST_EXPORTED)[:MOST_EXPORTED])
    columns = {
        "day": [line.day.isoformat() for line in lines],
        "kind": [line.kind for line in lines],
        "student": [line.student for line in lines],
        "title": [line.said.title for line in lines],
        "text": [line.said.text for line in lines],
        "mass_kg": pa.array([line.said.mass_kg for line in lines], pa.float64()),
        "by": [line.said.by for line in lines],
    }
    name = asked.student.label if asked.student else "gym"
    return attached(as_csv(pa.table(columns)), CSV, f"{name}-log.csv")


@router.post("/log/notes", response={200: Changed, 422: Problem})
def write(request: HttpRequest, what: NoteTextIn) -> Changed:
    own = gym(request)
    row = services.write(own, _student(own, what.student), what.day, what.text, user(request))
    return Changed(changed=row.pk)


@router.put("/log/notes/{note_id}", response={200: Changed, 422: Problem, 409: Problem})
def reword(request: HttpRequest, note_id: int, what: RewordIn) -> Changed:
    return Changed(changed=services.reword(gym(request), note_id, what.text, what.version, user(request)).version)


@router.put("/log/notes/{note_id}/gone", response={200: Changed, 422: Problem})
def gone(request: HttpRequest, note_id: int, what: GoneIn) -> Changed:
    """Take a note away, or put it back."""
    return Changed(changed=services.remove(gym(request), note_id, what.gone).pk)


@router.get("/log/{of}/{key}/before", response={200: list[BeforeOut], 422: Problem})
def said_before(request: HttpRequest, of: Word, key: int) -> list[object]:
    """What a line said before it was written over."""
    return list(before(gym(request), of, key))
