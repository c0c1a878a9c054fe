"""Bringing recordings in: an upload is kept, read, analysed and saved whole, or refused whole."""

import datetime as dt
import shutil
from collections.abc import Iterable
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import IO

from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from agile_strike.capture.models import Chunk, Recording, Upload
from agile_strike.capture.samples import mounting_to_json
from agile_strike.core import analysis as core_analysis
from agile_strike.core.errors import BadInput
from agile_strike.core.recording import Recording as CoreRecording
from agile_strike.formats import motion_bids_read as bids
from agile_strike.formats.archive import opened
from agile_strike.formats.chunks import ChunkBytes, checksum, pack
from agile_strike.gym.models import Gym
from agile_strike.kit.calibrations import corrected, seen
from agile_strike.kit.services import bag_for
from agile_strike.people.models import Student
from agile_strike.review import services as review
from agile_strike.trials.compare import refresh
from agile_strike.trials.services import match_called

COPY_BYTES = 1 << 20


class Cancelled(Exception):
    """The coach called the import off."""


def upload_path(upload: Upload) -> Path:
    return Path(settings.UPLOADS) / f"{upload.pk}.zip"


def receive(
    gym: Gym,
    student: Student | None,
    by: User,
    file_name: str,
    size: int,
    content: IO[bytes],
) -> Upload:
    """Keep an uploaded file and queue its import. What this returns survives a kill of any process."""
    if size > settings.LARGEST_UPLOAD_BYTES:
        raise BadInput(
            f"{file_name}: the file is {size / 1e9:.1f} GB; the most that is taken is "
            f"{settings.LARGEST_UPLOAD_BYTES / 1e9:.1f} GB. Bring fewer recordings at once."
        )
    if not size:
        raise BadInput(f"{file_name}: the file is empty. Choose the zip of a Motion-BIDS data set.")
    from agile_strike.intake.jobs import import_upload

    Path(settings.UPLOADS).mkdir(parents=True, exist_ok=True)
    with transaction.atomic():
        upload = Upload.objects.create(gym=gym, student=student, by=by, file_name=file_name[-255:], size_bytes=size)
        with upload_path(upload).open("wb") as kept:
            shutil.copyfileobj(content, kept, COPY_BYTES)
            kept.flush()
        import_upload.defer(upload_id=upload.pk)
    return upload


def cancel(upload: Upload) -> Upload:
    """Ask for a stop; an import that has not begun stops at once."""
    with transaction.atomic():
        upload = Upload.objects.select_for_update().get(pk=upload.pk)
        if not upload.ended:
            upload.cancel_asked = True
            if upload.state == Upload.State.QUEUED:
                _end(upload, Upload.State.CANCELLED, "Cancelled. Nothing was saved.")
            upload.save()
    return upload


def run_import(upload_id: int) -> None:
    """Import one upload. Safe to run again after a kill: a recording that is there already is left as it is."""
    upload = Upload.objects.select_related("gym", "student").filter(pk=upload_id).first()
    if upload is None or upload.ended:
        return
    try:
        _tell(upload, 0.02, "Unpacking", state=Upload.State.RUNNING)
        message = import_path(upload.gym, upload.student, upload_path(upload), upload)
        _end(upload, Upload.State.DONE, message)
    except Cancelled:
        _end(upload, Upload.State.CANCELLED, "Cancelled. Nothing was saved.")
    except BadInput as error:
        _end(upload, Upload.State.FAILED, str(error).replace(f"{upload.pk}.zip", upload.file_name))
    upload.save()
    upload_path(upload).unlink(missing_ok=True)


def _end(upload: Upload, state: str, message: str) -> None:
    upload.state, upload.message, upload.ended_at = state, message, timezone.now()
    upload.stage, upload.progress = "", 1.0 if state == Upload.State.DONE else upload.progress


def _tell(upload: Upload | None, progress: float, stage: str, state: str = Upload.State.RUNNING) -> None:
    """Progress, visible at once; stops here if a cancel was asked for."""
    if upload is None:
        return
    upload.progress, upload.stage, upload.state = progress, stage, state
    upload.save(update_fields=["progress", "stage", "state"])
    if Upload.objects.filter(pk=upload.pk, cancel_asked=True).exists():
        raise Cancelled


@dataclass(frozen=True, slots=True)
class _Ready:
    """A recording read and analysed, not yet saved."""

    student: Student
    recording: CoreRecording
    analysis: core_analysis.Analysis
    checksum: str
    chunks: list[ChunkBytes]


def import_path(gym: Gym, student: Student | None, path: Path, upload: Upload | None = None) -> str:
    """Read, analyse and save every recording of a data set; returns what was done, in a coach's words.

    Everything is read and analysed before anything is saved, and saved in one transaction.
    """
    ready: list[_Ready] = []
    known = 0
    with opened(path) as root:
        people = bids.read_participants(root)
        runs = bids.runs(root)
        owners = _owners(gym, student, {r.participant for r in runs})
        for i, files in enumerate(runs):
            done = 0.1 + 0.8 * i / len(runs)
            _tell(upload, done, f"Reading recording {i + 1} of {len(runs)}")
            recording = _with_student(bids.read_run(root, files, people), owners[files.participant])
            mark = checksum(recording)
            if Recording.objects.for_gym(gym).filter(checksum=mark).exists() or any(r.checksum == mark for r in ready):
                known += 1
                continue
            _tell(upload, done + 0.4 / len(runs), f"Finding strikes in recording {i + 1} of {len(runs)}")
            ready.append(_analysed(gym, owners[files.participant], recording, mark))
    _tell(upload, 0.92, "Saving")
    with transaction.atomic():
        for one in ready:
            if not Recording.objects.for_gym(gym).filter(checksum=one.checksum).exists():
                _save(gym, one, upload)
    refresh(r.student.pk for r in ready)
    return _summary(ready, known)


