"""Any logger's table: received, guessed, corrected, remembered, and sent on as a data set like any other."""

import io
import shutil
import zipfile
from copy import deepcopy
from dataclasses import asdict, dataclass
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO, Any

import numpy as np
from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from agile_strike.capture.models import Upload
from agile_strike.core.errors import BadInput
from agile_strike.core.recording import Participant, Recording, UnitSignal
from agile_strike.formats import c3d, loose_table
from agile_strike.formats.loose_table import LooseTable
from agile_strike.formats.mapped import apply, physics
from agile_strike.formats.mapping import PLACES, SOLE_PLACES, Guess, Mapping, UnitMap, layout_signature
from agile_strike.formats.mapping_guess import guess
from agile_strike.formats.motion_bids_write import write
from agile_strike.gym.models import Gym
from agile_strike.intake.models import ForeignFile, Profile
from agile_strike.intake.services import receive
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student

LARGEST_TABLE_BYTES = 400_000_000
PREVIEW_ROWS = 6
DRAWN_POINTS = 400


@dataclass(frozen=True, slots=True)
class Seen:
    """A foreign file as it stands: its columns, what they are taken for, and what physics says."""

    file: ForeignFile
    columns: list[str]
    word_columns: list[str]
    preview: list[list[str]]
    against: list[str]
    signals: list[dict[str, Any]]


def table_path(file: ForeignFile) -> Path:
    return Path(settings.UPLOADS) / f"table-{file.pk}{Path(file.file_name).suffix.lower()}"


def receive_table(gym: Gym, by: User, file_name: str, size: int, content: IO[bytes]) -> Seen:
    """Keep a table and guess what it holds; a profile of the same columns is taken at its word."""
    if size > LARGEST_TABLE_BYTES:
        raise BadInput(f"{file_name}: the file is {size / 1e6:.0f} MB; the most that is taken is 400 MB. Split it.")
    if not size:
        raise BadInput(f"{file_name}: the file is empty. Choose the table that your logger wrote.")
    Path(settings.UPLOADS).mkdir(parents=True, exist_ok=True)
    with transaction.atomic():
        file = ForeignFile.objects.create(gym=gym, by=by, file_name=file_name[-255:], mapping={})
        path = table_path(file)
        try:
            with path.open("wb") as kept:
                shutil.copyfileobj(content, kept)
            table = _table(file)
            profile = Profile.objects.for_gym(gym).filter(signature=layout_signature(table.layout)).first()
            found = Guess(_mapping(profile.mapping)) if profile else guess(table, file_name)
            file.mapping, file.questions, file.told = asdict(found.mapping), found.questions, found.told
            file.profile = profile
            file.save()
            return _seen(file, table)
        except BaseException:
            path.unlink(missing_ok=True)
            raise


def see(gym: Gym, file_id: int) -> Seen:
    file = _file(gym, file_id)
    return _seen(file, _table(file))


def correct(gym: Gym, file_id: int, mapping: dict[str, Any]) -> Seen:
    """The coach says what the columns are; what was asked is thereby answered."""
    file = _file(gym, file_id)
    table = _table(file)
    file.mapping, file.questions = asdict(_mapping(mapping)), []
    seen = _seen(file, table)  # refuses a mapping that can't be read
    file.save()
    return seen


