"""What stands in each report: for the student or a parent, for the coach, and a season.

A student's report and a season hold only what is the student's own: no other name, no note, remark or reason of the
coach's, and of a child nothing that only full effort shows.
"""

import datetime as dt
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import pyarrow as pa
import pyarrow.compute as pc

from agile_strike.core.children import MAXIMAL, is_child
from agile_strike.core.errors import BadInput
from agile_strike.core.measures.measure import Measure
from agile_strike.core.measures.plain import plain
from agile_strike.core.measures.units import System, convert, digits, said, worth
from agile_strike.core.registry import find
from agile_strike.core.weeks.balance import Week
from agile_strike.formats.weeks_table import told as told_of
from agile_strike.gym.models import Gym
from agile_strike.logbook.lines import Asked
from agile_strike.logbook.lines import find as lines_of
from agile_strike.logbook.telling import tell
from agile_strike.people.models import Mark, Student
from agile_strike.people.services import age_of, allow
from agile_strike.playbook.strikes import known
from agile_strike.reports import draw
from agile_strike.reports.page import Page, Part, Plot, Point, Points, Rows
from agile_strike.review import drills
from agile_strike.trials import compare, weeks
from agile_strike.trials.models import Trial
from agile_strike.trials.pages import CourseOut, SummaryOut, WeeksOut

SPANS = (4, 12, 26, 52)  # weeks
MOST_LINES = 14
NBSP = "\u00a0"
DECIDED = {"keep": "Kept", "drop": "Dropped", "keep_testing": "Tested on"}


@dataclass(frozen=True, slots=True)
class Told:
    """All that a report is written from."""

    gym: Gym
    student: Student
    since: dt.date
    until: dt.date
    system: System
    child: bool
    names: dict[str, str]
    weeks: WeeksOut
    course: CourseOut | None  #: of the period alone
    measure: Measure
    volume: list[Week]

    @property
    def period(self) -> str:
        return f"{_day(self.since)} to {_day(self.until)}"

    @property
    def strike(self) -> str:
        return self.names.get(self.weeks.code, self.weeks.code)


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _day(day: dt.date) -> str:
    return f"{day.day} {day:%B %Y}"


def gather(gym: Gym, student: Student, span: int, system: System, code: str = "", measure: str = "") -> Told:
    """Raises NotAllowed where nothing may be handed out of a student."""
    allow(student, gym.today)
    if span not in SPANS:
        raise BadInput(f"A report tells of {', '.join(map(str, SPANS))} weeks.")
    child = is_child(age_of(student.birth_date, gym.today))
    if child and measure.removesuffix("_per_body_mass") in MAXIMAL:
        raise BadInput(f"{student.name} counts as a child: choose a measure of technique.")
    until = gym.today
    since = until - dt.timedelta(weeks=span) + dt.timedelta(days=1)
    page = weeks.page(gym, student, code, measure, True)
    found = find(page.measure)
    assert found is not None
    _, part = weeks.table_of(gym, student, page.code, page.measure, True, "" if page.limb == weeks.BOTH else page.limb)
    own = _within(part, since, until)
    return Told(
        gym=gym,
        student=student,
        since=since,
        until=until,
        system=system,
        child=child,
        names={w.code: w.name for w in known(gym)},
        weeks=page,
        course=CourseOut.model_validate(told_of(own, weeks.NAME, page.measure, [])) if own.num_rows else None,
        measure=found,
        volume=[
            Week(w.monday, w.strikes, w.left, w.right, w.kick_days, tuple(w.flags))
            for w in page.volume
            if since - dt.timedelta(days=6) <= w.monday <= until
        ],
    )


def _within(table: pa.Table, since: dt.date, until: dt.date) -> pa.Table:
    if not table.num_rows:
        return table
    days = pc.utf8_slice_codeunits(table.column("session").cast(pa.string()), 0, 10)
    return table.filter(pc.and_(pc.greater_equal(days, since.isoformat()), pc.less_equal(days, until.isoformat())))


def for_student(t: Told) -> Page:
    """One page in plain words."""
    return Page(
        title=t.student.name,
        about=t.period,
        answer=" ".join((_done(t), _typical(t))).strip(),
        parts=[*_course(t), *_trials(t), *_next(t, steps=True), *_hurts(t)],
        foot=_foot(t),
    )


def for_coach(t: Told) -> Page:
    """The same weeks with their doubts, sides, remarks and what was written down."""
    return Page(
        title=f"{t.student.name}, for the coach",
        about=t.period,
        answer=" ".join((_typical(t), _done(t))).strip(),
        parts=[
            *_course(t, reasons=True),
            *_volume(t),
            *_sides(t),
            *_trials(t, reasons=True),
            *_next(t, steps=False),
            *_hurts(t),
            *_log(t),
        ],
        foot=_foot(t),
    )