def import_recording(gym: Gym, student: Student, recording: CoreRecording) -> Recording:
    """Analyse and save one recording that is in memory already, as those of a data set are."""
    ready = _analysed(gym, student, _with_student(recording, student), checksum(recording))
    with transaction.atomic():
        return _save(gym, ready, None)


def _analysed(gym: Gym, student: Student, recording: CoreRecording, mark: str) -> _Ready:
    result = core_analysis.analyse(corrected(gym, recording, _when(recording.acquired_at)))
    chunks = [c for unit in recording.units.values() for c in pack(unit)]
    return _Ready(student, recording, result, mark, chunks)


def _with_student(recording: CoreRecording, student: Student) -> CoreRecording:
    """What the file does not say of its participant, the gym knows: stance, and the last body mass."""
    person = recording.participant
    mass = person.mass_kg
    if mass is None and (last := student.masses.last()):
        mass = last.mass_kg
    return replace(recording, participant=replace(person, mass_kg=mass, stance=person.stance or student.stance))


def _summary(ready: list[_Ready], known: int) -> str:
    strikes = sum(len(r.analysis.strikes) for r in ready)
    parts = []
    if ready:
        parts.append(f"{_count(strikes, 'strike')} in {_count(len(ready), 'recording')}.")
    if known:
        parts.append(f"{_count(known, 'recording')} {'was' if known == 1 else 'were'} here already: nothing added.")
    return " ".join(parts)


def _count(n: int, what: str) -> str:
    return f"{n} {what}" if n == 1 else f"{n} {what}s"


def _owners(gym: Gym, student: Student | None, labels: set[str]) -> dict[str, Student]:
    """Whose each participant's recordings are: by label, or the chosen student where there is only one."""
    by_label = {s.label: s for s in Student.objects.for_gym(gym).filter(label__in=labels)}
    missing = labels - by_label.keys()
    if student is not None and len(labels) == 1:
        return dict.fromkeys(labels, student)
    if missing:
        raise BadInput(
            f"participants.tsv: participant {min(missing)} is no student of this gym. "
            "Choose the student first, or give the student this label."
        )
    return by_label


def _save(gym: Gym, one: _Ready, upload: Upload | None) -> Recording:
    recording, result = one.recording, one.analysis
    at = _when(recording.acquired_at)
    version = bag_for(gym, recording.bag, at) if recording.bag else None
    main = recording.units.get("bag") or next(iter(recording.units.values()))
    row = Recording.objects.create(
        gym=gym,
        student=one.student,
        bag_version=version,
        upload=upload,
        session=recording.session,
        task=recording.task,
        run=recording.run,
        acquired_at=at,
        length_s=main.length_s,
        rate_hz=main.rate_hz,
        checksum=one.checksum,
        analysis_version=result.version,
        flags=list(result.flags),
        body_mass_kg=recording.participant.mass_kg,
        not_measured=[{"measure": n.measure, "why": n.why} for n in result.not_measured if n.strike is None],
        events=[
            {"onset_s": e.onset_s, "duration_s": e.duration_s, "type": e.trial_type, "value": e.value}
            for e in recording.events
        ],
        units=sorted(recording.units),
        clocks=[asdict(c) for c in result.units],
        mounting=mounting_to_json(result.mounting),
        bursts=[
            {
                "strikes": [i + 1 for i in b.strikes],
                "rate_hz": b.rate_hz,
                "rhythm_cv": b.rhythm_cv,
                "force_kept_pct": b.force_kept_pct,
            }
            for b in result.bursts
        ],
        strike_count=len(result.strikes),
    )
    review.save_strikes(row, result)
    match_called(row)
    seen(gym, recording, at)
    _save_chunks(row, recording, one.chunks)
    return row


def _save_chunks(row: Recording, recording: CoreRecording, chunks: Iterable[ChunkBytes]) -> None:
    def scale(name: str) -> dict[str, float]:
        unit = recording.units[name]
        pairs = {"accel": unit.accel_full_scale_m_s2, "gyro": unit.gyro_full_scale_rad_s}
        return {k: v for k, v in pairs.items() if v != float("inf")}

    Chunk.objects.bulk_create(
        [
            Chunk(
                recording=row,
                unit=c.unit,
                first_sample=c.first_sample,
                samples=c.samples,
                sha256=c.sha256,
                parquet=c.parquet,
                rate_hz=recording.units[c.unit].rate_hz,
                full_scale=scale(c.unit),
            )
            for c in chunks
        ],
        batch_size=50,
    )


def _when(acquired_at: str | None) -> dt.datetime:
    if acquired_at:
        try:
            at = dt.datetime.fromisoformat(acquired_at)
        except ValueError as error:
            raise BadInput(
                f"scans.tsv: acq_time “{acquired_at}” is no ISO 8601 time. Write 2026-11-24T18:30:00."
            ) from error
        return at if at.tzinfo else at.replace(tzinfo=dt.UTC)
    return timezone.now()
