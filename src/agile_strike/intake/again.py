"""Analysing a recording again from its raw samples, after a calibration or by a newer analysis."""

from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from agile_strike.capture.models import Chunk
from agile_strike.capture.models import Recording as Row
from agile_strike.capture.samples import mounting_to_json
from agile_strike.core import analysis as core_analysis
from agile_strike.core.bag import Bag
from agile_strike.core.errors import BadInput
from agile_strike.core.recording import Event, Participant, Recording
from agile_strike.core.registry import NUMERIC
from agile_strike.formats.chunks import unpack
from agile_strike.gym.models import Gym
from agile_strike.intake.models import Reanalysis
from agile_strike.kit.calibrations import corrected
from agile_strike.review import services as review
from agile_strike.review.models import Strike
from agile_strike.trials.compare import refresh

SAME_STRIKE_S = 0.03
GONE = "not found again"


@dataclass(frozen=True, slots=True)
class BeforeAfter:
    """Mean of one measure over a recording's counted strikes, before and after."""

    measure: str
    before: float | None
    after: float | None


def raw(row: Row) -> Recording:
    """A recording as it came in, from its kept chunks. Raises BadInput where they are no longer kept."""
    chunks: dict[str, list[Chunk]] = {}
    for chunk in Chunk.objects.filter(recording=row).order_by("unit", "first_sample"):
        chunks.setdefault(chunk.unit, []).append(chunk)
    if not chunks:
        raise BadInput("The raw samples of this recording are no longer kept: it stays as it was analysed.")
    units = {
        n: unpack([bytes(c.parquet) for c in parts], n, parts[0].rate_hz, parts[0].full_scale)
        for n, parts in chunks.items()
    }
    # when each unit began is known from its clock: as good as the files' own times were
    starts = {c["unit"]: c["offset_s"] for c in row.clocks if c["aligned"]}
    units = {n: replace(u, starts_s=starts.get(n)) for n, u in units.items()}
    student = row.student
    person = Participant(student.label, row.body_mass_kg, None, None, student.stance)
    events = tuple(Event(e["onset_s"], e["duration_s"], e["type"], e["value"]) for e in row.events)
    bag = _newest_bag(row)
    return Recording(person, row.session, row.task, row.run, bag, units, events, row.acquired_at.isoformat())


def _newest_bag(row: Row) -> Bag | None:
    """The bag as it hung then, with what has since been learnt of its inertia and gain, unless it was changed."""
    if row.bag_version is None:
        return None
    then = row.bag_version
    newest = then.bag.versions.first()
    same = newest is not None and (newest.mass_kg, newest.length_m, newest.mount) == (
        then.mass_kg,
        then.length_m,
        then.mount,
    )
    return (newest if same and newest else then).to_core()


@transaction.atomic
def analyse_again(gym: Gym, recording_id: int) -> list[BeforeAfter]:
    """Analyse anew and write over what was measured; labels, remarks, notes and exclusions stay with their strikes."""
    row = Row.objects.for_gym(gym).select_related("student", "bag_version__bag").filter(pk=recording_id).first()
    if row is None:
        raise BadInput("There is no such recording in this gym.")
    result = core_analysis.analyse(corrected(gym, raw(row), row.acquired_at))
    before = _means(row)
    review.save_again(row, result, SAME_STRIKE_S, GONE)
    row.analysis_version, row.flags, row.strike_count = result.version, list(result.flags), len(result.strikes)
    row.mounting, row.clocks = mounting_to_json(result.mounting), [asdict(c) for c in result.units]
    row.not_measured = [{"measure": n.measure, "why": n.why} for n in result.not_measured if n.strike is None]
    row.save(
        update_fields=["analysis_version", "flags", "strike_count", "mounting", "clocks", "not_measured"]
    )  # not the revision, which counts on in the database
    after = _means(row)
    return [BeforeAfter(n, before[n], after[n]) for n in NUMERIC if before[n] is not None or after[n] is not None]


def queue_again(gym: Gym, ids: list[int], by: User) -> Reanalysis:
    """Queue recordings to be analysed again, one after the other."""
    from agile_strike.intake.jobs import analyse_recordings

    known = set(Row.objects.for_gym(gym).filter(pk__in=ids).values_list("pk", flat=True))
    if not ids or known != set(ids):
        raise BadInput("One of these recordings is not in this gym.")
    with transaction.atomic():
        work = Reanalysis.objects.create(gym=gym, by=by, recordings=list(dict.fromkeys(ids)))
        analyse_recordings.defer(reanalysis_id=work.pk)
    return work


def cancel_again(gym: Gym, reanalysis_id: int) -> Reanalysis:
    """Ask for a stop after the recording that is being done; those that are done stay done."""
    with transaction.atomic():
        work = Reanalysis.objects.for_gym(gym).select_for_update().filter(pk=reanalysis_id).first()
        if work is None:
            raise BadInput("There is no such re-analysis in this gym.")
        if work.ended_at is None:
            work.cancel_asked = True
            if work.state == Reanalysis.State.QUEUED:
                work.state, work.ended_at = Reanalysis.State.CANCELLED, timezone.now()
                work.message = "Cancelled. Nothing was analysed again."
            work.save(update_fields=["cancel_asked", "state", "message", "ended_at"])
    return work


def run_again(reanalysis_id: int) -> None:
    """Work it off. Safe to run again after a kill: each recording is saved together with its result."""
    work = Reanalysis.objects.select_related("gym").filter(pk=reanalysis_id, ended_at__isnull=True).first()
    if work is None:
        return
    Reanalysis.objects.filter(pk=work.pk).update(state=Reanalysis.State.RUNNING)
    state, message = Reanalysis.State.DONE, ""
    for key in work.recordings[len(work.results) :]:
        if Reanalysis.objects.filter(pk=work.pk, cancel_asked=True).exists():
            state = Reanalysis.State.CANCELLED
            message = f"Cancelled. {len(work.results)} of {len(work.recordings)} were analysed again and stay so."
            break
        with transaction.atomic():
            work.results.append(_result(work.gym, key))
            work.save(update_fields=["results"])
    refresh(set(Row.objects.filter(pk__in=work.recordings).values_list("student_id", flat=True)))
    Reanalysis.objects.filter(pk=work.pk).update(state=state, message=message, ended_at=timezone.now())


def _result(gym: Gym, key: int) -> dict[str, Any]:
    """Before and after of one recording; a recording that can't be analysed again says why and is left as it is."""
    try:
        with transaction.atomic():
            return {"recording_id": key, "rows": [asdict(r) for r in analyse_again(gym, key)], "problem": ""}
    except BadInput as error:
        return {"recording_id": key, "rows": [], "problem": str(error)}


def _means(row: Row) -> dict[str, float | None]:
    rows = Strike.objects.counted().filter(recording=row).values_list(*NUMERIC)
    table = np.array([[np.nan if v is None else v for v in r] for r in rows], dtype=np.float64).reshape(
        -1, len(NUMERIC)
    )
    columns = {n: table[:, k][np.isfinite(table[:, k])] for k, n in enumerate(NUMERIC)}
    return {n: float(column.mean()) if len(column) else None for n, column in columns.items()}
