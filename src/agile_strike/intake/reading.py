"""Reading recordings in: read, analysed and kept whole, or refused whole."""

import datetime as dt
import time
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path

from django.db import transaction
from django.utils import timezone

from agile_strike.capture.basis import Basis, bag_figures
from agile_strike.capture.models import Chunk, Recording, Upload, Wear
from agile_strike.core import analysis as core_analysis
from agile_strike.core.errors import BadInput
from agile_strike.core.recording import Participant
from agile_strike.core.recording import Recording as CoreRecording
from agile_strike.core.registry import FLAG_MEANINGS
from agile_strike.evening.services import evening_of
from agile_strike.formats import motion_bids_read as bids
from agile_strike.formats.archive import opened
from agile_strike.formats.chunks import ChunkBytes, checksum, pack
from agile_strike.gym.models import Gym
from agile_strike.intake import work
from agile_strike.intake.queue import ask_names
from agile_strike.kit.calibrations import corrected, seen, settings_of, units_of
from agile_strike.kit.services import as_known_now, bag_for
from agile_strike.people.models import Student
from agile_strike.people.services import allow, mass_on, stance_on
from agile_strike.review.keep import keep
from agile_strike.trials.compare import refresh

TOLD_AT_ONCE = ("no_bag", "turned:bag", "mount_mismatch")  # beside how many strikes were found
EARLIEST, LATEST_AHEAD = dt.datetime(1990, 1, 1, tzinfo=dt.UTC), dt.timedelta(days=366)


def tell(upload: Upload | None, progress: float, stage: str) -> None:
    """Progress, visible at once; stops here if a cancel was asked for."""
    if upload is None:
        return
    Upload.objects.filter(pk=upload.pk).update(progress=progress, stage=stage)
    if Upload.objects.filter(pk=upload.pk, cancel_asked=True).exists():
        raise work.Cancelled


@dataclass(frozen=True, slots=True)
class _Ready:
    """A recording read and analysed, not yet saved."""

    student: Student
    recording: CoreRecording
    stated: Participant  #: as the file itself said it
    analysis: core_analysis.Analysis
    basis: Basis
    took_s: float
    checksum: str
    chunks: list[ChunkBytes]
    at: dt.datetime


def import_path(gym: Gym, student: Student | None, path: Path, upload: Upload | None = None) -> str:
    """Read, analyse and save every recording of a data set; returns what was done, in a coach's words.

    Everything is read and analysed before anything is saved, and saved in one transaction.
    """
    ready: list[_Ready] = []
    here: list[str] = []
    with opened(path) as root:
        people = bids.read_participants(root)
        runs = bids.runs(root)
        owners = _owners(gym, student, {r.participant for r in runs})
        for owner in set(owners.values()):
            allow(owner, gym.today)
        for i, files in enumerate(runs):
            done = 0.1 + 0.8 * i / len(runs)
            tell(upload, done, f"Reading recording {i + 1} of {len(runs)}")
            recording = bids.read_run(root, files, people)
            mark = checksum(recording)
            if whose := _known(gym, mark):
                here.append(whose)
                continue
            if any(r.checksum == mark for r in ready):
                here.append(owners[files.participant].name)
                continue
            tell(upload, done + 0.4 / len(runs), f"Finding strikes in recording {i + 1} of {len(runs)}")
            ready.append(_analysed(gym, owners[files.participant], recording, mark))
    return _saved(gym, ready, here, upload)


def import_made(gym: Gym, student: Student, recording: CoreRecording, upload: Upload) -> str:
    """The same for one recording that was put together here."""
    mark = checksum(recording)
    if whose := _known(gym, mark):
        return _summary([], [whose])
    tell(upload, 0.3, "Finding strikes")
    return _saved(gym, [_analysed(gym, student, recording, mark)], [], upload)


def import_recording(gym: Gym, student: Student, recording: CoreRecording) -> Recording:
    """Analyse and save one recording that is in memory already, as those of a data set are."""
    allow(student, gym.today)
    ready = _analysed(gym, student, recording, checksum(recording))
    with transaction.atomic():
        return _save(gym, ready, None)


def _known(gym: Gym, mark: str) -> str:
    """Whose recording with these samples is here already; empty where there is none."""
    row = Recording.objects.with_removed_of(gym).filter(checksum=mark).select_related("student").first()
    if row is None:
        return ""
    return f"{row.student.name} (removed)" if row.removed_at or row.student.removed_at else row.student.name


def _saved(gym: Gym, ready: list[_Ready], here: list[str], upload: Upload | None) -> str:
    tell(upload, 0.92, "Saving")
    with transaction.atomic():
        for one in ready:
            if not Recording.objects.with_removed_of(gym).filter(checksum=one.checksum).exists():
                _save(gym, one, upload)
    refresh(r.student.pk for r in ready)
    ask_names(gym.pk)
    return _summary(ready, here)


