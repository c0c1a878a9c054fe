"""Any logger's table: received, guessed, corrected, remembered, and sent on as a data set like any other."""

import datetime as dt
import io
import zipfile
from copy import deepcopy
from dataclasses import asdict
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO, Any

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction

from agile_strike.capture import store
from agile_strike.capture.models import StoredFile, Upload
from agile_strike.core.errors import BadInput, ChangedMeanwhile
from agile_strike.core.recording import UNITS, Participant, Recording, UnitSignal
from agile_strike.formats import c3d, loose_table
from agile_strike.formats.loose_columns import read_columns, write_columns
from agile_strike.formats.loose_table import Layout, LooseTable
from agile_strike.formats.mapped import apply, began_at, physics, way_up
from agile_strike.formats.mapping import (
    ACCEL_UNITS,
    GYRO_UNITS,
    LOAD_UNITS,
    PLACES,
    SOLE_PLACES,
    TIME_UNITS,
    Guess,
    Mapping,
    Question,
    UnitMap,
    factor,
    layout_signature,
    still_open,
)
from agile_strike.formats.mapping_guess import guess
from agile_strike.formats.motion_bids_write import write
from agile_strike.gym.models import Gym
from agile_strike.intake import work
from agile_strike.intake.models import ForeignFile, Profile
from agile_strike.intake.queue import ask
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student
from agile_strike.people.services import allow

PREVIEW_ROWS = 6
DRAWN_POINTS = 400
LARGEST_TABLE_BYTES = 400_000_000


def receive_table(
    gym: Gym, by: User, file_name: str, size: int, content: IO[bytes], student: Student | None = None
) -> ForeignFile:
    """Keep a table and ask the queue to read it."""
    if size > LARGEST_TABLE_BYTES:
        raise BadInput(f"{file_name}: the file is {size / 1e6:.0f} MB; the most that is taken is 400 MB. Split it.")
    if not size:
        raise BadInput(f"{file_name}: the file is empty. Choose the table that your logger wrote.")
    if student is not None:
        allow(student, gym.today)
    store.room_for(gym, file_name, size)
    with transaction.atomic():
        file = store.keep(gym, file_name, content)
        row = ForeignFile.objects.create(gym=gym, by=by, student=student, file=file, file_name=file_name[-255:])
        _ask(row)
    return row


def _ask(row: ForeignFile) -> None:
    ask("look_at_table", file_id=row.pk)


def look(file_id: int) -> None:
    """Read a table that came, or look again at one whose mapping a coach changed."""
    work.run(ForeignFile, file_id, _look)
    row = ForeignFile.objects.filter(pk=file_id).first()
    if row is not None and row.state == ForeignFile.State.FAILED:
        _drop(row.file_id, row.columns_id)


def _look(row: ForeignFile) -> str:
    if row.columns is None:
        _read(row)
    table = _columns(row)
    mapping = _mapping(row.mapping)
    try:
        row.seen, problem = _seen(row, table, mapping), ""
    except BadInput as error:  # of the mapping as the coach has it now, not of the file: it can be corrected
        problem = str(error)
    ForeignFile.objects.filter(pk=row.pk).update(seen=row.seen, starts=0, progress=1.0)
    return problem


def _read(row: ForeignFile) -> None:
    """Read the text once, guess what it holds, and keep its columns."""
    if row.file is None:
        raise BadInput(f"{row.file_name}: the file is no longer here. Bring it again.")

    def told(share: float) -> None:
        ForeignFile.objects.filter(pk=row.pk).update(progress=0.9 * share)

    with store.as_path(row.file) as path:
        if path.suffix.lower() == ".c3d":
            table = c3d.read(path, row.file_name)
        else:
            table = loose_table.read(path, row.file_name, told=told)
        columns = path.with_name("columns")
        write_columns(table, columns)
        profile = Profile.objects.for_gym(row.gym).filter(signature=layout_signature(table.layout)).first()
        found = Guess(_mapping(profile.mapping)) if profile else guess(table, row.file_name)
        with transaction.atomic(), columns.open("rb") as content:
            row.columns, was = store.keep(row.gym, f"{row.file_name}, columns", content), row.file_id
            row.file, row.profile = None, profile
            row.layout = {**asdict(table.layout), "preamble": table.preamble[:2000]}
            row.mapping, row.told = asdict(found.mapping), found.told
            row.questions = [asdict(q) for q in found.questions]
            row.save(update_fields=["columns", "file", "profile", "layout", "mapping", "told", "questions"])
            _drop(was)


def _columns(row: ForeignFile) -> LooseTable:
    assert row.columns is not None
    layout = {**row.layout}
    preamble = layout.pop("preamble")
    with store.as_path(row.columns) as path:
        return read_columns(path, Layout(**{**layout, "names": tuple(layout["names"])}), preamble)


def see(gym: Gym, file_id: int) -> ForeignFile:
    return _file(gym, file_id)


