"""Strikes as flat tables: of a trial, and of a student's weeks. Screens, claims and exports all read these."""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any, cast

import numpy as np
import pyarrow as pa
from django.db.models import Q, QuerySet

from agile_strike.capture.basis import behind
from agile_strike.capture.models import Recording
from agile_strike.core.registry import PER_BODY_MASS, PROVISIONAL
from agile_strike.core.strikes import BAG, KINDS
from agile_strike.core.vocabulary import EFFORT
from agile_strike.gym.models import Gym
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student
from agile_strike.review.models import Strike, StrikeSet
from agile_strike.trials.models import SCHOOL, Trial

LEVEL = "level"  # the column of a trial's table that holds the level of its factor
DAY = dt.timedelta(days=1)


@dataclass(frozen=True, slots=True)
class Block:
    """A set as a trial sees it; plain rows, since a year has thousands."""

    key: int
    recording: int
    acquired_at: dt.datetime
    student: int
    participant: str
    body_mass_kg: float | None
    version: int | None
    figures: dict[str, Any]  #: of the bag, as the recording was computed with them
    level: str
    gear: str


def level_of(factor: str, levels: dict[str, str], school: str | None) -> str:
    """The level of a factor under which a set was thrown; empty where nothing was said."""
    return (school or "") if factor == SCHOOL else str(levels.get(factor, ""))


def blocks_of(trial: Trial, students: Iterable[int]) -> list[Block]:
    """Sets that are blocks of the trial: of its strike and height, under one of its levels, since it began."""
    began = dt.datetime.combine(trial.started_on, dt.time(), trial.gym.zone)
    return _blocks(trial, students, Q(recording__acquired_at__gte=began))


def earlier(trial: Trial, students: Iterable[int]) -> list[Block]:
    """Sets that would be blocks of the trial if it counted from an earlier day."""
    began = dt.datetime.combine(trial.started_on, dt.time(), trial.gym.zone)
    return _blocks(trial, students, Q(recording__acquired_at__lt=began))


def _blocks(trial: Trial, students: Iterable[int], when: Q) -> list[Block]:
    zone = trial.gym.zone
    sets = StrikeSet.objects.filter(
        when, recording__gym=trial.gym_id, recording__student_id__in=list(students), code=trial.code
    ).standing()
    if trial.height:
        sets = sets.filter(level=trial.height)
    if trial.ended_on is not None:
        until = dt.datetime.combine(trial.ended_on + DAY, dt.time(), zone)
        sets = sets.filter(recording__acquired_at__lt=until)
    rows = sets.values_list(
        "pk",
        "recording_id",
        "recording__acquired_at",
        "recording__student_id",
        "recording__student__label",
        "recording__analysis__body_mass_kg",
        "recording__bag_version_id",
        "recording__analysis__bag",
        "levels",
        "school__name",
        "gear",
        "recording__session__gear",
    )
    found = [Block(*r[:8], level_of(trial.factor, r[8], r[9]), r[10] or r[11]) for r in rows]
    return [b for b in found if b.level in trial.levels]


def trial_table(trial: Trial, students: Iterable[int], measures: list[str], doubts: bool = False) -> pa.Table:
    """Every strike of the trial's blocks with its measures; thrown-out ones with their reason in `excluded`.

    A session is a student's day in the gym's time zone; blocks are counted along it. `doubts` adds each measure's sd.
    """
    sets = {b.key: b for b in blocks_of(trial, students)}
    # what was thrown on pads or in the air is another thing
    rows = _strikes(Strike.objects.filter(set_id__in=list(sets), kind=BAG), measures, doubts)
    zone = trial.gym.zone
    first: dict[int, float] = {}
    for row in rows:
        key, contact = cast(int, row[1]), cast(float, row[3])
        if contact < first.get(key, np.inf):
            first[key] = contact
    begun = {key: sets[key].acquired_at + dt.timedelta(seconds=contact) for key, contact in first.items()}
    evening = {key: (sets[key].student, at.astimezone(zone).date()) for key, at in begun.items()}
    place: dict[int, int] = {}
    count: dict[tuple[int, dt.date], int] = {}
    for key in sorted(begun, key=lambda k: begun[k]):
        place[key] = count[evening[key]] = count.get(evening[key], 0) + 1
    bags = _versions(sets.values())
    late = set(behind(trial.gym, {sets[key].recording for key in begun}))
    fixed = {key: _of_set(trial, sets[key], bags, late, evening[key][1], place[key]) for key in begun}
    rows.sort(key=lambda r: (sets[r[1]].participant, begun[r[1]], r[3]))
    columns: dict[str, list[Any]] = {name: [fixed[r[1]][name] for r in rows] for name in (*FIXED, "body_mass_kg")}
    return _table(columns, rows, measures, doubts)