def _analysed(gym: Gym, student: Student, recording: CoreRecording, mark: str) -> _Ready:
    at = when(gym, recording.acquired_at)
    stated = recording.participant
    recording = _as_known(gym, with_student(recording, student, gym.day(at)))
    told, used = corrected(gym, recording, units_of(gym, recording), at)
    chunks = [c for unit in recording.units.values() for c in pack(unit)]
    began = time.monotonic()
    found = core_analysis.analyse(told)
    took_s = time.monotonic() - began
    basis = Basis(
        bag=bag_figures(recording.bag),
        calibrations=used,
        body_mass_kg=recording.participant.mass_kg,
        stance=recording.participant.stance or "",
        version=found.version,
    )
    return _Ready(student, recording, stated, found, basis, took_s, mark, chunks, at)


def with_student(recording: CoreRecording, student: Student, day: dt.date) -> CoreRecording:
    """What the file does not say of its participant, the gym knows: stance and body mass as they were on that day."""
    person = recording.participant
    mass = mass_on(student, day) if person.mass_kg is None else person.mass_kg
    stance = person.stance if person.stance in Student.Stance.values else stance_on(student, day)
    return replace(recording, participant=replace(person, mass_kg=mass, stance=stance))


def _as_known(gym: Gym, recording: CoreRecording) -> CoreRecording:
    """With the bag as the gym knows it by now, where the file has it as the gym once knew it."""
    return recording if recording.bag is None else replace(recording, bag=as_known_now(gym, recording.bag))


def _summary(ready: list[_Ready], here: list[str]) -> str:
    strikes = sum(len(r.analysis.strikes) for r in ready)
    parts = []
    if ready:
        parts.append(f"{_count(strikes, 'strike')} in {_count(len(ready), 'recording')}.")
    for whose in dict.fromkeys(here):
        known = here.count(whose)
        were = "was" if known == 1 else "were"
        parts.append(f"{_count(known, 'recording')} {were} here already, of {whose}: nothing added.")
    flags = sorted({f for r in ready for f in r.analysis.flags if f in TOLD_AT_ONCE})
    parts += [FLAG_MEANINGS[f.split(":")[0]] for f in flags]
    why = dict.fromkeys(
        n.why for r in ready if not r.analysis.strikes and not flags for n in r.analysis.not_measured
        if n.measure in ("contact_s", "impulse_n_s")
    )  # fmt: skip
    parts += [f"{w[:1].upper()}{w[1:]}." for w in why]
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
    recording = one.recording
    main = recording.units.get("bag") or next(iter(recording.units.values()))
    stated = {n: v for n in ("mass_kg", "stance") if (v := getattr(one.stated, n)) is not None}
    row = Recording.objects.create(
        gym=gym,
        student=one.student,
        session=evening_of(one.student, gym.day(one.at)),
        bag_version=bag_for(gym, recording.bag, one.at) if recording.bag else None,
        upload=upload,
        session_label=recording.session,
        task=recording.task,
        run=recording.run,
        acquired_at=one.at,
        length_s=main.length_s,
        rate_hz=main.rate_hz,
        checksum=one.checksum,
        stated={**stated, "as": one.stated.label},
        events=[
            {"onset_s": e.onset_s, "duration_s": e.duration_s, "type": e.trial_type, "value": e.value}
            for e in recording.events
        ],
    )
    units = seen(gym, recording, one.at)
    Wear.objects.bulk_create(
        Wear(recording=row, unit=units[place], placement=place, **settings_of(unit))
        for place, unit in recording.units.items()
    )
    keep(row, one.basis, one.analysis, one.took_s)
    save_chunks(row, recording, one.chunks)
    return row


def save_chunks(row: Recording, recording: CoreRecording, chunks: Iterable[ChunkBytes] | None = None) -> None:
    """Keep the samples of a recording's units, or of a piece of it."""
    if chunks is None:
        chunks = (c for unit in recording.units.values() for c in pack(unit))

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


def when(gym: Gym, acquired_at: str | None) -> dt.datetime:
    """When a recording began. A time that is written without a zone is the gym's own."""
    if not acquired_at:
        return timezone.now()
    at = bids.stated_time(acquired_at)
    if at is None:
        raise BadInput(f"scans.tsv: acq_time “{acquired_at[:40]}” is no ISO 8601 time. Write 2026-11-24T18:30:00.")
    at = at if at.tzinfo else at.replace(tzinfo=gym.zone)
    if not EARLIEST <= at <= timezone.now() + LATEST_AHEAD:
        raise BadInput(f"scans.tsv: acq_time “{acquired_at[:40]}” is no time of a recording. Set the logger's clock.")
    return at
