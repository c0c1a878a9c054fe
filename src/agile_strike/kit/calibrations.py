"""Calibrating units and bags from recordings; each result is dated, keeps its doubt and its fit, and expires."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from agile_strike.core.bag import calibration as core
from agile_strike.core.errors import BadInput
from agile_strike.core.measured import Measured
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.target import Bag as CoreBag
from agile_strike.gym.models import Gym
from agile_strike.kit.models import Bag, Calibration, Unit
from agile_strike.kit.services import learn

TRUSTED_DAYS = {"rests": 90, "swing": 180, "ball": 180}
DRAWN_POINTS = 500


def _known(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def settings_of(unit: UnitSignal) -> dict[str, float | None]:
    """How a unit was set, in the columns of the database."""
    return {
        "rate_hz": unit.rate_hz,
        "accel_full_scale_m_s2": _known(unit.accel_full_scale_m_s2),
        "gyro_full_scale_rad_s": _known(unit.gyro_full_scale_rad_s),
        "battery_pct": unit.battery_pct,
    }


def seen(gym: Gym, recording: Recording, at: dt.datetime) -> dict[str, Unit]:
    """The units that a recording came from, by placement: by their serial, else by their place. New ones are noted."""
    found = {}
    for place, unit in recording.units.items():
        known = {"serial": unit.serial} if unit.serial else {"place": place}
        told = {**settings_of(unit), "last_seen": at, "last_place": place}
        told |= {"model_text": unit.model_text} if unit.model_text else {}
        row, made = Unit.objects.get_or_create(gym=gym, **known, defaults=told)
        if not made and row.last_seen <= at:
            Unit.objects.filter(pk=row.pk).update(**told)
        found[place] = row
    return found


def units_of(gym: Gym, recording: Recording) -> dict[str, int]:
    """Which of the gym's known units a recording came from, by placement."""
    rows = list(Unit.objects.for_gym(gym).values_list("serial", "place", "pk"))
    serials, places = {s: pk for s, _, pk in rows if s}, {p: pk for _, p, pk in rows if p}
    found = {
        place: serials.get(unit.serial) if unit.serial else places.get(place) for place, unit in recording.units.items()
    }
    return {place: pk for place, pk in found.items() if pk is not None}


def rests_of(gym: Gym) -> list[Calibration]:
    """All calibrations of units from their six positions."""
    return list(Calibration.objects.for_gym(gym).filter(kind="rests"))


def nearest(rows: Iterable[Calibration], unit_id: int, at: dt.datetime) -> Calibration | None:
    """The calibration of a unit that is nearest in time, as long as it is trusted."""
    own = (r for r in rows if r.unit_id == unit_id)
    near = min(own, key=lambda r: (abs(r.made_at - at), -r.pk), default=None)
    return near if near is not None and abs(near.made_at - at) <= dt.timedelta(days=TRUSTED_DAYS["rests"]) else None


def corrected(
    gym: Gym, recording: Recording, units: dict[str, int], at: dt.datetime
) -> tuple[Recording, dict[str, int]]:
    """The recording with every unit corrected by its nearest calibration, and which those are, by placement.

    `units` are the gym's units that it came from, by placement.
    """
    rows = rests_of(gym)
    found = {place: row for place, key in units.items() if (row := nearest(rows, key, at)) is not None}
    fixed = {n: _from_row(found[n]).apply(u) if n in found else u for n, u in recording.units.items()}
    return replace(recording, units=fixed), {n: row.pk for n, row in found.items()}


def weighed(bag: Bag) -> CoreBag:
    """The bag as it hangs now. Raises BadInput where it was never weighed."""
    version = bag.versions.first()
    if version is None:
        raise BadInput(f"{bag.name} has not been weighed yet: note its mass and size first.")
    return version.to_core()


def _from_row(row: Calibration) -> core.UnitCalibration:
    r = row.result
    return core.UnitCalibration(
        np.array(r["accel_offset_m_s2"]), np.array(r["accel_scale"]), np.array(r["gyro_bias_rad_s"]),
        r["offset_sd_m_s2"], r["scale_sd"], r["residual_m_s2"], r["before_m_s2"], np.zeros((0, 3)),
    )  # fmt: skip


