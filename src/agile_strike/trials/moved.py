"""Which drill moved which measure in a gym, as far as its evenings can tell."""

import datetime as dt
from collections import Counter, defaultdict
from dataclasses import dataclass

import numpy as np

from agile_strike.core.measures.doubts import shared_sd
from agile_strike.core.registry import NUMERIC
from agile_strike.core.weeks.evenings import evenings
from agile_strike.core.weeks.moved import moved
from agile_strike.evening.models import Drilled
from agile_strike.gym.models import Gym
from agile_strike.playbook import entries
from agile_strike.review.models import Strike


@dataclass(frozen=True, slots=True)
class DrillMoved:
    """A drill against a measure that asks for it; without `value` nobody knows yet."""

    drill: str
    measure: str
    up: bool  #: the way it is wanted to go
    drilled: int  #: students who took it up
    students: int  #: of whom it can be told
    value: float | None
    low: float | None
    high: float | None


def of_gym(gym: Gym) -> list[DrillMoved]:
    """Every drill that somebody took up, against each measure whose sign asks for it."""
    first: dict[str, dict[int, dt.date]] = defaultdict(dict)
    rows = Drilled.objects.for_gym(gym).order_by("session__day")
    for drill, student, day in rows.values_list("drill", "session__student_id", "session__day"):
        first[drill].setdefault(student, day)
    if not first:
        return []
    signs = [s for s in entries.signs(gym) if s.measure in NUMERIC and s.drill in first]
    names = list(dict.fromkeys(s.measure for s in signs if s.measure))
    who = {student for days in first.values() for student in days}
    counted = Strike.objects.for_gym(gym).counted().filter(recording__session__student__in=who, set__isnull=False)
    told = ("recording__session__student_id", "recording__session__day", "set_id", "set__code")
    by: dict[int, list[tuple[dt.date, int, str, tuple[float | None, ...]]]] = defaultdict(list)
    for student, day, set_id, code, *values in counted.values_list(*told, *names, *(f"{n}_sd" for n in names)):
        by[student].append((day, set_id, code, tuple(values)))
    out = []
    for sign in signs:
        assert sign.measure is not None
        k, courses = names.index(sign.measure), []
        for student, day in first[sign.drill].items():
            own = [r for r in by[student] if sign.fits(r[2]) and r[3][k] is not None]
            if not own:
                continue
            usual = Counter(r[2] for r in own).most_common(1)[0][0]
            use = [r for r in own if r[2] == usual]
            value, sd = (np.array([r[3][i] or 0.0 for r in use], np.float64) for i in (k, k + len(names)))
            sets = np.array([r[1] for r in use], np.int64)
            courses.append((evenings([r[0] for r in use], sets, value, shared_sd(sign.measure) * sd), day))
        found = moved(courses)
        change = found.change
        out.append(
            DrillMoved(
                drill=sign.drill,
                measure=sign.measure,
                up=sign.low,
                drilled=len(first[sign.drill]),
                students=found.students,
                value=change.value if change else None,
                low=change.low if change else None,
                high=change.high if change else None,
            )
        )
    # several signs may ask for one drill by one measure
    return list({(m.drill, m.measure): m for m in out}.values())
