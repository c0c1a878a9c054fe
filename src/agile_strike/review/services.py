"""What a coach does with strikes: throw one out with a reason, take it back, read one's force curve."""

import io
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Avg, F
from django.utils import timezone

from agile_strike.capture.basis import kept
from agile_strike.capture.models import Chunk, Recording
from agile_strike.capture.samples import mounting_of
from agile_strike.core import schools as core_schools
from agile_strike.core.analysis import Analysis
from agile_strike.core.bag.curve import Curve, curve
from agile_strike.core.errors import BadInput, ChangedMeanwhile
from agile_strike.core.measured import Measured
from agile_strike.core.recording import Event
from agile_strike.core.registry import NUMERIC
from agile_strike.core.strikes import LIMBS
from agile_strike.core.strikes import Strike as Found
from agile_strike.core.student.joined import HAPPENS
from agile_strike.formats.chunks import pack_lanes, unpack, unpack_lanes
from agile_strike.formats.results import MEASURE_COLUMNS, Row, flat
from agile_strike.gym.models import Gym
from agile_strike.playbook.models import School
from agile_strike.playbook.services import schools
from agile_strike.review.models import Remark, Strike, StrikeLanes, Strikes, StrikeSet

REASONS = ("glancing", "bag still swinging", "unit slipped", "not a strike", "wrong strike", "other")
CURVE_BEFORE_S, CURVE_AFTER_S = 0.6, 0.6
MOST_MEAN = 200  # strikes in a mean course: more do not change it


def save_strikes(recording: Recording, analysis: Analysis) -> None:
    """Rows for every strike of an analysis, in the sets that the recording's events name."""
    sets = _sets_of(recording, analysis)
    absent = _absent(analysis)
    rows = [
        _measured(
            Strike(recording=recording, set=sets.get(analysis.recording.set_at(s.contact_s))),
            i + 1,
            s,
            analysis.version,
            absent[i],
        )
        for i, s in enumerate(analysis.strikes)
    ]
    Strike.objects.bulk_create(rows, batch_size=500)
    _save_lanes(rows, analysis)


MEASURED_FIELDS = (
    *("number", "contact_s", "limb", "level", "flags", "chain_order", "launch_ms", "analysis_version", "absent"),
    *(c for n in NUMERIC for c in (n, f"{n}_sd")),
)


def save_again(recording: Recording, analysis: Analysis, same_s: float, gone: str) -> None:
    """Write an analysis over an older one: a strike found within `same_s` keeps its row and all that was said.

    Only what was measured is written to rows that are there: what a coach says meanwhile stays.
    """
    free = {s.pk: s for s in Strike.objects.select_for_update().filter(recording=recording).order_by("pk")}
    rows, absent = [], _absent(analysis)
    back: list[int] = []
    for i, s in enumerate(analysis.strikes):
        near = min(free.values(), key=lambda o: abs(o.contact_s - s.contact_s), default=None)
        row = Strike(recording=recording)
        if near is not None and abs(near.contact_s - s.contact_s) <= same_s:
            row = free.pop(near.pk)
            if row.excluded_reason == gone:
                back.append(row.pk)
        rows.append(_measured(row, i + 1, s, analysis.version, absent[i]))
    lost = list(free.values())
    for k, row in enumerate(lost):  # what a coach said of it stays, but it no longer counts
        row.number = len(rows) + k + 1
    new, known = [r for r in rows if r.pk is None], [r for r in (*rows, *lost) if r.pk is not None]
    Strike.objects.filter(recording=recording).update(number=-F("number") - 1)  # frees the numbers
    _put_into_sets(recording, analysis, new)
    Strike.objects.bulk_create(new, batch_size=500)
    Strike.objects.bulk_create(
        known, update_conflicts=True, unique_fields=["id"], update_fields=list(MEASURED_FIELDS), batch_size=500
    )
    Strike.objects.filter(pk__in=back).update(excluded_reason="", excluded_at=None)
    Strike.objects.filter(pk__in=[r.pk for r in lost], excluded_reason="").update(
        excluded_reason=gone, excluded_at=timezone.now()
    )
    _changed([*rows, *lost])
    StrikeLanes.objects.filter(strike__recording=recording).delete()
    _save_lanes(rows, analysis)


