"""Keeping what an analysis found: one way for a recording that has just come, for one that is analysed again, for the
demo's and for a live evening's. What coaches said stays with its strikes, whatever is found anew."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import asdict, replace
from math import inf
from typing import Any

from django.db import connection, transaction
from django.db.models import F, Max
from django.utils import timezone

from agile_strike.capture.basis import Basis
from agile_strike.capture.models import AnalysisRun, Recording
from agile_strike.core.analysis import Analysis
from agile_strike.core.bag.state import mounting_to_json
from agile_strike.core.recording import Event
from agile_strike.core.registry import NUMERIC, PROVISIONAL
from agile_strike.core.strikes import Strike as Found
from agile_strike.evening.models import PlannedSet
from agile_strike.formats.chunks import pack_lanes
from agile_strike.playbook.services import schools
from agile_strike.review.estimate import estimate
from agile_strike.review.models import Strike, StrikeLanes, StrikeSet
from agile_strike.review.own import changed

SAME_STRIKE_S = 0.03  # a strike that is found so near to where one was is that one
KEEPS = 1 << 52  # of advisory locks: those of keeping, by recording
LATEST_S = 0.5  # of an evening that goes on: a strike so near its end may be half there
GONE = "not found again"  # why a strike no longer counts that an analysis did not find again
CALLED_BEFORE = dt.timedelta(hours=4)  # a set that was called so long before a recording may still reach into it
MEASURED_FIELDS = (
    *("number", "contact_s", "limb", "kind", "level", "flags", "chain_order", "launch_ms", "analysis", "absent"),
    *(c for n in NUMERIC for c in (n, f"{n}_sd")),
)


@transaction.atomic
def keep(recording: Recording, basis: Basis, found: Analysis, took_s: float | None = None) -> AnalysisRun:
    """The recording shows this analysis from now on. Strikes that were there keep their row and all that was said.

    Only what was measured is written to rows that are there: what a coach says meanwhile stays. A strike that is not
    found again keeps the run that found it, and no longer counts.
    """
    locked(recording)
    run = _run(recording, basis, found, took_s)
    there = Strike.objects.select_for_update().filter(recording=recording).order_by("pk")
    until = found.recording.units["bag"].length_s - LATEST_S if recording.open else inf
    found = _until(found, until)
    free = {s.pk: s for s in there if s.contact_s <= until}
    later = [s for s in there if s.contact_s > until]
    rows, absent, back = [], _absent(found), []
    for i, s in enumerate(found.strikes):
        near = min(free.values(), key=lambda o: abs(o.contact_s - s.contact_s), default=None)
        row = Strike(recording=recording)
        if near is not None and abs(near.contact_s - s.contact_s) <= SAME_STRIKE_S:
            row = free.pop(near.pk)
            if row.excluded_reason == GONE:
                back.append(row.pk)
        rows.append(_measured(row, i + 1, s, run, absent[i]))
    lost = list(free.values())
    for k, row in enumerate((*lost, *later)):
        row.number = len(rows) + k + 1
    new, known = [r for r in rows if r.pk is None], [r for r in (*rows, *lost, *later) if r.pk is not None]
    Strike.objects.filter(recording=recording).update(number=-F("number") - 1)  # frees the numbers
    free_of_sets = [r for r in rows if r.pk is not None and r.set_id is None]
    _put_into_sets(recording, found, [*new, *free_of_sets])
    Strike.objects.bulk_create(new, batch_size=500)
    Strike.objects.bulk_create(
        known, update_conflicts=True, unique_fields=["id"], update_fields=list(MEASURED_FIELDS), batch_size=500
    )
    Strike.objects.bulk_update([r for r in free_of_sets if r.set_id is not None], ["set"], batch_size=500)
    Strike.objects.filter(pk__in=back).update(excluded_reason="", excluded_at=None)
    Strike.objects.filter(pk__in=[r.pk for r in lost], excluded_reason="").update(
        excluded_reason=GONE, excluded_at=timezone.now()
    )
    changed([*rows, *lost])
    StrikeLanes.objects.filter(strike__recording=recording).exclude(strike__in=[s.pk for s in later]).delete()
    _keep_lanes(rows, found)
    if not recording.open:
        put_into_called(recording)
    estimate(recording)
    recording.analysis = run
    recording.save(update_fields=["analysis"])
    return run


@transaction.atomic
def keep_provisional(recording: Recording, found: Found) -> Strike:
    """A strike that was measured while the evening goes on, or more of one that is there. What was settled stays."""
    run = AnalysisRun(pk=locked(recording).analysis_id)
    own = Strike.objects.select_for_update().filter(recording=recording)
    near = list(own.filter(contact_s__range=(found.contact_s - SAME_STRIKE_S, found.contact_s + SAME_STRIKE_S)))
    if near and PROVISIONAL not in near[0].flags:
        return near[0]
    number = near[0].number if near else (own.aggregate(last=Max("number"))["last"] or 0) + 1
    marked = replace(found, flags=(PROVISIONAL, *found.flags))
    strike = _measured(near[0] if near else Strike(recording=recording), number, marked, run, {})
    strike.save(update_fields=MEASURED_FIELDS if near else None)
    if found.lanes is not None:
        StrikeLanes.objects.update_or_create(strike=strike, defaults={"parquet": pack_lanes(found.lanes)})
    return strike


def locked(recording: Recording) -> Recording:
    """The row as it is now: one at a time puts strikes into a recording, until its transaction ends.

    No row is locked: who says something of a strike locks strike, then recording, and would wait for each other.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [KEEPS + recording.pk])
    return Recording.objects.only("analysis_id").get(pk=recording.pk)


