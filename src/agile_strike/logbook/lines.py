"""All that happened, of a student or a gym, as one line of time: found here, told in `telling`.

Nothing is copied: each kind of line is cut out of its own table, by its own index, to as many as a page needs, and the
pieces are put in order by the database.
"""

import datetime as dt
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from django.contrib.postgres.search import SearchVector
from django.db.models import BigIntegerField, DateField, ExpressionWrapper, F, Q, QuerySet, Value
from django.db.models.functions import Cast, TruncDate

from agile_strike.core.errors import BadInput
from agile_strike.evening.models import Session
from agile_strike.gym.models import Gym, consented
from agile_strike.gym.words import asked, words_of
from agile_strike.kit.models import BagVersion, Calibration
from agile_strike.logbook.models import Note
from agile_strike.people.models import BodyMass, Mark, StanceChange, Student
from agile_strike.review.models import Strike
from agile_strike.trials.models import Decision, Trial

#: what a coach filters by, and the kinds of line in it
GROUPS: dict[str, tuple[str, ...]] = {
    "evenings": ("evening",),
    "notes": ("note", "strike"),
    "pain": ("mark", "over"),
    "decisions": ("decision", "trial"),
    "body": ("mass", "stance"),
    "kit": ("bag", "calibration"),
}
PAGE, DEEPEST = 40, 20_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """Which lines are wanted."""

    student: Student | None = None
    groups: tuple[str, ...] = ()  #: of GROUPS; none: all
    text: str = ""
    since: dt.date | None = None
    until: dt.date | None = None
    skip: int = 0
    handed_out: bool = False  #: then nothing of a child whose guardian does not let it be


@dataclass(frozen=True, slots=True)
class Found:
    """A line before it is told."""

    day: dt.date
    kind: str
    key: int
    student: int | None


@dataclass(frozen=True, slots=True)
class Source:
    """A kind of line: its rows, the column of its day, the way to its student, the words that can be searched."""

    kind: str
    rows: Callable[[Gym], "QuerySet[Any]"]
    day: str
    student: str | None = None
    words: SearchVector | None = None  #: as its index has them; none: no words of its own
    moment: bool = False  #: its day is that of a moment, on the gym's calendar


def _of_people(model: Any) -> Callable[[Gym], "QuerySet[Any]"]:
    return lambda gym: model.objects.filter(student__gym=gym, student__removed_at__isnull=True)


def _evenings(gym: Gym) -> "QuerySet[Any]":
    said = ~Q(gear="", soreness="", notes="")
    return Session.objects.for_gym(gym).filter(day__lte=gym.today).filter(Q(here=True) | said)


def _over(gym: Gym) -> "QuerySet[Any]":
    return Mark.objects.for_gym(gym).filter(until__isnull=False)


def _noted(gym: Gym) -> "QuerySet[Any]":
    return Strike.objects.for_gym(gym).exclude(note="")


def _hung(gym: Gym) -> "QuerySet[Any]":
    return BagVersion.objects.filter(bag__gym=gym, bag__removed_at__isnull=True)


def _calibrated(gym: Gym) -> "QuerySet[Any]":
    return Calibration.objects.filter(gym=gym)


SOURCES = (
    Source("note", Note.objects.for_gym, "day", "student_id", words_of("text")),
    Source("over", _over, "until", "student_id", words_of("text")),
    Source("mark", Mark.objects.for_gym, "since", "student_id", words_of("text")),
    Source("decision", Decision.objects.for_gym, "decided_on", "student_id", words_of("reason", "level")),
    Source("trial", Trial.objects.for_gym, "started_on", None, words_of("factor", "code")),
    Source("strike", _noted, "recording__session__day", "recording__student_id", words_of("note")),
    Source("evening", _evenings, "day", "student_id", words_of("gear", "soreness", "notes")),
    Source("mass", _of_people(BodyMass), "measured_on", "student_id"),
    Source("stance", _of_people(StanceChange), "since", "student_id"),
    Source("bag", _hung, "since", None, words_of("bag__name"), moment=True),
    Source("calibration", _calibrated, "made_at", None, moment=True),
)


def not_over(gym: Gym, student: Student | None) -> list[Found]:
    """What still hurts, the longest first."""
    rows = Mark.objects.for_gym(gym).filter(kind=Mark.Kind.INJURY, until__isnull=True, student__left_on__isnull=True)
    if student is not None:
        rows = rows.filter(student=student)
    return [Found(m.since, "mark", m.pk, m.student_id) for m in rows]


def find(gym: Gym, what: Asked, page: int = PAGE) -> list[Found]:
    """A page of lines and one more, where there is more; the latest first."""
    for group in what.groups:
        if group not in GROUPS:
            raise BadInput(f"{group[:40]} is nothing that the log holds: choose of {', '.join(GROUPS)}.")
    if not 0 <= what.skip <= DEEPEST:
        raise BadInput(f"Narrow the log down by days: it is turned over up to line {DEEPEST}.")
    kinds = {kind for group in what.groups or GROUPS for kind in GROUPS[group]}
    parts = [part for s in SOURCES if s.kind in kinds for part in _part(gym, s, what, what.skip + page + 1)]
    if not parts:
        return []
    span = slice(what.skip, what.skip + page + 1)
    first, *others = parts
    wanted = first.union(*others, all=True).order_by("-on", "order", "-key")[span] if others else list(first)[span]
    return [Found(on, SOURCES[order].kind, key, student) for on, order, key, student in wanted]


def _on(gym: Gym, source: Source, searched: bool) -> Any:
    if source.moment:
        return TruncDate(source.day, tzinfo=gym.zone)
    # a search goes by its words' index and sorts what it finds: by the days' index a rare word would walk ten years
    return ExpressionWrapper(F(source.day) + Value(0), DateField()) if searched else F(source.day)


def _part(gym: Gym, source: Source, what: Asked, most: int) -> Iterator["QuerySet[Any]"]:
    """This kind's share of the page, none where it can have none."""
    if source.words is None and what.text.strip():
        return
    rows = source.rows(gym)
    if what.handed_out and source.student is not None:
        whose = source.student.removesuffix("_id")
        rows = rows.filter(consented(f"{whose}__") | Q(**{f"{whose}__isnull": True}))
    if what.student is not None:
        if source.kind == "trial":
            rows = rows.filter(students=what.student)
        elif source.student is not None:
            rows = rows.filter(**{source.student: what.student.pk})
        else:
            return  # kit is the gym's
    if what.text.strip():
        query = asked(what.text)
        if query is None:
            return
        rows = rows.annotate(words=source.words).filter(words=query)
    rows = rows.annotate(on=_on(gym, source, bool(what.text.strip())))
    if what.since is not None:
        rows = rows.filter(on__gte=what.since)
    if what.until is not None:
        rows = rows.filter(on__lte=what.until)
    who = F(source.student) if source.student else Cast(Value(None), BigIntegerField())
    told = rows.annotate(order=Value(SOURCES.index(source)), key=F("pk"), who=who)
    yield told.order_by("-on", "-pk").values_list("on", "order", "key", "who")[:most]