def _put_into_sets(recording: Recording, analysis: Analysis, new: list[Strike]) -> None:
    """Strikes that were not found before belong to the set that was running, made now where none was hit in it then."""
    if not new:
        return
    running = list(StrikeSet.objects.filter(recording=recording, began_s__isnull=False, by_coach=False))
    for row in new:
        row.set = next((s for s in running if s.began_s <= row.contact_s <= s.ended_s), None)  # type: ignore[operator]
        event = analysis.recording.set_at(row.contact_s)
        if row.set is None and event is not None:
            row.set = _set_of(recording, event)
            running.append(row.set)


def _absent(analysis: Analysis) -> list[dict[str, str]]:
    """For each strike, why measures are not there that others of the recording have."""
    out: list[dict[str, str]] = [{} for _ in analysis.strikes]
    for n in analysis.not_measured:
        if n.strike is not None:
            out[n.strike][n.measure] = n.why
    return out


def _measured(row: Strike, number: int, found: Found, version: str, absent: dict[str, str]) -> Strike:
    """The row with all that an analysis says of it; what a coach said is left."""
    row.number, row.contact_s, row.limb, row.level = number, found.contact_s, found.limb, found.level or ""
    row.flags, row.chain_order = list(found.flags), found.chain_order or ""
    row.launch_ms = None if found.launch_s is None else 1e3 * found.launch_s
    row.analysis_version, row.absent = version, absent
    for name in NUMERIC:
        measured = found.measures.get(name)
        setattr(row, name, measured.value if measured else None)
        setattr(row, f"{name}_sd", measured.sd if measured else None)
    return row


def _save_lanes(rows: list[Strike], analysis: Analysis) -> None:
    StrikeLanes.objects.bulk_create(
        [
            StrikeLanes(strike=row, parquet=pack_lanes(s.lanes))
            for row, s in zip(rows, analysis.strikes, strict=True)
            if s.lanes is not None
        ],
        batch_size=500,
    )


def _sets_of(recording: Recording, analysis: Analysis) -> dict[Event | None, StrikeSet]:
    """A set for each planned one that a strike was thrown in: the same strike planned twice is two sets, or blocks."""
    thrown = {analysis.recording.set_at(s.contact_s) for s in analysis.strikes}
    sets: dict[Event | None, StrikeSet] = {}
    for event in analysis.recording.events:
        if event in thrown and event not in sets:
            sets[event] = _set_of(recording, event)
    return sets


def _set_of(recording: Recording, event: Event) -> StrikeSet:
    code, limb, levels = event.set_parts
    named = levels.pop("school", "")
    school = next((s for s in schools(recording.gym) if s.name == named), None) if named else None
    level = levels.pop("level", "")
    gear = levels.pop("gear", "")
    levels.pop("block", None)  # tells sets of the same strike apart, and is no level of anything
    return StrikeSet.objects.create(
        recording=recording,
        began_s=event.onset_s,
        ended_s=event.onset_s + event.duration_s,
        code=(code or "strike")[:60],
        limb=limb[:12],
        level=level[:6],
        levels=levels,
        school=school,
        gear=gear[:80],
    )


def absent_of(gym: Gym, strike_id: int) -> dict[str, str]:
    """Why each measure that this strike lacks is not there. Raises BadInput for another gym's."""
    (strike,) = _own(gym, [strike_id]).select_related("recording")
    why: dict[str, str] = {n["measure"]: n["why"] for n in strike.recording.not_measured} | strike.absent
    missing = {name for name in NUMERIC if getattr(strike, name) is None} - set(why)
    if strike.number == 1 and "gap_ms" in missing:
        why["gap_ms"] = "the first strike has none before it"
    if strike.launch_ms is not None:
        why |= dict.fromkeys(missing & HAPPENS, "nothing of the kind happened in this strike")
    return why


#: strikes that a coach chose, and the version of each that the coach saw
Seen = dict[int, int]
LONGEST_NOTE = 2000


@dataclass(frozen=True, slots=True)
class SetText:
    """What a coach says of a run of strikes."""

    code: str
    limb: str
    level: str
    levels: dict[str, str]
    school_id: int | None
    gear: str


