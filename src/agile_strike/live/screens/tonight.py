"""Before the first strike: who is here, what stands against measuring them, what they bring along."""

import datetime as dt
from dataclasses import dataclass

from agile_strike.core.children import is_child, no_consent
from agile_strike.evening.models import PlannedSet, Session
from agile_strike.gym.models import Gym
from agile_strike.live.models import Take
from agile_strike.people.models import Student
from agile_strike.people.services import age_of
from agile_strike.trials.models import Trial

MASS_DUE = dt.timedelta(days=28)


@dataclass(frozen=True, slots=True)
class Tonight:
    """A student, as the class list by the bag shows them."""

    student_id: int
    name: str
    age: int | None
    child: bool
    stance: str
    stopped: str  #: why nothing may be measured; empty where nothing stands against it
    here: bool
    evening_id: int | None
    version: int | None
    gear: str
    soreness: str
    mass_kg: float | None
    mass_due_days: int | None  #: since body mass was noted, where that is long ago
    trials: list[str]
    planned: int  #: sets that have not begun
    station_id: int | None  #: where they stepped up last tonight
    stepped_up_at: dt.datetime | None


def tonight(gym: Gym) -> list[Tonight]:
    today = gym.today
    students = Student.objects.for_gym(gym).filter(left_on__isnull=True).prefetch_related("masses").order_by("name")
    evenings = {s.student_id: s for s in Session.objects.for_gym(gym).filter(day=today)}
    trials: dict[int, list[str]] = {}
    pairs = Trial.objects.for_gym(gym).filter(ended_on__isnull=True).values_list("students", "factor")
    for student_id, factor in pairs:
        trials.setdefault(student_id, []).append(factor)
    coming: dict[int, int] = {}
    for session_id in PlannedSet.objects.for_gym(gym).filter(
        session__day=today, began_at__isnull=True
    ).values_list("session_id", flat=True):  # fmt: skip
        coming[session_id] = coming.get(session_id, 0) + 1
    takes = Take.objects.for_gym(gym).filter(session__day=today).order_by("began_at")
    last = {t[0]: t[1:] for t in takes.values_list("session__student_id", "station_id", "began_at")}
    return [
        _row(s, evenings.get(s.pk), trials.get(s.pk, []), coming, today, last.get(s.pk, (None, None))) for s in students
    ]


def _row(
    student: Student,
    evening: Session | None,
    trials: list[str],
    coming: dict[int, int],
    today: dt.date,
    last: tuple[int | None, dt.datetime | None],
) -> Tonight:
    age = age_of(student.birth_date, today)
    mass = max(student.masses.all(), key=lambda m: m.measured_on, default=None)
    since = today - mass.measured_on if mass else None
    return Tonight(
        student_id=student.pk,
        name=student.name,
        age=age,
        child=is_child(age),
        stance=student.stance,
        stopped=no_consent(student.name, age, student.consent) or "",
        here=evening is not None and evening.here,
        evening_id=evening.pk if evening else None,
        version=evening.version if evening else None,
        gear=evening.gear if evening else "",
        soreness=evening.soreness if evening else "",
        mass_kg=mass.mass_kg if mass else None,
        mass_due_days=since.days if since is not None and since > MASS_DUE else None,
        trials=sorted(trials),
        planned=coming.get(evening.pk, 0) if evening else 0,
        station_id=last[0],
        stepped_up_at=last[1],
    )