@transaction.atomic
def from_rests(gym: Gym, recording: Recording, placement: str, by: User, known: Unit | None = None) -> Calibration:
    """Six positions at rest: offset, scale and gyro bias of one unit, which later recordings are corrected by.

    `known` is the unit, where the coach says it; else the file does, or it is known by its place.
    """
    unit = recording.units.get(placement)
    if unit is None:
        raise BadInput(f"This recording has no unit at {placement}: it has {', '.join(sorted(recording.units))}.")
    if known is not None and known.serial and unit.serial and known.serial != unit.serial:
        raise BadInput(f"This recording is of the unit with the serial {unit.serial}, not of {known}. Choose that one.")
    found = core.from_rests(unit)
    result = {
        "accel_offset_m_s2": found.accel_offset_m_s2.tolist(),
        "accel_scale": found.accel_scale.tolist(),
        "gyro_bias_rad_s": found.gyro_bias_rad_s.tolist(),
        "offset_sd_m_s2": found.offset_sd_m_s2,
        "scale_sd": found.scale_sd,
        "residual_m_s2": found.residual_m_s2,
        "before_m_s2": found.before_m_s2,
    }
    fixed = (found.positions - found.accel_offset_m_s2) * found.accel_scale
    drawn = {
        "before": np.linalg.norm(found.positions, axis=1).round(4).tolist(),
        "after": np.linalg.norm(fixed, axis=1).round(4).tolist(),
    }
    if known is None:
        (known,) = seen(gym, replace(recording, units={placement: unit}), timezone.now()).values()
    return _keep(gym, "rests", result, drawn, by, unit=known)


@transaction.atomic
def from_swing(gym: Gym, recording: Recording, bag: Bag, pivot_above_top_m: float, by: User) -> Calibration:
    """A free swing: the bag's inertia, as a new version of the bag."""
    unit = recording.units.get("bag")
    if unit is None:
        raise BadInput("This recording has no bag unit: strap it to the bag and record its free swing.")
    body = weighed(bag)
    found = core.from_swing(unit, body, pivot_above_top_m)
    inertia = found.inertia_cm_kg_m2
    learnt = replace(body, inertia_cm_kg_m2=inertia.value, inertia_sd_kg_m2=inertia.sd)
    learn(bag, learnt, timezone.now())
    result = {
        "period_s": found.period_s.value,
        "period_sd_s": found.period_s.sd,
        "inertia_cm_kg_m2": inertia.value,
        "inertia_sd_kg_m2": inertia.sd,
        "before_kg_m2": body.inertia_across_kg_m2,
    }
    thin = slice(None, None, max(1, len(found.times_s) // DRAWN_POINTS))
    drawn = {
        "times_s": found.times_s[thin].round(3).tolist(),
        "rate_rad_s": found.rate_rad_s[thin].round(5).tolist(),
        "fitted_rad_s": found.fitted_rad_s[thin].round(5).tolist(),
    }
    return _keep(gym, "swing", result, drawn, by, bag=bag)


@transaction.atomic
def from_ball(
    gym: Gym, impulses: list[Measured], bag: Bag, ball_kg: float, speeds: list[tuple[float, float]], by: User
) -> Calibration:
    """Hits of a ball of known mass and speeds: the chain's gain, as a new version of the bag."""
    body = weighed(bag)
    found = core.from_ball(impulses, ball_kg, speeds)
    gain = body.impulse_gain * found.gain.value
    learn(bag, replace(body, impulse_gain=gain, impulse_gain_sd=found.gain.sd), timezone.now())
    result = {"gain": gain, "gain_sd": found.gain.sd, "before": body.impulse_gain, "hits": len(impulses)}
    drawn = {"measured_n_s": found.measured_n_s.round(3).tolist(), "true_n_s": found.true_n_s.round(3).tolist()}
    return _keep(gym, "ball", result, drawn, by, bag=bag)


def _keep(gym: Gym, kind: str, result: dict[str, Any], drawn: dict[str, Any], by: User, **of: Any) -> Calibration:
    now = timezone.now()
    until = gym.day(now) + dt.timedelta(days=TRUSTED_DAYS[kind])
    return Calibration.objects.create(
        gym=gym, kind=kind, result=result, drawn=drawn, by=by, made_at=now, expires_on=until, **of
    )