LONGEST_LEVEL, MOST_LEVELS = 80, 12
LEVELS = ("", "head", "body", "low")


def _checked(gym: Gym, text: SetText) -> SetText:
    code = text.code.strip()
    if not code:
        raise BadInput("Say which strike it was, as rear-straight.")
    if ";" in code or "," in code:
        raise BadInput("Leave ; and , out of a strike's name: recordings use them between words.")
    if text.limb and text.limb not in LIMBS:
        raise BadInput(f"{text.limb[:40]} is no limb. Choose one of {', '.join(LIMBS)}.")
    if text.level not in LEVELS:
        raise BadInput("Height is head, body or low.")
    if len(text.levels) > MOST_LEVELS or any(len(w) > LONGEST_LEVEL for pair in text.levels.items() for w in pair):
        raise BadInput(f"Give at most {MOST_LEVELS} levels, of at most {LONGEST_LEVEL} letters each.")
    if text.school_id is not None and not School.objects.for_gym(gym).filter(pk=text.school_id).exists():
        raise BadInput("That school is not in this gym.")
    return replace(text, code=code, gear=text.gear.strip())


@transaction.atomic
def label(gym: Gym, seen: Seen, text: SetText) -> StrikeSet:
    """Say what strikes were: they leave the set they were in. Nothing that was measured changes."""
    strikes = _as_seen(gym, seen)
    if len({s.recording_id for s in strikes}) != 1:
        raise BadInput("Label strikes of one recording at a time.")
    text = _checked(gym, text)
    made = StrikeSet.objects.create(
        recording_id=strikes[0].recording_id,
        code=text.code[:60],
        limb=text.limb,
        level=text.level,
        levels=text.levels,
        school_id=text.school_id,
        gear=text.gear[:80],
        by_coach=True,
    )
    _said(strikes, set=made, relabelled_limb=text.limb)
    return made


@transaction.atomic
def put_back(gym: Gym, seen: Seen, before: dict[int, tuple[int | None, str]]) -> int:
    """Undo a labelling: each strike goes back to the set and limb that it had."""
    strikes = _as_seen(gym, seen)
    wanted = [s for s, _ in before.values() if s]
    known = dict(StrikeSet.objects.for_gym(gym).filter(pk__in=wanted).values_list("pk", "recording_id"))
    for strike in strikes:
        set_id, limb = before[strike.pk]
        if set_id is not None and known.get(set_id) != strike.recording_id:
            raise BadInput("The set to go back to is gone. Reload the page.")
        strike.set_id = set_id
        strike.relabelled_limb = limb if limb in LIMBS and limb != strike.limb else ""  # no word against the units
        strike.version += 1
    _changed(strikes)
    return Strike.objects.bulk_update(strikes, ["set", "relabelled_limb", "version"])


def _changed(strikes: Iterable[Strike]) -> None:
    """What rests on these strikes has to be made anew."""
    Recording.objects.filter(pk__in={s.recording_id for s in strikes}).update(revision=F("revision") + 1)


def _own(gym: Gym, ids: list[int]) -> Strikes:
    rows = Strike.objects.for_gym(gym).filter(id__in=ids)
    if not ids or rows.count() != len(set(ids)):
        raise BadInput("One of these strikes is not in this gym.")
    return rows


def _as_seen(gym: Gym, seen: Seen) -> list[Strike]:
    """The strikes, locked, in order of their numbers. Raises ChangedMeanwhile where one is no longer what was seen."""
    rows = list(_own(gym, list(seen)).select_for_update(of=("self",)).select_related("set").order_by("pk"))
    for row in rows:
        if row.version != seen[row.pk]:
            raise ChangedMeanwhile(f"strike {row.number}", _now(row))
    return sorted(rows, key=lambda r: r.number)


def _now(row: Strike) -> str:
    """What coaches have said of a strike, in a line."""
    parts = [row.set.code if row.set else "no label"]
    parts += [f"thrown out: {row.excluded_reason}"] if row.excluded_reason else ["it counts"]
    parts += [f"note “{row.note[:80]}”"] if row.note else []
    return ", ".join(parts)


def _said(strikes: list[Strike], **what: Any) -> int:
    """Write what a coach says of strikes, and only that."""
    _changed(strikes)
    return Strike.objects.filter(pk__in=[s.pk for s in strikes]).update(**what, version=F("version") + 1)