def _until(found: Analysis, until_s: float) -> Analysis:
    """Without what may be only half there."""
    n = sum(s.contact_s <= until_s for s in found.strikes)
    notes = [w for w in found.not_measured if w.strike is None or w.strike < n]
    whole = [b for b in found.bursts if max(b.strikes) < n]
    return replace(found, strikes=found.strikes[:n], not_measured=notes, bursts=whole)


def _run(recording: Recording, basis: Basis, found: Analysis, took_s: float | None) -> AnalysisRun:
    bursts = [
        {
            "strikes": [i + 1 for i in b.strikes],
            "rate_hz": b.rate_hz,
            "rhythm_cv": b.rhythm_cv,
            "force_kept_pct": b.force_kept_pct,
        }
        for b in found.bursts
    ]
    return AnalysisRun.objects.create(
        recording=recording,
        **asdict(basis),
        took_s=took_s,
        flags=list(found.flags),
        not_measured=[{"measure": n.measure, "why": n.why} for n in found.not_measured if n.strike is None],
        clocks=[asdict(c) for c in found.units],
        bursts=bursts,
        bag_state=None if found.mounting is None else mounting_to_json(found.mounting),
        strike_count=len(found.strikes),
    )


def _absent(found: Analysis) -> list[dict[str, str]]:
    """For each strike, why measures are not there that others of the recording have."""
    out: list[dict[str, str]] = [{} for _ in found.strikes]
    for n in found.not_measured:
        if n.strike is not None:
            out[n.strike][n.measure] = n.why
    return out


def _measured(row: Strike, number: int, found: Found, run: AnalysisRun, absent: dict[str, str]) -> Strike:
    """The row with all that an analysis says of it; what a coach said is left."""
    row.number, row.contact_s, row.limb, row.level = number, found.contact_s, found.limb, found.level or ""
    row.kind = found.kind
    row.flags, row.chain_order = list(found.flags), found.chain_order or ""
    row.launch_ms = None if found.launch_s is None else 1e3 * found.launch_s
    row.analysis, row.absent = run, absent
    for name in NUMERIC:
        measured = found.measures.get(name)
        setattr(row, name, measured.value if measured else None)
        setattr(row, f"{name}_sd", measured.sd if measured else None)
    return row


