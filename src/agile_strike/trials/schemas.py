"""What goes over the wire of trials: their text, plan and sheet; decisions and marks."""

import datetime as dt
from typing import Annotated

from ninja import Schema
from pydantic import Field

from agile_strike.gym.bodies import Count, Day, Finite, Id, In, Line, Text, Version, Word
from agile_strike.trials.models import Trial


class TrialIn(In):
    """A trial as it is written on the page."""

    factor: Line = Field(max_length=60)
    levels: list[Word] = Field(min_length=2, max_length=4)
    code: Line = Field(max_length=60)
    height: Line = ""
    measure: Line = Field(max_length=60)
    watch: list[Annotated[Line, Field(max_length=60)]] = Field([], max_length=60)
    worth_pct: float | None = None
    blocks_each: Count = 2
    strikes: Count = 8
    rest_s: float = 60.0
    evenings: Count = 4
    gear: Word = ""
    bag_id: Id | None = None  #: held throughout; none: whichever hangs, as long as it is one
    students: list[Id] = Field(min_length=1, max_length=60)
    since: Day | None = None  #: what was thrown from this day on counts; none: from today, or as it was
    version: Version = 0  #: of the trial that was changed; 0 for a new one


class DecisionOut(Schema):
    id: int
    student_id: int
    what: str
    level: str
    reason: str
    said: str
    decided_on: dt.date


class TrialOut(Schema):
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
    students: list[int]  #: none where all were removed
    version: int
    id: int
    started_on: dt.date
    ended_on: dt.date | None
    decisions: list[DecisionOut]

    @staticmethod
    def resolve_students(row: Trial) -> list[int]:
        return [student.pk for student in row.students.all() if student.removed_at is None]


class SightOut(Schema):
    evenings: int
    half_width_pct: float
    seen_pct: float
    minutes: float


class SuggestedOut(Schema):
    """The plan that shows what is worth having in the fewest minutes."""

    blocks_each: int
    strikes: int
    evenings: int
    seen_pct: float
    minutes: float


class ProposalOut(Schema):
    student_id: int
    student: str
    learnt_from: int  #: strikes; 0 where only what is usual is known
    within_pct: float
    block_pct: float
    sights: list[SightOut]
    evenings_for_worth: int | None
    suggested: SuggestedOut | None
    days: list[dt.date]


class EarlierOut(Schema):
    """What was thrown under a plan's levels before it begins to count."""

    sets: int
    since: dt.date


class PlanOut(Schema):
    """What a plan asks of an evening, and what it should show."""

    orders: list[list[str]]  #: of the first evenings
    minutes: float
    proposals: list[ProposalOut]
    earlier: EarlierOut | None
    cautions: list[str]


class SheetBlockOut(Schema):
    place: int
    level: str
    id: int | None
    began_at: dt.datetime | None
    ended_at: dt.datetime | None


class SheetOut(Schema):
    student: str
    evening: int
    evenings: int
    code: str
    height: str
    strikes: int
    rest_s: float
    gear: str
    bag: str
    on: dt.date
    cautions: list[str]
    blocks: list[SheetBlockOut]


class BlockIn(In):
    student_id: Id
    place: Count


class AskedIn(Schema):
    """What is to be compared; left out is the trial's own, and all of its students."""

    student_id: int | None = None
    measure: str = ""
    levels: str = ""  #: two of the trial's, with a bar between
    worth_pct: Finite | None = None
    only: str = ""  #: `column=value`


class DecisionIn(In):
    student_id: Id
    what: Word
    level: Word
    reason: Text = Field(max_length=2000)
    said: Text = ""


class EndIn(In):
    ended: bool
    version: Version