@transaction.atomic
def remark(gym: Gym, strike_id: int, what: str, on: bool, by: User) -> bool:
    """Note what was seen, or take it back; True if that changed anything. Said twice it stands once."""
    if what not in Remark.What.values:
        raise BadInput(f"{what[:40]} is no remark. Choose one of {', '.join(Remark.What.values)}.")
    strike = _own(gym, [strike_id]).select_for_update(of=("self",)).get()
    if not on:
        return bool(Remark.objects.filter(strike=strike, what=what).delete()[0])
    return Remark.objects.get_or_create(strike=strike, what=what, defaults={"by": by})[1]


@transaction.atomic
def write_note(gym: Gym, strike_id: int, text: str, version: int) -> None:
    """A coach's own words on one strike; empty takes them away."""
    if len(text) > LONGEST_NOTE:
        raise BadInput("A note holds at most 2,000 letters.")
    strikes = _as_seen(gym, {strike_id: version})
    _said(strikes, note=text.strip())


@transaction.atomic
def exclude(gym: Gym, seen: Seen, reason: str, by: User) -> int:
    """Throw strikes out. A strike that is out already keeps its first reason."""
    if not reason.strip() or len(reason) > 120:
        raise BadInput("Say in a few words why the strike is thrown out.")
    strikes = [s for s in _as_seen(gym, seen) if not s.excluded_reason]
    return _said(strikes, excluded_reason=reason.strip(), excluded_at=timezone.now(), excluded_by=by)


@transaction.atomic
def restore(gym: Gym, seen: Seen) -> int:
    """Take strikes back."""
    strikes = [s for s in _as_seen(gym, seen) if s.excluded_reason]
    return _said(strikes, excluded_reason="", excluded_at=None, excluded_by=None)


@dataclass(frozen=True, slots=True)
class Judgement:
    """One strike against its school, and what other schools would hold against it."""

    school: School | None
    checks: list[core_schools.Judged]
    objections: list[tuple[str, list[str]]]  #: school, and its words in this student's numbers
    limb: str = ""


def judgement(gym: Gym, strike_id: int) -> Judgement:
    """Judge a strike by the school that its set was thrown under."""
    strike = _own(gym, [strike_id]).select_related("set__school", "recording").get()
    own = strike.set.school if strike.set else None
    if strike.set is None or own is None:
        return Judgement(None, [], [])
    every = schools(gym)
    mine = next(s for s in every if s.pk == own.pk)
    found = {
        n: Measured(v, getattr(strike, f"{n}_sd") or 0.0) for n in NUMERIC if (v := getattr(strike, n)) is not None
    }
    told = []
    for other in every:
        if other.pk == own.pk or not other.objects_to:
            continue
        usual = _usual(strike, own, other)
        words = core_schools.objections(other.to_core(), strike.set.code, usual)
        if words:
            told.append((other.name, words))
    checks = core_schools.judge(mine.to_core(), strike.set.code, found, strike.chain_order or None)
    return Judgement(mine, checks, told, strike.limb_said)


def _usual(strike: Strike, own: School, other: School) -> dict[str, tuple[float, float | None]]:
    """Means of this student's strikes of the same code under either school, by the measures that `other` objects to."""
    assert strike.set is not None
    names = [n for n in other.objects_to if n in NUMERIC]
    alike = (
        Strike.objects.standing()
        .counted()
        .filter(recording__student_id=strike.recording.student_id, set__code=strike.set.code)
    )
    here = alike.filter(set__school=own).aggregate(**{n: Avg(n) for n in names})
    there = alike.filter(set__school=other).aggregate(**{n: Avg(n) for n in names})
    return {n: (here[n], there[n]) for n in names if here[n] is not None}


def lanes(gym: Gym, strike_id: int) -> dict[str, list[float]] | None:
    """Curves of one strike from the floor up; None where no worn unit gave any."""
    row = StrikeLanes.objects.filter(strike__in=_own(gym, [strike_id])).first()
    return None if row is None else {n: c.round(3).tolist() for n, c in unpack_lanes(bytes(row.parquet)).items()}


