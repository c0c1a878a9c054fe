"""What a calendar (iCalendar, RFC 5545) says of one week, read within bounds.

How often an event repeats is for whoever wrote the file to say, and a few bytes can ask for years of work. So it is
read in a process of its own that is ended when its time is over; the refusal names the event that took it.
"""

import datetime as dt
import json
import os
import subprocess
import sys
import threading
from dataclasses import asdict, dataclass
from pathlib import Path
from zoneinfo import ZoneInfo

from agile_strike.core.errors import BadInput

WEEK_DAYS = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class CalendarLimits:
    """A coach's own calendar of ten years (3,000 events, 300 that repeat) takes 1.5 s on one core."""

    bytes: int = 2_000_000
    events: int = 5000
    repeats: int = 2000  #: of one event in the week asked for, and of one of its days: more is no evening's event
    event_cpu_s: float = 0.5  #: of the processor, for one event and all of its repeats
    parsing_cpu_s: float = 3.0  #: of the processor, until all events of a file are known
    expanding_cpu_s: float = 4.0  #: from the process's beginning until all repeats are known
    cpu_s: int = 6  #: of the processor: the system ends the process then
    wall_s: float = 20.0  #: after it the process is ended, however little of the processor it got
    memory_bytes: int = 1_000_000_000
    wait_s: float = 8.0  #: for the files that others brought just before


LIMITS = CalendarLimits()
_ONE_AT_A_TIME = threading.BoundedSemaphore(1)  # in each web process: the rest of the machine is the coaches'


class BadCalendar(BadInput):
    """A file that can't be taken as a calendar, with what to do about it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Happening:
    """One event, or one repeat of it, that takes place in the week."""

    uid: str
    days: list[int]  #: of the week, those in whose evening it lies; 0 is the first
    takes: bool  #: the evening; else it is marked as taking no time


@dataclass(frozen=True, slots=True, kw_only=True)
class CalendarWeek:
    uids: list[str]  #: of all events in the file
    happenings: list[Happening]
    untimed: list[str]  #: names of events that say no time that can be read: they take none


def read_week(content: bytes, monday: dt.date, zone: ZoneInfo, limits: CalendarLimits = LIMITS) -> CalendarWeek:
    """What takes place in the week of a Monday. Raises BadCalendar; takes seconds at most."""
    if len(content) > limits.bytes:
        raise BadCalendar(
            f"This calendar is larger than {limits.bytes // 1_000_000} MB. Export a shorter stretch of it."
        )
    if not _ONE_AT_A_TIME.acquire(timeout=limits.wait_s):
        raise BadCalendar("Other calendars are being read just now. Try again in a few seconds.")
    try:
        return _in_own_process(content, monday, zone, limits)
    finally:
        _ONE_AT_A_TIME.release()


def _in_own_process(content: bytes, monday: dt.date, zone: ZoneInfo, limits: CalendarLimits) -> CalendarWeek:
    source = Path(__file__).resolve().parents[2]
    command = [sys.executable, "-m", "agile_strike.formats.calendar_reader", str(monday), zone.key]
    asked = json.dumps(asdict(limits))
    child = subprocess.Popen(
        [*command, asked],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        env={"PYTHONPATH": str(source), "PATH": os.environ.get("PATH", ""), "TZ": "UTC"},
    )
    try:
        out, errors = child.communicate(content, timeout=limits.wall_s)
    except subprocess.TimeoutExpired:
        out, errors = b"", b""
    finally:
        child.kill()
        child.wait()
    if child.returncode < 0:  # by a signal: its limits ended it, in the middle of what no timer reaches
        raise BadCalendar(
            "This calendar takes too long to read. Export a shorter stretch of it, without what repeats for years."
        )
    if child.returncode:
        raise RuntimeError(f"the calendar reader failed: {errors[-2000:].decode(errors='replace')}")
    answer = json.loads(out)
    if "refused" in answer:
        raise BadCalendar(answer["refused"])
    happenings = [Happening(**h) for h in answer["happenings"]]
    return CalendarWeek(uids=answer["uids"], happenings=happenings, untimed=answer["untimed"])
