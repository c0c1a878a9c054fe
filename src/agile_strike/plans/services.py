"""What a coach does with a week: wish, have it proposed, move and take off, take tonight from it."""

import datetime as dt
import threading
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np
from django.db import models, transaction

from agile_strike.core.children import is_child
from agile_strike.core.errors import BadInput, ChangedMeanwhile, NotYours
from agile_strike.core.plan.sore import resting
from agile_strike.core.plan.week import SolverTime, week
from agile_strike.core.plan.week import Week as SolvedWeek
from agile_strike.core.plan.wishes import DAYS, Known, Wish, rests_of
from agile_strike.core.sets.calls import limb_of
from agile_strike.core.vocabulary import EFFORT, STRIKE_CODES
from agile_strike.core.weeks.balance import KICK_DAY, WEEKS_BEFORE
from agile_strike.core.weeks.balance import Week as Thrown
from agile_strike.core.weeks.balance import weeks as thrown_weeks
from agile_strike.core.weeks.load import LimbLoad
from agile_strike.core.weeks.load import by_limb as limb_loads
from agile_strike.evening import services as evenings
from agile_strike.evening.models import Drilled, Session
from agile_strike.gym.database import give_back_connection
from agile_strike.gym.models import Gym
from agile_strike.people.models import Mark, Student
from agile_strike.people.services import age_of, allow
from agile_strike.plans.models import Part, Week
from agile_strike.review.models import Strike
from agile_strike.trials.models import CalledBlock, Trial

BEFORE = dt.timedelta(weeks=8)
OWED_OVER = dt.timedelta(weeks=4)
MOST_REPEATED, MOST_UNSEEN = 8, 5000
MOST_OWED = 100  # a debt beyond it is let go of: it would double a week
MOST_PARTS = 60  # of a week that hands made
MOST_WAIT_S = 20.0  # for the weeks that others asked for just before: three at their longest
_ONE_SOLVER = threading.BoundedSemaphore(1)


def monday_of(day: dt.date) -> dt.date:
    return day - dt.timedelta(days=day.weekday())


def thrown(student: Student, since: dt.date, until: dt.date) -> list[tuple[dt.date, str]]:
    """Day and limb of every strike that counts, from a day to before another."""
    zone = student.gym.zone
    rows = Strike.objects.for_gym(student.gym).counted().filter(
        recording__student=student,
        recording__acquired_at__gte=dt.datetime.combine(since, dt.time(), zone),
        recording__acquired_at__lt=dt.datetime.combine(until, dt.time(), zone),
    )  # fmt: skip
    return [(student.gym.day(at), limb) for at, limb in rows.values_list("recording__acquired_at", "limb")]


def by_limb(student: Student, row: Week) -> list[LimbLoad]:
    """The week's load limb by limb; of a child's force nothing is told."""
    zone = student.gym.zone
    rows = Strike.objects.for_gym(student.gym).counted().filter(
        recording__student=student,
        recording__acquired_at__gte=dt.datetime.combine(row.monday - BEFORE, dt.time(), zone),
        recording__acquired_at__lt=dt.datetime.combine(row.monday + dt.timedelta(days=DAYS), dt.time(), zone),
    )  # fmt: skip
    found = list(rows.values_list("recording__acquired_at", "limb", "impulse_n_s"))
    child = is_child(age_of(student.birth_date, student.gym.today))
    impulse = np.array([np.nan if child or value is None else value for _, _, value in found], dtype=np.float64)
    return limb_loads([student.gym.day(at) for at, _, _ in found], [limb for _, limb, _ in found], impulse, row.monday)


def load(strikes: list[tuple[dt.date, str]]) -> list[Thrown]:
    return thrown_weeks([day for day, _ in strikes], [limb for _, limb in strikes])


def thrown_round(student: Student, row: Week) -> list[tuple[dt.date, str]]:
    """What was thrown in the weeks before a planned one, and in it."""
    return thrown(student, row.monday - BEFORE, row.monday + dt.timedelta(days=DAYS))


def known(student: Student, row: Week, strikes: list[tuple[dt.date, str]]) -> Known:
    """What the week is planned from: what was thrown round it, what is owed, what is sore."""
    before = [one for one in strikes if one[0] < row.monday]
    over = (student.gym.today - row.monday).days  # days of the week that are over
    unseen = unseen_of(student, row.monday)
    whole = {w.monday: w.strikes for w in load(before)}
    for at, strikes_unseen in unseen.items():  # a week that no unit saw at all is a week too
        whole[at] = whole.get(at, 0) + strikes_unseen
    usual = [whole[at] for at in sorted(whole)[-WEEKS_BEFORE:] if whole[at]]
    sunday = row.monday - dt.timedelta(days=1)
    kicks = sum(day == sunday and limb.endswith("foot") for day, limb in before)
    return Known(
        free={int(day): float(minutes) for day, minutes in row.free.items() if int(day) >= over},
        child=is_child(age_of(student.birth_date, student.gym.today)),
        usual_strikes=sum(usual) / len(usual) if usual else 0.0,
        thrown=len(strikes) - len(before) + (row.unseen_hands or 0) + (row.unseen_kicks or 0),
        easy=row.easy,
        volume_before=kicks >= KICK_DAY,
        sore=resting(soreness(student, row.monday)),
        ahead=owed(before, row.monday),
    )


