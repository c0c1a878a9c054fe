"""Analysing a recording again from its raw samples, after a calibration or by a newer analysis."""

import time
from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction

from agile_strike.capture.basis import about_s, fetched, of_today
from agile_strike.capture.models import Chunk
from agile_strike.capture.models import Recording as Row
from agile_strike.capture.shown import recording_of
from agile_strike.core import analysis as core_analysis
from agile_strike.core.errors import BadInput, NotYours
from agile_strike.core.recording import Event, Participant, Recording
from agile_strike.core.registry import NUMERIC
from agile_strike.core.target import Bag
from agile_strike.formats.chunks import unpack
from agile_strike.gym.models import Gym
from agile_strike.intake import work
from agile_strike.intake.models import Reanalysis
from agile_strike.intake.queue import ask, ask_names
from agile_strike.kit.calibrations import corrected
from agile_strike.people.services import allow
from agile_strike.review.keep import keep
from agile_strike.review.models import Strike
from agile_strike.trials.compare import refresh


@dataclass(frozen=True, slots=True)
class BeforeAfter:
    """Mean of one measure over a recording's counted strikes, before and after."""

    measure: str
    before: float | None
    after: float | None


def raw(row: Row) -> Recording:
    """A recording as it came in, from its kept chunks, with the bag and the student that its figures rest on.

    Raises BadInput where the samples are no longer kept.
    """
    chunks: dict[str, list[Chunk]] = {}
    for chunk in Chunk.objects.filter(recording=row).order_by("unit", "first_sample"):
        chunks.setdefault(chunk.unit, []).append(chunk)
    if not chunks:
        raise BadInput("The raw samples of this recording are no longer kept: it stays as it was analysed.")
    units = {
        n: unpack([bytes(c.parquet) for c in parts], n, parts[0].rate_hz, parts[0].full_scale)
        for n, parts in chunks.items()
    }
    # when each unit began: as the hub told it, else from its clock, which is as good as the files' own times were
    run = row.analysis
    wears = {w.placement: w for w in row.wears.select_related("unit")}
    starts = {c["unit"]: c["offset_s"] for c in run.clocks if c["aligned"]} if run else {}
    starts |= {place: w.starts_s for place, w in wears.items() if w.starts_s is not None}
    things = {place: w.unit for place, w in wears.items()}
    units = {
        n: replace(u, starts_s=starts.get(n), serial=things[n].serial, model_text=things[n].model_text)
        for n, u in units.items()
    }
    mass, stance = (run.body_mass_kg, run.stance) if run else (None, "")
    person = Participant(row.student.label, mass, None, None, stance or None)
    events = tuple(Event(e["onset_s"], e["duration_s"], e["type"], e["value"]) for e in row.events)
    bag = _core_bag(row, run.bag if run else {})
    return Recording(person, row.session_label, row.task, row.run, bag, units, events, row.acquired_at.isoformat())


def _core_bag(row: Row, figures: dict[str, Any]) -> Bag | None:
    return None if row.bag_version is None else replace(row.bag_version.to_core(), **figures)


@transaction.atomic
def analyse_again(gym: Gym, recording_id: int) -> list[BeforeAfter]:
    """Analyse anew, with what is known by now, and keep that.

    Labels, remarks, notes and exclusions stay with their strikes, those too that were said meanwhile.
    """
    row = recording_of(gym, fetched(Row.objects.for_gym(gym)), recording_id)
    before = _means(row)
    anew(gym, row)
    after = _means(row)
    return [BeforeAfter(n, before[n], after[n]) for n in NUMERIC if before[n] is not None or after[n] is not None]


def anew(gym: Gym, row: Row) -> core_analysis.Analysis:
    """The same of a recording that `fetched` brought; what was found, which is kept."""
    allow(row.student, gym.today)
    now = of_today(gym, [row])[row.pk]
    known = raw(row)
    person = replace(known.participant, mass_kg=now.body_mass_kg, stance=now.stance)
    worn = {w.placement: w.unit_id for w in row.wears.all()}
    told, used = corrected(gym, replace(known, participant=person, bag=_core_bag(row, now.bag)), worn, row.acquired_at)
    began = time.monotonic()
    found = core_analysis.analyse(told)
    keep(row, replace(now, calibrations=used), found, time.monotonic() - began)
    return found


def queue_again(gym: Gym, ids: list[int], by: User) -> Reanalysis:
    """Queue recordings to be analysed again, one after the other."""
    known = set(Row.objects.for_gym(gym).filter(pk__in=ids).values_list("pk", flat=True))
    for key in set(ids) - known:
        recording_of(gym, Row.objects.for_gym(gym), key)  # raises what stands against it
    if not ids:
        raise NotYours("recording")
    with transaction.atomic():
        row = Reanalysis.objects.create(gym=gym, by=by, recordings=list(dict.fromkeys(ids)), about_s=about_s(ids))
        ask("analyse_recordings", reanalysis_id=row.pk)
    return row


def cancel_again(gym: Gym, reanalysis_id: int) -> Reanalysis:
    """Ask for a stop after the recording that is being done; those that are done stay done."""
    with transaction.atomic():
        row = Reanalysis.objects.for_gym(gym).select_for_update().filter(pk=reanalysis_id).first()
        if row is None:
            raise NotYours("re-analysis")
        if not row.ended:
            row.cancel_asked = True
            row.save(update_fields=["cancel_asked"])
            if row.state == Reanalysis.State.QUEUED:
                work.end(row, Reanalysis.State.CANCELLED, "Cancelled. Nothing was analysed again.")
    return row


def run_again(reanalysis_id: int) -> None:
    """Work it off. Safe to run again after a kill: each recording is saved together with its result."""
    work.run(Reanalysis, reanalysis_id, _all_again, "Cancelled. What was analysed again until then stays so.")


def _all_again(row: Reanalysis) -> str:
    for key in row.recordings[len(row.results) :]:
        if Reanalysis.objects.filter(pk=row.pk, cancel_asked=True).exists():
            _refresh(row)
            raise work.Cancelled
        with transaction.atomic():
            row.results.append(_result(row.gym, key))
            row.save(update_fields=["results"])
    _refresh(row)
    return ""


def _refresh(row: Reanalysis) -> None:
    ask_names(row.gym_id)
    refresh(set(Row.objects.filter(pk__in=row.recordings).values_list("student_id", flat=True)))


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
