"""A calendar is read within bounds: a few bytes can ask for years of work, and what is refused has a name."""

import datetime as dt
import resource
from zoneinfo import ZoneInfo

import pytest

from agile_strike.formats.calendar_week import LIMITS, BadCalendar, CalendarWeek, read_week

MONDAY, ZONE = dt.date(2026, 11, 30), ZoneInfo("Europe/Oslo")
HOURS, SIXTY = (",".join(map(str, range(n))) for n in (24, 60))
EVERY_SECOND = ",".join(f"20261203T{i // 3600:02d}{i // 60 % 60:02d}{i % 60:02d}" for i in range(40_000))


def event(extra: str = "", uid: str = "a", start: str = "19700101T180000", name: str = "Choir") -> str:
    lines = [f"UID:{uid}", f"SUMMARY:{name}", f"DTSTART:{start}", f"DTEND:{start[:9]}190000", *extra.split("|")]
    return "\r\n".join(["BEGIN:VEVENT", *filter(None, lines), "END:VEVENT", ""])


def week(*events: str) -> CalendarWeek:
    content = f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//test//EN\r\n{''.join(events)}END:VCALENDAR\r\n"
    return read_week(content.encode(), MONDAY, ZONE)


@pytest.mark.parametrize(
    ("rule", "why"),
    [
        (f"RRULE:FREQ=DAILY;BYHOUR={HOURS};BYMINUTE={SIXTY};BYSECOND={SIXTY}", "86400 times a day"),
        ("RRULE:FREQ=DAILY;INTERVAL=0", "interval of none"),
        ("RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31", "so often, or for so long"),
        ("RRULE:FREQ=DAILY;COUNT=999999999;BYSETPOS=-366", "so often, or for so long"),
        (f"RDATE:{EVERY_SECOND}", "so often"),
    ],
)
def test_an_event_that_asks_for_years_of_work_is_refused_by_its_name(rule: str, why: str) -> None:
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    with pytest.raises(BadCalendar) as refused:
        week(event(uid="good", start="20261201T180000", name="Dinner"), event(rule))
    assert "“Choir”" in str(refused.value)
    assert why in str(refused.value)
    assert "Take it out of the calendar" in str(refused.value)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    assert after.ru_utime - before.ru_utime < LIMITS.cpu_s  # and its process is gone


def test_two_thousand_daily_events_of_a_century_end_in_a_name_and_not_in_minutes() -> None:
    before = resource.getrusage(resource.RUSAGE_CHILDREN).ru_utime
    with pytest.raises(BadCalendar, match=r"Choir|takes too long"):
        week(*(event("RRULE:FREQ=DAILY", uid=f"u{k}", start="19000101T180000") for k in range(2000)))
    assert resource.getrusage(resource.RUSAGE_CHILDREN).ru_utime - before <= LIMITS.cpu_s + 1


def test_a_coachs_ten_years_come_in_whole() -> None:
    single = [event(uid=f"s{k}", start=f"20{10 + k % 17}1203T180000") for k in range(1000)]
    weekly = [event("RRULE:FREQ=WEEKLY", uid=f"w{k}", start="20160105T180000") for k in range(60)]
    told = week(*single, *weekly)
    assert len(told.uids) == 1060
    assert sorted({d for h in told.happenings for d in h.days}) == [1, 3]
    assert sum(h.uid.startswith("w") for h in told.happenings) == 60


def test_what_was_called_off_moved_away_or_moved_here_is_as_the_calendar_says() -> None:
    weekly = event("RRULE:FREQ=WEEKLY|EXDATE:20261201T180000", start="20261103T180000")
    away = event("RECURRENCE-ID:20261208T180000", start="20261203T180000")  # next Tuesday's, put before
    off = event("STATUS:CANCELLED|RECURRENCE-ID:20261215T180000", start="20261215T180000")
    assert [h.days for h in week(weekly, away, off).happenings] == [[3]]
    gone = event("RECURRENCE-ID:20261201T180000", uid="b", start="20261216T180000")
    assert week(event("RRULE:FREQ=WEEKLY", uid="b", start="20261103T180000"), gone).happenings == []
    assert week(event("STATUS:CANCELLED", start="20261201T180000")).happenings == []
    assert week(event("RRULE:FREQ=WEEKLY|STATUS:CANCELLED", start="20261103T180000")).happenings == []


def test_what_says_no_time_is_named_and_takes_none() -> None:
    told = week(event(start="20261201T180000"), "BEGIN:VEVENT\r\nUID:n\r\nSUMMARY:Some day\r\nEND:VEVENT\r\n")
    assert ([h.days for h in told.happenings], ["Some day" in t for t in told.untimed]) == ([[1]], [True])