FIXED = ("participant", "session", "block", "order", LEVEL, "bag", "mount", "calibration", "gloves")


def _versions(blocks: Iterable[Block]) -> dict[int, BagVersion]:
    """Bags as they hung, by their id."""
    keys = {b.version for b in blocks if b.version is not None}
    return {v.pk: v for v in BagVersion.objects.filter(pk__in=keys).select_related("bag")}


def _of_set(
    trial: Trial, b: Block, bags: dict[int, BagVersion], late: set[int], on: dt.date, place: int
) -> dict[str, Any]:
    """What all strikes of a block share; `late` has recordings whose figures are behind what is known by now."""
    version = bags.get(b.version or 0)
    return {
        "participant": b.participant,
        "session": on.isoformat(),
        "block": str(place),
        "order": place,
        LEVEL: b.level,
        "bag": bag_name(version, b.figures),
        "mount": version.mount if version else "",
        "calibration": calibration_name(version, b.figures, b.recording in late),
        "gloves": b.gear or trial.gear,
        "body_mass_kg": b.body_mass_kg,
    }


def bag_name(version: BagVersion | None, figures: dict[str, Any]) -> str:
    """A bag as its figures have it: another mass is another bag."""
    return f"{version.bag.name}, {figures['mass_kg']:g} kg" if version else ""


def calibration_name(version: BagVersion | None, figures: dict[str, Any], late: bool) -> str:
    """What the figures of a recording rest on beside its bag and mount; `late`: more is known by now."""
    if version is None:
        return BEHIND if late else ""
    inertia = figures["inertia_cm_kg_m2"]
    told = f"inertia {f'{inertia:g} kg m2' if inertia else 'estimated'}"
    told += f", gain {figures['impulse_gain']:g}"
    return f"{told}; {BEHIND}" if late else told


BEHIND = "analysed before the newest calibration"


def weeks_table(
    gym: Gym, student: Student, measures: list[str], code: str = "", height: str = "", kinds: Sequence[str] = KINDS
) -> pa.Table:
    """Every strike by a student, evening by evening; a block is a set, or what stands outside any.

    `own_way` is no for strikes under a level that was only being tried then.
    """
    strikes = Strike.objects.for_gym(gym).filter(recording__student=student, kind__in=kinds)
    strikes = strikes.exclude(set__levels__has_key=EFFORT)  # a ramp's strikes are light on purpose
    if code:
        strikes = strikes.filter(set__code=code)
    zone = gym.zone
    names = ("pk", "acquired_at", "analysis__body_mass_kg", "bag_version_id", "analysis__bag")
    found = {r[0]: r for r in Recording.objects.for_gym(gym).filter(student=student).values_list(*names)}
    bags = {v.pk: v for v in BagVersion.objects.filter(pk__in={r[3] for r in found.values()}).select_related("bag")}
    day = {key: r[1].astimezone(zone).date() for key, r in found.items()}
    fields = ("pk", "recording_id", "code", "level", "levels", "school__name")
    sets = {r[0]: r for r in StrikeSet.objects.for_gym(gym).filter(recording__student=student).values_list(*fields)}
    own = _own_way(student, sets, day)
    labels = {key: _labels(r[4], r[5]) for key, r in sets.items()}
    rows = _strikes(strikes, measures, True)
    off_bag = dict(strikes.exclude(kind=BAG).order_by().values_list("pk", "kind"))
    if height:
        rows = [r for r in rows if r[1] is not None and sets[r[1]][3] == height]
    rows.sort(key=lambda r: (found[r[2]][1], r[3]))
    late = set(behind(gym, {r[2] for r in rows}))
    bag = {key: bag_name(bags.get(r[3] or 0), r[4]) for key, r in found.items()}
    basis = {key: calibration_name(bags.get(r[3] or 0), r[4], key in late) for key, r in found.items()}
    text = {key: d.isoformat() for key, d in day.items()}
    columns: dict[str, list[Any]] = {
        "participant": [student.label] * len(rows),
        "session": [text[r[2]] for r in rows],
        "block": [str(r[1] or f"r{r[2]}") for r in rows],
        "code": [sets[r[1]][2] if r[1] else "" for r in rows],
        "levels": ["" if r[1] is None else labels[r[1]] for r in rows],
        "own_way": ["no" if r[1] in own else "yes" for r in rows],
        "kind": [off_bag.get(r[0], BAG) for r in rows],
        "bag": [bag[r[2]] for r in rows],
        "calibration": [basis[r[2]] for r in rows],
        "body_mass_kg": [found[r[2]][2] for r in rows],
    }
    return _table(columns, rows, measures, True)


