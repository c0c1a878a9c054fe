"""What a coach does with trials: plan one, call its blocks, decide, take a decision back, end it."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from agile_strike.core.children import no_consent, no_trial
from agile_strike.core.errors import BadInput, ChangedMeanwhile, NotYours
from agile_strike.core.registry import MEASURES, find
from agile_strike.core.strikes import BAG
from agile_strike.core.trial import design
from agile_strike.core.trial.blocks import blocks
from agile_strike.core.trial.spread import USUAL, Spread, spread
from agile_strike.core.vocabulary import RESERVED
from agile_strike.evening import services as evening
from agile_strike.formats.tabular import codes, figures, words
from agile_strike.gym.models import Gym
from agile_strike.kit.models import Bag
from agile_strike.people.models import Student
from agile_strike.people.services import NotAllowed, age_of, allow
from agile_strike.playbook.models import School
from agile_strike.playbook.strikes import code_of
from agile_strike.trials.models import SCHOOL, CalledBlock, Decision, Trial
from agile_strike.trials.rows import Block, earlier, trial_table, weeks_table

#: beside the measure that decides: what a change could cost
WATCHED = (
    "peak_force_n",
    "effective_mass_kg",
    "contact_speed_m_s",
    "flight_ms",
    "pullback_mm",
    "tell_ms",
    "return_ms",
    "settle_ms",
)
MOST_WATCHED = 12
LATELY_WEEKS, USUAL_SHARE = 8, 0.3  # a weekday on which the student came in three of ten of the last weeks
DAYS_APART = 3  # between evenings, where nothing is known of when the student comes
SEED = 11  # the same plan gets the same proposal


@dataclass(frozen=True, slots=True)
class TrialText:
    """A trial as it is written on the page."""

    factor: str
    levels: list[str]
    code: str
    height: str
    measure: str
    watch: list[str]
    worth_pct: float | None
    blocks_each: int
    strikes: int
    rest_s: float
    evenings: int
    gear: str
    bag_id: int | None
    students: list[int]
    since: dt.date | None = None  #: what was thrown from this day on counts; none: from today, or as it was

    @property
    def design(self) -> design.Design:
        return design.Design(tuple(self.levels), self.blocks_each, self.strikes, self.rest_s)


@transaction.atomic
def save_trial(gym: Gym, trial_id: int | None, version: int, text: TrialText, by: User, on: dt.date) -> Trial:
    """A new trial, or the text of one that is running; refused where another coach changed it meanwhile."""
    row = Trial(gym=gym, started_on=on, by=by, version=0)
    if trial_id is not None:
        row = _own(gym, trial_id)
        _unchanged(row, version)
    if text.code.strip() != row.code:  # one that a recording brought along stays as it is
        text = replace(text, code=code_of(gym, text.code) if text.code.strip() else "")
    students = _checked(gym, text, on)
    for name in ("factor", "code", "gear"):
        setattr(row, name, getattr(text, name).strip())
    for name in ("height", "measure", "worth_pct", "blocks_each", "strikes", "rest_s", "evenings", "bag_id"):
        setattr(row, name, getattr(text, name))
    row.levels = [level.strip() for level in text.levels]
    row.watch = [m for m in dict.fromkeys(text.watch) if m != text.measure]
    row.started_on = text.since or row.started_on
    if row.ended_on is not None and row.started_on > row.ended_on:
        raise BadInput(f"The trial ended on {row.ended_on}: let it count from that day or before.")
    row.version += 1
    row.save()
    row.students.set(students)
    return row


def _unchanged(row: Trial, version: int) -> None:
    if row.version != version:
        ended = f", ended on {row.ended_on}" if row.ended_on else ""
        raise ChangedMeanwhile("this trial", f"now {row}{ended}")


def _own(gym: Gym, trial_id: int) -> Trial:
    row = Trial.objects.for_gym(gym).select_for_update().filter(pk=trial_id).first()
    if row is None:
        raise NotYours("trial")
    return row


def _checked(gym: Gym, text: TrialText, on: dt.date) -> list[Student]:
    if not text.factor.strip() or not text.code.strip():
        raise BadInput("Say what is changed, and on which strike.")
    if any(sign in text.code for sign in RESERVED):
        raise BadInput(f"Leave {' '.join(RESERVED)} out of a strike's name: recordings and tables use them.")
    if any(not level.strip() or len(level) > 80 for level in text.levels):
        raise BadInput("Each level needs a name of at most 80 letters.")
    if any(sign in name for name in (text.factor, *text.levels) for sign in RESERVED):
        raise BadInput(
            f"Leave {' '.join(RESERVED)} out of what is changed and of its levels: recordings and tables use them."
        )
    design.check(replace(text.design, levels=tuple(level.strip() for level in text.levels)))
    for name in (text.measure, *text.watch):
        told = find(name)
        if told is None or not told.numeric:
            raise BadInput(f"There is no measure called {name}. Choose one from the list.")
    if len(text.watch) > MOST_WATCHED:
        raise BadInput(f"Watch at most {MOST_WATCHED} measures: who watches everything sees nothing.")
    if text.worth_pct is not None and not 0.0 < text.worth_pct < 100.0:
        raise BadInput("The smallest change worth having is above 0 and below 100 per cent.")
    if text.height not in ("", "head", "body", "low"):
        raise BadInput("Height is head, body or low.")
    if text.since is not None and text.since > on:
        raise BadInput("A trial counts from today or from a day before: that day is still to come.")
    if not 1 <= text.evenings <= 40:
        raise BadInput("Plan one to forty evenings.")
    if text.bag_id is not None and not Bag.objects.for_gym(gym).filter(pk=text.bag_id).exists():
        raise NotYours("bag")
    students = list(Student.objects.for_gym(gym).filter(pk__in=text.students))
    if not students or len(students) != len(set(text.students)):
        raise BadInput("Choose at least one student of this gym.")
    _allowed(students, text, on)
    return students


def _allowed(students: Iterable[Student], text: TrialText, on: dt.date) -> None:
    """Raises NotAllowed where a rule that protects a child stands against the plan."""
    strikes = len(text.levels) * text.blocks_each * text.strikes
    for student in students:
        age = age_of(student.birth_date, on)
        measures = (text.measure, *text.watch)
        if why := no_trial(student.name, age, student.consent, measures, strikes, text.rest_s):
            raise NotAllowed(why)


@dataclass(frozen=True, slots=True)
class Proposal:
    """What a plan would show of one student, from that student's own spread."""

    student: Student
    spread: Spread
    sights: list[design.Sight]
    suggested: tuple[design.Design, design.Sight] | None  #: in the fewest minutes; None without a change to see
    days: list[dt.date]  #: the next evenings on which the student usually comes


