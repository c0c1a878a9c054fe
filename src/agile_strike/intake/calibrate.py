"""A calibration recording comes as any other file does: a data set, or any logger's table."""

import datetime as dt
import shutil
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO

from django.contrib.auth.models import User
from django.db.models import Exists, OuterRef

from agile_strike.capture.models import Chunk
from agile_strike.capture.models import Recording as Row
from agile_strike.core import analysis as core_analysis
from agile_strike.core.errors import BadInput, NotYours
from agile_strike.core.recording import Participant, Recording
from agile_strike.formats import loose_table
from agile_strike.formats import motion_bids_read as bids
from agile_strike.formats.archive import opened
from agile_strike.formats.mapped import apply
from agile_strike.formats.mapping_guess import guess
from agile_strike.gym.models import Gym
from agile_strike.gym.names import safe_name
from agile_strike.kit import calibrations
from agile_strike.kit.models import Bag, Calibration, Unit


@dataclass(frozen=True, slots=True)
class Asked:
    """What is to be calibrated."""

    kind: str
    placement: str = ""
    unit_id: int | None = None
    bag_id: int | None = None
    pivot_above_top_m: float = 0.0
    ball_kg: float = 0.0
    speeds_m_s: tuple[tuple[float, float], ...] = ()


def calibrate(gym: Gym, asked: Asked, file_name: str, content: IO[bytes], by: User) -> Calibration:
    """Fit and keep. Raises BadInput where the file does not show what the fit needs."""
    bag = unit = None
    if asked.unit_id is not None:
        unit = Unit.objects.for_gym(gym).filter(pk=asked.unit_id).first()
        if unit is None:
            raise NotYours("unit")
        asked = replace(asked, placement=asked.placement or unit.last_place or unit.place)
    if asked.kind != "rests":
        bag = Bag.objects.for_gym(gym).filter(pk=asked.bag_id or 0).first()
        if bag is None:
            raise BadInput("Choose the bag that this is about.")
    with TemporaryDirectory(prefix="agile-strike-calibrate-") as folder:
        path = Path(folder) / safe_name(file_name)
        with path.open("wb") as kept:
            shutil.copyfileobj(content, kept)
        recording = _read(path, file_name, asked)
        if asked.kind == "rests":
            return calibrations.from_rests(gym, recording, asked.placement, by, unit)
        assert bag is not None
        if asked.kind == "swing":
            return calibrations.from_swing(gym, recording, bag, asked.pivot_above_top_m, by)
        return _from_ball(gym, recording, bag, asked, by)


def _from_ball(gym: Gym, recording: Recording, bag: Bag, asked: Asked, by: User) -> Calibration:
    unit = recording.units.get("bag")
    if unit is None:
        raise BadInput("This recording has no bag unit: strap it to the bag and record the hits of the ball.")
    body = calibrations.weighed(bag)
    found = core_analysis.analyse(Recording(recording.participant, "", "ball", "01", body, {"bag": unit}))
    impulses = [m for s in found.strikes if (m := s.measures.get("impulse_n_s"))]
    return calibrations.from_ball(gym, impulses, bag, asked.ball_kg, list(asked.speeds_m_s), by)


def _read(path: Path, shown: str, asked: Asked) -> Recording:
    if path.suffix.lower() == ".zip":
        with opened(path) as root:
            return next(iter(bids.read_all(root)))
    table = loose_table.read(path, shown)
    mapping = guess(table, shown).mapping
    wanted = asked.placement if asked.kind == "rests" else "bag"
    if len(mapping.units) == 1:
        mapping.units[0].placement = wanted
    mapping.units = [u for u in mapping.units if u.placement == wanted]
    if not mapping.units:
        raise BadInput(f"{shown}: no unit at {wanted} was found in it. Bring that unit's file alone.")
    return Recording(Participant("01"), "", "calibration", "01", None, apply(table, mapping))


def touched(gym: Gym, calibration_id: int) -> list[Row]:
    """All recordings whose figures a calibration moves and whose raw samples are kept, newest first."""
    row = Calibration.objects.for_gym(gym).filter(pk=calibration_id).first()
    if row is None:
        raise NotYours("calibration")
    samples = Chunk.objects.filter(recording=OuterRef("pk"))
    rows = Row.objects.for_gym(gym).filter(Exists(samples)).select_related("student")
    if row.bag_id is not None:
        return list(rows.filter(bag_version__bag_id=row.bag_id))
    trusted = dt.timedelta(days=calibrations.TRUSTED_DAYS["rests"])
    near = rows.filter(acquired_at__gte=row.made_at - trusted, acquired_at__lte=row.made_at + trusted)
    return list(near.filter(wears__unit=row.unit_id))
