"""Trials, weeks and the class: schema in, service, schema out."""

import datetime as dt
from typing import Any

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router, Status

from agile_strike.core.playbook import cautions
from agile_strike.core.trial import design
from agile_strike.core.weeks.attention import Notice
from agile_strike.formats.tabular import as_csv
from agile_strike.gym.asking import CSV, as_json, attached, found, gym, user
from agile_strike.gym.bodies import Changed, Problem
from agile_strike.people.models import Student
from agile_strike.people.services import age_of, allow
from agile_strike.trials import attention, classroom, compare, goes_with, moved, pages, remarked, rows, services, weeks
from agile_strike.trials import schemas as s
from agile_strike.trials.models import Decision, Trial

router = Router()


def _trials(request: HttpRequest) -> "QuerySet[Trial]":
    return Trial.objects.for_gym(gym(request)).select_related("gym", "bag").prefetch_related("students", "decisions")


def _trial(request: HttpRequest, trial_id: int) -> Trial:
    return found(_trials(request), trial_id, "trial")


def _student(request: HttpRequest, student_id: int) -> Student:
    return found(Student.objects.for_gym(gym(request)), student_id, "student")


def _text(trial: s.TrialIn) -> services.TrialText:
    return services.TrialText(**{n: v for n, v in trial.model_dump().items() if n != "version"})


@router.get("/trials", response=list[s.TrialOut])
def trials(request: HttpRequest) -> "QuerySet[Trial]":
    return _trials(request)


@router.get("/trials/{trial_id}", response=s.TrialOut)
def trial(request: HttpRequest, trial_id: int) -> Trial:
    return _trial(request, trial_id)


@router.post("/trials", response={201: s.TrialOut, 422: Problem})
def add_trial(request: HttpRequest, trial: s.TrialIn) -> Any:
    own = gym(request)
    row = services.save_trial(own, None, 0, _text(trial), user(request), own.today)
    return Status(201, _trial(request, row.pk))


@router.put("/trials/{trial_id}", response={200: s.TrialOut, 422: Problem, 409: Problem})
def change_trial(request: HttpRequest, trial_id: int, trial: s.TrialIn) -> Trial:
    own = gym(request)
    services.save_trial(own, trial_id, trial.version, _text(trial), user(request), own.today)
    return _trial(request, trial_id)


@router.post("/trials/{trial_id}/end", response={200: s.TrialOut, 422: Problem, 409: Problem})
def end_trial(request: HttpRequest, trial_id: int, what: s.EndIn) -> Trial:
    own = gym(request)
    services.end_trial(own, trial_id, own.today if what.ended else None, what.version)
    return _trial(request, trial_id)


@router.post("/trial-plans", response={200: s.PlanOut, 422: Problem})
def plan(request: HttpRequest, trial: s.TrialIn) -> s.PlanOut:
    """What a plan asks of an evening and what it should show; nothing is saved."""
    own = gym(request)
    text = _text(trial)
    told = services.propose(own, text)
    before = services.thrown_before(own, text)
    worth = trial.worth_pct
    return s.PlanOut(
        orders=[
            [text.levels[k] for k in design.order(len(text.levels), text.blocks_each, e)]
            for e in range(min(text.evenings, len(text.levels)))
        ],
        minutes=design.minutes(text.design),
        proposals=[
            s.ProposalOut(
                student_id=p.student.pk,
                student=p.student.name,
                learnt_from=p.spread.strikes,
                within_pct=100.0 * p.spread.within,
                block_pct=100.0 * p.spread.block,
                sights=[s.SightOut(**{n: getattr(one, n) for n in s.SightOut.model_fields}) for one in p.sights],
                evenings_for_worth=None if worth is None else design.evenings_for(worth, p.sights),
                suggested=_suggested(p),
                days=p.days,
            )
            for p in told
        ],
        earlier=s.EarlierOut(sets=len(before), since=own.day(before[0].acquired_at)) if before else None,
        cautions=_cautions([p.student for p in told], own.today),
    )


def _suggested(p: services.Proposal) -> s.SuggestedOut | None:
    if p.suggested is None:
        return None
    plan, sight = p.suggested
    return s.SuggestedOut(
        blocks_each=plan.blocks_each,
        strikes=plan.strikes,
        evenings=sight.evenings,
        seen_pct=sight.seen_pct,
        minutes=sight.minutes,
    )


def _cautions(students: list[Student], on: dt.date) -> list[str]:
    return cautions.of_trial(age_of(x.birth_date, on) for x in students)


@router.get("/trials/{trial_id}/sheet", response=s.SheetOut)
def sheet(request: HttpRequest, trial_id: int, student_id: Query[int]) -> s.SheetOut:
    row, who = _trial(request, trial_id), _student(request, student_id)
    on = row.gym.today
    told = services.sheet(row, who, on)
    return s.SheetOut(
        student=who.name,
        evening=told.evening,
        evenings=row.evenings,
        code=row.code,
        height=row.height,
        strikes=row.strikes,
        rest_s=row.rest_s,
        gear=row.gear,
        bag=row.bag.name if row.bag else "",
        on=on,
        cautions=_cautions([who], on),
        blocks=[
            s.SheetBlockOut(
                place=b.place,
                level=b.level,
                id=b.called.pk if b.called else None,
                began_at=b.called.planned.began_at if b.called else None,
                ended_at=b.called.planned.ended_at if b.called else None,
            )
            for b in told.blocks
        ],
    )


