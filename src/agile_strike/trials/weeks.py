"""A student over weeks: evenings, marks, bests, sides, how often the body is behind it, volume."""

import datetime as dt
from collections import Counter
from dataclasses import asdict

import numpy as np
import pyarrow as pa

from agile_strike.capture.models import Recording
from agile_strike.core.children import is_child
from agile_strike.core.errors import BadInput
from agile_strike.core.registry import find
from agile_strike.core.strikes import BAG
from agile_strike.core.weeks import balance
from agile_strike.core.weeks.evenings import bests
from agile_strike.formats.tabular import figures, narrowed, short, words
from agile_strike.formats.weeks_table import told
from agile_strike.gym.models import Gym
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student
from agile_strike.people.services import age_of
from agile_strike.trials.compare import late_in
from agile_strike.trials.models import Decision
from agile_strike.trials.pages import BehindEvening, BehindOut, BestOut, CourseOut, MarkOut, SidesOut, WeekOut, WeeksOut
from agile_strike.trials.rows import bag_name, calibration_name, weeks_table

NAME = "the weeks"
MASS = "effective_mass_pct"
FIRST, OF_A_CHILD = "impulse_n_s", "turn_done_pct"  # where none is asked for: a child's technique, and no bests
DAY = dt.timedelta(days=1)
#: marks through which the course is drawn with a step: something is otherwise from then on
STEPS = ("keep", "bag", "calibration")


def measure_or_bad(name: str) -> str:
    found = find(name)
    if found is None or not found.numeric:
        raise BadInput(f"There is no measure called {name}. Choose one from the list.")
    return found.name


def table_of(
    gym: Gym, student: Student, code: str, measure: str, own_way: bool, limb: str = ""
) -> tuple[pa.Table, pa.Table]:
    """Every strike of the student, and those that the course is drawn through."""
    names = list(dict.fromkeys([measure_or_bad(measure), MASS]))
    whole = weeks_table(gym, student, names)
    return whole, _part(whole, code, own_way, limb)


def _part(whole: pa.Table, code: str, own_way: bool, limb: str) -> pa.Table:
    only = [f"kind={BAG}", f"code={code}", *(["own_way=yes"] if own_way else []), *([f"limb={limb}"] if limb else [])]
    return narrowed(whole, only, NAME) if whole.num_rows else whole


BOTH = "both"  # limbs in one course, where that is asked for


def page(gym: Gym, student: Student, code: str, measure: str, own_way: bool, limb: str = "") -> WeeksOut:
    """All that the weeks screen shows. The course runs through one limb's strikes, the one that threw most of them,
    unless another is asked for, or both are."""
    child = is_child(age_of(student.birth_date, gym.today))
    measure = measure or (OF_A_CHILD if child else FIRST)
    whole = weeks_table(gym, student, list(dict.fromkeys([measure_or_bad(measure), MASS])))
    every = sorted({c for c in words(whole, "code").tolist() if c}) if whole.num_rows else []
    if not code and every:
        own = words(whole, "code").tolist()
        code = max(every, key=own.count)
    part = _part(whole, code, own_way, "")
    limbs = Counter(words(part, "limb").tolist()) if part.num_rows else Counter[str]()
    usual = limbs.most_common(1)[0][0] if limbs else ""
    limb = limb if limb == BOTH or limb in limbs else usual if len(limbs) > 1 else ""
    if limb not in ("", BOTH):
        part = _part(whole, code, own_way, limb)
    marks = marks_of(gym, student, code)
    stepped = sorted({m.on for m in marks if m.kind in STEPS})
    course = CourseOut.model_validate(told(part, NAME, measure, stepped)) if part.num_rows else None
    return WeeksOut(
        code=code,
        measure=measure,
        own_way=own_way,
        limb=limb,
        limbs=sorted(limbs),
        codes=every,
        course=course,
        late=late_in(part),
        marks=marks,
        bests=[] if child or not part.num_rows else _bests(part, measure),
        sides=_sides(narrowed(whole, [f"kind={BAG}"], NAME), code, measure) if whole.num_rows else [],
        behind=_behind(part) if part.num_rows else BehindOut(share=None, low=None, high=None, strikes=0, evenings=[]),
        volume=_volume(whole) if whole.num_rows else [],
    )


