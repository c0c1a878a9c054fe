"""A week as iCalendar (RFC 5545), out to any calendar and in again from it."""

import datetime as dt
import re
from dataclasses import dataclass
from typing import Any
from zoneinfo import ZoneInfo

from dateutil.rrule import rrulestr
from django.db import transaction
from icalendar import Calendar, Event
from icalendar.error import InvalidCalendar

from agile_strike.core.errors import BadInput
from agile_strike.core.plan.wishes import DAYS
from agile_strike.people.models import Student
from agile_strike.plans import services
from agile_strike.plans.models import Part, Week

EVENING = (dt.time(17), dt.time(22))  # what lies in it takes an evening
MOST_BYTES, MOST_EVENTS = 2_000_000, 5000
_OURS = re.compile(r"^week-(\d+)-day-(\d)@agile-strike$")


def out(row: Week) -> bytes:
    """Each evening as an event of the whole day: when it begins is the student's own affair."""
    calendar = Calendar()
    calendar.add("prodid", "-//Agile Strike//Plan//EN")
    calendar.add("version", "2.0")
    for day in range(DAYS):
        parts = [p for p in row.parts.all() if p.day == day] if row.pk else []
        if not parts:
            continue
        on = row.monday + dt.timedelta(days=day)
        event = Event()
        event.add("uid", f"week-{row.pk}-day-{day}@agile-strike")
        event.add("dtstamp", dt.datetime.now(dt.UTC))
        event.add("dtstart", on)
        event.add("dtend", on + dt.timedelta(days=1))
        event.add("summary", f"{row.student.name}: {', '.join(p.name for p in parts if p.kind != 'ramp') or 'Ramp'}")
        event.add("description", "\n".join(_line(p) for p in parts))
        event.add("sequence", row.version)
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
    made: bytes = calendar.to_ical()
    return made


def _line(p: Part) -> str:
    sides = f": left {p.left}, right {p.right}" if p.left + p.right else f": {p.strikes} strikes" if p.strikes else ""
    return f"{p.name}{sides}, about {p.minutes:.0f} minutes"


@dataclass(frozen=True, slots=True)
class Taken:
    """What a calendar changed."""

    moved: int  #: evenings of ours that lie on another day there
    busy: list[int]  #: days whose evening is taken there
    row: Week


@transaction.atomic
def take(student: Student, monday: dt.date, content: bytes) -> Taken:
    """Read a calendar: evenings of this plan go where they were moved to, and an evening that something else takes is
    free no more. Raises BadInput where it is no calendar."""
    if len(content) > MOST_BYTES:
        raise BadInput(f"This calendar is larger than {MOST_BYTES // 1_000_000} MB. Export a shorter stretch of it.")
    try:
        calendars = Calendar.from_ical(content, multiple=True)
        events: list[Any] = [e for c in calendars for e in c.walk("VEVENT")][:MOST_EVENTS]
    except (ValueError, InvalidCalendar, IndexError, KeyError, AttributeError) as error:
        raise BadInput("This is no calendar that can be read. Export it as iCalendar (.ics) and try again.") from error
    if not events:
        raise BadInput("No event is in this file. Export it as iCalendar (.ics) and try again.")
    Student.objects.select_for_update().get(pk=student.pk)
    row = services.of(student, monday)
    parts: dict[int, list[int]] = {}
    for key, day in row.parts.values_list("pk", "day") if row.pk else ():
        parts.setdefault(day, []).append(key)  # as they lie before anything moves: two evenings may change places
    moved, busy = 0, set[int]()
    for event in events:
        ours = _OURS.match(str(event.get("uid", "")))
        try:
            days = _days(event, monday, student.gym.zone)
        except (ValueError, TypeError, AttributeError, KeyError, OverflowError):
            continue  # an event that says no time takes none
        if ours is None:
            busy |= days
        elif row.pk and int(ours[1]) == row.pk and len(days) == 1:
            (day,) = days
            if day != int(ours[2]):
                moved += bool(row.parts.filter(pk__in=parts.get(int(ours[2]), [])).update(day=day))
    if moved or busy & {int(d) for d in row.free}:
        row.free = {d: m for d, m in row.free.items() if int(d) not in busy}
        row.version += 1
        row.save()
    return Taken(moved, sorted(busy), row)


def _days(event: Any, monday: dt.date, zone: ZoneInfo) -> set[int]:
    """Days of the week whose evening an event takes, its repeats too."""
    if str(event.get("transp", "")).upper() == "TRANSPARENT" and not _OURS.match(str(event.get("uid", ""))):
        return set()
    start = event["dtstart"].dt
    end = event["dtend"].dt if "dtend" in event else start + event["duration"].dt if "duration" in event else None
    whole = not isinstance(start, dt.datetime)
    if whole:
        first, last = start, (end or start + dt.timedelta(days=1)) - dt.timedelta(days=1)
        begins = dt.datetime.combine(first, dt.time(12), zone)
        lasts = dt.timedelta(days=max((last - first).days, 0))
    else:
        begins = start.astimezone(zone) if start.tzinfo else start.replace(tzinfo=zone)
        lasts = (end - start) if end is not None else dt.timedelta(0)
    found = set()
    for at in _repeats(event, begins, monday - dt.timedelta(days=1) - lasts, monday + dt.timedelta(days=DAYS)):
        until = at + lasts
        for day in range(DAYS):
            on = monday + dt.timedelta(days=day)
            low, high = (dt.datetime.combine(on, t, zone) for t in EVENING)
            if (at.date() <= on <= until.date()) if whole else (at < high and until > low):
                found.add(day)
    return found


def _repeats(event: Any, begins: dt.datetime, since: dt.date, until: dt.date) -> list[dt.datetime]:
    if "rrule" not in event:
        return [begins] if since <= begins.date() <= until else []
    text = event["rrule"].to_ical().decode()
    if re.search(r"FREQ=(SECOND|MINUTE|HOUR)LY", text, re.IGNORECASE):
        raise ValueError("nothing takes an evening by the hour")  # and counting its repeats would take one
    rule = rrulestr(text, dtstart=begins.replace(tzinfo=None), ignoretz=True)
    low, high = (dt.datetime.combine(d, dt.time()) for d in (since, until))
    return [at.replace(tzinfo=begins.tzinfo) for at in rule.between(low, high, inc=True)][: DAYS * 24]
