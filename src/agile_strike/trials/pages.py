"""Pages of trials, weeks and the class: what services make, what is kept of claims, what goes over the wire."""

import datetime as dt

from ninja import Schema


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
    outcome: str  #: gained, faded, lost, same, open, begun or refused
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
    about_s: float  #: how long they should take


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
    late: LateOut  #: among all recordings of students in a trial
    rows: list[ClassRow]
    pooled: list[PooledRow]
    cheapest: list[CheapOut]


class NoticeOut(Schema):
    """Something to see to."""

    kind: str  #: consent, volume, sides, retest, battery, calibration or away
    who: str
    text: str
    student_id: int | None
    trial_id: int | None


ClaimOut.model_rebuild()


class DrillMovedOut(Schema):
    """A drill against a measure that asks for it; without `value` nobody knows yet."""

    drill: str
    measure: str
    up: bool  #: the way it is wanted to go
    drilled: int  #: students who took it up
    students: int  #: of whom it can be told
    value: float | None  #: in the measure's unit, from before to after
    low: float | None
    high: float | None


class ByLevelOut(Schema):
    """A remark: in how many strikes of each of the two levels, and how many those are in all."""

    what: str
    strikes: list[int]
    of: list[int]


class RangeOut(Schema):
    value: float
    low: float  #: 95 %
    high: float


class TieOut(Schema):
    """A measure of the body against impulse."""

    measure: str
    partial: RangeOut  #: per cent of impulse for one usual spread more, the other measures held
    shrunk: float
    goes: bool  #: beyond doubt
    spread: float
    evenings: RangeOut | None
    heavy: RangeOut  #: mean in the heaviest third of every set
    light: RangeOut


class TestedByOut(Schema):
    """A trial that would test a tie."""

    measure: str
    factor: str
    levels: list[str]


class GoesWithOut(Schema):
    code: str
    codes: list[str]
    limb: str
    limbs: list[str]
    ties: list[TieOut]
    left_out: list[str]
    strikes: int
    sets: int
    evenings: int
    refused: str | None
    proposal: TestedByOut | None
