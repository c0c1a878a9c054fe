"""A student's week: wishes in, a proposal out, moved and taken off by hand."""

import datetime as dt
from dataclasses import asdict
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from agile_strike.core.plan.wishes import Kind, Wish
from agile_strike.gym.asking import attached, found, gym
from agile_strike.gym.bodies import Changed, Count, Day, Finite, In, Name, Problem, Version, Word
from agile_strike.people.models import Student
from agile_strike.people.services import allow
from agile_strike.plans import calendar, services
from agile_strike.plans.models import Part, Week

router = Router()


class WishIn(In):
    kind: Kind
    name: Name
    evenings: Count
    strikes: Count = Field(0, ge=0, le=10_000)  #: each evening
    minutes: Finite = Field(0.0, ge=0.0, le=300.0)
    key: Word = ""  #: trial, drill, or the family that is counted


class FreeIn(In):
    day: Count  #: 0 is Monday
    minutes: Finite


class PlannedWeekIn(In):
    monday: Day
    wishes: list[WishIn] = Field(max_length=12)
    free: list[FreeIn] = Field(max_length=7)
    easy: bool = False
    version: Version


class PartIn(In):
    day: Count
    version: Version  #: of the week


class FreeEvening(Schema):
    day: int
    minutes: float


class PlannedPart(Schema):
    id: int
    day: int
    kind: str
    name: str
    key: str
    minutes: float
    strikes: int
    left: int
    right: int
    rests: bool  #: what it is thrown with hurts, and is not cleared
    done: bool | None  #: none: not to be told, or still to come
    thrown: int  #: strikes with its limbs on that day


class PlannedWish(Schema):
    kind: str
    name: str
    evenings: int
    strikes: int
    minutes: float
    key: str
    bent: str  #: what it had to bend to; empty where it got all


class PlannedDay(Schema):
    on: dt.date
    thrown: int  #: strikes that were measured


class WeekLoad(Schema):
    monday: dt.date
    strikes: int
    left: int
    right: int
    flags: list[str]


class LimbLoadOut(Schema):
    limb: str
    strikes: int
    usual_strikes: float
    measured: int
    impulse_n_s: float
    usual_impulse_n_s: float
    hard: int | None
    usual_hard: float | None


class PlannedWeek(Schema):
    monday: dt.date
    version: int
    wishes: list[PlannedWish]
    free: list[FreeEvening]
    easy: bool
    days: list[PlannedDay]
    parts: list[PlannedPart]
    proven: bool  #: no better week exists; else the solver's time was over
    planned: int  #: strikes
    usual: float  #: a week, of those before; 0: nothing is known
    most: float | None  #: without a sudden jump; none: nothing is known
    owed_hands: int  #: left minus right so far
    owed_kicks: int
    sore: list[str]
    unseen_hands: int | None  #: thrown without units; none: not asked
    unseen_kicks: int | None
    load: list[WeekLoad]
    limbs: list[LimbLoadOut]


class UnseenIn(In):
    monday: Day
    hands: Count | None
    kicks: Count | None
    version: Version


class RepeatIn(In):
    monday: Day
    weeks: Count


class TakenOut(Schema):
    moved: int
    busy: list[int]
    away: list[int]  #: evenings that lie in another week there
    came: list[int]  #: evenings of another week that lie in this one there
    untimed: list[str]  #: events that say no time that can be read
    week: PlannedWeek


class BoardPart(Schema):
    id: int
    day: int
    name: str
    strikes: int
    rests: bool


class BoardRow(Schema):
    student_id: int
    student: str
    version: int  #: of the week; 0: there is none
    planned: bool
    strikes: int
    parts: list[BoardPart]


class ClassBoard(Schema):
    monday: dt.date
    rows: list[BoardRow]


PART = ("id", "day", "kind", "name", "key", "minutes", "strikes", "left", "right")


def _fields(part: Part) -> dict[str, Any]:
    return {name: getattr(part, name) for name in PART}


def _part(p: Part, rests: bool, done: services.Done | None) -> PlannedPart:
    whole, thrown = (done.whole, done.strikes) if done else (None, 0)
    return PlannedPart(**_fields(p), rests=rests, done=whole, thrown=thrown)


def _told(student: Student, row: Week) -> PlannedWeek:
    strikes = services.thrown_round(student, row)
    k = services.known(student, row, strikes)
    parts = list(row.parts.all()) if row.pk else []
    rests, done = services.rests(row, parts), services.done(row, parts, strikes)
    days = [row.monday + dt.timedelta(days=d) for d in range(7)]
    return PlannedWeek(
        monday=row.monday,
        version=row.version,
        wishes=[PlannedWish(**w, bent=row.bent.get(str(i), "")) for i, w in enumerate(row.wishes)],
        free=[FreeEvening(day=int(day), minutes=minutes) for day, minutes in sorted(row.free.items())],
        easy=row.easy,
        days=[PlannedDay(on=day, thrown=sum(on == day for on, _ in strikes)) for day in days],
        parts=[_part(p, p.pk in rests, done.get(p.pk)) for p in parts],
        proven=row.proven,
        planned=sum(p.strikes for p in parts),
        usual=k.usual_strikes,
        most=k.most_strikes + k.thrown if k.usual_strikes else None,
        owed_hands=k.ahead[0],
        owed_kicks=k.ahead[1],
        sore=services.soreness(student, row.monday),
        unseen_hands=row.unseen_hands,
        unseen_kicks=row.unseen_kicks,
        limbs=[LimbLoadOut(**asdict(x)) for x in services.by_limb(student, row)],
        load=[
            WeekLoad(monday=w.monday, strikes=w.strikes, left=w.left, right=w.right, flags=list(w.flags))
            for w in services.load(strikes)
        ],
    )


