"""What goes over the wire. Field names are the words of the house; units are in the names."""

import datetime as dt
from typing import Annotated

from ninja import Schema
from pydantic import Field, model_validator

from agile_strike.api.base import MOST_CHOSEN, Day, Id, In, Line, Moment, Name, Text, Version, Word


class Problem(Schema):
    """What went wrong, in one line that says what to do."""

    message: str


class Credentials(In):
    user: str = Field(max_length=150)
    password: str = Field(max_length=200)


class Me(Schema):
    name: str
    gym: str
    time_zone: str


class Session(Schema):
    me: Me | None  #: null where nobody is signed in


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


class Registry(Schema):
    measures: list[MeasureOut]
    per_body_mass: list[MeasureOut]
    flags: dict[str, str]
    exclusion_reasons: list[str]
    remarks: list[str]
    limbs: list[str]
    strike_codes: list[str]
    factors: dict[str, list[str]]


class MassOut(Schema):
    measured_on: dt.date
    mass_kg: float


class StudentOut(Schema):
    id: int
    name: str
    label: str
    stance: str
    birth_date: dt.date | None
    age: int | None
    consent: str
    counts_as_child: bool  #: under age, or nobody noted the date of birth
    stopped: str  #: why nothing may be recorded or handed out; empty where nothing stands against it
    version: int
    mass_kg: float | None
    recordings: int
    last_recording: dt.datetime | None


class StanceOut(Schema):
    since: dt.date
    stance: str


class StudentPage(StudentOut):
    masses: list[MassOut]
    stances: list[StanceOut]


class StudentIn(In):
    name: Name
    stance: Line
    birth_date: Day | None = None
    mass_kg: float | None = None


class StanceIn(In):
    stance: Line
    version: Version


class ConsentIn(In):
    consent: Line  #: kept, missing or withdrawn
    version: Version


class BirthIn(In):
    birth_date: Day
    version: Version


class MassIn(In):
    measured_on: Day
    mass_kg: float
    was_kg: float | None = None  #: what the page showed for that day, where it showed anything


class BagValues(In):
    mount: Line
    mass_kg: float
    length_m: float
    diameter_m: float
    sensor_below_top_m: float
    mass_sd_kg: float | None = None
    pivot_to_top_m: float = 0.0
    chain_m: float = 0.5
    inertia_cm_kg_m2: float | None = None
    inertia_sd_kg_m2: float | None = None
    com_from_top_m: float | None = None
    impulse_gain: float = 1.0
    impulse_gain_sd: float = 0.0
    level_bands_m: list[float] | None = None


class BagVersionOut(Schema):
    mount: str
    mass_kg: float
    length_m: float
    diameter_m: float
    sensor_below_top_m: float
    mass_sd_kg: float | None
    pivot_to_top_m: float
    chain_m: float
    inertia_cm_kg_m2: float | None
    inertia_sd_kg_m2: float | None
    com_from_top_m: float | None
    impulse_gain: float
    impulse_gain_sd: float
    level_bands_m: list[float] | None
    id: int
    since: dt.datetime
    why: str  #: changed, learnt or corrected
    inertia_used_kg_m2: float
    bands_used_m: list[float]


class CostOut(Schema):
    what: str
    doubt: str
    newtons: float
    remedy: str


class BagOut(Schema):
    id: int
    name: str
    version: int
    current: BagVersionOut
    versions: list[BagVersionOut]
    costs: list[CostOut]
    height_doubt_mm: float | None
    recordings: int


class BagIn(In):
    id: Id | None = None
    version: Version = 0  #: of the bag that was changed; 0 for a new one
    name: Name
    values: BagValues
    always_so: bool = False  #: a figure was wrong, and recordings made before take it up when analysed again
    swing_period_s: float | None = None
    swing_period_sd_s: float = Field(0.01, ge=0, le=10)


class UploadOut(Schema):
    id: int
    file_name: str
    size_bytes: int
    student_id: int | None
    state: str
    stage: str
    progress: float
    message: str
    created_at: dt.datetime
    recordings: list[int]


class RecordingRow(Schema):
    id: int
    student_id: int
    session: str
    task: str
    run: str
    acquired_at: dt.datetime
    length_s: float
    strikes: int
    flags: list[str]


class NotMeasuredOut(Schema):
    measure: str
    why: str


class EventOut(Schema):
    onset_s: float
    duration_s: float
    type: str
    value: str


class BurstOut(Schema):
    strikes: list[int]
    rate_hz: float
    rhythm_cv: float | None
    force_kept_pct: float | None


class MountingOut(Schema):
    tilt_deg: float
    yaw_deg: float


class RecordingOut(RecordingRow):
    student: str
    rate_hz: float
    analysis_version: str
    body_mass_kg: float | None
    bag_name: str | None
    bag: BagVersionOut | None
    units: list[str]
    not_measured: list[NotMeasuredOut]
    events: list[EventOut]
    bursts: list[BurstOut]
    mounting: MountingOut | None
    clocks: list["ClockOut"]


class Strikes(Schema):
    """Columns over the strikes of a recording; null where a measure is absent, no column where no strike has it."""

    id: list[int]
    number: list[int]
    contact_s: list[float]
    limb: list[str]
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
    sets: list["SetOut"]
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