def propose(gym: Gym, text: TrialText) -> list[Proposal]:
    """How small a change one to ten evenings of a plan should show, student by student."""
    students = _checked(gym, text, gym.today)
    out = []
    for student in students:  # a query each: a class is a handful, and each reads its own strikes
        own = spread_of(gym, student, text)
        told = design.sights(text.design, own, np.random.default_rng(SEED))
        best = design.suggest(text.design, own, text.worth_pct, told) if text.worth_pct else None
        evenings = best[1].evenings if best else text.evenings
        out.append(Proposal(student, own, told, best, _next_days(gym, student, evenings)))
    return out


def thrown_before(gym: Gym, text: TrialText) -> list[Block]:
    """Blocks that this plan would leave out, since they were thrown before it begins to count; the first one first."""
    plan = Trial(gym=gym, started_on=text.since or gym.today, levels=[level.strip() for level in text.levels])
    plan.factor, plan.code, plan.height = text.factor.strip(), code_of(gym, text.code), text.height
    return sorted(earlier(plan, text.students), key=lambda b: b.acquired_at)


def _next_days(gym: Gym, student: Student, evenings: int) -> list[dt.date]:
    """Days after today on which the student has lately come, or every third day where nothing is known."""
    now = gym.today
    since = timezone.now() - dt.timedelta(weeks=LATELY_WEEKS)
    came = student.recordings.filter(acquired_at__gte=since).values_list("acquired_at", flat=True)
    days = {gym.day(at) for at in came}
    weekdays = [d.weekday() for d in days]
    usual = {w for w in weekdays if weekdays.count(w) >= USUAL_SHARE * LATELY_WEEKS}
    ahead = (now + dt.timedelta(days=i) for i in range(1, 7 * evenings + 8))
    if not usual:
        return [now + dt.timedelta(days=DAYS_APART * (i + 1)) for i in range(evenings)]
    return [d for d in ahead if d.weekday() in usual][:evenings]


def spread_of(gym: Gym, student: Student, text: TrialText) -> Spread:
    """From all that the student has thrown of this strike; from nothing, what is usual."""
    table = weeks_table(gym, student, [text.measure], text.code.strip(), text.height, (BAG,))
    kept = table.filter(np.char.strip(words(table, "excluded")) == "") if table.num_rows else table
    if not kept.num_rows:
        return USUAL
    value, block = figures(kept, text.measure, "strikes"), codes(words(kept, "block"))
    level = codes(words(kept, "levels"))  # blocks under different levels differ for a reason
    return spread(blocks(codes(words(kept, "session")), block, block.astype(np.float64), level, value))


@transaction.atomic
def end_trial(gym: Gym, trial_id: int, on: dt.date | None, version: int) -> Trial:
    """End a trial on a day, or let it run on."""
    row = _own(gym, trial_id)
    _unchanged(row, version)
    if on is not None and on < row.started_on:
        raise BadInput("A trial can't end before it began.")
    row.ended_on = on
    row.version += 1
    row.save(update_fields=["ended_on", "version"])
    return row


