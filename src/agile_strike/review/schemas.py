"""What goes over the wire of strikes. Field names are the words of the house; units are in the names."""

import datetime as dt

from ninja import Schema
from pydantic import Field, model_validator

from agile_strike.capture.api import RecordingRow
from agile_strike.core.measures.measure import Measure
from agile_strike.core.measures.plain import group_of, plain
from agile_strike.core.registry import PER_BODY_MASS
from agile_strike.evening.api import EveningRow, PlannedOut
from agile_strike.gym.bodies import MOST_CHOSEN, Id, In, Line, Text, Version, Word
from agile_strike.review.models import StrikeSet


class MeasureOut(Schema):
    name: str
    label: str
    unit: str
    decimals: int
    needs: list[str]
    better: str
    meaning: str
    computed_from: str
    numeric: bool
    group: str  #: from the floor to the bag
    plain: str  #: what it answers, in a coach's words

    @staticmethod
    def resolve_group(row: Measure) -> str:
        return group_of(row.name.removesuffix(PER_BODY_MASS))

    @staticmethod
    def resolve_plain(row: Measure) -> str:
        return plain(row.name.removesuffix(PER_BODY_MASS))


class Registry(Schema):
    measures: list[MeasureOut]  #: in the order of their groups, from the floor to the bag
    groups: list[str]
    usual: list[str]  #: shown of a strike where nobody chose
    usual_of_a_child: list[str]
    per_body_mass: list[MeasureOut]
    flags: dict[str, str]
    exclusion_reasons: list[str]
    remarks: dict[str, list[str]]  #: by family of strikes; `any` fits all
    limbs: list[str]
    factors: dict[str, list[str]]


class SetOut(Schema):
    id: int
    code: str
    limb: str
    level: str
    levels: dict[str, str]
    school_id: int | None
    school: str
    gear: str
    by_coach: bool

    @staticmethod
    def resolve_school(row: StrikeSet) -> str:
        return row.school.name if row.school else ""


class Strikes(Schema):
    """Columns over the strikes of a recording; null where a measure is absent, no column where no strike has it."""

    id: list[int]
    number: list[int]
    contact_s: list[float]
    limb: list[str]
    kind: list[str]  #: what each landed on: `bag`, something else (`met`), nothing (`air`)
    level: list[str]
    set_id: list[int | None]
    planned: list[str]  #: the set in words: `code;limb;key=level,...`
    chain_order: list[str]
    launch_ms: list[float | None]
    remarks: list[list[str]]
    notes: list[str]
    version: list[int]
    flags: list[list[str]]
    excluded: list[str]
    guess: list[str]  #: what a strike that nobody named looks like; mostly nothing
    guess_pct: list[int]  #: and how sure that is
    sets: list[SetOut]
    values: dict[str, list[float | None]]
    sds: dict[str, list[float | None]]


class Chosen(In):
    """Strikes that a coach chose, each with the version that the page showed."""

    ids: list[Id] = Field(min_length=1, max_length=MOST_CHOSEN)
    versions: list[Version] = Field(min_length=1, max_length=MOST_CHOSEN)

    @model_validator(mode="after")
    def _one_version_each(self) -> "Chosen":
        if len(self.ids) != len(self.versions):
            raise ValueError("give a version for each strike")
        return self

    @property
    def seen(self) -> dict[int, int]:
        return dict(zip(self.ids, self.versions, strict=True))


class NamesOfPart(Schema):
    """How well the names of one part of the body are told apart, on students who were left out in turn."""

    part: str  #: hand, foot, elbow, knee
    names: list[str]  #: spoken
    table: list[list[int]]  #: of each name, called by each; the last: unsure
    students: int
    right: float
    said: float


class NamesOut(Schema):
    made_at: dt.datetime | None
    parts: list[NamesOfPart]


class ExcludeIn(Chosen):
    reason: Line


class RestoreIn(Chosen):
    pass


class LabelIn(Chosen):
    """What a run of strikes was."""

    code: Line = Field(max_length=60)
    limb: Line = ""
    level: Line = ""
    levels: dict[Word, Word] = {}
    school_id: Id | None = None
    gear: Word = ""


class Before(In):
    id: Id
    set_id: Id | None
    limb: Line
    version: Version


