"""What the screens by the bag show: a take with its sets and strikes, and all stations at once."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from django.db.models import QuerySet

from agile_strike.core.children import is_child
from agile_strike.core.measures.of_student import BODY_MEASURES
from agile_strike.core.registry import NUMERIC
from agile_strike.core.vocabulary import family_of
from agile_strike.evening.models import PlannedSet
from agile_strike.gym.models import Gym
from agile_strike.live.models import Mark, Station, Take
from agile_strike.live.screens.bursts import BurstsTold, Thrown, bursts_told
from agile_strike.live.screens.calls import Burst, CallMade, calls_of, rush_of
from agile_strike.live.screens.sentence import SetSaid, said_of
from agile_strike.live.screens.volume import VolumeCount, side_of, volumes_of
from agile_strike.live.whose.of_set import mark_at
from agile_strike.live.whose.reference import at_reference
from agile_strike.people.services import age_of
from agile_strike.review.models import Strike
from agile_strike.trials.models import Trial
from agile_strike.trials.services import sheet

OF_STUDENT = tuple(m.name for m in BODY_MEASURES if m.numeric)


@dataclass(frozen=True, slots=True)
class LiveStrike:
    """A strike as a screen by the bag shows it."""

    strike: int
    number: int
    contact_s: float
    limb: str
    flags: list[str]
    version: int
    whole: bool  #: the student's part has been measured as well, or it is settled
    excluded: str
    remarks: list[str]
    mark: str  #: key of the set it fell into; empty for none
    measures: dict[str, list[float]]  #: value and its sd, by name


@dataclass(frozen=True, slots=True)
class LiveMark:
    key: str
    kind: str
    value: str
    planned_id: int | None
    code: str
    limb: str
    level: str
    levels: dict[str, str]
    wanted: int | None  #: strikes
    at: dt.datetime
    until: dt.datetime | None
    at_s: float | None  #: on the reference clock, as far as it is known
    until_s: float | None
    family: str  #: of remarks that fit
    early: int  #: strikes that came just before it began


@dataclass(frozen=True, slots=True)
class NextSet:
    planned_id: int | None  #: None of a trial's block that has not been planned
    code: str
    limb: str
    level: str
    levels: dict[str, str]
    strikes: int | None
    trial_id: int | None
    block: int | None  #: its place among the trial's of the evening
    blocks: int  #: how many of them there are
    family: str
    rest_s: float | None = None  #: before it, where a trial says so


@dataclass(frozen=True, slots=True)
class TakePage:
    id: int
    station_id: int
    station: str
    bag: str
    student_id: int
    student: str
    label: str
    stance: str
    child: bool
    evening_id: int
    recording_id: int
    began_at: dt.datetime
    ended_at: dt.datetime | None
    settled_at: dt.datetime | None
    settled_s: float
    clock_sd_ms: float | None
    hub_clock: bool
    marks: list[LiveMark]
    coming: list[NextSet]
    strikes: list[LiveStrike]
    said: list[SetSaid]
    calls: list[CallMade]  #: of the latest round
    rush: Burst | None
    bursts: BurstsTold | None  #: of the set that ended last
    volumes: list[VolumeCount]  #: without the set that runs


@dataclass(frozen=True, slots=True)
class StationRow:
    """A station, for the coach who walks round."""

    id: int
    name: str
    bag_id: int
    bag: str
    simulated: bool
    take_id: int | None
    student_id: int | None
    student: str
    child: bool
    set_code: str
    thrown: int  #: strikes of the set that runs, or of the take
    wanted: int | None
    last: LiveStrike | None
    units: list[str]


def take_page(gym: Gym, take: Take, child: bool) -> TakePage:
    student, station = take.session.student, take.station
    marks = list(take.marks.select_related("planned"))
    own = Strike.objects.standing().filter(recording=take.recording)
    rows = list(own.prefetch_related("remarks").order_by("contact_s"))
    told = [live_strike(row, take, marks) for row in rows]
    round_marks = _latest_round(marks)
    version = take.recording.bag_version
    volumes = volumes_of(take.session, take.recording_id, _limbs_of_sets(marks, told))
    return TakePage(
        id=take.pk,
        station_id=station.pk,
        station=station.name,
        bag=version.bag.name if version else "",
        student_id=student.pk,
        student=student.name,
        label=student.label,
        stance=student.stance,
        child=child,
        evening_id=take.session_id,
        recording_id=take.recording_id,
        began_at=take.began_at,
        ended_at=take.ended_at,
        settled_at=take.settled_at,
        settled_s=take.settled_s,
        clock_sd_ms=1e3 * take.clock["sd_s"] if take.clock else None,
        hub_clock=bool(take.stream and take.stream.clock),
        marks=[_mark(m, take, told) for m in marks if m.kind != Mark.Kind.CUE],
        coming=[*_coming(take), *_to_chip_off(volumes)],
        strikes=told,
        said=said_of(gym, take, told, [m for m in marks if m.kind == Mark.Kind.SET]),
        calls=calls_of(take, round_marks, rows),
        rush=rush_of(take, round_marks, rows),
        bursts=_bursts(take, marks, told),
        volumes=volumes,
    )


def _bursts(take: Take, marks: list[Mark], told: list[LiveStrike]) -> BurstsTold | None:
    ended = [m for m in marks if m.kind == Mark.Kind.SET and m.until]
    if not ended:
        return None
    key = ended[-1].key
    own = [s for s in told if s.mark == key and not s.excluded]
    return bursts_told(take, key, [Thrown(s.contact_s, s.limb, s.measures.get("impulse_n_s", [None])[0]) for s in own])


def _limbs_of_sets(marks: list[Mark], told: list[LiveStrike]) -> list[tuple[str, str]]:
    """Code and side of each strike that counts, of sets that ended: a screen adds those that come."""
    planned = {m.key: m.planned for m in marks if m.planned and m.until}
    own = [(planned[s.mark], s) for s in told if s.mark in planned and not s.excluded]
    return [(p.code, side_of(s.limb, p.limb)) for p, s in own]


def _latest_round(marks: list[Mark]) -> list[Mark]:
    begins = max((m.at for m in marks if m.kind == Mark.Kind.ROUND and not m.value), default=None)
    return [m for m in marks if begins is not None and m.at >= begins]


def live_strike(row: Strike, take: Take, marks: Iterable[Mark], whole: bool | None = None) -> LiveStrike:
    measures = {n: [getattr(row, n), getattr(row, f"{n}_sd") or 0.0] for n in NUMERIC if getattr(row, n) is not None}
    provisional = "provisional" in row.flags
    return LiveStrike(
        strike=row.pk,
        number=row.number,
        contact_s=row.contact_s,
        limb=row.limb_said,
        flags=list(row.flags),
        version=row.version,
        whole=not provisional or any(n in measures for n in OF_STUDENT) if whole is None else whole,
        excluded=row.excluded_reason,
        remarks=sorted(r.what for r in row.remarks.all()),
        mark=mark_at(take, marks, row.contact_s),
        measures=measures,
    )


def _mark(mark: Mark, take: Take, told: list[LiveStrike]) -> LiveMark:
    planned = mark.planned
    begins = at_reference(take.clock, mark.at)
    own = [s for s in told if s.mark == mark.key]
    return LiveMark(
        key=mark.key,
        kind=mark.kind,
        value=mark.value,
        planned_id=mark.planned_id,
        code=planned.code if planned else mark.value.split(";")[0],
        limb=planned.limb if planned else "",
        level=planned.level if planned else "",
        levels=planned.levels if planned else {},
        wanted=planned.strikes if planned else None,
        at=mark.at,
        until=mark.until,
        at_s=begins,
        until_s=at_reference(take.clock, mark.until) if mark.until else None,
        family=family_of(planned.code) if planned else "any",
        early=0 if begins is None else sum(s.contact_s < begins for s in own),
    )


def _coming(take: Take) -> list[NextSet]:
    """Planned sets that have not begun, then the blocks of the student's trials that the evening still holds."""
    student, day = take.session.student, take.session.day
    rows = PlannedSet.objects.filter(session=take.session, began_at__isnull=True, called__isnull=True)
    out = [
        NextSet(
            planned_id=row.pk,
            code=row.code,
            limb=row.limb,
            level=row.level,
            levels=row.levels,
            strikes=row.strikes,
            trial_id=None,
            block=None,
            blocks=0,
            family=family_of(row.code),
        )
        for row in rows
    ]
    for trial in Trial.objects.standing().filter(students=student, ended_on__isnull=True):
        blocks = sheet(trial, student, day).blocks
        for block in blocks:
            begun = block.called is not None and block.called.planned.began_at is not None
            if not begun:
                out.append(
                    NextSet(
                        planned_id=None,
                        code=trial.code,
                        limb="",
                        level=trial.height,
                        levels={trial.factor: block.level},
                        strikes=trial.strikes,
                        trial_id=trial.pk,
                        block=block.place,
                        blocks=len(blocks),
                        family=family_of(trial.code),
                        rest_s=trial.rest_s,
                    )
                )
    return out


