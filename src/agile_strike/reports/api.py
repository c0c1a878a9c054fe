"""Reports: as PDF to print, or handed out by a link that needs no sign-in."""

import datetime as dt
from typing import Literal

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from ninja import Query, Router, Schema, Status
from pydantic import Field

from agile_strike.core.measures.units import System
from agile_strike.gym.asking import found, gym, user
from agile_strike.gym.bodies import Changed, Count, In, Problem, Word
from agile_strike.gym.names import safe_name
from agile_strike.people.models import Student
from agile_strike.reports import services
from agile_strike.reports.content import gather
from agile_strike.reports.models import Report
from agile_strike.reports.pdf import Paper

router = Router()
PDF = "application/pdf"
GONE = "This link has run out, or was withdrawn. Ask the coach for a new one."


class ReportAsked(Schema):
    kind: Word = "student"
    weeks: Count = 4
    paper: Paper = "A4"
    units: System = "si"
    code: Word = ""  #: strike; none: the one that is thrown most
    measure: Word = ""


class HandOutIn(In):
    kind: Literal["student", "season", "coach"]
    weeks: Count
    paper: Paper
    units: System
    days: Count = Field(30)


class ReportOut(Schema):
    id: int
    kind: str
    about: str
    made_at: dt.datetime
    until: dt.date
    link: str

    @staticmethod
    def resolve_link(row: Report) -> str:
        return f"/r/{row.token}"


def _student(request: HttpRequest, student_id: int) -> Student:
    return found(Student.objects.for_gym(gym(request)).select_related("gym"), student_id, "student")


def shown(content: bytes, name: str) -> HttpResponse:
    """A PDF to look at, which nothing on the way keeps."""
    response = HttpResponse(content, content_type=PDF)
    response["Content-Disposition"] = content_disposition_header(False, safe_name(name)) or "inline"
    response["Cache-Control"] = "no-store"
    return response


@router.get("/students/{student_id}/report.pdf", response={422: Problem})
def report(request: HttpRequest, student_id: int, what: Query[ReportAsked]) -> HttpResponse:
    own, student = gym(request), _student(request, student_id)
    told = gather(own, student, what.weeks, what.units, what.code, what.measure)
    return shown(services.page(told, what.kind, what.paper), f"{student.label}-{what.kind}.pdf")


@router.get("/students/{student_id}/reports", response=list[ReportOut])
def handed_out(request: HttpRequest, student_id: int) -> "QuerySet[Report]":
    """Links that still open."""
    own = gym(request)
    rows = Report.objects.for_gym(own).filter(student=_student(request, student_id), until__gte=own.today)
    return rows.defer("pdf")


@router.post("/students/{student_id}/reports", response={201: ReportOut, 422: Problem})
def hand_out(request: HttpRequest, student_id: int, what: HandOutIn) -> Status[Report]:
    own, student = gym(request), _student(request, student_id)
    row = services.hand_out(own, student, what.kind, what.weeks, what.paper, what.units, what.days, user(request))
    return Status(201, row)


@router.delete("/reports/{report_id}", response={200: Changed, 422: Problem})
def withdraw(request: HttpRequest, report_id: int) -> Changed:
    services.withdraw(gym(request), report_id)
    return Changed(changed=1)


def by_link(request: HttpRequest, token: str) -> HttpResponse:
    """What a link opens, for whoever holds it."""
    row = services.opened(token)
    if row is None:
        return HttpResponse(GONE, status=404, content_type="text/plain; charset=utf-8")
    response = shown(bytes(row.pdf), f"{row.student.label}-{row.kind}.pdf")
    response["X-Robots-Tag"] = "noindex"
    response["Referrer-Policy"] = "no-referrer"
    return response