def unseen_of(student: Student, before: dt.date) -> dict[dt.date, int]:
    """Strikes without units of earlier weeks, as far as a coach said."""
    rows = Week.objects.filter(student=student, monday__lt=before, monday__gte=before - BEFORE)
    return {w.monday: (w.unseen_hands or 0) + (w.unseen_kicks or 0) for w in rows}


def owed(before: list[tuple[dt.date, str]], monday: dt.date) -> tuple[int, int]:
    """Left minus right of the last four weeks: of hands, of kicks."""
    count = Counter(limb for day, limb in before if day >= monday - OWED_OVER)
    each = [count[f"left_{part}"] - count[f"right_{part}"] for part in ("hand", "foot")]
    return (max(-MOST_OWED, min(each[0], MOST_OWED)), max(-MOST_OWED, min(each[1], MOST_OWED)))


def soreness(student: Student, monday: dt.date) -> list[str]:
    """Injuries that are not over by the week's Monday, in the coach's words."""
    rows = Mark.objects.filter(student=student, kind=Mark.Kind.INJURY, since__lt=monday + dt.timedelta(days=DAYS))
    return [m.text for m in rows if m.until is None or m.until >= monday]


def of(student: Student, monday: dt.date) -> Week:
    """The week as it stands. One that nobody has planned is not saved; it begins with the last one's wishes."""
    row = Week.objects.filter(student=student, monday=monday).first()
    if row is not None:
        return row
    last = Week.objects.filter(student=student, monday__lt=monday).last()
    return Week(
        student=student, monday=monday, free=last.free if last else {}, wishes=last.wishes if last else [], version=0
    )


def rests(row: Week, parts: list[Part]) -> set[int]:
    """Which parts stand still: what they are thrown with hurts, and nobody has cleared it. Drills say no limb."""
    sore = resting(soreness(row.student, row.monday))
    return _resting(parts, sore, _codes(parts)) if sore else set()


def _codes(parts: list[Part]) -> dict[str, str]:
    """The strikes of these parts' trials, by the parts' keys."""
    keys = {int(p.key) for p in parts if p.kind == "trial" and p.key.isdecimal()}
    return {str(pk): code for pk, code in Trial.objects.filter(pk__in=keys).values_list("pk", "code")}


def _resting(parts: list[Part], sore: frozenset[str], codes: dict[str, str]) -> set[int]:
    limbs = {p.pk: _limbs_of(codes[p.key]) if p.kind == "trial" and p.key in codes else "" for p in parts}
    return {p.pk for p in parts if rests_of(p.kind, limbs[p.pk], sore)}


@dataclass(frozen=True, slots=True)
class Done:
    """What was done of a part on its day."""

    strikes: int  #: thrown with its limbs, as far as units saw them
    whole: bool | None  #: none: its day is not over


def done(row: Week, parts: list[Part], strikes: list[tuple[dt.date, str]]) -> dict[int, Done]:
    """Parts of days that came, against what was measured and ticked off. Of bursts and rounds nothing is told."""
    today = row.student.gym.today
    days = {d: row.monday + dt.timedelta(days=d) for d in range(DAYS)}
    own_week = {"session__student": row.student, "session__day__gte": row.monday}
    drilled = set(Drilled.objects.filter(**own_week).values_list("session__day", "drill"))
    called = CalledBlock.objects.filter(**own_week)
    blocks = Counter(called.values_list("session__day", "trial_id"))
    out = {}
    for p in parts:
        on = days[p.day]
        if on > today:
            continue
        own = [limb for day, limb in strikes if day == on]
        if p.kind in ("hands", "kicks"):
            n = sum(limb.endswith(_ENDS[p.kind]) for limb in own)
            out[p.pk] = Done(n, n >= p.strikes)
        elif p.kind == "drill":
            out[p.pk] = Done(0, (on, p.key) in drilled)
        elif p.kind == "trial" and p.key.isdecimal():
            out[p.pk] = Done(0, blocks[on, int(p.key)] > 0)
        elif p.kind == "ramp":
            out[p.pk] = Done(0, bool(own))
        if p.pk in out and on == today and not out[p.pk].whole:
            out[p.pk] = Done(out[p.pk].strikes, None)  # today is not over
    return out