def season(t: Told) -> Page:
    """A long stretch: the course, the load, month by month, what was tried and decided."""
    return Page(
        title=f"{t.student.name}, the season",
        about=t.period,
        answer=" ".join((_typical(t), _done(t))).strip(),
        parts=[*_course(t), *_volume(t), *_months(t), *_trials(t), *_hurts(t)],
        foot=_foot(t),
    )


KINDS: dict[str, Callable[[Told], Page]] = {"student": for_student, "coach": for_coach, "season": season}


def _done(t: Told) -> str:
    strikes = sum(w.strikes for w in t.volume)
    if not strikes:
        return "Nothing was measured in these weeks."
    left, right = sum(w.left for w in t.volume), sum(w.right for w in t.volume)
    sides = f", {digits(left, 0)} left and {digits(right, 0)} right" if left and right else ""
    return f"{digits(strikes, 0)} strikes were measured{sides}."


def _shown(t: Told, value: float, low: float, high: float) -> str:
    """A figure with its interval, to the digit that it is worth."""
    v, unit, places = convert(value, t.measure.unit, t.measure.decimals, t.system)
    a, b = (convert(x, t.measure.unit, t.measure.decimals, t.system)[0] for x in (low, high))
    places = worth(0.5 * (b - a), places)
    return f"{digits(v, places)}{NBSP}{unit.replace(' ', NBSP)} ({digits(a, places)} to {digits(b, places)})"


def _typical(t: Told) -> str:
    """Where the student stands and where it goes, beyond doubt or not."""
    evenings = [e for e in t.course.evenings if e.mean is not None] if t.course else []
    if not evenings:
        return ""
    last = evenings[-1]
    assert last.mean is not None
    low, high = (last.mean if x is None else x for x in last.ci95)
    when = dt.date.fromisoformat(last.on)
    text = (
        f"{_capital(t.strike)}, {t.measure.in_a_sentence}: typically {_shown(t, last.mean, low, high)} "
        f"on {when.day} {when:%B}."
    )
    slope = t.course.slope_per_week if t.course else None
    span = (when - dt.date.fromisoformat(evenings[0].on)).days / 7.0
    if slope is None or slope.value is None or span <= 0.0:
        return text
    value, a, b = (span * (x or 0.0) for x in (slope.value, *slope.ci95))
    over = f"over {digits(span, 0)} weeks" if span >= 1.5 else "in a week"
    if a <= 0.0 <= b:
        return f"{text} No change {over} is beyond doubt."
    way = "rose" if value > 0.0 else "fell"
    return f"{text} It {way} by {_shown(t, abs(value), *sorted((abs(a), abs(b))))} {over}."


def _course(t: Told, reasons: bool = False) -> Iterator[Part]:
    evenings = [e for e in t.course.evenings if e.mean is not None] if t.course else []
    if len(evenings) < 2:
        return
    rows = []
    for e in evenings:
        assert e.mean is not None
        low, high = (e.mean if x is None else x for x in e.ci95)
        at = [convert(x, t.measure.unit, t.measure.decimals, t.system)[0] for x in (e.mean, low, high)]
        rows.append(draw.At(dt.date.fromisoformat(e.on), *at))
    unit = convert(0.0, t.measure.unit, t.measure.decimals, t.system)[1]
    marks = [
        (m.on, m.text if reasons or m.trial is None else m.text.partition(". ")[0])
        for m in t.weeks.marks
        if rows[0].on <= m.on <= rows[-1].on
    ]
    listed = "; ".join(f"{k + 1}: {text.rstrip('.')}" for k, (_, text) in enumerate(marks))
    title = plain(t.measure.name.removesuffix("_per_body_mass")) or _capital(t.measure.label)
    caption = f"{_capital(t.measure.in_a_sentence)}, {unit}: each evening's mean with its 95 % interval."
    yield Plot(
        f"{_capital(t.strike)}. {title}",
        f"{caption} {listed}{'.' if listed else ''}".strip(),
        draw.course(rows, marks),
        f"{len(rows)} evenings, from {digits(rows[0].mean, t.measure.decimals)} to "
        f"{digits(rows[-1].mean, t.measure.decimals)} {unit}",
    )


def _volume(t: Told) -> Iterator[Part]:
    if not t.volume:
        return
    flagged = "; ".join(f"week of {w.monday.day} {w.monday:%B}: {', '.join(w.flags)}" for w in t.volume if w.flags)
    yield Plot(
        "Strikes a week",
        f"Left filled, right in outline. {_capital(flagged) + '.' if flagged else ''}".strip(),
        draw.volume(t.volume),
        f"{len(t.volume)} weeks, {sum(w.strikes for w in t.volume)} strikes",
    )


