"""What to see to in a gym: students, trials, units and bags, in a handful of queries."""

import datetime as dt
from collections import defaultdict

from django.db.models import Max
from django.utils import timezone

from agile_strike.capture.models import Recording, Wear
from agile_strike.core.children import lacks_consent
from agile_strike.core.weeks import attention as rules
from agile_strike.core.weeks.attention import Notice
from agile_strike.gym.models import Gym
from agile_strike.kit.models import Calibration
from agile_strike.people.models import Student
from agile_strike.people.services import age_of
from agile_strike.playbook.strikes import known
from agile_strike.review.models import Strike, StrikeSet
from agile_strike.trials.models import Decision, Trial


def notices(gym: Gym) -> list[Notice]:
    """The weightiest first."""
    students = {s.pk: s for s in Student.objects.for_gym(gym).filter(left_on__isnull=True)}
    found = [*_consent(gym, students), *_strikes(gym, students), *_retests(gym, students), *_kit(gym)]
    return rules.in_order([n for n in found if n is not None])


def _consent(gym: Gym, students: dict[int, Student]) -> list[Notice]:
    told = [(s, lacks_consent(age_of(s.birth_date, gym.today), s.consent)) for s in students.values()]
    return [Notice("consent", s.name, why, s.pk) for s, why in told if why]


def _strikes(gym: Gym, students: dict[int, Student]) -> list[Notice | None]:
    today = gym.today
    out: list[Notice | None] = []
    last = Recording.objects.for_gym(gym).values_list("student_id").annotate(at=Max("acquired_at"))
    out += [rules.away(pk, students[pk].name, gym.day(at), today) for pk, at in last if pk in students]
    since = timezone.now() - rules.LOOK_BACK
    rows = Strike.objects.for_gym(gym).counted().filter(recording__acquired_at__gte=since)
    thrown: dict[int, list[tuple[dt.date, str]]] = defaultdict(list)
    for pk, at, limb in rows.values_list("recording__student_id", "recording__acquired_at", "limb"):
        thrown[pk].append((gym.day(at), limb))
    for pk, own in thrown.items():
        if pk in students:
            strikes = rules.Strikes([day for day, _ in own], [limb for _, limb in own])
            out += rules.of_strikes(pk, students[pk].name, strikes, today)
    return out


def _retests(gym: Gym, students: dict[int, Student]) -> list[Notice | None]:
    going = list(Trial.objects.for_gym(gym).filter(ended_on__isnull=True).prefetch_related("students"))
    settled = Decision.objects.filter(trial__in=going).exclude(what=Decision.What.KEEP_TESTING)
    decided = set(settled.values_list("trial_id", "student_id"))
    sets = StrikeSet.objects.for_gym(gym).filter(levels__has_any_keys=[t.factor for t in going])
    last: dict[tuple[int, str, str], dt.date] = {}
    for pk, code, levels, at in sets.values_list("recording__student_id", "code", "levels", "recording__acquired_at"):
        for factor in levels:
            day = gym.day(at)
            last[pk, code, factor] = max(day, last.get((pk, code, factor), day))
    names = {word.code: word.name for word in known(gym)}
    out = []
    for trial in going:
        name = names.get(trial.code, trial.code.replace("-", " "))
        for student in trial.students.all():
            began = last.get((student.pk, trial.code, trial.factor))
            if student.pk not in students or (trial.pk, student.pk) in decided or began is None:
                continue
            if began >= trial.started_on:
                what = f"{trial.factor}, {name}"
                out.append(rules.retest(student.pk, student.name, trial.pk, what, began, gym.today))
    return out


def _kit(gym: Gym) -> list[Notice | None]:
    worn = Wear.objects.filter(recording__gym=gym, recording__removed_at=None, battery_pct__isnull=False)
    newest = worn.order_by("unit_id", "-recording__acquired_at").distinct("unit_id").select_related("unit")
    made = Calibration.objects.for_gym(gym).select_related("unit", "bag").order_by("unit_id", "bag_id", "-made_at")
    return [
        *(rules.battery(str(w.unit), w.battery_pct or 0.0) for w in newest),
        *(rules.calibration(str(c.unit or c.bag), c.expires_on, gym.today) for c in made.distinct("unit_id", "bag_id")),
    ]
