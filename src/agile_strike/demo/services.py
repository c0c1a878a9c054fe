"""Loading the demo gym, and rebuilding the compact file of its earlier weeks."""

import datetime as dt
import gzip
import json
import os
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.core.serializers.json import DjangoJSONEncoder
from django.db import transaction

from agile_strike.capture.models import AnalysisRun, Recording, Wear
from agile_strike.core.drills.ladders import LADDERS
from agile_strike.core.measures.estimated import ESTIMATED
from agile_strike.core.playbook.points import POINTS
from agile_strike.core.recording import Recording as CoreRecording
from agile_strike.demo import gym_plan as plan
from agile_strike.demo.simulated import simulated_evening
from agile_strike.evening.models import Drilled, Looked, PlannedSet, Session
from agile_strike.evening.services import evening_of
from agile_strike.gym.models import Gym, Member
from agile_strike.intake.reading import import_recording
from agile_strike.kit.models import Bag, BagVersion, Unit
from agile_strike.kit.services import save_version
from agile_strike.people.models import BodyMass, Mark, StanceChange, Student
from agile_strike.playbook.models import School
from agile_strike.playbook.services import schools
from agile_strike.review import names
from agile_strike.review.models import Remark, Strike, StrikeSet
from agile_strike.trials.compare import refresh
from agile_strike.trials.models import Decision, Trial
from agile_strike.trials.services import WATCHED

WEEKS = Path(__file__).parent / "weeks.json.gz"
LAST = len(plan.EVENINGS) - 1
RECORDING_FIELDS = (
    *("session_label", "task", "run", "acquired_at", "length_s", "rate_hz", "checksum", "events", "stated"),
)
RUN_FIELDS = (
    *("version", "bag", "calibrations", "body_mass_kg", "stance", "took_s"),
    *("flags", "not_measured", "clocks", "bursts", "bag_state", "strike_count"),
)
UNIT_FIELDS = ("last_seen", "last_place", "rate_hz", "accel_full_scale_m_s2", "gyro_full_scale_rad_s", "battery_pct")
WEAR_FIELDS = ("placement", "rate_hz", "accel_full_scale_m_s2", "gyro_full_scale_rad_s", "battery_pct")
SAID_LATER = ("absent", "excluded_at", "excluded_by", "excluded_reason", "version")
OFF_THE_BAG = ("kind", *(c for n in ESTIMATED for c in (n, f"{n}_sd")))  # of strikes that no bag felt: none of them
NOT_KEPT = ("id", "recording", "analysis", "set", *SAID_LATER, *OFF_THE_BAG)
STRIKE_FIELDS = tuple(f.name for f in Strike._meta.concrete_fields if f.name not in NOT_KEPT)
SET_FIELDS = ("code", "limb", "level", "levels", "gear", "began_s", "ended_s")


def load() -> bool:
    """Make the demo gym if it is not there; True if it was made."""
    if Gym.objects.filter(name=plan.GYM).update(demo=True):
        return False
    with transaction.atomic():
        gym, students, versions = _people_and_kit()
        units: dict[str, Unit] = {}
        by_name = {school.name: school for school in schools(gym)}
        for row in json.loads(gzip.decompress(WEEKS.read_bytes())):
            _restore(gym, students[row["student"]], versions[row["bag"]], row, units, by_name)
        Unit.objects.bulk_update(units.values(), UNIT_FIELDS)
        for made in _simulated([(s, LAST) for s in range(len(plan.STUDENTS))]):
            import_recording(gym, students[made.participant.label], made)
        _stories(gym, students)
        _free_round(gym)
        _last_evenings(gym)
        _drilled(gym)
        for one in plan.STUDENTS:  # a guardian's consent may have run out since
            Student.objects.filter(pk=students[one.label].pk).update(consent=one.consent)
        refresh(s.pk for s in students.values())
        names.suggest(gym)
    return True