def _to_chip_off(volumes: list[VolumeCount]) -> list[NextSet]:
    """A count's next set, of the side that has more to do."""
    return [
        NextSet(
            planned_id=None,
            code=v.next.code,
            limb=v.next.limb,
            level="",
            levels={},
            strikes=v.next.strikes,
            trial_id=None,
            block=None,
            blocks=0,
            family=family_of(v.next.code),
        )
        for v in volumes
        if v.next is not None
    ]


def all_stations(gym: Gym) -> list[StationRow]:
    stations = list(Station.objects.for_gym(gym).select_related("bag"))
    takes = {t.station_id: t for t in open_takes(gym)}
    marks: dict[int, list[Mark]] = defaultdict(list)
    for mark in Mark.objects.filter(take__in=[t.pk for t in takes.values()]).select_related("planned"):
        marks[mark.take_id].append(mark)
    strikes: dict[int, list[Strike]] = defaultdict(list)
    recordings = [t.recording_id for t in takes.values()]
    own = Strike.objects.standing().filter(recording__in=recordings)
    for row in own.prefetch_related("remarks").order_by("contact_s"):
        strikes[row.recording_id].append(row)
    return [_row(s, takes.get(s.pk), marks, strikes) for s in stations]


def open_takes(gym: Gym) -> "QuerySet[Take]":
    return Take.objects.for_gym(gym).filter(ended_at__isnull=True).select_related(
        "session__student", "recording__bag_version__bag", "stream", "station__bag", "station__gym"
    )  # fmt: skip


def _row(
    station: Station, take: Take | None, marks: dict[int, list[Mark]], strikes: dict[int, list[Strike]]
) -> StationRow:
    own = marks[take.pk] if take else []
    told = [live_strike(s, take, own) for s in strikes[take.recording_id]] if take else []
    running = next((m for m in own if m.kind == Mark.Kind.SET and m.until is None), None)
    thrown = [s for s in told if not s.excluded and (running is None or s.mark == running.key)]
    planned = running.planned if running else None
    units = list(take.stream.opening["units"]) if take and take.stream else []
    return StationRow(
        id=station.pk,
        name=station.name,
        bag_id=station.bag_id,
        bag=station.bag.name,
        simulated=bool(station.simulated_token),
        take_id=take.pk if take else None,
        student_id=take.session.student_id if take else None,
        student=take.session.student.name if take else "",
        child=take is not None and is_child(age_of(take.session.student.birth_date, take.station.gym.today)),
        set_code=planned.code if planned else "",
        thrown=len(thrown),
        wanted=planned.strikes if planned else None,
        last=told[-1] if told else None,
        units=units,
    )
