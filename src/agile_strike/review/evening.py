"""One student's evening as a page: who, with what, what was planned, what was thrown, what was said."""

import datetime as dt
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db.models import Count, QuerySet

from agile_strike.capture.models import Recording, Wear
from agile_strike.core.errors import NotYours
from agile_strike.core.playbook import cautions
from agile_strike.core.vocabulary import EFFORT
from agile_strike.evening.models import PlannedSet, Session
from agile_strike.gym.models import Gym
from agile_strike.people.services import age_of, mass_on, stance_on
from agile_strike.playbook import entries
from agile_strike.review.models import Remark, Strike, StrikeSet

MEASURE = "impulse_n_s"  # the middle of a set is told in: every bag that weighs something gives it


@dataclass(frozen=True, slots=True, kw_only=True)
class Thrown:
    """A set as it was thrown, with the middle of what was measured in it."""

    id: int
    recording_id: int
    planned_id: int | None
    code: str
    limb: str
    level: str
    levels: dict[str, str]
    school: str
    strikes: int
    excluded: int
    mean: float | None
    kinds: list[str]  #: what they landed on, as core.strikes.KINDS
    by_coach: bool


@dataclass(frozen=True, slots=True)
class Remarked:
    what: str
    strikes: int


@dataclass(frozen=True, slots=True)
class Saw:
    """What the coach's eye saw of a point of the set-up check."""

    point: str
    name: str
    good: bool


@dataclass(frozen=True, slots=True)
class Worked:
    """A drill of the evening."""

    drill: str
    name: str


@dataclass(frozen=True, slots=True)
class Noted:
    strike_id: int
    recording_id: int
    number: int
    note: str


@dataclass(frozen=True, slots=True)
class Worn:
    unit_id: int
    unit: str
    placement: str
    battery_pct: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class EveningPage:
    id: int
    student_id: int
    day: dt.date
    gear: str
    soreness: str
    notes: str
    version: int
    student: str
    stance: str
    mass_kg: float | None
    bags: list[str]
    measure: str
    planned: "QuerySet[PlannedSet]"
    thrown: list[Thrown]
    loose: int
    recordings: "QuerySet[Recording]"
    remarks: list[Remarked]
    noted: list[Noted]
    looked: list[Saw]
    drilled: list[Worked]
    worn: list[Worn]
    cautions: list[str]
    before: int | None
    after: int | None


def page(gym: Gym, session_id: int) -> EveningPage:
    """Raises NotYours where there is no such evening."""
    rows = Session.objects.for_gym(gym).select_related("student")
    row = rows.prefetch_related("student__masses", "student__stances").filter(pk=session_id).first()
    if row is None:
        raise NotYours("evening")
    recordings = Recording.objects.for_gym(gym).filter(session=row).select_related("analysis").order_by("acquired_at")
    strikes = Strike.objects.for_gym(gym).filter(recording__session=row)
    said = Remark.objects.filter(strike__in=strikes).order_by().values_list("what").annotate(n=Count("pk"))
    noted = strikes.exclude(note="").order_by("recording__acquired_at", "number")
    bags = recordings.filter(bag_version__isnull=False).values_list("bag_version__bag__name", flat=True)
    own = Session.objects.for_gym(gym).filter(student=row.student)
    return EveningPage(
        **{n: getattr(row, n) for n in ("id", "student_id", "day", "gear", "soreness", "notes", "version")},
        student=row.student.name,
        stance=stance_on(row.student, row.day),
        mass_kg=mass_on(row.student, row.day),
        bags=list(dict.fromkeys(bags)),
        measure=MEASURE,
        planned=row.planned.select_related("school", "called"),
        thrown=_thrown(gym, row, strikes),
        loose=strikes.filter(set__isnull=True).count(),
        recordings=recordings,
        remarks=[Remarked(what, n) for what, n in said],
        noted=[Noted(*r) for r in noted.values_list("pk", "recording_id", "number", "note")],
        looked=[Saw(*r) for r in row.looked.values_list("point", "name", "good")],
        drilled=[Worked(*r) for r in row.drilled.values_list("drill", "name")],
        worn=_worn(recordings),
        cautions=_cautions(gym, row),
        before=own.filter(day__lt=row.day).order_by("-day").values_list("pk", flat=True).first(),
        after=own.filter(day__gt=row.day).order_by("day").values_list("pk", flat=True).first(),
    )


def _cautions(gym: Gym, row: Session) -> list[str]:
    planned = list(row.planned.values_list("code", "levels"))
    ramp = any(EFFORT in levels for _, levels in planned)
    age = age_of(row.student.birth_date, row.day)
    return cautions.tonight([code for code, _ in planned], entries.care(gym), age, row.soreness, ramp)


def _thrown(gym: Gym, session: Session, strikes: Any) -> list[Thrown]:
    """Sets in order of their first strike."""
    figures: dict[int, list[tuple[str, float | None, str]]] = {}
    order = strikes.filter(set__isnull=False).order_by("recording__acquired_at", "contact_s")
    for key, out, value, kind in order.values_list("set_id", "excluded_reason", MEASURE, "kind"):
        figures.setdefault(key, []).append((out, value, kind))
    sets = StrikeSet.objects.for_gym(gym).filter(recording__session=session).select_related("school").in_bulk()
    # a set may be gone since: another coach removed it
    return [_one(sets[key], rows) for key, rows in figures.items() if key in sets]


def _one(row: StrikeSet, strikes: list[tuple[str, float | None, str]]) -> Thrown:
    counted = [value for out, value, _ in strikes if not out]
    had = [value for value in counted if value is not None]
    return Thrown(
        **{n: getattr(row, n) for n in ("id", "recording_id", "planned_id", "code", "limb", "level", "levels")},
        school=row.school.name if row.school else "",
        strikes=len(counted),
        excluded=len(strikes) - len(counted),
        mean=float(np.mean(had)) if had else None,
        kinds=sorted({kind for _, _, kind in strikes}),
        by_coach=row.by_coach,
    )


def _worn(recordings: "QuerySet[Recording]") -> list[Worn]:
    """Every unit once for each place where it was; the battery as it was first told."""
    out: dict[tuple[int, str], Worn] = {}
    rows = Wear.objects.filter(recording__in=recordings).select_related("unit").order_by("recording__acquired_at")
    for w in rows.order_by("placement", "recording__acquired_at"):
        out.setdefault((w.unit_id, w.placement), Worn(w.unit_id, str(w.unit), w.placement, w.battery_pct))
    return list(out.values())