@transaction.atomic
def import_tables(
    gym: Gym, student: Student, by: User, file_ids: list[int], bag: BagVersion | None, task: str, save_as: str
) -> Upload:
    """Files of one evening become one recording, by the same path as any data set; `save_as` keeps the mapping."""
    files = [_file(gym, i) for i in file_ids]
    units: dict[str, UnitSignal] = {}
    for file in files:
        table = _table(file)
        if save_as.strip():
            Profile.objects.update_or_create(
                gym=gym,
                name=(save_as.strip() if len(files) == 1 else f"{save_as.strip()}, {Path(file.file_name).stem}")[:80],
                defaults={"signature": layout_signature(table.layout), "mapping": file.mapping},
            )
        for name, signal in apply(table, _mapping(file.mapping)).items():
            if name in units:
                raise BadInput(f"{file.file_name}: another file holds the unit at {name} already. Give each one place.")
            units[name] = signal
    if "bag" in units and bag is None:
        raise BadInput("Choose the bag that was struck: its mass turns motion into force.")
    recording = Recording(
        Participant(student.label, None, None, None, student.stance),
        timezone.now().strftime("%Y%m%d%H%M%S"),
        "".join(c for c in task if c.isalnum()) or "mixed",
        "01",
        bag.to_core() if bag else None,
        units,
        acquired_at=timezone.now().isoformat(),
    )
    packed = zipped(recording)
    name = files[0].file_name if len(files) == 1 else f"{len(files)} files"
    upload = receive(gym, student, by, f"{Path(name).stem}.zip", len(packed), io.BytesIO(packed))
    for file in files:
        transaction.on_commit(partial(table_path(file).unlink, missing_ok=True))  # kept if the import fails
        file.delete()
    return upload


def _file(gym: Gym, file_id: int) -> ForeignFile:
    found = ForeignFile.objects.for_gym(gym).filter(pk=file_id).first()
    if found is None:
        raise BadInput("That file is not here any more. Bring it again.")
    return found


def _table(file: ForeignFile) -> LooseTable:
    path = table_path(file)
    if path.suffix == ".c3d":
        return c3d.read(path, file.file_name)
    return loose_table.read(path, file.file_name)


def _mapping(content: dict[str, Any]) -> Mapping:
    try:
        return Mapping(**{**content, "units": [UnitMap(**u) for u in content["units"]]})
    except (TypeError, KeyError) as error:
        raise BadInput("The mapping is incomplete: reload the page and say it again.") from error


def _seen(file: ForeignFile, table: LooseTable) -> Seen:
    mapping = _mapping(file.mapping)
    preview = [[_cell(table, name, i) for name in table.layout.names] for i in range(min(PREVIEW_ROWS, table.rows))]
    places = [u.placement for u in mapping.units]
    against, signals = [], []
    if mapping.units:
        against = physics(table, mapping)
        # places that are still asked for stand in under a name of their own
        drawn = deepcopy(mapping)
        free, under = (iter([p for p in every if p not in places]) for every in (PLACES, SOLE_PLACES))
        for unit in drawn.units:
            unit.placement = unit.placement or next(under if unit.load else free, "")
        signals = [_drawn(s, p) for s, p in zip(apply(table, drawn).values(), places, strict=True)]
    return Seen(file, list(table.numbers), list(table.words), preview, against, signals)


def _cell(table: LooseTable, name: str, row: int) -> str:
    return table.words[name].at(row) if name in table.words else f"{table.numbers[name][row]:.6g}"


def _drawn(signal: UnitSignal, placement: str) -> dict[str, Any]:
    """Length of specific force and turn rate, highest in each of some hundred stretches."""
    n = max(1, len(signal.accel_m_s2) // DRAWN_POINTS)
    rows = len(signal.accel_m_s2) // n

    def high(values: np.ndarray[Any, np.dtype[np.float32]]) -> list[float]:
        size = np.nan_to_num(np.linalg.norm(values[: rows * n], axis=1)).reshape(rows, n)
        return [float(v) for v in size.max(axis=1).round(2)]

    return {
        "placement": placement,
        "rate_hz": signal.rate_hz,
        "length_s": signal.length_s,
        "accel_m_s2": high(signal.accel_m_s2),
        "gyro_rad_s": high(signal.gyro_rad_s),
        "load_n": [] if signal.sole_n is None else high(signal.under_foot_n[:, None]),
    }


def zipped(recording: Recording) -> bytes:
    """The recording as a zip of a Motion-BIDS data set."""
    out = io.BytesIO()
    with TemporaryDirectory(prefix="agile-strike-table-") as folder:
        root = Path(folder) / "set"
        write(root, [recording])
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
            for file in sorted(root.rglob("*")):
                archive.write(file, file.relative_to(root))
    return out.getvalue()