_ENDS = {"hands": ("hand", "elbow"), "kicks": ("foot", "knee")}


def repeat(student: Student, monday: dt.date, weeks: int) -> list[Week]:
    """The same wishes and free evenings in the weeks that follow, each proposed by what is known; a week that is
    planned already stays as it is."""
    if not 1 <= weeks <= MOST_REPEATED:
        raise BadInput(f"Repeat a week for one to {MOST_REPEATED} weeks.")
    row = of(student, monday)
    if not row.pk:
        raise BadInput("Plan this week first; then it can be repeated.")
    wishes, free = [Wish(**w) for w in row.wishes], {int(d): float(m) for d, m in row.free.items()}
    out = []
    for k in range(1, weeks + 1):
        at = monday + dt.timedelta(weeks=k)
        if not Part.objects.filter(week__student=student, week__monday=at).exists():
            version = of(student, at).version
            out.append(propose(student, at, wishes, free, row.easy, version, _share_of(SolverTime(), weeks)))
    return out


def _share_of(whole: SolverTime, weeks: int) -> SolverTime:
    """Several weeks at once keep a coach waiting little longer than one."""
    return SolverTime(best_s=2 * whole.best_s / weeks, why_s=2 * whole.why_s / weeks) if weeks > 2 else whole


def tell_unseen(student: Student, monday: dt.date, hands: int | None, kicks: int | None, version: int) -> Week:
    """What was thrown without units in a week; None: nobody can say."""
    if any(n is not None and not 0 <= n <= MOST_UNSEEN for n in (hands, kicks)):
        raise BadInput(f"Strikes without units are a count from 0 to {MOST_UNSEEN}.")
    _is_monday(monday)
    with locked(student, monday, version) as row:
        row.unseen_hands, row.unseen_kicks = hands, kicks
        save(row, "unseen_hands", "unseen_kicks")
    return row


def _is_monday(day: dt.date) -> None:
    if day.weekday() != 0:
        raise BadInput(f"A week is named by its Monday: {monday_of(day)} for {day}.")


@contextmanager
def locked(student: Student, monday: dt.date, version: int | None = None) -> Iterator[Week]:
    """A student's week as it stands, while nobody else changes one of theirs. Raises ChangedMeanwhile where it is not
    the one that the page showed. Rows that only refer to the student come in meanwhile."""
    with transaction.atomic():
        Student.objects.select_for_update(no_key=True).get(pk=student.pk)
        row = of(student, monday)
        if version is not None and row.version != version:
            raise ChangedMeanwhile("this week's plan", f"it holds {row.parts.count() if row.pk else 0} parts")
        yield row


def save(row: Week, *columns: str) -> None:
    """Keep what was changed of a week, and nothing else of it."""
    row.version += 1
    if row.pk:
        row.save(update_fields=[*columns, "version"])
    else:
        row.save()


def propose(
    student: Student,
    monday: dt.date,
    wishes: list[Wish],
    free: dict[int, float],
    easy: bool,
    version: int,
    allowed: SolverTime = SolverTime(),  # noqa: B008  (frozen)
) -> Week:
    """Plan the week anew from these wishes. What was planned before gives way, whole.

    The solver works for seconds: outside any transaction, and nobody waits for it but who asked.
    """
    _is_monday(monday)
    if monday < monday_of(student.gym.today):
        raise BadInput("That week is over: plan this one, or one that is to come.")
    for wish in wishes:
        if wish.counts and f"lead-{wish.key}" not in STRIKE_CODES:
            raise BadInput(f"{wish.name}: count a strike that is thrown from both sides, as round or straight.")
    wishes = [replace(w, part=_part_of(student.gym, w)) if w.kind == "trial" else w for w in wishes]
    allow(student, student.gym.today)
    asked = {
        "wishes": [asdict(w) for w in wishes],
        "free": {str(d): m for d, m in free.items()},
        "easy": easy,
    }
    with locked(student, monday, version) as row:
        rests_on = _known_with(student, row, asked)
    give_back_connection()
    planned = _solved(wishes, rests_on, allowed)
    with locked(student, monday, version) as row:
        if _known_with(student, row, asked) != rests_on:
            raise ChangedMeanwhile("what this week is planned from", "strikes came in, or something hurts or is over")
        row.bent, row.proven = {str(b.wish): b.text for b in planned.bent}, planned.proven
        save(row, *asked, "bent", "proven")
        row.parts.all().delete()
        Part.objects.bulk_create(
            Part(week=row, day=day, place=place, **asdict(item))
            for day, items in planned.evenings.items()
            for place, item in enumerate(items)
        )
    return row


