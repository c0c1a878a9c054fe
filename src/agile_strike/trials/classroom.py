"""The class at a glance: who gained from which change, who did not, what is not settled and what would settle it."""

from typing import Any

from agile_strike.gym.models import Gym
from agile_strike.trials.compare import kept, revisions_of, summaries
from agile_strike.trials.models import Trial


def page(gym: Gym) -> dict[str, Any]:
    """Every student in every trial with the claim as it stands, and what could be settled soonest."""
    found = Trial.objects.for_gym(gym).select_related("gym")
    trials = list(found.prefetch_related("students", "decisions", summaries()))
    revisions = revisions_of(trials)
    rows, open_ = [], []
    for trial in trials:
        last = {d.student_id: d for d in reversed(trial.decisions.all())}  # newest last, so it wins
        students = list(trial.students.all())
        for student in students:
            told = kept(trial, student, {student.pk: revisions[student.pk]})
            decision = last.get(student.pk)
            row = {
                "trial": trial.pk,
                "student_id": student.pk,
                "student": student.name,
                "factor": trial.factor,
                "levels": trial.levels,
                "code": trial.code,
                "measure": trial.measure,
                "ended": trial.ended_on is not None,
                "told": told,
                "decision": decision.what if decision else None,
                "decided_on": decision.decided_on if decision else None,
            }
            rows.append(row)
            if told["worth_settling"] and trial.ended_on is None:
                open_.append(
                    {
                        "trial": trial.pk,
                        "student": student.name,
                        "minutes": told["minutes_needed"],
                        "needed": told["needed"],
                    }
                )
    open_.sort(key=lambda o: o["minutes"])
    pooled = [
        {"trial": t.pk, "factor": t.factor, "code": t.code, "told": kept(t, None, _of(t, revisions))}
        for t in trials
        if len(t.students.all()) > 1
    ]
    return {"rows": rows, "pooled": pooled, "cheapest": open_}


def _of(trial: Trial, revisions: dict[int, list[tuple[int, int]]]) -> dict[int, list[tuple[int, int]]]:
    return {s.pk: revisions[s.pk] for s in trial.students.all()}
