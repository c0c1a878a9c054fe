"""What goes over the wire of trials, weeks and the class."""

import datetime as dt
from typing import Annotated

from ninja import Schema
from pydantic import Field

from agile_strike.api.base import Count, Day, Finite, Id, In, Line, Text, Version, Word


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


class SightOut(Schema):
    evenings: int
    half_width_pct: float
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
    suggested: "SuggestedOut | None"
    days: list[dt.date]


class SuggestedOut(Schema):
    """The plan that shows what is worth having in the fewest minutes."""

    blocks_each: int
    strikes: int
    evenings: int
    seen_pct: float
    minutes: float


class PlanOut(Schema):
    """What a plan asks of an evening, and what it should show."""

    orders: list[list[str]]  #: of the first evenings
    minutes: float
    proposals: list[ProposalOut]
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


class SentenceOut(Schema):
    before: str
    figures: str
    after: str


class NoteOut(Schema):
    kind: str
    text: str
    warn: bool


class PooledOut(Schema):
    mean_pct: float | None
    ci95_pct: list[float | None]
    next_student_pct: list[float | None]
    students_differ_by_pct: float | None
    each_pct: dict[str, list[float | None]]


class OrderEffectOut(Schema):
    per_block: float | None
    sd: float | None


class ClaimOut(Schema):
    """What `agile-strike compare` prints."""

    levels: list[str]
    n: dict[str, int]
    means: dict[str, float | None]
    effect: float | None
    effect_pct: float | None
    ci95: list[float | None] | None
    ci95_pct: list[float | None] | None
    swc: float | None
    typical_error: float | None
    mdc: float | None
    verdict: str | None
    blocks_needed: int | None
    order_effect: OrderEffectOut | None
    sessions: int
    notes: list[NoteOut]
    refused: str | None
    pooled: PooledOut | None
    students: dict[str, "ClaimOut"]


class SummaryOut(Schema):
    sentence: SentenceOut
    in_shares: bool
    worse: bool | None
    outcome: str  #: gained, faded, lost, same, open or refused
    trade: str
    needed: str
    worth_settling: bool  #: false where an open question would cost more than its answer
    minutes_needed: float
    claim: ClaimOut


class NarrowOut(Schema):
    only: str
    name: str
    evenings: int


class DotsOut(Schema):
    """Columns over a comparison's strikes."""

    id: list[int]
    recording: list[int]
    student: list[str]
    on: list[str]
    block: list[int]
    level: list[int]
    value: list[float | None]
    excluded: list[str]


class BlockMeanOut(Schema):
    student: str
    on: str
    level: int
    place: int
    mean: float | None
    strikes: int


class AlsoOut(Schema):
    measure: str
    effect: float | None
    ci95: list[float | None] | None
    verdict: str | None
    worse: bool | None
    refused: str | None


class LateOut(Schema):
    """Recordings whose figures are behind what is known by now of bag, units or student."""

    recordings: list[int]  #: that can be analysed again
    late: int  #: all of them, those too whose samples are gone
    of: int


class CompareOut(SummaryOut):
    measure: str
    levels: list[str]
    worth_pct: float | None
    only: str
    narrow: list[NarrowOut]
    planned: str  #: where the strikes were not thrown as planned
    late: LateOut
    strikes: DotsOut
    blocks: list[BlockMeanOut]
    also: list[AlsoOut]


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


class ToldOut(Schema):
    value: float | None
    ci95: list[float | None]


class EveningOut(Schema):
    on: str
    mean: float | None
    ci95: list[float | None]
    strikes: int


class LinePoint(Schema):
    on: str
    value: float | None


class AtMarkOut(Schema):
    on: str
    step: ToldOut | None
    slope_change_per_week: ToldOut | None
    why_not: str | None


class CourseOut(Schema):
    """What `agile-strike weeks` prints."""

    evenings: list[EveningOut]
    slope_per_week: ToldOut | None
    slope_per_week_last: ToldOut | None
    day_sd: float | None
    mdc: float | None
    band: list[float | None] | None
    line: list[LinePoint]
    marks: list[AtMarkOut]
    notes: list[str]


class MarkOut(Schema):
    id: int | None
    on: dt.date
    until: dt.date | None
    kind: str
    text: str
    trial: int | None


class BestOut(Schema):
    on: dt.date
    value: float | None
    sd: float | None
    strike_id: int
    recording_id: int


class SidesOut(Schema):
    first: str
    second: str
    pct: float | None
    low: float | None
    high: float | None
    evenings: int
    verdict: str
    why_not: str | None


class BehindEvening(Schema):
    on: str
    share: float | None
    strikes: int


class BehindOut(Schema):
    share: float | None
    low: float | None
    high: float | None
    strikes: int
    evenings: list[BehindEvening]


class WeekOut(Schema):
    monday: dt.date
    strikes: int
    left: int
    right: int
    kick_days: int
    flags: list[str]


class WeeksOut(Schema):
    code: str
    measure: str
    own_way: bool
    limb: str  #: whose strikes the course runs through; `both`, or empty where there is only one
    limbs: list[str]
    late: LateOut
    codes: list[str]
    course: CourseOut | None
    marks: list[MarkOut]
    bests: list[BestOut]
    sides: list[SidesOut]
    behind: BehindOut
    volume: list[WeekOut]


class MarkIn(In):
    kind: Word
    since: Day
    until: Day | None = None
    text: Line = Field(max_length=200)


class ClassRow(Schema):
    trial: int
    student_id: int
    student: str
    factor: str
    levels: list[str]
    code: str
    measure: str
    ended: bool
    told: SummaryOut
    decision: str | None
    decided_on: dt.date | None


class PooledRow(Schema):
    trial: int
    factor: str
    code: str
    told: SummaryOut


class CheapOut(Schema):
    trial: int
    student: str
    minutes: float
    needed: str


class ClassOut(Schema):
    rows: list[ClassRow]
    pooled: list[PooledRow]
    cheapest: list[CheapOut]


ClaimOut.model_rebuild()