@transaction.atomic
def decide(
    gym: Gym, trial_id: int, student_id: int, what: str, level: str, reason: str, said: str, by: User, on: dt.date
) -> Decision:
    """Keep, drop, or keep testing, with the reason; the claim as it stood is kept beside it."""
    trial = _own(gym, trial_id)
    if what not in Decision.What.values:
        raise BadInput("Decide to keep it, to drop it, or to keep testing.")
    if not reason.strip():
        raise BadInput("Say in a few words why. In a month you will want to know.")
    if level not in trial.levels:
        raise BadInput(f"This trial has no level {level}.")
    student = trial.students.filter(pk=student_id, removed_at__isnull=True).first()
    if student is None:
        raise BadInput("That student is not in this trial.")
    return Decision.objects.create(
        trial=trial,
        student=student,
        what=what,
        level=level,
        reason=reason.strip()[:2000],
        said=said[:500],
        decided_on=on,
        by=by,
    )


def undo_decision(gym: Gym, decision_id: int) -> int:
    return Decision.objects.for_gym(gym).filter(pk=decision_id).delete()[0]


@dataclass(frozen=True, slots=True)
class SheetBlock:
    place: int
    level: str
    called: CalledBlock | None


@dataclass(frozen=True, slots=True)
class Sheet:
    """What to run an evening from."""

    evening: int  #: 1 is the trial's first
    blocks: list[SheetBlock]
    thrown: int  #: evenings before this one


def sheet(trial: Trial, student: Student, on: dt.date) -> Sheet:
    """The evening's blocks in order; which of them were called already."""
    allow(student, on)
    table = trial_table(trial, [student.pk], [])
    before = {d for d in words(table, "session").tolist() if d < on.isoformat()} if table.num_rows else set()
    found = CalledBlock.objects.filter(trial=trial, session__student=student, session__day=on)
    called = {c.place: c for c in found.select_related("planned")}
    turn = design.order(len(trial.levels), trial.blocks_each, len(before))
    return Sheet(
        len(before) + 1, [SheetBlock(i, trial.levels[k], called.get(i)) for i, k in enumerate(turn)], len(before)
    )


@transaction.atomic
def call_block(gym: Gym, trial_id: int, student_id: int, place: int, now: dt.datetime, on: dt.date) -> CalledBlock:
    """The student begins a block: a planned set of the evening. A set that is still open ends with it; a block that was
    called goes on as it is.

    To throw a block anew it is taken back first, so that a second tap, or a second coach, never moves its beginning.
    """
    block = plan_block(gym, trial_id, student_id, place, on)
    if block.planned.began_at is None:
        block.planned = evening.begin(gym, block.planned_id, now)
    return block


@transaction.atomic
def plan_block(gym: Gym, trial_id: int, student_id: int, place: int, on: dt.date) -> CalledBlock:
    """A trial's block as a planned set of the evening, not begun; the one that is there where there is one."""
    trial = _own(gym, trial_id)
    student = trial.students.filter(pk=student_id, removed_at__isnull=True).first()
    if student is None:
        raise BadInput("That student is not in this trial.")
    allow(student, on)
    session = evening.evening_of(student, on)
    there = CalledBlock.objects.filter(trial=trial, session=session, place=place).select_related("planned").first()
    if there is not None:
        return there
    told = sheet(trial, student, on)
    if not 0 <= place < len(told.blocks):
        raise BadInput(f"This evening has {len(told.blocks)} blocks.")
    level = told.blocks[place].level
    by_school = trial.factor == SCHOOL
    school = School.objects.filter(gym=trial.gym_id, name=level).first() if by_school else None
    text = evening.SetText(
        code=trial.code,
        level=trial.height,
        levels={} if by_school else {trial.factor: level},
        school_id=school.pk if school else None,
        strikes=trial.strikes,
        gear=trial.gear,
    )
    return CalledBlock.objects.create(
        trial=trial, session=session, planned=evening.plan(gym, session.pk, text), place=place
    )


@transaction.atomic
def end_block(gym: Gym, block_id: int, now: dt.datetime) -> None:
    """A second tap changes nothing."""
    evening.end(gym, _called(gym, block_id).planned_id, now)


@transaction.atomic
def take_back_block(gym: Gym, block_id: int) -> None:
    """A block called by mistake; what was thrown in it meanwhile stays."""
    evening.drop(gym, _called(gym, block_id).planned_id)


def _called(gym: Gym, block_id: int) -> CalledBlock:
    row = CalledBlock.objects.for_gym(gym).filter(pk=block_id).first()
    if row is None:
        raise NotYours("block")
    return row


def handed_out(trial: Trial, on: dt.date) -> list[int]:
    """Students of a trial whose strikes may be handed out."""
    return [
        student.pk
        for student in trial.students.filter(removed_at__isnull=True)
        if no_consent(student.name, age_of(student.birth_date, on), student.consent) is None
    ]


def label_of(measure: str) -> str:
    told = find(measure)
    return told.label if told else measure


assert set(WATCHED) <= MEASURES.keys()