@router.post("/trials/{trial_id}/blocks", response={200: Changed, 422: Problem})
def call_block(request: HttpRequest, trial_id: int, block: s.BlockIn) -> Changed:
    own = gym(request)
    services.call_block(own, trial_id, block.student_id, block.place, timezone.now(), own.today)
    return Changed(changed=1)


@router.post("/called-blocks/{block_id}/end", response={200: Changed, 422: Problem})
def end_block(request: HttpRequest, block_id: int) -> Changed:
    services.end_block(gym(request), block_id, timezone.now())
    return Changed(changed=1)


@router.delete("/called-blocks/{block_id}", response=Changed)
def take_back_block(request: HttpRequest, block_id: int) -> Changed:
    services.take_back_block(gym(request), block_id)
    return Changed(changed=1)


@router.get("/trials/{trial_id}/compare", response={200: pages.CompareOut, 422: Problem})
def comparison(request: HttpRequest, trial_id: int, asked: Query[s.AskedIn]) -> HttpResponse:
    row, who, what = _asked(request, trial_id, asked)
    return as_json(compare.kept_page(row, who, what))


@router.get("/trials/{trial_id}/remarks", response={200: list[pages.ByLevelOut], 422: Problem})
def remarks(request: HttpRequest, trial_id: int, asked: Query[s.AskedIn]) -> list[remarked.ByLevel]:
    """What a coach remarked on under each level."""
    return remarked.by_level(*_asked(request, trial_id, asked))


def _asked(request: HttpRequest, trial_id: int, asked: s.AskedIn) -> tuple[Trial, Student | None, compare.Asked]:
    row = _trial(request, trial_id)
    who = None if asked.student_id is None else _student(request, asked.student_id)
    return row, who, compare.asked(row, asked.measure, asked.levels, asked.worth_pct, asked.only)


@router.get("/trials/{trial_id}/strikes.csv", include_in_schema=False)
def trial_csv(
    request: HttpRequest, trial_id: int, student_id: Query[int | None] = None, measure: Query[str] = ""
) -> HttpResponse:
    row = _trial(request, trial_id)
    what = compare.asked(row, measure, "", None, "")
    own_gym = gym(request)
    if student_id is not None:
        allow(_student(request, student_id), own_gym.today)
    people = [student_id] if student_id is not None else services.handed_out(row, own_gym.today)
    names = list(dict.fromkeys([what.measure, row.measure, *row.watch]))
    table = rows.trial_table(row, people, names, doubts=True)
    return attached(as_csv(table), CSV, f"trial-{row.pk}-{row.code}.csv")


@router.get("/trials/{trial_id}/claim.zip", include_in_schema=False)
def claim_zip(request: HttpRequest, trial_id: int, asked: Query[s.AskedIn]) -> HttpResponse:
    """The whole claim with its data, and how to compute it again."""
    row, who, what = _asked(request, trial_id, asked)
    for student in [who] if who else row.students.filter(removed_at__isnull=True):
        allow(student, gym(request).today)
    return attached(compare.archive(row, who, what), "application/zip", f"claim-{row.pk}-{row.code}.zip")


@router.post("/trials/{trial_id}/decisions", response={200: s.DecisionOut, 422: Problem})
def decide(request: HttpRequest, trial_id: int, decision: s.DecisionIn) -> Decision:
    own = gym(request)
    return services.decide(
        own,
        trial_id,
        decision.student_id,
        decision.what,
        decision.level,
        decision.reason,
        decision.said,
        user(request),
        own.today,
    )


@router.delete("/decisions/{decision_id}", response=Changed)
def undo_decision(request: HttpRequest, decision_id: int) -> Changed:
    return Changed(changed=services.undo_decision(gym(request), decision_id))


@router.get("/students/{student_id}/weeks", response={200: pages.WeeksOut, 422: Problem})
def student_weeks(
    request: HttpRequest,
    student_id: int,
    code: Query[str] = "",
    measure: Query[str] = "",
    own_way: Query[bool] = True,
    limb: Query[str] = "",
) -> HttpResponse:
    return as_json(weeks.page(gym(request), _student(request, student_id), code, measure, own_way, limb).model_dump())


@router.get("/students/{student_id}/weeks.csv", include_in_schema=False)
def weeks_csv(
    request: HttpRequest, student_id: int, code: Query[str] = "", measure: Query[str] = "impulse_n_s"
) -> HttpResponse:
    who = _student(request, student_id)
    allow(who, gym(request).today)
    whole, _ = weeks.table_of(gym(request), who, code, measure, False)
    return attached(as_csv(whole), CSV, f"{who.label}-weeks-{measure}.csv")


@router.get("/students/{student_id}/goes-with", response={200: pages.GoesWithOut, 422: Problem})
def goes_with_force(
    request: HttpRequest, student_id: int, code: Query[str] = "", limb: Query[str] = ""
) -> pages.GoesWithOut:
    """What of the body goes with force."""
    return goes_with.page(gym(request), _student(request, student_id), code, limb)


@router.get("/class", response=pages.ClassOut)
def the_class(request: HttpRequest) -> pages.ClassOut:
    return classroom.page(gym(request))


@router.get("/attention", response=list[pages.NoticeOut])
def to_see_to(request: HttpRequest) -> list[Notice]:
    """What to see to before the next evening, the weightiest first."""
    return attention.notices(gym(request))


@router.get("/drills-moved", response=list[pages.DrillMovedOut])
def drills_moved(request: HttpRequest) -> list[moved.DrillMoved]:
    """Which drill moved which measure in this gym, as far as its evenings can tell."""
    return moved.of_gym(gym(request))
