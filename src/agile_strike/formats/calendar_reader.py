"""The process that reads a calendar for `calendar_week`: a file on standard input, one JSON document out.

Each series of events is expanded by itself, under a timer of its own, so that what takes too long has a name.
"""

import datetime as dt
import json
import os
import re
import resource
import signal
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from zoneinfo import ZoneInfo

import recurring_ical_events
from icalendar import Calendar
from icalendar.error import InvalidCalendar

from agile_strike.formats.calendar_week import WEEK_DAYS, CalendarLimits

EVENING = (dt.time(17), dt.time(22))  # what lies in it takes an evening
NO_CALENDAR = "This is no calendar that can be read. Export it as iCalendar (.ics) and try again."
SHORTER = "Take it out of the calendar, or export a shorter stretch of it."
_UNREADABLE = (ValueError, TypeError, InvalidCalendar, LookupError, AttributeError, OverflowError, RecursionError)


class _TimeIsOver(BaseException):
    """Passes through whatever catches every Exception."""


class _Refused(Exception):
    pass


@contextmanager
def _timer(seconds: float) -> Iterator[None]:
    """Of the processor, not of the wall: a busy machine refuses no more than a quiet one."""

    def over(*_: object) -> None:
        raise _TimeIsOver

    signal.signal(signal.SIGVTALRM, over)
    signal.setitimer(signal.ITIMER_VIRTUAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_VIRTUAL, 0)


def week_of(content: bytes, monday: dt.date, zone: ZoneInfo, limits: CalendarLimits) -> dict[str, Any]:
    """As `CalendarWeek`, or what is refused and why."""
    try:
        with _timer(limits.parsing_cpu_s):
            calendars = Calendar.from_ical(content, multiple=True)
            named = [e for c in calendars for e in c.walk("VEVENT")]
    except _UNREADABLE as error:
        raise _Refused(NO_CALENDAR) from error
    except _TimeIsOver:
        raise _Refused("This calendar takes too long to read. Export a shorter stretch of it.") from None
    if not named:
        raise _Refused("No event is in this file. Export it as iCalendar (.ics) and try again.")
    if len(named) > limits.events:
        raise _Refused(f"{len(named)} events are in this file; {limits.events} are the most. {SHORTER}")
    happenings, untimed = [], list[str]()
    for calendar in calendars:
        zones = [c for c in calendar.subcomponents if c.name == "VTIMEZONE"]
        for series in _series(calendar):
            if any("dtstart" not in e for e in series):
                untimed.append(_name(series[0]))
                continue
            for event in _in_week(series, zones, monday, zone, limits) if _repeats(series) else series:
                try:
                    days = _days(event, monday, zone)
                except _UNREADABLE:
                    untimed.append(_name(event))
                    continue
                takes = str(event.get("transp", "")).upper() != "TRANSPARENT"
                if not days:
                    continue
                happenings.append({"uid": _uid(event), "days": sorted(days), "takes": takes})
                if len(happenings) > limits.events:
                    raise _Refused(f"{_name(series[0])} and others repeat too often in this week. {SHORTER}")
    return {"uids": sorted({_uid(e) for e in named}), "happenings": happenings, "untimed": untimed}


def _series(calendar: Any) -> list[list[Any]]:
    """Events by their series: what is moved or called off of one stands under the same name."""
    series: dict[object, list[Any]] = {}
    for place, event in enumerate(c for c in calendar.subcomponents if c.name == "VEVENT"):
        if str(event.get("status", "")).upper() != "CANCELLED" or "recurrence-id" in event:
            series.setdefault(_uid(event) or place, []).append(event)
    return list(series.values())


def _repeats(series: list[Any]) -> bool:
    return len(series) > 1 or any(name in series[0] for name in ("rrule", "rdate", "exrule", "recurrence-id"))