def mean_lanes(gym: Gym, strike_id: int) -> dict[str, list[float]]:
    """Mean curves of the counted strikes of this one's set, this one left out."""
    strike = _own(gym, [strike_id]).get()
    rows = StrikeLanes.objects.filter(
        strike__recording_id=strike.recording_id, strike__set_id=strike.set_id, strike__excluded_reason=""
    ).exclude(strike_id=strike_id)[:MOST_MEAN]
    every = [unpack_lanes(bytes(r.parquet)) for r in rows]
    names = {n for one in every for n in one}
    return {n: np.mean([one[n] for one in every if n in one], axis=0).round(3).tolist() for n in names}


@dataclass(frozen=True, slots=True)
class ForceCurve:
    strike: Strike
    curve: Curve


def force_curves(gym: Gym, ids: list[int]) -> list[ForceCurve]:
    """Force over time of up to twelve strikes of one recording, from its raw samples."""
    strikes = list(
        Strike.objects.for_gym(gym)
        .filter(id__in=ids[:12])
        .select_related("recording", "recording__bag_version", "recording__student")
    )
    out = []
    for strike in strikes:
        recording = strike.recording
        if recording.bag_version is None or recording.mounting is None:
            continue
        drawn = _curve(strike, recording)
        if drawn is not None:
            out.append(ForceCurve(strike, drawn))
    order = {key: i for i, key in enumerate(ids)}
    return sorted(out, key=lambda f: order[f.strike.pk])


def _curve(strike: Strike, recording: Recording) -> Curve | None:
    """None where the raw samples are no longer kept."""
    assert recording.bag_version is not None
    low = int((strike.contact_s - CURVE_BEFORE_S) * recording.rate_hz)
    high = int((strike.contact_s + CURVE_AFTER_S) * recording.rate_hz)
    # twelve strikes at most: a query for each is bounded
    rows = [
        c
        for c in Chunk.objects.filter(recording=recording, unit="bag", first_sample__lte=high)
        .only("first_sample", "samples", "parquet", "rate_hz", "full_scale")
        .order_by("-first_sample")[:3]
        if c.first_sample + c.samples > low
    ]
    rows.reverse()
    if not rows:
        return None
    unit = unpack([bytes(r.parquet) for r in rows], "bag", rows[0].rate_hz, rows[0].full_scale)
    before, after = _neighbours(strike)
    return curve(
        unit,
        rows[0].first_sample,
        strike.contact_s,
        mounting_of(recording),
        replace(recording.bag_version.to_core(), **kept(recording).bag),  # as the figures beside it have it
        before,
        after,
        getattr(strike, "impulse_n_s"),  # noqa: B009  (columns come from the registry)
    )


def _neighbours(strike: Strike) -> tuple[float, float]:
    near = Strike.objects.filter(recording_id=strike.recording_id, number__in=(strike.number - 1, strike.number + 1))
    times = dict(near.values_list("number", "contact_s"))
    before = strike.contact_s - times.get(strike.number - 1, -1e9)
    after = times.get(strike.number + 1, 1e9) - strike.contact_s
    return before, after


def table(recording: Recording) -> pa.Table:
    """Strikes of a recording as a flat table, thrown-out ones with their reason."""
    rows = Strike.objects.filter(recording=recording).select_related("set__school").prefetch_related("remarks")
    first = (recording.student.label, recording.session, recording.task, recording.run)
    return flat((_row(row, first) for row in rows.order_by("number")), said=True)


def _row(row: Strike, first: tuple[str, str, str, str]) -> Row:
    given = row.set
    said = (
        row.excluded_reason,
        row.note,
        given.value if given else "",
        given.school.name if given and given.school else "",
        " ".join(r.what.replace(" ", "-") for r in row.remarks.all()),
    )
    return Row(
        first=first,
        number=row.number,
        contact_s=row.contact_s,
        limb=row.limb_said,
        level=row.level,
        chain_order=row.chain_order,
        measures=[getattr(row, name) for name in MEASURE_COLUMNS],
        flags=row.flags,
        said=said,
    )


def as_parquet(recording: Recording) -> bytes:
    """The table as Parquet, words as words."""
    out = io.BytesIO()
    pq.write_table(table(recording), out, compression="zstd")
    return out.getvalue()