def _labels(levels: dict[str, str], school: str | None) -> str:
    """All levels and the school of a set, in one text."""
    pairs = sorted(levels.items()) + ([(SCHOOL, school)] if school else [])
    return "; ".join(f"{factor}={level}" for factor, level in pairs)


def _own_way(student: Student, sets: dict[int, tuple[Any, ...]], day: dict[int, dt.date]) -> set[int]:
    """Sets that were not thrown the student's own way: under a level of a trial that had not been kept by then."""
    out = set()
    for trial in Trial.objects.standing().filter(students=student).prefetch_related("decisions"):
        kept = sorted(
            (d.decided_on, d.level) for d in trial.decisions.all() if d.student_id == student.pk and d.what == "keep"
        )
        for key, recording, code, _, levels, school in sets.values():
            level = level_of(trial.factor, levels, school)
            if code != trial.code or level not in trial.levels:
                continue
            way = next((k for since, k in reversed(kept) if since < day[recording]), trial.levels[0])
            if level != way:
                out.add(key)
    return out


def _strikes(strikes: "QuerySet[Strike]", measures: list[str], doubts: bool) -> list[tuple[Any, ...]]:
    """(id, set, recording, contact, limb, excluded, measures..., sds...)"""
    base = [m.removesuffix(PER_BODY_MASS) for m in measures]
    names = ("pk", "set_id", "recording_id", "contact_s", "limb", "excluded_reason")
    sds = [f"{m}_sd" for m in base] if doubts else []
    rows = strikes.exclude(flags__contains=[PROVISIONAL]).order_by().values_list(*names, *base, *sds, "relabelled_limb")
    return [r[:-1] if not r[-1] else (*r[:4], r[-1], *r[5:-1]) for r in rows]


def _table(columns: dict[str, list[Any]], rows: list[tuple[Any, ...]], measures: list[str], doubts: bool) -> pa.Table:
    """The columns that are given, then limb, exclusion and identity of each strike, then its measures and their sd."""
    kinds = {"body_mass_kg": pa.float64(), "order": pa.int64()}
    out = {name: pa.array(column, kinds.get(name, pa.string())) for name, column in columns.items()}
    told = list(zip(*rows, strict=True)) if rows else [()] * (6 + len(measures) * (2 if doubts else 1))
    own = (("limb", 4), ("excluded", 5), ("strike_id", 0), ("recording_id", 2), ("contact_s", 3))
    types = {4: pa.string(), 5: pa.string(), 0: pa.int64(), 2: pa.int64(), 3: pa.float64()}
    out |= {name: pa.array(told[at], types[at]) for name, at in own}
    mass = np.array([np.nan if m is None else m for m in columns["body_mass_kg"]], dtype=np.float64)
    for i, name in enumerate(measures):
        over = mass if name.endswith(PER_BODY_MASS) else 1.0
        named = ((name, 6 + i), (f"{name}_sd", 6 + len(measures) + i))
        for column, at in named[: 2 if doubts else 1]:
            values = np.array(told[at], dtype=np.float64) / over  # None becomes NaN
            out[column] = pa.array(values, pa.float64(), from_pandas=True)
    return pa.table(out)
