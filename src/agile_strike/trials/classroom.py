"""The class at a glance: who gained from which change, who did not, what is not settled and what would settle it."""

from agile_strike.capture.basis import behind
from agile_strike.gym.models import Gym
from agile_strike.trials.compare import kept, late_of, source_of
from agile_strike.trials.models import Trial
from agile_strike.trials.pages import CheapOut, ClassOut, ClassRow, PooledRow, SummaryOut


def page(gym: Gym) -> ClassOut:
    """Every student in every trial with the claim as it stands, and what could be settled soonest."""
    found = Trial.objects.for_gym(gym).select_related("gym")
    trials = list(found.prefetch_related("students", "decisions", "claims"))
    source = source_of(trials)
    rows: list[ClassRow] = []
    cheapest: list[CheapOut] = []
    pooled: list[PooledRow] = []
    for trial in trials:
        last = {d.student_id: d for d in reversed(trial.decisions.all())}  # newest last, so it wins
        students = [s for s in trial.students.all() if s.removed_at is None]
        for student in students:
            told = SummaryOut.model_validate(kept(trial, student, source))
            decision = last.get(student.pk)
            rows.append(
                ClassRow(
                    trial=trial.pk,
                    student_id=student.pk,
                    student=student.name,
                    factor=trial.factor,
                    levels=trial.levels,
                    code=trial.code,
                    measure=trial.measure,
                    ended=trial.ended_on is not None,
                    told=told,
                    decision=decision.what if decision else None,
                    decided_on=decision.decided_on if decision else None,
                )
            )
            if told.worth_settling and trial.ended_on is None:
                minutes = told.minutes_needed
                cheapest.append(CheapOut(trial=trial.pk, student=student.name, minutes=minutes, needed=told.needed))
        if len(students) > 1:
            whole = SummaryOut.model_validate(kept(trial, None, source))
            pooled.append(PooledRow(trial=trial.pk, factor=trial.factor, code=trial.code, told=whole))
    cheapest.sort(key=lambda o: o.minutes)
    thrown = {key for own in source.revisions.values() for key, _ in own}
    return ClassOut(rows=rows, pooled=pooled, cheapest=cheapest, late=late_of(behind(gym, thrown), len(thrown)))