def marks_of(gym: Gym, student: Student, code: str) -> list[MarkOut]:
    """Decisions on this strike, changes of bag and calibration, injuries and breaks, in order."""
    out = [
        _mark(d.decided_on + DAY, d.what, f"{d.level[:1].upper()}{d.level[1:]}. {d.reason}", trial=d.trial_id)
        for d in Decision.objects.for_gym(gym).filter(student=student, trial__code=code)
    ]
    zone = gym.zone
    before: tuple[str, str] | None = None
    found = Recording.objects.for_gym(gym).filter(student=student, bag_version__isnull=False).order_by("acquired_at")
    rows = list(found.values_list("acquired_at", "analysis__bag", "bag_version_id"))
    bags = {v.pk: v for v in BagVersion.objects.filter(pk__in={r[2] for r in rows}).select_related("bag")}
    for at, figures_, version in rows:
        now = (bag_name(bags[version], figures_), calibration_name(bags[version], figures_, False))
        if before is not None and now != before:
            kind = "bag" if now[0] != before[0] else "calibration"
            text = f"Another bag: {now[0]}" if kind == "bag" else f"Another calibration: {now[1]}"
            out.append(_mark(at.astimezone(zone).date(), kind, text))
        before = now
    out += [_mark(m.since, m.kind, m.text, until=m.until, key=m.pk) for m in student.marks.all()]
    return sorted(out, key=lambda m: m.on)


def _mark(
    on: dt.date, kind: str, text: str, until: dt.date | None = None, trial: int | None = None, key: int | None = None
) -> MarkOut:
    return MarkOut(id=key, on=on, until=until, kind=kind, text=text, trial=trial)


def _counted(table: pa.Table) -> pa.Table:
    return narrowed(table, ["excluded="], NAME)


def _days(table: pa.Table) -> list[dt.date]:
    texts = words(table, "session").tolist()
    day = {text: dt.date.fromisoformat(text) for text in set(texts)}
    return [day[text] for text in texts]


def _bests(part: pa.Table, measure: str) -> list[BestOut]:
    """Strikes that beat all before them beyond doubt, for measures of which more is better."""
    found = find(measure)
    if found is None or found.better == "neither":
        return []
    counted = _counted(part)
    sign = 1.0 if found.better == "more" else -1.0
    value, sd = figures(counted, measure, NAME), figures(counted, f"{measure}_sd", NAME)
    days = _days(counted)
    keys, recordings = counted.column("strike_id").to_pylist(), counted.column("recording_id").to_pylist()
    return [
        BestOut(
            on=days[i],
            value=short(float(value[i])),
            sd=short(float(sd[i])),
            strike_id=keys[i],
            recording_id=recordings[i],
        )
        for i in bests(days, sign * value, sd)
    ]


def _sides(whole: pa.Table, code: str, measure: str) -> list[SidesOut]:
    """Left against right in the same strike; rear against lead in the strike's family."""
    counted = _counted(whole)
    if not counted.num_rows:
        return []
    days, value = _days(counted), figures(counted, measure, NAME)
    own, limb = words(counted, "code").tolist(), words(counted, "limb").tolist()
    hand = [name.split("_")[0] if c == code else "" for name, c in zip(limb, own, strict=True)]
    family = code.split("-", 1)[-1]
    end = [c.split("-", 1)[0] if "-" in c and c.split("-", 1)[1] == family else "" for c in own]
    found = (balance.sides(days, hand, value, "left", "right"), balance.sides(days, end, value, "rear", "lead"))
    return [SidesOut(**{**asdict(f), "pct": short(f.pct), "low": short(f.low), "high": short(f.high)}) for f in found]


def _behind(part: pa.Table) -> BehindOut:
    counted = _counted(part)
    mass, limb = figures(counted, MASS, NAME), words(counted, "limb").tolist()
    session = words(counted, "session")
    whole = balance.body_behind(mass, limb)
    behind = balance.carries_more(mass, limb)
    evenings = [
        BehindEvening(
            on=day, share=short(float(np.nanmean(behind[here]))), strikes=int(np.isfinite(behind[here]).sum())
        )
        for day in sorted(set(session.tolist()))
        if np.isfinite(behind[here := session == day]).any()
    ]
    return BehindOut(
        share=short(whole.share) if whole else None,
        low=short(whole.low) if whole else None,
        high=short(whole.high) if whole else None,
        strikes=whole.strikes if whole else 0,
        evenings=evenings,
    )


def _volume(whole: pa.Table) -> list[WeekOut]:
    return [
        WeekOut(**{**asdict(w), "flags": list(w.flags)})
        for w in balance.weeks(_days(whole), words(whole, "limb").tolist())
    ]