class PutBackIn(In):
    strikes: list[Before] = Field(min_length=1, max_length=MOST_CHOSEN)


class RemarkIn(In):
    what: Line
    on: bool  #: it was seen, or it is taken back


class NoteIn(In):
    text: Text
    version: Version


class CurveOut(Schema):
    """Force over time of one strike, milliseconds from contact."""

    strike_id: int
    number: int
    ms: list[float]
    force_n: list[float] | None
    shape: list[float]
    end_ms: float
    peak_ms: float
    rise_from_ms: float
    rise_to_ms: float
    cut_off_hz: float


class JudgedOut(Schema):
    name: str
    measure: str
    low: float | None
    high: float | None
    verdict: str
    value: float | None
    sd: float | None
    order: str | None


class ObjectionOut(Schema):
    school: str
    words: list[str]


class JudgementOut(Schema):
    school: str | None
    checks: list[JudgedOut]
    objections: list[ObjectionOut]


class LanesOut(Schema):
    """Curves from the floor up over `ms` from contact; a lane that is missing is not there."""

    ms: list[float]
    own: dict[str, list[float]]
    under: dict[str, list[float]]
    under_what: str
    lead: str


class StrikePage(Schema):
    """One strike, opened."""

    lanes: LanesOut
    curve: CurveOut | None  #: null where the raw samples are no longer kept, or the bag gives no force
    judgement: JudgementOut


class ThrownOut(Schema):
    """A set as it was thrown, with the middle of what was measured in it."""

    id: int
    recording_id: int
    planned_id: int | None
    code: str
    limb: str
    level: str
    levels: dict[str, str]
    school: str
    strikes: int
    excluded: int
    mean: float | None
    kinds: list[str]  #: what they landed on: `bag`, something else (`met`), nothing (`air`)
    by_coach: bool


class RemarkedOut(Schema):
    what: str
    strikes: int


class NotedOut(Schema):
    """A strike that a coach wrote something about."""

    strike_id: int
    recording_id: int
    number: int
    note: str


class WornOut(Schema):
    unit_id: int
    unit: str
    placement: str
    battery_pct: float | None


class ShownByOut(Schema):
    strike_id: int
    recording_id: int
    number: int


class FigureOut(Schema):
    """The mean of a measure beyond its edge."""

    measure: str
    mean: float
    strikes: int
    edge: float
    low: bool  #: the edge is a lower one
    school: str  #: whose edge it is; empty: as a rule


class DrillOut(Schema):
    """A drill, why it is asked for, and the strikes that ask for it."""

    key: str
    name: str
    seen: str
    figure: FigureOut | None
    words: str
    code: str
    steps: list[str]
    dose: str
    care: str
    kit: str  #: what it takes
    go_on: str  #: when the next step comes
    moves: str  #: label of the measure by which it shows
    strikes: list[ShownByOut]


class HeardOut(Schema):
    """A remark, and what the units say of the strikes that it was made on, and of the others."""

    what: str
    strikes: int
    measure: str  #: by which units see the same; empty where only a coach does
    shown: int  #: of those remarked on, that the measure shows it in
    told: int  #: of those remarked on, that the measure can tell of
    others_shown: int
    others_told: int


class SeenToDrillOut(Schema):
    drills: list[DrillOut]
    heard: list[HeardOut]


class SawOut(Schema):
    """What the coach's eye saw of a point of the set-up check."""

    point: str
    name: str
    good: bool


class WorkedOut(Schema):
    drill: str
    name: str


class EveningPage(EveningRow):
    """One student's evening: who, with what, what was planned, what was thrown, what was said."""

    student: str
    stance: str
    mass_kg: float | None
    bags: list[str]
    measure: str  #: that `mean` is of
    planned: list[PlannedOut]
    thrown: list[ThrownOut]
    loose: int  #: strikes in no set
    recordings: list[RecordingRow]
    remarks: list[RemarkedOut]
    noted: list[NotedOut]
    looked: list[SawOut]
    drilled: list[WorkedOut]
    worn: list[WornOut]
    cautions: list[str]  #: what to mind with this student and these strikes, the weightiest first
    before: int | None  #: the student's evening before this one
    after: int | None