class ExcludeIn(Chosen):
    reason: Line


class RestoreIn(Chosen):
    pass


class Changed(Schema):
    changed: int


class CurveOut(Schema):
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


class CheckText(In):
    name: Word
    measure: Line = Field(max_length=40)
    low: float | None = None
    high: float | None = None
    strikes: list[Annotated[Line, Field(max_length=40)]] = Field([], max_length=20)


class SchoolIn(In):
    name: Line = Field(max_length=60)
    belief: Text = Field("", max_length=2000)
    objects_to: list[Annotated[Line, Field(max_length=40)]] = Field([], max_length=40)
    checks: list[CheckText] = Field(max_length=100)
    version: Version = 0  #: of the school that was changed; 0 for a new one


class CheckOut(Schema):
    name: str
    measure: str
    low: float | None
    high: float | None
    strikes: list[str]


class SchoolOut(Schema):
    id: int
    name: str
    belief: str
    objects_to: list[str]
    checks: list[CheckOut]
    version: int


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


class ClockOut(Schema):
    unit: str
    offset_s: float
    drift_ppm: float
    residual_ms: float
    aligned_by: str
    aligned: bool


Strikes.model_rebuild()
RecordingOut.model_rebuild()


class UnitMapText(In):
    placement: Word
    accel: list[str] = Field(max_length=3)
    gyro: list[str] = Field(max_length=3)
    accel_unit: Word = "m/s^2"
    gyro_unit: Word = "rad/s"
    accel_scale: float = Field(1.0, gt=0, lt=1e9)
    gyro_scale: float = Field(1.0, gt=0, lt=1e9)
    only: str = ""
    load: list[str] = Field([], max_length=2)
    load_unit: Word = "N"


class MappingText(In):
    """What the columns of a foreign table are."""

    units: list[UnitMapText] = Field(max_length=20)
    time: str = ""
    time_unit: Word = "s"
    rate_hz: float | None = Field(None, gt=0, le=50_000)
    sensor_column: str = ""


class SignalOut(Schema):
    """One mapped unit, for the eye: the highest in each of some hundred stretches."""

    placement: str
    rate_hz: float | None  #: null where nobody has told it yet
    length_s: float | None
    accel_m_s2: list[float]
    gyro_rad_s: list[float]
    load_n: list[float]


class CorrectionIn(In):
    """The mapping as the coach has it now, and the questions that were answered by leaving things as they are."""

    mapping: MappingText
    answered: list[Line] = Field([], max_length=100)
    version: Version


class QuestionOut(Schema):
    key: str
    about: str
    unit: int | None
    text: str


class TableOut(Schema):
    """A table as it stands; while its state is queued or running it is being read, and nothing is known of it yet."""

    id: int
    file_name: str
    state: str
    progress: float
    message: str  #: why it could not be read, or what is impossible about the mapping as it is
    version: int
    columns: list[str]
    word_columns: list[str]
    preview: list[list[str]]
    mapping: MappingText
    questions: list[QuestionOut]
    told: list[str]
    against: list[str]
    profile: str | None
    signals: list[SignalOut]
    places: list[str]
    accel_units: list[str]
    gyro_units: list[str]
    sole_places: list[str]
    load_units: list[str]
    time_units: list[str]


class TablesIn(In):
    ids: list[Id] = Field(min_length=1, max_length=20)
    student_id: Id
    bag_id: Id | None = None
    task: Line = Field("mixed", max_length=40)
    save_as: Word = ""
    at: Moment | None = None  #: when it began to be recorded, in the gym's zone where it names none


class KitUnitOut(Schema):
    placement: str
    rate_hz: float
    accel_full_scale_m_s2: float | None
    gyro_full_scale_rad_s: float | None
    last_seen: dt.datetime
    battery_pct: float | None
    calibrated_on: dt.date | None
    expires_on: dt.date | None


class CalibrationOut(Schema):
    id: int
    kind: str
    placement: str
    bag: str
    made_at: dt.datetime
    expires_on: dt.date
    result: dict[str, float | int | list[float]]
    drawn: dict[str, list[float]]


class TouchedOut(Schema):
    id: int
    student: str
    acquired_at: dt.datetime
    task: str


class BeforeAfterOut(Schema):
    measure: str
    before: float | None
    after: float | None


class AgainIn(In):
    recordings: list[Id] = Field(min_length=1, max_length=20_000)


class AgainResult(Schema):
    recording_id: int
    rows: list[BeforeAfterOut]
    problem: str


class AgainOut(Schema):
    """Recordings being analysed again: how far it is, and what came of those that are done."""

    id: int
    state: str
    progress: float
    message: str
    recordings: list[int]
    results: list[AgainResult]


class RemovalIn(In):
    kind: Word  #: student, recording, bag, school or trial
    id: Id


class RemovedOut(Schema):
    kind: str
    id: int
    name: str
    removed_at: dt.datetime


class EraseIn(In):
    name: Name  #: of the student, typed


class PasswordIn(In):
    old: str = Field(max_length=200)
    new: str = Field(max_length=200)