def _keep_lanes(rows: list[Strike], found: Analysis) -> None:
    StrikeLanes.objects.bulk_create(
        [
            StrikeLanes(strike=row, parquet=pack_lanes(s.lanes))
            for row, s in zip(rows, found.strikes, strict=True)
            if s.lanes is not None
        ],
        batch_size=500,
    )


# --- sets


def _put_into_sets(recording: Recording, found: Analysis, new: Iterable[Strike]) -> None:
    """Strikes that were not there before belong to the set that was running, made now where none was hit in it yet.

    The same strike planned twice is two sets, or blocks.
    """
    own = StrikeSet.objects.filter(recording=recording, began_s__isnull=False, by_coach=False)
    running = list(own.select_related("planned"))
    for row in new:
        event = found.recording.set_at(row.contact_s)
        row.set = next((s for s in running if _is_of(s, row, event)), None)
        if row.set is None and event is not None:
            row.set = _set_of(recording, event)
            running.append(row.set)


def _is_of(one: StrikeSet, row: Strike, event: Event | None) -> bool:
    """Whether a strike fell into a set: into the one that was made of its event, else into one that was called then."""
    assert one.began_s is not None
    assert one.ended_s is not None
    if event is not None:
        same_plan = one.planned is not None and event.set_parts[2].get("plan") == one.planned.key
        return same_plan or one.began_s == event.onset_s
    return bool(one.began_s <= row.contact_s <= one.ended_s)


def _set_of(recording: Recording, event: Event) -> StrikeSet:
    code, limb, levels = event.set_parts
    named = levels.pop("school", "")
    school = next((s for s in schools(recording.gym) if s.name == named), None) if named else None
    level, gear, key = (levels.pop(n, "") for n in ("level", "gear", "plan"))
    levels.pop("block", None)  # tells sets of the same strike apart, and is no level of anything
    return StrikeSet.objects.create(
        recording=recording,
        planned=PlannedSet.objects.filter(session__student=recording.student_id, key=key).first() if key else None,
        began_s=event.onset_s,
        ended_s=event.onset_s + event.duration_s,
        code=(code or "strike")[:60],
        limb=limb[:12],
        level=level[:6],
        levels=levels,
        school=school,
        gear=gear[:80],
    )


def _core_event(said: dict[str, Any]) -> Event:
    return Event(said["onset_s"], said["duration_s"], said["type"], said["value"])


def put_into_called(recording: Recording) -> int:
    """Put strikes that no set claims into the planned sets that were running by the clock; how many found one."""
    start = recording.acquired_at
    end = start + dt.timedelta(seconds=recording.length_s)
    called = PlannedSet.objects.standing().filter(
        session__student=recording.student_id, began_at__lt=end, began_at__gte=start - CALLED_BEFORE
    )
    named = [_core_event(e).set_parts[2].get("plan", "") for e in recording.events]
    called = called.exclude(key__in=[key for key in named if key])  # those find their strikes by name
    free = list(Strike.objects.filter(recording=recording, set__isnull=True))
    count = 0
    for one in called.order_by("began_at") if free else ():  # a handful an evening
        assert one.began_at is not None
        until = one.ended_at or end
        own = [s for s in free if one.began_at <= start + dt.timedelta(seconds=s.contact_s) <= until]
        if not own:
            continue
        made = StrikeSet.objects.create(
            recording=recording,
            planned=one,
            began_s=(one.began_at - start).total_seconds(),
            ended_s=(until - start).total_seconds(),
            **{n: getattr(one, n) for n in ("code", "limb", "level", "levels", "school", "gear")},
        )
        count += Strike.objects.filter(pk__in=[s.pk for s in own]).update(set=made)
        free = [s for s in free if s not in own]
    return count