def _sides(t: Told) -> Iterator[Part]:
    rows = []
    for s in t.weeks.sides:
        if s.pct is None or s.low is None or s.high is None:
            continue
        sign = "+" if s.pct > 0.0 else ""
        held = f"{sign}{digits(s.pct, 0)} % ({digits(s.low, 0)} to {digits(s.high, 0)})"
        rows.append((f"{_capital(s.first)} against {s.second}", held, s.verdict.replace("_", " ")))
    b = t.weeks.behind
    if b.share is not None and b.low is not None and b.high is not None:
        share = f"{digits(100 * b.share, 0)} % ({digits(100 * b.low, 0)} to {digits(100 * b.high, 0)})"
        rows.append(("Strikes with more behind them than the limb alone", share, f"of {digits(b.strikes, 0)}"))
    if rows:
        yield Rows("Sides, and the body behind it", ("", "95 % interval in brackets", ""), tuple(rows))


def _trials(t: Told, reasons: bool = False) -> Iterator[Part]:
    rows = Trial.objects.for_gym(t.gym).filter(students=t.student, started_on__lte=t.until)
    trials = [
        x
        for x in rows.select_related("gym").prefetch_related("students", "decisions", "claims")
        if x.ended_on is None or x.ended_on >= t.since
    ]
    source = compare.source_of(trials)
    points = []
    for trial in trials:
        claim = SummaryOut.model_validate(compare.kept(trial, t.student, source))
        s = claim.sentence
        text = said(" ".join(filter(None, (s.before, s.figures, s.after))), t.system)
        decided = next((d for d in trial.decisions.all() if d.student_id == t.student.pk), None)
        if decided is not None:
            why = f": {decided.reason.rstrip('.')}" if reasons else ""
            text += f" {DECIDED[decided.what]} on {_day(decided.decided_on)}{why}."
        if reasons:
            text += "".join(f" {said(n.text, t.system)}" for n in claim.claim.notes if n.warn)
        points.append(Point(f"{_capital(trial.factor)}, {t.names.get(trial.code, trial.code)}", text))
    if points:
        yield Points("What was tried", tuple(points))


def _next(t: Told, steps: bool) -> Iterator[Part]:
    found = drills.of_weeks(t.gym, t.student)
    points = []
    for d in found.drills:
        how = " ".join(f"{k + 1}. {step.rstrip('.')}." for k, step in enumerate(d.steps)) if steps else d.go_on
        strike = t.names.get(d.code, d.code)
        text = f"{_capital(strike)}: {d.seen.rstrip('.')}. {how} {d.dose.rstrip('.')}. {d.care}".strip()
        points.append(Point(d.name, re.sub(r" {2,}", " ", text)))
    if points:
        yield Points("What to work on next", tuple(points))


def _hurts(t: Told) -> Iterator[Part]:
    rows = Mark.objects.filter(student=t.student, kind=Mark.Kind.INJURY, since__lte=t.until)
    points = []
    for m in rows:
        if m.until is not None and m.until < t.since:
            continue
        until = f"over on {_day(m.until)}" if m.until else "not over: nothing is planned for it until it is cleared"
        points.append(Point(f"Since {_day(m.since)}", f"{m.text}, {until}."))
    if points:
        yield Points("What hurt", tuple(points))


def _log(t: Told) -> Iterator[Part]:
    what = Asked(student=t.student, groups=("evenings", "notes"), since=t.since, until=t.until)
    told = [line for line in tell(t.gym, lines_of(t.gym, what)) if line.said.text]
    points = tuple(Point(f"{x.day.day} {x.day:%B}", f"{x.said.title}. {x.said.text}") for x in told[:MOST_LINES])
    if points:
        yield Points("Written down", points)


def _months(t: Told) -> Iterator[Part]:
    """Month by month: evenings, strikes, and the middle of the evenings' means."""
    found: dict[str, list[float]] = {}
    for e in t.course.evenings if t.course else []:
        if e.mean is not None:
            found.setdefault(e.on[:7], []).append(e.mean)
    thrown: dict[str, list[Week]] = {}
    for w in t.volume:
        thrown.setdefault(f"{w.monday:%Y-%m}", []).append(w)
    rows = []
    unit = convert(0.0, t.measure.unit, t.measure.decimals, t.system)[1]
    for month in sorted({*found, *thrown}):
        own, load = found.get(month, []), thrown.get(month, [])
        mean = convert(sum(own) / len(own), t.measure.unit, t.measure.decimals, t.system) if own else None
        count = [sum(getattr(w, side) for w in load) for side in ("strikes", "left", "right")]
        name = f"{dt.date.fromisoformat(month + '-01'):%B %Y}"
        typical = digits(mean[0], mean[2]) if mean else ""
        rows.append((name, *(digits(n, 0) for n in count), str(len(own)), typical))
    if rows:
        head = ("Month", "Strikes", "Left", "Right", "Evenings", f"Typical, {unit}")
        note = "Weeks count to the month that their Monday is in; evenings are those of the strike above."
        yield Rows("Month by month", head, tuple(rows), note)


def _foot(t: Told) -> str:
    child = " Figures of full effort are not told of children." if t.child else ""
    return (
        f"{t.gym.name}, {_day(t.until)}. Typical is the mean of an evening, never the best strike; in brackets stands "
        f"where the truth lies in 19 of 20 cases.{child}"
    )