def build_weeks() -> int:
    """Simulate, import and analyse every evening but the last; write the rows to the compact file."""
    rows: list[dict[str, Any]] = []
    with transaction.atomic():
        gym, students, _ = _people_and_kit()
        for made in _simulated(
            [(i, n) for n in range(LAST) for i, student in enumerate(plan.STUDENTS) if plan.there(student, n)]
        ):
            import_recording(gym, students[made.participant.label], made)
        found = Recording.objects.for_gym(gym).select_related("student", "analysis", "bag_version__bag")
        for recording in found.order_by("acquired_at"):
            assert recording.bag_version is not None
            columns = list(Strike.objects.filter(recording=recording).order_by("number").values_list(*STRIKE_FIELDS))
            sets = list(StrikeSet.objects.filter(recording=recording).select_related("school"))
            places = {row.pk: i for i, row in enumerate(sets)}
            rows.append(
                {
                    "student": recording.student.label,
                    "bag": recording.bag_version.bag.name,
                    **{f: getattr(recording, f) for f in RECORDING_FIELDS},
                    "analysis": {f: getattr(recording.analysis, f) for f in RUN_FIELDS},
                    "wears": [
                        {"serial": w.unit.serial, **{f: getattr(w, f) for f in WEAR_FIELDS}}
                        for w in recording.wears.select_related("unit")
                    ],
                    "sets": [
                        {**{f: getattr(r, f) for f in SET_FIELDS}, "school": r.school.name if r.school else None}
                        for r in sets
                    ],
                    "in_set": [
                        None if pk is None else places[pk]
                        for pk in Strike.objects.filter(recording=recording)
                        .order_by("number")
                        .values_list("set", flat=True)
                    ],
                    "strikes": [[_short(n, v) for n, v in zip(STRIKE_FIELDS, row, strict=True)] for row in columns],
                }
            )
        transaction.set_rollback(True)
    text = json.dumps(rows, cls=DjangoJSONEncoder, separators=(",", ":"))
    WEEKS.write_bytes(gzip.compress(text.encode(), 9, mtime=0))
    return len(rows)


def _short(name: str, value: Any) -> Any:
    """As many digits as can be told apart; of a doubt, fewer."""
    digits = 3 if name.endswith("_sd") else 7 if name == "contact_s" else 5
    return float(f"{value:.{digits}g}") if isinstance(value, float) else value


def _people_and_kit() -> tuple[Gym, dict[str, Student], dict[str, BagVersion]]:
    gym = Gym.objects.create(name=plan.GYM, time_zone=plan.TIME_ZONE, demo=True)
    users = get_user_model().objects
    for user, name, role in plan.COACHES:
        account = users.filter(username=user).first() or users.create_user(user, password=plan.PASSWORD)
        Member.objects.update_or_create(user=account, defaults={"gym": gym, "name": name, "role": role})
    start = dt.datetime.combine(plan.FIRST_EVENING, dt.time(12), dt.UTC)
    versions = {
        name: save_version(gym, None, name, bag, start)
        for name, bag in ((plan.BAG_NAME, plan.BAG), (plan.HEAVY_NAME, plan.HEAVY))
    }
    students = {}
    for s in plan.STUDENTS:
        students[s.label] = Student.objects.create(
            gym=gym, name=s.name, label=s.label, stance=s.stance, birth_date=s.birth_date, consent=_consent_then(s)
        )
        StanceChange.objects.create(student=students[s.label], since=plan.FIRST_EVENING, stance=s.stance)
        BodyMass.objects.bulk_create(
            [
                BodyMass(
                    student=students[s.label],
                    measured_on=plan.FIRST_EVENING + dt.timedelta(days=day),
                    mass_kg=round(s.mass_kg + s.drift_kg * day / 7, 1),
                )
                for day in plan.EVENINGS
            ]
        )
    return gym, students, versions


def _consent_then(one: plan.DemoStudent) -> str:
    """While the evenings were recorded every child's consent was kept."""
    return one.consent if one.consent == Student.Consent.NOT_NEEDED else Student.Consent.KEPT


def _simulated(evenings: list[tuple[int, int]]) -> Iterator[CoreRecording]:
    """Recordings of (student, evening) pairs, in order, made two at a time."""
    with ProcessPoolExecutor(max_workers=min(2, os.cpu_count() or 1), mp_context=get_context("spawn")) as pool:
        yield from pool.map(simulated_evening, evenings)


def _day(evening: int) -> dt.date:
    return plan.FIRST_EVENING + dt.timedelta(days=plan.EVENINGS[evening])


def _stories(gym: Gym, students: dict[str, Student]) -> None:
    """Trials, what was decided on them, and what else happened. Students who test the same together share a trial."""
    made: dict[tuple[str, tuple[int, ...]], Trial] = {}
    held = Bag.objects.get(gym=gym, name=plan.BAG_NAME)
    for one in plan.STUDENTS:
        if one.trial is None:
            continue
        t = one.trial
        level = plan.LEVELS[t.other]
        trial = made.get((t.other, t.evenings)) or Trial.objects.create(
            gym=gym,
            factor=plan.FACTOR,
            levels=[plan.LEVELS["centred"], level],
            code="rear-straight",
            height="head",
            measure="impulse_n_s",
            watch=list(WATCHED),
            worth_pct=t.worth_pct,
            evenings=len(t.evenings),
            gear=plan.GEAR,
            bag=held,
            started_on=_day(t.evenings[0]),
            ended_on=_day(t.evenings[-1]) if any(what != "keep_testing" for _, what, _ in t.decisions) else None,
        )
        made[t.other, t.evenings] = trial
        trial.students.add(students[one.label])
        Decision.objects.bulk_create(
            Decision(
                trial=trial, student=students[one.label], what=what, level=level, reason=why, decided_on=_day(evening)
            )
            for evening, what, why in t.decisions
        )
    Mark.objects.bulk_create(
        Mark(student=students[who], kind=kind, since=_day(since), until=_day(until), text=text)
        for who, since, until, kind, text in plan.MARKS
    )