def _student(request: HttpRequest, student_id: int) -> Student:
    return found(Student.objects.for_gym(gym(request)).select_related("gym"), student_id, "student")


@router.get("/students/{student_id}/plan", response={200: PlannedWeek, 422: Problem})
def plan(request: HttpRequest, student_id: int, monday: Query[Day | None] = None) -> PlannedWeek:
    """The week of a Monday, of this one where none is named."""
    student = _student(request, student_id)
    return _told(student, services.of(student, services.monday_of(monday or student.gym.today)))


@router.put("/students/{student_id}/plan", response={200: PlannedWeek, 422: Problem, 409: Problem})
def propose(request: HttpRequest, student_id: int, what: PlannedWeekIn) -> PlannedWeek:
    student = _student(request, student_id)
    wishes = [Wish(**w.model_dump()) for w in what.wishes]
    free = {f.day: f.minutes for f in what.free}
    row = services.propose(student, what.monday, wishes, free, what.easy, what.version)
    return _told(student, row)


@router.put("/students/{student_id}/plan/unseen", response={200: PlannedWeek, 422: Problem, 409: Problem})
def unseen(request: HttpRequest, student_id: int, what: UnseenIn) -> PlannedWeek:
    """What was thrown without units."""
    student = _student(request, student_id)
    return _told(student, services.tell_unseen(student, what.monday, what.hands, what.kicks, what.version))


@router.post("/students/{student_id}/plan/repeat", response={200: Changed, 422: Problem})
def repeat(request: HttpRequest, student_id: int, what: RepeatIn) -> Changed:
    return Changed(changed=len(services.repeat(_student(request, student_id), what.monday, what.weeks)))


@router.get("/students/{student_id}/plan.ics", response={422: Problem})
def plan_ics(request: HttpRequest, student_id: int, monday: Query[Day]) -> HttpResponse:
    """The week for any calendar."""
    student = _student(request, student_id)
    allow(student, student.gym.today)
    row = services.of(student, services.monday_of(monday))
    return attached(calendar.out(row), "text/calendar; charset=utf-8", f"{student.label}-{row.monday}.ics")


@router.post("/students/{student_id}/plan/calendar", response={200: TakenOut, 422: Problem})
def take_calendar(request: HttpRequest, student_id: int, monday: Query[Day], file: File[UploadedFile]) -> TakenOut:
    """What a calendar says of the week: moved evenings, and those that something else takes."""
    student = _student(request, student_id)
    taken = calendar.take(student, services.monday_of(monday), file.read(calendar.MOST_BYTES + 1))
    return TakenOut(
        moved=taken.moved,
        busy=taken.busy,
        away=taken.away,
        came=taken.came,
        untimed=taken.untimed,
        week=_told(student, taken.row),
    )


@router.get("/plan/class", response={200: ClassBoard, 422: Problem})
def class_board(request: HttpRequest, monday: Query[Day | None] = None) -> ClassBoard:
    """Everybody's week."""
    own = gym(request)
    at = services.monday_of(monday or own.today)
    return ClassBoard(
        monday=at,
        rows=[
            BoardRow(
                student_id=r.student.pk,
                student=r.student.name,
                version=r.week.version if r.week else 0,
                planned=r.week is not None and bool(r.parts),
                strikes=sum(p.strikes for p in r.parts),
                parts=[
                    BoardPart(id=p.pk, day=p.day, name=p.name, strikes=p.strikes, rests=p.pk in r.rests)
                    for p in r.parts
                    if p.kind != "ramp"
                ],
            )
            for r in services.class_board(own, at)
        ],
    )


@router.put("/plan-parts/{part_id}", response={200: PlannedWeek, 422: Problem, 409: Problem})
def move(request: HttpRequest, part_id: int, what: PartIn) -> PlannedWeek:
    row = services.move(gym(request), part_id, what.day, what.version)
    return _told(row.student, row)


@router.post("/plan-parts/{part_id}/copy", response={200: PlannedWeek, 422: Problem, 409: Problem})
def copy(request: HttpRequest, part_id: int, what: PartIn) -> PlannedWeek:
    row = services.copy(gym(request), part_id, what.day, what.version)
    return _told(row.student, row)


@router.delete("/plan-parts/{part_id}", response={200: PlannedWeek, 422: Problem, 409: Problem})
def drop(request: HttpRequest, part_id: int, version: Query[Version]) -> PlannedWeek:
    row = services.drop(gym(request), part_id, version)
    return _told(row.student, row)


@router.post("/students/{student_id}/plan/tonight", response={200: Changed, 422: Problem})
def tonight(request: HttpRequest, student_id: int) -> Changed:
    """Tonight's sets from the plan."""
    services.tonight(gym(request), _student(request, student_id))
    return Changed(changed=1)
