"""A week as iCalendar (RFC 5545), out to any calendar and in again from it."""

import datetime as dt
import re
from dataclasses import dataclass

from icalendar import Calendar, Event

from agile_strike.core.plan.wishes import DAYS
from agile_strike.formats.calendar_week import LIMITS, read_week
from agile_strike.gym.database import give_back_connection
from agile_strike.people.models import Student
from agile_strike.plans import services
from agile_strike.plans.models import Part, Week

MOST_BYTES = LIMITS.bytes
MOST_NAMED = 5
_OURS = re.compile(r"^week-(\d{1,18})-day-([0-6])@agile-strike$")


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
    came: list[int]  #: days on which an evening of another week lies there: it stays in its own, and is told
    untimed: list[str]  #: events that say no time that can be read
    row: Week


def take(student: Student, monday: dt.date, content: bytes) -> Taken:
    """Read a calendar: evenings of this plan go where they were moved to, and an evening that something else takes is
    free no more. Raises BadCalendar where it can't be read, or not in time."""
    give_back_connection()
    week = read_week(content, monday, student.gym.zone)
    with services.locked(student, monday) as row:
        parts: dict[int, list[int]] = {}
        for key, day in row.parts.values_list("pk", "day") if row.pk else ():
            parts.setdefault(day, []).append(key)  # as they lie before anything moves: two evenings may change places
        weeks = dict(Week.objects.filter(student=student).values_list("pk", "monday"))
        moved, busy, came = 0, set[int](), set[int]()
        for event in week.happenings:
            ours = _OURS.match(event.uid)
            if ours is None:
                busy |= set(event.days) if event.takes else set()
            elif not _is_of(ours, row):
                came |= set(event.days) if int(ours[1]) in weeks else set()
            elif len(event.days) == 1 and event.days[0] != int(ours[2]):
                own = row.parts.filter(pk__in=parts.get(int(ours[2]), []))
                moved += bool(own.update(day=event.days[0]))
        there = {h.uid for h in week.happenings}
        away = {int(m[2]) for uid in set(week.uids) - there if (m := _OURS.match(uid)) and _is_of(m, row)}
        if moved or busy & {int(d) for d in row.free}:
            row.free = {d: m for d, m in row.free.items() if int(d) not in busy}
            services.save(row, "free")
    return Taken(moved, sorted(busy), sorted(away & set(parts)), sorted(came), week.untimed[:MOST_NAMED], row)


def _is_of(ours: "re.Match[str]", row: Week) -> bool:
    return bool(row.pk) and int(ours[1]) == row.pk