def _free_round(gym: Gym) -> None:
    """The last round of one student was thrown as it came: nobody said what its strikes were."""
    recording = Recording.objects.get(gym=gym, student__label=plan.FREE_ROUND[0], session__day=_day(LAST))
    StrikeSet.objects.filter(recording=recording, code=plan.FREE_ROUND[1]).delete()
    recording.events = [e for e in recording.events if not e["value"].startswith(f"{plan.FREE_ROUND[1]};")]
    recording.save(update_fields=["events"])


def _last_evenings(gym: Gym) -> None:
    """The last evenings as a coach would have planned and noted them; one set was planned and not thrown."""
    for session in Session.objects.for_gym(gym).filter(day=_day(LAST)).select_related("student"):
        sets = list(StrikeSet.objects.filter(recording__session=session).order_by("began_s"))
        for place, one in enumerate(sets):
            told = {n: getattr(one, n) for n in ("code", "limb", "level", "levels", "school")}
            count = Strike.objects.filter(set=one).count()
            one.planned = PlannedSet.objects.create(session=session, place=place, strikes=count, **told)
            one.save(update_fields=["planned"])
        soreness, notes, remarks, noted = plan.LAST_NOTES.get(session.student.label, ("", "", {}, {}))
        session.gear, session.soreness, session.notes = plan.GEAR, soreness, notes
        session.save(update_fields=["gear", "soreness", "notes"])
        if notes:
            PlannedSet.objects.create(session=session, place=len(sets), code="rear-hook", level="body", strikes=10)
        own = {s.number: s for s in Strike.objects.filter(recording__session=session)}
        Remark.objects.bulk_create(Remark(strike=own[k], what=what) for k, what in remarks.items() if k in own)
        for number, text in noted.items():
            Strike.objects.filter(recording__session=session, number=number).update(note=text)
        for point, good in plan.LOOKED.get(session.student.label, {}).items():
            Looked.objects.create(session=session, point=point, name=POINTS[point].name, good=good)


def _drilled(gym: Gym) -> None:
    """What was worked on, evening by evening."""
    sessions = Session.objects.for_gym(gym).select_related("student")
    Drilled.objects.bulk_create(
        Drilled(session=session, drill=drill, name=LADDERS[drill].name)
        for session in sessions
        for who, since, drill in plan.DRILLED
        if session.student.label == who and session.day >= _day(since)
    )


def _restore(
    gym: Gym,
    student: Student,
    version: BagVersion,
    row: dict[str, Any],
    units: dict[str, Unit],
    by_name: dict[str, School],
) -> None:
    """`units` by serial: those that are new are added; as they were seen last they are still to be saved."""
    at = dt.datetime.fromisoformat(row["acquired_at"])
    recording = Recording.objects.create(
        gym=gym,
        student=student,
        session=evening_of(student, gym.day(at)),
        bag_version=version,
        **{f: row[f] for f in RECORDING_FIELDS if f != "acquired_at"},
        acquired_at=at,
    )
    run = AnalysisRun.objects.create(recording=recording, **row["analysis"])
    Recording.objects.filter(pk=recording.pk).update(analysis=run)
    wears = []
    for wear in row["wears"]:
        told = {f: wear[f] for f in WEAR_FIELDS if f != "placement"}
        seen = {**told, "last_seen": at, "last_place": wear["placement"]}
        unit = units.get(wear["serial"])
        if unit is None:
            unit = Unit.objects.create(gym=gym, serial=wear["serial"], model_text=plan.UNIT_MODEL, **seen)
            units[unit.serial] = unit
        for name, value in seen.items():
            setattr(unit, name, value)
        wears.append(Wear(recording=recording, unit=unit, placement=wear["placement"], **told))
    Wear.objects.bulk_create(wears)
    sets = StrikeSet.objects.bulk_create(
        [
            StrikeSet(
                recording=recording, school=by_name.get(one["school"]), **{f: one[f] for f in SET_FIELDS if f in one}
            )
            for one in row["sets"]
        ]
    )
    Strike.objects.bulk_create(
        [
            Strike(
                recording=recording,
                analysis=run,
                set=None if place is None else sets[place],
                **dict(zip(STRIKE_FIELDS, values, strict=True)),
            )
            for values, place in zip(row["strikes"], row["in_set"], strict=True)
        ]
    )
