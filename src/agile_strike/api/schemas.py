"""What goes over the wire. Field names are the words of the house; units are in the names."""

import datetime as dt

from ninja import Schema
from pydantic import Field


class Problem(Schema):
    """What went wrong, in one line that says what to do."""

    message: str


class Credentials(Schema):
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
    mass_kg: float | None
    recordings: int
    last_recording: dt.datetime | None


class StanceOut(Schema):
    since: dt.date
    stance: str


class StudentPage(StudentOut):
    masses: list[MassOut]
    stances: list[StanceOut]


class StudentIn(Schema):
    name: str = Field(max_length=120)
    stance: str
    birth_date: dt.date | None = None
    mass_kg: float | None = None


class StanceIn(Schema):
    stance: str


class ConsentIn(Schema):
    kept: bool


class MassIn(Schema):
    measured_on: dt.date
    mass_kg: float


class BagValues(Schema):
    mount: str
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


class BagVersionOut(BagValues):
    id: int
    since: dt.datetime
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
    current: BagVersionOut
    versions: list[BagVersionOut]
    costs: list[CostOut]
    height_doubt_mm: float | None
    recordings: int


class BagIn(Schema):
    id: int | None = None
    name: str = Field(max_length=120)
    values: BagValues
    swing_period_s: float | None = None
    swing_period_sd_s: float = 0.01


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
    flags: list[list[str]]
    excluded: list[str]
    sets: list["SetOut"]
    values: dict[str, list[float | None]]
    sds: dict[str, list[float | None]]


class ExcludeIn(Schema):
    ids: list[int] = Field(min_length=1, max_length=5000)
    reason: str


class RestoreIn(Schema):
    ids: list[int] = Field(min_length=1, max_length=5000)


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


class LabelIn(Schema):
    """What a run of strikes was."""

    ids: list[int] = Field(min_length=1, max_length=5000)
    code: str = Field(max_length=60)
    limb: str = ""
    level: str = ""
    levels: dict[str, str] = {}
    school_id: int | None = None
    gear: str = Field("", max_length=80)


class Before(Schema):
    id: int
    set_id: int | None
    limb: str


class PutBackIn(Schema):
    strikes: list[Before] = Field(min_length=1, max_length=5000)


class RemarkIn(Schema):
    what: str


class NoteIn(Schema):
    text: str


class CheckText(Schema):
    name: str = Field(max_length=80)
    measure: str
    low: float | None = None
    high: float | None = None
    strikes: list[str] = []


class SchoolIn(Schema):
    name: str = Field(max_length=60)
    belief: str = ""
    objects_to: list[str] = []
    checks: list[CheckText]


class SchoolOut(SchoolIn):
    id: int


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


class UnitMapText(Schema):
    placement: str
    accel: list[str]
    gyro: list[str]
    accel_unit: str = "m/s^2"
    gyro_unit: str = "rad/s"
    accel_scale: float = 1.0
    gyro_scale: float = 1.0
    only: str = ""
    load: list[str] = []
    load_unit: str = "N"


class MappingText(Schema):
    """What the columns of a foreign table are."""

    units: list[UnitMapText]
    time: str = ""
    time_unit: str = "s"
    rate_hz: float | None = Field(None, gt=0, le=50_000)
    sensor_column: str = ""


class SignalOut(Schema):
    """One mapped unit, for the eye: the highest in each of some hundred stretches."""

    placement: str
    rate_hz: float
    length_s: float
    accel_m_s2: list[float]
    gyro_rad_s: list[float]
    load_n: list[float]


class TableOut(Schema):
    id: int
    file_name: str
    columns: list[str]
    word_columns: list[str]
    preview: list[list[str]]
    mapping: MappingText
    questions: list[str]
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


class TablesIn(Schema):
    ids: list[int] = Field(min_length=1, max_length=20)
    student_id: int
    bag_id: int | None = None
    task: str = Field("mixed", max_length=40)
    save_as: str = Field("", max_length=80)


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


class AgainIn(Schema):
    recordings: list[int] = Field(min_length=1, max_length=500)


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
