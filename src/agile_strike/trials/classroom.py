"""The class at a glance: who gained from which change, who did not, what is not settled and what would settle it."""

from typing import Any

from agile_strike.gym.models import Gym
from agile_strike.trials.compare import kept, source_of, summaries
from agile_strike.trials.models import Trial


def page(gym: Gym) -> dict[str, Any]:
    """Every student in every trial with the claim as it stands, and what could be settled soonest."""
    found = Trial.objects.for_gym(gym).select_related("gym")
    trials = list(found.prefetch_related("students", "decisions", summaries()))
    source = source_of(trials)
    rows, open_ = [], []
    for trial in trials:
        last = {d.student_id: d for d in reversed(trial.decisions.all())}  # newest last, so it wins
        students = [s for s in trial.students.all() if s.removed_at is None]
        for student in students:
            told = kept(trial, student, source)
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
        {"trial": t.pk, "factor": t.factor, "code": t.code, "told": kept(t, None, source)}
        for t in trials
        if sum(s.removed_at is None for s in t.students.all()) > 1
    ]
    return {"rows": rows, "pooled": pooled, "cheapest": open_}
