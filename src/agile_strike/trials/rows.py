"""Strikes as flat tables: of a trial, and of a student's weeks. Screens, claims and exports all read these."""

import csv
import datetime as dt
import io
from collections.abc import Iterable
from typing import Any, cast
from zoneinfo import ZoneInfo

import numpy as np
import pyarrow as pa
from django.db.models import QuerySet

from agile_strike.core.registry import PER_BODY_MASS
from agile_strike.formats.tabular import cell
from agile_strike.gym.models import Gym
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student
from agile_strike.review.models import Strike, StrikeSet
from agile_strike.trials.models import SCHOOL, Trial

LEVEL = "level"  # the column of a trial's table that holds the level of its factor
WORDS = (
    "participant",
    "session",
    "block",
    LEVEL,
    "bag",
    "mount",
    "calibration",
    "gloves",
    "limb",
    "excluded",
    "code",
    "own_way",
)
DAY = dt.timedelta(days=1)


def level_of(factor: str, row: StrikeSet) -> str:
    """The level of a factor under which a set was thrown; empty where nothing was said."""
    if factor == SCHOOL:
        return row.school.name if row.school else ""
    return str(row.levels.get(factor, ""))


def blocks_of(trial: Trial, students: Iterable[int]) -> list[StrikeSet]:
    """Sets that are blocks of the trial: of its strike and height, under one of its levels, since it began."""
    zone = ZoneInfo(trial.gym.time_zone)
    since = dt.datetime.combine(trial.started_on, dt.time(), zone)
    sets = StrikeSet.objects.filter(
        recording__gym=trial.gym_id,
        recording__student_id__in=list(students),
        recording__acquired_at__gte=since,
        code=trial.code,
    ).select_related("recording__student", "recording__bag_version__bag", "school")
    if trial.height:
        sets = sets.filter(level=trial.height)
    if trial.ended_on is not None:
        until = dt.datetime.combine(trial.ended_on + DAY, dt.time(), zone)
        sets = sets.filter(recording__acquired_at__lt=until)
    return [row for row in sets if level_of(trial.factor, row) in trial.levels]


def trial_table(trial: Trial, students: Iterable[int], measures: list[str]) -> pa.Table:
    """Every strike of the trial's blocks with its measures; thrown-out ones with their reason in `excluded`.

    A session is a student's day in the gym's time zone; blocks are counted along it.
    """
    sets = {row.pk: row for row in blocks_of(trial, students)}
    rows = _strikes(Strike.objects.filter(set_id__in=sets), measures)
    zone = ZoneInfo(trial.gym.time_zone)
    first: dict[int, dt.datetime] = {}
    for row in rows:
        key, contact = cast(int, row[1]), cast(float, row[3])
        at = sets[key].recording.acquired_at + dt.timedelta(seconds=contact)
        if key not in first or at < first[key]:
            first[key] = at
    evening = {key: (sets[key].recording.student_id, at.astimezone(zone).date()) for key, at in first.items()}
    place: dict[int, int] = {}
    count: dict[tuple[int, dt.date], int] = {}
    for key in sorted(first, key=lambda k: first[k]):
        place[key] = count[evening[key]] = count.get(evening[key], 0) + 1
    fixed = {key: _of_set(trial, sets[key], evening[key][1], place[key]) for key in first}
    rows.sort(key=lambda r: (sets[r[1]].recording.student.label, first[r[1]], r[3]))
    columns: dict[str, list[Any]] = {name: [fixed[r[1]][name] for r in rows] for name in (*FIXED, "body_mass_kg")}
    return _table(columns, rows, measures)


FIXED = ("participant", "session", "block", "order", LEVEL, "bag", "mount", "calibration", "gloves")


def _of_set(trial: Trial, row: StrikeSet, on: dt.date, place: int) -> dict[str, Any]:
    """What all strikes of a block share."""
    recording = row.recording
    version = recording.bag_version
    return {
        "participant": recording.student.label,
        "session": on.isoformat(),
        "block": str(place),
        "order": place,
        LEVEL: level_of(trial.factor, row),
        "bag": bag_name(version),
        "mount": version.mount if version else "",
        "calibration": calibration_name(version),
        "gloves": row.gear or trial.gear,
        "body_mass_kg": recording.body_mass_kg,
    }


def bag_name(version: BagVersion | None) -> str:
    """A bag as it hung: another mass or length is another bag."""
    return f"{version.bag.name}, {version.mass_kg:g} kg" if version else ""


def calibration_name(version: BagVersion | None) -> str:
    if version is None:
        return ""
    inertia = f"{version.inertia_cm_kg_m2:g} kg m2" if version.inertia_cm_kg_m2 else "estimated"
    return f"inertia {inertia}, gain {version.impulse_gain:g}"


