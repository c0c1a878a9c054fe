"""A week as iCalendar (RFC 5545), out to any calendar and in again from it."""

import datetime as dt
import re
from dataclasses import dataclass
from typing import Any
from zoneinfo import ZoneInfo

import recurring_ical_events
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
    away: list[int]  #: days whose evening lies in another week there: it stays here, and is told
    row: Week


@transaction.atomic
def take(student: Student, monday: dt.date, content: bytes) -> Taken:
    """Read a calendar: evenings of this plan go where they were moved to, and an evening that something else takes is
    free no more. Raises BadInput where it is no calendar."""
    if len(content) > MOST_BYTES:
        raise BadInput(f"This calendar is larger than {MOST_BYTES // 1_000_000} MB. Export a shorter stretch of it.")
    try:
        calendars = Calendar.from_ical(content, multiple=True)
        named: list[Any] = [e for c in calendars for e in c.walk("VEVENT")][:MOST_EVENTS]
        events = _in_week(calendars, monday, student.gym.zone)
    except (ValueError, TypeError, InvalidCalendar, LookupError, AttributeError, OverflowError) as error:
        raise BadInput("This is no calendar that can be read. Export it as iCalendar (.ics) and try again.") from error
    if not named:
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
        elif _is_of(ours, row) and len(days) == 1:
            (day,) = days
            if day != int(ours[2]):
                moved += bool(row.parts.filter(pk__in=parts.get(int(ours[2]), [])).update(day=day))
    uids, there = ({str(e.get("uid", "")) for e in some} for some in (named, events))
    away = {int(m[2]) for uid in uids - there if (m := _OURS.match(uid)) and _is_of(m, row)}
    if moved or busy & {int(d) for d in row.free}:
        row.free = {d: m for d, m in row.free.items() if int(d) not in busy}
        row.version += 1
        row.save()
    return Taken(moved, sorted(busy), sorted(away & set(parts)), row)


def _is_of(ours: "re.Match[str]", row: Week) -> bool:
    return bool(row.pk) and int(ours[1]) == row.pk


def _in_week(calendars: list[Calendar], monday: dt.date, zone: ZoneInfo) -> list[Any]:
    """What takes place in a week, each repeat by itself, without what was called off. What says no time is left out."""
    low, high = (dt.datetime.combine(monday + dt.timedelta(days=d), dt.time(), zone) for d in (0, DAYS))
    out: list[Any] = []
    for calendar in calendars:
        # by the hour nothing takes an evening, and telling its repeats would take one
        calendar.subcomponents = [
            c for c in calendar.subcomponents if c.name != "VEVENT" or ("dtstart" in c and not _hourly(c))
        ]
        out += recurring_ical_events.of(calendar, skip_bad_series=True).between(low, high)
    return out[:MOST_EVENTS]


def _hourly(event: Any) -> bool:
    rules = event.get("rrule", [])
    return any(
        re.search(r"FREQ=(SECOND|MINUTE|HOUR)LY", r.to_ical().decode(), re.IGNORECASE)
        for r in (rules if isinstance(rules, list) else [rules])
    )


def _days(event: Any, monday: dt.date, zone: ZoneInfo) -> set[int]:
    """Days of the week whose evening an event takes."""
    if str(event.get("transp", "")).upper() == "TRANSPARENT" and not _OURS.match(str(event.get("uid", ""))):
        return set()
    start = event["dtstart"].dt
    end = event["dtend"].dt if "dtend" in event else start + event["duration"].dt if "duration" in event else None
    days = [(k, monday + dt.timedelta(days=k)) for k in range(DAYS)]
    if not isinstance(start, dt.datetime):
        last = max((end or start + dt.timedelta(days=1)) - dt.timedelta(days=1), start)
        return {k for k, on in days if start <= on <= last}
    begins, until = (at.astimezone(zone) if at.tzinfo else at.replace(tzinfo=zone) for at in (start, end or start))
    low, high = EVENING
    return {
        k
        for k, on in days
        if begins < dt.datetime.combine(on, high, zone) and until > dt.datetime.combine(on, low, zone)
    }
