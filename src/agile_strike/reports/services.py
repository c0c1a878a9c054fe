"""What a coach does with reports: print, hand out by a link, withdraw."""

import datetime as dt
import re

from django.contrib.auth.models import User
from django.utils import timezone

from agile_strike.core.errors import BadInput, NotYours
from agile_strike.core.measures.units import System
from agile_strike.gym.models import Gym
from agile_strike.people.models import Student
from agile_strike.people.services import NotAllowed, allow
from agile_strike.reports.content import KINDS, Told, gather
from agile_strike.reports.models import Report
from agile_strike.reports.pdf import Paper, pdf

LONGEST_DAYS = 366
TOKEN = re.compile(r"[A-Za-z0-9_-]{20,50}")


def page(told: Told, kind: str, paper: Paper) -> bytes:
    if kind not in KINDS:
        raise BadInput(f"{kind[:40]} is no report: choose one of {', '.join(KINDS)}.")
    return pdf(KINDS[kind](told), paper)


def hand_out(
    gym: Gym, student: Student, kind: str, span: int, paper: Paper, system: System, days: int, by: User
) -> Report:
    """Keep the report as it is now, under a link that holds for some days."""
    if kind == "coach":
        raise BadInput("The coach's report holds the coach's own notes: print it, or hand out the student's.")
    if not 1 <= days <= LONGEST_DAYS:
        raise BadInput(f"A link holds for 1 to {LONGEST_DAYS} days.")
    told = gather(gym, student, span, system)
    made = page(told, kind, paper)
    until = gym.today + dt.timedelta(days=days)
    return Report.objects.create(gym=gym, student=student, kind=kind, about=told.period, until=until, pdf=made, by=by)


def withdraw(gym: Gym, report_id: int) -> None:
    """The link opens nothing from now on."""
    if not Report.objects.for_gym(gym).filter(pk=report_id).update(withdrawn_at=timezone.now()):
        raise NotYours("report")


def opened(token: str) -> Report | None:
    """What a link opens; nothing where it ran out, was withdrawn, or a guardian's consent is no longer kept."""
    if not TOKEN.fullmatch(token):
        return None
    row = Report.objects.standing().select_related("student", "gym").filter(token=token).first()
    if row is None or row.until < row.gym.today:
        return None
    try:
        allow(row.student, row.gym.today)
    except NotAllowed:
        return None
    return row