def _in_week(series: list[Any], zones: list[Any], monday: dt.date, zone: ZoneInfo, limits: CalendarLimits) -> list[Any]:
    """What takes place of a series in the week, each repeat by itself, without what was called off or moved away."""
    for rule in (r for e in series for r in _rules(e)):
        _refuse_rule(rule, series[0], limits)
    if any(_hourly(e) for e in series):
        return []  # by the hour nothing takes an evening, and telling its repeats would take one
    calendar = Calendar()
    calendar.subcomponents = [*zones, *series]
    low, high = (dt.datetime.combine(monday + dt.timedelta(days=d), dt.time(), zone) for d in (0, WEEK_DAYS))
    try:
        left_s = limits.expanding_cpu_s - time.process_time()
        with _timer(max(min(limits.event_cpu_s, left_s), 0.02)):
            out = recurring_ical_events.of(calendar, skip_bad_series=True).between(low, high)
            if len(out) > limits.repeats:
                raise _Refused(f"{_name(series[0])} repeats {len(out)} times in this week. {SHORTER}")
            return [e for e in out if str(e.get("status", "")).upper() != "CANCELLED"]
    except _TimeIsOver:
        why = "repeats so often, or for so long, that it can't be read"
        raise _Refused(f"{_name(series[0])} {why}. {SHORTER}") from None
    except _UNREADABLE as error:
        raise _Refused(f"{_name(series[0])} repeats by a rule that can't be read. {SHORTER}") from error


def _rules(event: Any) -> list[Any]:
    rules = event.get("rrule", [])
    return rules if isinstance(rules, list) else [rules]


def _refuse_rule(rule: Any, event: Any, limits: CalendarLimits) -> None:
    if any(int(n) < 1 for n in rule.get("INTERVAL", [])):
        raise _Refused(f"{_name(event)} repeats at an interval of none. {SHORTER}")
    a_day = 1
    for part in ("BYHOUR", "BYMINUTE", "BYSECOND"):
        a_day *= max(len(rule.get(part, [])), 1)
    if a_day * WEEK_DAYS > limits.repeats:
        raise _Refused(f"{_name(event)} repeats {a_day} times a day. {SHORTER}")


def _hourly(event: Any) -> bool:
    return any(re.search(r"FREQ=(SECOND|MINUTE|HOUR)LY", r.to_ical().decode(), re.IGNORECASE) for r in _rules(event))


def _uid(event: Any) -> str:
    return str(event.get("uid", ""))


def _name(event: Any) -> str:
    name = " ".join(str(event.get("summary", "")).split())[:60] or _uid(event)[:60] or "without a name"
    start = getattr(event.get("dtstart"), "dt", None)
    return f"The event “{name}”" + (f", first on {start:%Y-%m-%d}," if isinstance(start, dt.date) else "")


def _days(event: Any, monday: dt.date, zone: ZoneInfo) -> set[int]:
    """Days of the week whose evening an event lies in."""
    start = event["dtstart"].dt
    end = event["dtend"].dt if "dtend" in event else start + event["duration"].dt if "duration" in event else None
    days = [(k, monday + dt.timedelta(days=k)) for k in range(WEEK_DAYS)]
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


def main() -> None:
    monday, zone, asked = dt.date.fromisoformat(sys.argv[1]), ZoneInfo(sys.argv[2]), sys.argv[3]
    limits = CalendarLimits(**json.loads(asked))
    os.nice(10)  # whoever is at the bag comes first
    resource.setrlimit(resource.RLIMIT_CPU, (limits.cpu_s, limits.cpu_s))
    resource.setrlimit(resource.RLIMIT_AS, (limits.memory_bytes, limits.memory_bytes))
    try:
        answer = week_of(sys.stdin.buffer.read(), monday, zone, limits)
    except _Refused as refused:
        answer = {"refused": str(refused)}
    except MemoryError:
        answer = {"refused": "This calendar takes too much memory to read. Export a shorter stretch of it."}
    json.dump(answer, sys.stdout)


if __name__ == "__main__":
    main()