def waiting(gym: Gym, student: Student) -> list[ForeignFile]:
    """Tables that were brought for a student and are not imported yet."""
    rows = ForeignFile.objects.for_gym(gym).filter(student=student).select_related("profile")
    return list(rows.order_by("pk"))


@transaction.atomic
def correct(gym: Gym, file_id: int, mapping: dict[str, Any], answered: list[str], version: int) -> ForeignFile:
    """The coach says what the columns are; what that answers is no longer asked, all else still is."""
    row = ForeignFile.objects.for_gym(gym).select_for_update().filter(pk=file_id).first()
    if row is None or row.columns_id is None:
        raise BadInput("That file is not here any more. Bring it again.")
    if row.version != version:
        raise ChangedMeanwhile("what this table holds", f"{len(row.questions)} questions are open")
    was, now = _mapping(row.mapping), _mapping(mapping)
    _possible(row, now)
    questions = still_open([Question(**q) for q in row.questions], was, now, frozenset(answered))
    row.mapping, row.questions = asdict(now), [asdict(q) for q in questions]
    row.version, row.state, row.ended_at, row.starts = row.version + 1, ForeignFile.State.QUEUED, None, 0
    row.save(update_fields=["mapping", "questions", "version", "state", "ended_at", "starts"])
    _ask(row)
    return row


def _possible(row: ForeignFile, mapping: Mapping) -> None:
    """Raises BadInput where a mapping names what the file does not have, or a unit of measure that nobody knows."""
    known = set(row.seen.get("columns", []))
    named = [c for u in mapping.units for c in (*u.accel, *u.gyro, *u.load)] + ([mapping.time] if mapping.time else [])
    for name in named:
        if name not in known and name.removeprefix("-") not in known:
            raise BadInput(f"There is no column of figures called “{name[:60]}” in this file.")
    for unit in mapping.units:
        factor(ACCEL_UNITS, unit.accel_unit), factor(GYRO_UNITS, unit.gyro_unit), factor(LOAD_UNITS, unit.load_unit)
        if unit.placement and unit.placement not in UNITS:
            raise BadInput(f"{unit.placement[:40]} is no place of a unit: choose one of {', '.join(UNITS)}.")
        if not unit.load and len(unit.accel) != 3:
            raise BadInput("Acceleration has three columns: x, y and z.")
        if unit.gyro and len(unit.gyro) != 3:
            raise BadInput("Turn rate has three columns, or none.")
    factor(TIME_UNITS, mapping.time_unit)


@transaction.atomic
def leave(gym: Gym, file_id: int) -> int:
    """Take a table away again; nothing of it was imported."""
    row = _file(gym, file_id)
    _drop(row.file_id, row.columns_id)
    return row.delete()[0]


@transaction.atomic
def import_tables(
    gym: Gym,
    student: Student,
    by: User,
    file_ids: list[int],
    bag: BagVersion | None,
    task: str,
    save_as: str,
    at: dt.datetime | None = None,
) -> Upload:
    """Files of one evening become one recording, in the queue; `save_as` keeps the mapping for the next of their kind.

    `at` is when they began to be recorded; left out, it is what their clock says, else now.
    """
    allow(student, gym.today)
    files = [_file(gym, i) for i in dict.fromkeys(file_ids)]
    places: list[str] = []
    for file in files:
        if file.state != ForeignFile.State.DONE or file.message:
            raise BadInput(f"{file.file_name}: {file.message or 'it is still being read. Wait a moment.'}")
        if file.questions:
            raise BadInput(f"{file.file_name}: {file.questions[0]['text']} Answer it first.")
        for unit in _mapping(file.mapping).units:
            if unit.placement in places:
                raise BadInput(
                    f"{file.file_name}: another one holds the unit at {unit.placement} already. Give each one place."
                )
            places.append(unit.placement)
    if not all(places) or not places:
        raise BadInput("Say where each unit was worn before importing.")
    if "bag" in places and bag is None:
        raise BadInput("Choose the bag that was struck: its mass turns motion into force.")
    for file in files:
        if save_as.strip():
            several = f"{save_as.strip()}, {Path(file.file_name).stem}"
            Profile.objects.update_or_create(
                gym=gym,
                name=(save_as.strip() if len(files) == 1 else several)[:80],
                defaults={"signature": _signature(file), "mapping": file.mapping},
            )
    name = files[0].file_name if len(files) == 1 else f"{len(files)} files"
    said = {"files": [f.pk for f in files], "bag": bag.pk if bag else None, "task": task, "at": at and at.isoformat()}
    size = sum(f.columns.size_bytes for f in files if f.columns is not None)
    upload = Upload.objects.create(gym=gym, student=student, by=by, tables=said, file_name=name[-255:], size_bytes=size)
    ask("import_upload", upload_id=upload.pk)
    return upload


def _signature(file: ForeignFile) -> str:
    layout = {k: v for k, v in file.layout.items() if k != "preamble"}
    return layout_signature(Layout(**{**layout, "names": tuple(layout["names"])}))


