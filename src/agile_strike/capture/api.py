"""Recordings: what came from the units, and what its analysis says of the whole."""

import datetime as dt

from django.db.models import QuerySet
from django.http import HttpRequest
from ninja import Router, Schema

from agile_strike.capture.models import Recording
from agile_strike.capture.shown import recording_of
from agile_strike.gym.asking import gym
from agile_strike.gym.bodies import Problem
from agile_strike.kit.api import BagVersionOut

router = Router()


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


class ClockOut(Schema):
    unit: str
    offset_s: float
    drift_ppm: float
    residual_ms: float
    aligned_by: str
    aligned: bool


class WearOut(Schema):
    """A unit, and where it was."""

    placement: str
    unit_id: int
    unit: str
    rate_hz: float
    battery_pct: float | None

    @staticmethod
    def resolve_unit(row: "object") -> str:
        return str(row.unit)  # type: ignore[attr-defined]


class RecordingRow(Schema):
    id: int
    student_id: int
    session_id: int
    session: str
    task: str
    run: str
    acquired_at: dt.datetime
    length_s: float
    strikes: int
    flags: list[str]

    @staticmethod
    def resolve_session(row: Recording) -> str:
        return row.session_label

    @staticmethod
    def resolve_strikes(row: Recording) -> int:
        return row.analysis.strike_count if row.analysis else 0

    @staticmethod
    def resolve_flags(row: Recording) -> list[str]:
        return row.analysis.flags if row.analysis else []


class RecordingOut(RecordingRow):
    student: str
    rate_hz: float
    analysis_version: str
    body_mass_kg: float | None
    bag_name: str | None
    bag: BagVersionOut | None
    units: list[str]
    wears: list[WearOut]
    not_measured: list[NotMeasuredOut]
    events: list[EventOut]
    bursts: list[BurstOut]
    mounting: MountingOut | None
    clocks: list[ClockOut]

    @staticmethod
    def resolve_student(row: Recording) -> str:
        return row.student.name

    @staticmethod
    def resolve_bag_name(row: Recording) -> str | None:
        return row.bag_version.bag.name if row.bag_version else None

    @staticmethod
    def resolve_bag(row: Recording) -> object:
        return row.bag_version

    @staticmethod
    def resolve_units(row: Recording) -> list[str]:
        return [w.placement for w in row.wears.all()]

    @staticmethod
    def resolve_analysis_version(row: Recording) -> str:
        return row.analysis.version if row.analysis else ""

    @staticmethod
    def resolve_body_mass_kg(row: Recording) -> float | None:
        return row.analysis.body_mass_kg if row.analysis else None

    @staticmethod
    def resolve_not_measured(row: Recording) -> object:
        return row.analysis.not_measured if row.analysis else []

    @staticmethod
    def resolve_bursts(row: Recording) -> object:
        return row.analysis.bursts if row.analysis else []

    @staticmethod
    def resolve_mounting(row: Recording) -> object:
        return row.analysis.bag_state if row.analysis else None

    @staticmethod
    def resolve_clocks(row: Recording) -> object:
        return row.analysis.clocks if row.analysis else []


@router.get("/students/{student_id}/recordings", response=list[RecordingRow])
def recordings(request: HttpRequest, student_id: int) -> "QuerySet[Recording]":
    return Recording.objects.for_gym(gym(request)).filter(student_id=student_id).select_related("analysis")


@router.get("/recordings/{recording_id}", response={200: RecordingOut, 422: Problem})
def recording(request: HttpRequest, recording_id: int) -> Recording:
    own = gym(request)
    rows = Recording.objects.for_gym(own).select_related("student", "analysis", "bag_version__bag")
    return recording_of(own, rows.prefetch_related("wears__unit"), recording_id)
