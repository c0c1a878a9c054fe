"""Bags with what is known of them, units with their calibrations."""

import datetime as dt
from typing import Any, cast

from django.db.models import Count, Prefetch, Q, QuerySet
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from agile_strike.core.errors import BadInput
from agile_strike.core.target import Bag as CoreBag
from agile_strike.gym.asking import found, gym
from agile_strike.gym.bodies import Id, In, Line, Name, Problem, Version
from agile_strike.kit import services
from agile_strike.kit.models import Bag, BagVersion, Calibration, Unit

router = Router()
SWING_S = (0.3, 10.0)  # of one full swing of a hanging bag


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
    filling: Line = "packed"
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
    filling: str
    level_bands_m: list[float] | None
    id: int
    since: dt.datetime
    why: str  #: changed, learnt or corrected
    inertia_used_kg_m2: float
    bands_used_m: list[float]

    @staticmethod
    def resolve_inertia_used_kg_m2(row: BagVersion) -> float:
        return row.to_core().inertia_across_kg_m2

    @staticmethod
    def resolve_bands_used_m(row: BagVersion) -> list[float]:
        return list(row.to_core().bands_m)


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

    @staticmethod
    def resolve_current(row: Bag) -> BagVersion:
        return list(row.versions.all())[0]  # noqa: RUF015  (all of them were fetched along)

    @staticmethod
    def resolve_costs(row: Bag) -> list[services.Cost]:
        return services.costs(BagOut.resolve_current(row).to_core())

    @staticmethod
    def resolve_height_doubt_mm(row: Bag) -> float | None:
        return services.height_doubt_mm(BagOut.resolve_current(row).to_core())

    @staticmethod
    def resolve_recordings(row: Any) -> int:
        return cast(int, row.recording_count)


class BagIn(In):
    id: Id | None = None
    version: Version = 0  #: of the bag that was changed; 0 for a new one
    name: Name
    values: BagValues
    always_so: bool = False  #: a figure was wrong, and recordings made before take it up when analysed again
    swing_period_s: float | None = None
    swing_period_sd_s: float = Field(0.01, ge=0, le=10)


class KitUnitOut(Schema):
    id: int
    name: str  #: what the gym calls it
    serial: str
    place: str  #: where it is worn, if that is all it is known by
    model_text: str
    last_place: str
    rate_hz: float
    accel_full_scale_m_s2: float | None
    gyro_full_scale_rad_s: float | None
    last_seen: dt.datetime
    battery_pct: float | None
    version: int
    recordings: int
    calibrated_on: dt.date | None
    expires_on: dt.date | None

    @staticmethod
    def resolve_recordings(row: Any) -> int:
        return cast(int, row.recording_count)

    @staticmethod
    def resolve_calibrated_on(row: Unit) -> dt.date | None:
        newest = next(iter(row.calibrations.all()), None)
        return row.gym.day(newest.made_at) if newest else None

    @staticmethod
    def resolve_expires_on(row: Unit) -> dt.date | None:
        newest = next(iter(row.calibrations.all()), None)
        return newest.expires_on if newest else None


class UnitIn(In):
    name: Line = Field("", max_length=60)
    serial: Line = Field("", max_length=60)
    version: Version


class CalibrationOut(Schema):
    id: int
    kind: str
    unit: str
    bag: str
    made_at: dt.datetime
    expires_on: dt.date
    result: dict[str, float | int | list[float]]
    drawn: dict[str, list[float]]

    @staticmethod
    def resolve_unit(row: Calibration) -> str:
        return str(row.unit) if row.unit else ""

    @staticmethod
    def resolve_bag(row: Calibration) -> str:
        return row.bag.name if row.bag else ""


def bags_of(request: HttpRequest) -> "QuerySet[Bag]":
    standing = Q(versions__recordings__removed_at__isnull=True)
    counted = Bag.objects.for_gym(gym(request)).annotate(recording_count=Count("versions__recordings", filter=standing))
    return counted.order_by("name").prefetch_related("versions")  # counting drops the order of the model


@router.get("/bags", response=list[BagOut])
def bags(request: HttpRequest) -> "QuerySet[Bag]":
    return bags_of(request)


@router.post("/bags", response={200: BagOut, 422: Problem, 409: Problem})
def save_bag(request: HttpRequest, bag: BagIn) -> Bag:
    values = bag.values.model_dump()
    bands = values.pop("level_bands_m")
    if bands is not None and len(bands) != 2:
        raise BadInput("Bands are two heights below the top: where head ends and where body ends.")
    body = CoreBag(**values, level_bands_m=(bands[0], bands[1]) if bands else None)
    if bag.swing_period_s is not None:
        if not SWING_S[0] <= bag.swing_period_s <= SWING_S[1]:
            raise BadInput(
                f"A swing of {bag.swing_period_s:g} s is not a bag's: time ten full swings and divide by ten."
            )
        body = services.with_swing_time(body, bag.swing_period_s, bag.swing_period_sd_s)
    always_so = bag.always_so and bag.id is not None
    made = services.save_version(gym(request), bag.id, bag.name, body, timezone.now(), bag.version, always_so)
    return bags_of(request).get(pk=made.bag_id)


def _units(request: HttpRequest) -> "QuerySet[Unit]":
    rows = Unit.objects.for_gym(gym(request)).select_related("gym")
    standing = Q(wears__recording__removed_at__isnull=True)
    newest = Prefetch("calibrations", queryset=Calibration.objects.order_by("-made_at", "-id"))
    counted = rows.annotate(recording_count=Count("wears", filter=standing))
    return counted.order_by("last_place", "serial", "pk").prefetch_related(newest)


@router.get("/units", response=list[KitUnitOut])
def kit_units(request: HttpRequest) -> "QuerySet[Unit]":
    return _units(request)


@router.put("/units/{unit_id}", response={200: KitUnitOut, 422: Problem, 409: Problem})
def name_unit(request: HttpRequest, unit_id: int, what: UnitIn) -> Unit:
    """Call a unit by a name, or say which serial the unit at a place has: two that are one become one."""
    row = services.name_unit(gym(request), unit_id, what.name, what.serial, what.version)
    return found(_units(request), row.pk, "unit")
