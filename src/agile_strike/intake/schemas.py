"""What goes over the wire of what is brought in and analysed again."""

import datetime as dt
from typing import Any, cast

from ninja import Schema
from pydantic import Field

from agile_strike.capture.models import Recording, Upload
from agile_strike.formats.mapping import ACCEL_UNITS, GYRO_UNITS, LOAD_UNITS, PLACES, SOLE_PLACES, TIME_UNITS, Question
from agile_strike.gym.bodies import Id, In, Line, Moment, Version, Word
from agile_strike.intake.models import ForeignFile


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

    @staticmethod
    def resolve_recordings(row: Upload) -> list[int]:
        return [r.pk for r in row.recordings.all()]


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

    @staticmethod
    def resolve_key(row: Any) -> str:
        return Question(**row).key


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
    places: list[str] = list(PLACES)
    accel_units: list[str] = list(ACCEL_UNITS)
    gyro_units: list[str] = list(GYRO_UNITS)
    sole_places: list[str] = list(SOLE_PLACES)
    load_units: list[str] = list(LOAD_UNITS)
    time_units: list[str] = list(TIME_UNITS)

    @staticmethod
    def resolve_mapping(row: ForeignFile) -> dict[str, Any]:
        return row.mapping or {"units": []}

    @staticmethod
    def resolve_told(row: ForeignFile) -> list[str]:
        return [*row.told, *row.seen.get("turned", [])]

    @staticmethod
    def resolve_profile(row: ForeignFile) -> str | None:
        return row.profile.name if row.profile else None

    @staticmethod
    def resolve_columns(row: ForeignFile) -> list[Any]:
        return cast(list[Any], row.seen.get("columns", []))

    @staticmethod
    def resolve_word_columns(row: ForeignFile) -> list[Any]:
        return cast(list[Any], row.seen.get("word_columns", []))

    @staticmethod
    def resolve_preview(row: ForeignFile) -> list[Any]:
        return cast(list[Any], row.seen.get("preview", []))

    @staticmethod
    def resolve_against(row: ForeignFile) -> list[Any]:
        return cast(list[Any], row.seen.get("against", []))

    @staticmethod
    def resolve_signals(row: ForeignFile) -> list[Any]:
        return cast(list[Any], row.seen.get("signals", []))


class TablesIn(In):
    ids: list[Id] = Field(min_length=1, max_length=20)
    student_id: Id
    bag_id: Id | None = None
    task: Line = Field("mixed", max_length=40)
    save_as: Word = ""
    at: Moment | None = None  #: when it began to be recorded, in the gym's zone where it names none


class TouchedOut(Schema):
    id: int
    student: str
    acquired_at: dt.datetime
    task: str

    @staticmethod
    def resolve_student(row: Recording) -> str:
        return row.student.name


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
    about_s: float  #: how long all of them should take
    recordings: list[int]
    results: list[AgainResult]