def recording_of(upload: Upload) -> Recording:
    """The recording that an upload puts together from its tables."""
    assert upload.tables is not None
    assert upload.student is not None
    said = upload.tables
    units: dict[str, UnitSignal] = {}
    starts: list[float] = []
    for key in said["files"]:
        file = _file(upload.gym, key)
        table, mapping = _columns(file), _mapping(file.mapping)
        units |= apply(table, mapping)
        if (began := began_at(table, mapping)) is not None:
            starts.append(began)
        del table
    bag = BagVersion.objects.for_gym(upload.gym).filter(pk=said["bag"] or 0).first()
    at = dt.datetime.fromisoformat(said["at"]) if said["at"] else None
    if at is None and starts:
        at = dt.datetime.fromtimestamp(min(starts), dt.UTC)
    at = at or upload.created_at
    return Recording(
        Participant(upload.student.label, None, None, None, None),
        at.astimezone(upload.gym.zone).strftime("%Y%m%d%H%M"),
        "".join(c for c in said["task"] if c.isascii() and c.isalnum()) or "mixed",
        "01",
        bag.to_core() if bag else None,
        units,
        acquired_at=at.isoformat(),
    )


@transaction.atomic
def imported(upload: Upload) -> None:
    """The tables of an upload that is done, where it was made of any, are no longer needed."""
    rows = ForeignFile.objects.filter(gym=upload.gym, pk__in=(upload.tables or {}).get("files", []))
    for row in rows:
        _drop(row.file_id, row.columns_id)
    rows.delete()


def _drop(*files: int | None) -> None:
    StoredFile.objects.filter(pk__in=[f for f in files if f is not None]).delete()


def _file(gym: Gym, file_id: int) -> ForeignFile:
    found = ForeignFile.objects.for_gym(gym).select_related("profile", "columns", "file").filter(pk=file_id).first()
    if found is None:
        raise BadInput("That file is not here any more. Bring it again.")
    return found


def _mapping(content: dict[str, Any]) -> Mapping:
    try:
        return Mapping(**{**content, "units": [UnitMap(**u) for u in content["units"]]})
    except (TypeError, KeyError) as error:
        raise BadInput("The mapping is incomplete: reload the page and say it again.") from error


def _seen(row: ForeignFile, table: LooseTable, mapping: Mapping) -> dict[str, Any]:
    """What the page shows of a table: first rows, signals for the eye, and what physics says."""
    preview = [[_cell(table, name, i) for name in table.layout.names] for i in range(min(PREVIEW_ROWS, table.rows))]
    seen: dict[str, Any] = {
        "columns": list(table.numbers),
        "word_columns": list(table.words),
        "preview": preview,
        "against": [],
        "turned": [],
        "signals": [],
    }
    row.seen = {**row.seen, **{k: seen[k] for k in ("columns", "word_columns", "preview")}}
    if not mapping.units:
        return seen
    seen["against"] = physics(table, mapping)
    seen["turned"] = way_up(table, mapping)
    # places that are still asked for stand in under a name of their own, a rate that is asked for by any
    drawn, places = deepcopy(mapping), [u.placement for u in mapping.units]
    free, under = (iter([p for p in every if p not in places]) for every in (PLACES, SOLE_PLACES))
    for unit in drawn.units:
        unit.placement = unit.placement or next(under if unit.load else free, "")
    if not drawn.time and drawn.rate_hz is None:
        drawn.rate_hz = SHOWN_HZ
    told = bool(mapping.time) or mapping.rate_hz is not None
    seen["signals"] = [_drawn(s, p, told) for s, p in zip(apply(table, drawn).values(), places, strict=True)]
    return seen


SHOWN_HZ = 100.0  # to draw by, where nobody has told the rate yet


def _cell(table: LooseTable, name: str, row: int) -> str:
    return table.words[name].at(row) if name in table.words else f"{table.numbers[name][row]:.6g}"


def _drawn(signal: UnitSignal, placement: str, rate_told: bool) -> dict[str, Any]:
    """Length of specific force and turn rate, highest in each of some hundred stretches; none of what none measured."""
    n = max(1, len(signal.accel_m_s2) // DRAWN_POINTS)
    rows = len(signal.accel_m_s2) // n

    def high(values: np.ndarray[Any, np.dtype[np.float32]]) -> list[float]:
        size = np.nan_to_num(np.linalg.norm(values[: rows * n], axis=1)).reshape(rows, n)
        return [float(v) for v in size.max(axis=1).round(2)]

    return {
        "placement": placement,
        "rate_hz": signal.rate_hz if rate_told else None,
        "length_s": signal.length_s if rate_told else None,
        "accel_m_s2": high(signal.accel_m_s2),
        "gyro_rad_s": [] if np.isnan(signal.gyro_rad_s).all() else high(signal.gyro_rad_s),
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