def _solved(wishes: list[Wish], rests_on: Known, allowed: SolverTime) -> SolvedWeek:
    """One at a time in each process: a solver takes a core for itself, and pages want one too."""
    if not _ONE_SOLVER.acquire(timeout=MOST_WAIT_S):
        raise BadInput("Other weeks are being planned just now. Try again in a few seconds.")
    try:
        return week(wishes, rests_on, allowed)
    finally:
        _ONE_SOLVER.release()


def _known_with(student: Student, row: Week, asked: dict[str, Any]) -> Known:
    """What a week would be planned from with these wishes: they are put into the row, which nobody saves."""
    for name, value in asked.items():
        setattr(row, name, value)
    return known(student, row, thrown_round(student, row))


def _part_of(gym: Gym, wish: Wish) -> str:
    """Whether a trial's strike is thrown with hands or is a kick. Raises NotYours where there is no such trial."""
    trial = Trial.objects.for_gym(gym).filter(pk=int(wish.key) if wish.key.isdecimal() else 0).first()
    if trial is None:
        raise NotYours("trial")
    return _limbs_of(trial.code)


def _limbs_of(code: str) -> str:
    return "kicks" if limb_of(code, "").endswith(("foot", "knee")) else "hands"


@contextmanager
def _part(gym: Gym, part_id: int, version: int, day: int = 0) -> Iterator[Part]:
    """A part in its week, while nobody else changes that."""
    if day not in range(DAYS):
        raise BadInput("A week has seven days: 0 is Monday, 6 Sunday.")
    row = Part.objects.for_gym(gym).select_related("week__student__gym").filter(pk=part_id).first()
    if row is None:
        raise NotYours("part of the plan")
    with locked(row.week.student, row.week.monday, version) as week:
        row.week = week
        row.refresh_from_db(fields=["day", "place"])  # there it is: the week is the one that the page showed
        yield row


def move(gym: Gym, part_id: int, day: int, version: int) -> Week:
    """Put a part on another evening, after what is there: the coach knows better."""
    with _part(gym, part_id, version, day) as row:
        row.day, row.place = day, _next_place(row.week, day)
        row.save(update_fields=["day", "place"])
        save(row.week)
    return row.week


def copy(gym: Gym, part_id: int, day: int, version: int) -> Week:
    """Have a part once more, on another evening."""
    with _part(gym, part_id, version, day) as row:
        if Part.objects.filter(week=row.week).count() >= MOST_PARTS:
            raise BadInput(f"A week holds at most {MOST_PARTS} parts. Take one off first.")
        row.pk, row.day, row.place = None, day, _next_place(row.week, day)
        row.save(force_insert=True)
        save(row.week)
    return row.week


def drop(gym: Gym, part_id: int, version: int) -> Week:
    with _part(gym, part_id, version) as row:
        row.delete()
        save(row.week)
    return row.week


def _next_place(row: Week, day: int) -> int:
    last = Part.objects.filter(week=row, day=day).aggregate(models.Max("place"))["place__max"]
    return 0 if last is None else int(last) + 1


@transaction.atomic
def tonight(gym: Gym, student: Student) -> Session:
    """Today's parts as tonight's sets: the ramp, and each count. A trial's blocks come from its own sheet."""
    session = evenings.came(gym, student, gym.today, True)
    row = Week.objects.filter(student=student, monday=monday_of(gym.today)).first()
    parts = list(row.parts.filter(day=gym.today.weekday())) if row else []
    rest = rests(row, parts) if row else set()
    for part in parts:
        if part.pk in rest:
            continue
        if part.kind == "ramp" and not any(EFFORT in p.levels for p in session.planned.all()):
            evenings.plan_ramp(gym, session.pk, "rear-straight")
        if part.kind in ("hands", "kicks"):
            evenings.count(gym, session.pk, part.key, part.strikes, 10)
    return session


@dataclass(frozen=True, slots=True)
class Row:
    """A student's week on the board of the class."""

    student: Student
    week: Week | None
    parts: list[Part]
    rests: set[int]


def class_board(gym: Gym, monday: dt.date) -> list[Row]:
    """Everybody who trains here, and what is planned of each."""
    weeks = {w.student_id: w for w in Week.objects.for_gym(gym).filter(monday=monday).prefetch_related("parts")}
    hurt = Mark.objects.for_gym(gym).filter(kind=Mark.Kind.INJURY, since__lt=monday + dt.timedelta(days=DAYS))
    words: dict[int, list[str]] = {}
    for m in hurt:
        if m.until is None or m.until >= monday:
            words.setdefault(m.student_id, []).append(m.text)
    codes = _codes([p for w in weeks.values() for p in w.parts.all()])
    out = []
    for student in Student.objects.for_gym(gym).filter(left_on__isnull=True).select_related("gym"):
        week = weeks.get(student.pk)
        parts = list(week.parts.all()) if week else []
        out.append(Row(student, week, parts, _resting(parts, resting(words.get(student.pk, [])), codes)))
    return out