def weeks_table(gym: Gym, student: Student, measures: list[str], code: str = "", height: str = "") -> pa.Table:
    """Every strike by a student, evening by evening; a block is a set, or what stands outside any.

    `own_way` is no for strikes under a level that was only being tried then.
    """
    strikes = Strike.objects.for_gym(gym).filter(recording__student=student)
    if code:
        strikes = strikes.filter(set__code=code)
    zone = ZoneInfo(gym.time_zone)
    found = {r.pk: r for r in student.recordings.select_related("bag_version__bag")}
    day = {key: r.acquired_at.astimezone(zone).date() for key, r in found.items()}
    sets = {row.pk: row for row in StrikeSet.objects.filter(recording__student=student).select_related("school")}
    own = _own_way(student, sets, day)
    rows = _strikes(strikes, measures)
    if height:
        rows = [r for r in rows if r[1] is not None and sets[r[1]].level == height]
    rows.sort(key=lambda r: (found[r[2]].acquired_at, r[3]))
    bag = {key: bag_name(r.bag_version) for key, r in found.items()}
    columns: dict[str, list[Any]] = {
        "participant": [student.label] * len(rows),
        "session": [day[r[2]].isoformat() for r in rows],
        "block": [str(r[1] or f"r{r[2]}") for r in rows],
        "code": [sets[r[1]].code if r[1] else "" for r in rows],
        "own_way": ["no" if r[1] in own else "yes" for r in rows],
        "bag": [bag[r[2]] for r in rows],
        "body_mass_kg": [found[r[2]].body_mass_kg for r in rows],
    }
    return _table(columns, rows, measures)


def _own_way(student: Student, sets: dict[int, StrikeSet], day: dict[int, dt.date]) -> set[int]:
    """Sets that were not thrown the student's own way: under a level of a trial that had not been kept by then."""
    out = set()
    for trial in student.trials.prefetch_related("decisions"):
        kept = sorted(
            (d.decided_on, d.level) for d in trial.decisions.all() if d.student_id == student.pk and d.what == "keep"
        )
        for key, row in sets.items():
            level = level_of(trial.factor, row)
            if row.code != trial.code or level not in trial.levels:
                continue
            way = next((k for since, k in reversed(kept) if since < day[row.recording_id]), trial.levels[0])
            if level != way:
                out.add(key)
    return out


def _strikes(strikes: "QuerySet[Strike]", measures: list[str]) -> list[tuple[Any, ...]]:
    """(id, set, recording, contact, limb, excluded, measures..., sds...)"""
    base = [m.removesuffix(PER_BODY_MASS) for m in measures]
    names = ("pk", "set_id", "recording_id", "contact_s", "limb", "excluded_reason")
    rows = strikes.order_by().values_list(*names, *base, *(f"{m}_sd" for m in base), "relabelled_limb")
    return [(*r[:4], r[-1] or r[4], *r[5:-1]) for r in rows]


def _table(columns: dict[str, list[Any]], rows: list[tuple[Any, ...]], measures: list[str]) -> pa.Table:
    """The columns that are given, then limb, exclusion and identity of each strike, then its measures and their sd."""
    texts = {name: pa.array(column, pa.string()) for name, column in columns.items() if name in WORDS}
    numbers = {
        name: pa.array(column, pa.float64() if name == "body_mass_kg" else pa.int64())
        for name, column in columns.items()
        if name not in texts
    }
    out = {name: texts.get(name, numbers.get(name)) for name in columns}
    out["limb"] = pa.array([r[4] for r in rows], pa.string())
    out["excluded"] = pa.array([r[5] for r in rows], pa.string())
    out["strike_id"] = pa.array([r[0] for r in rows], pa.int64())
    out["recording_id"] = pa.array([r[2] for r in rows], pa.int64())
    out["contact_s"] = pa.array([r[3] for r in rows], pa.float64())
    mass = np.array([np.nan if m is None else m for m in columns["body_mass_kg"]], dtype=np.float64)
    for i, name in enumerate(measures):
        over = mass if name.endswith(PER_BODY_MASS) else 1.0
        for column, at in ((name, 6 + i), (f"{name}_sd", 6 + len(measures) + i)):
            values = np.array([np.nan if r[at] is None else r[at] for r in rows], dtype=np.float64) / over
            out[column] = pa.array(values, pa.float64(), from_pandas=True)
    return pa.table(out)


def as_csv(table: pa.Table) -> str:
    """Figures to their last digit, so that what is computed from it is what the screen shows."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(table.column_names)
    columns = [
        [cell(v) for v in c.to_pylist()]
        if pa.types.is_string(c.type)
        else ["" if v is None else v for v in c.to_pylist()]
        for c in table.columns
    ]
    writer.writerows(zip(*columns, strict=True))
    return out.getvalue()
