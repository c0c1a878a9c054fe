"""Who stands at the bag: a take begins when a student steps up, and ends when they step back."""

import datetime as dt

from django.db import transaction
from django.db.models import Max, Q
from django.utils import timezone

from agile_strike.capture.basis import of_today
from agile_strike.capture.models import AnalysisRun, Recording
from agile_strike.core.errors import BadInput, NotYours
from agile_strike.evening import services as evening
from agile_strike.gym.models import Gym
from agile_strike.live.models import Mark, Station, Take, new_key
from agile_strike.live.taps.own import own_station, own_take
from agile_strike.live.taps.sets import When, Which, begin_set, close, end_sets
from agile_strike.live.telling.queue import settle_soon
from agile_strike.live.telling.told import tell
from agile_strike.live.whose.placing import packets_of, placed
from agile_strike.people.models import Student
from agile_strike.people.services import allow

UNKNOWN_RATE_HZ = 1.0  # until its first packet
TASK = "evening"
LATE = dt.timedelta(seconds=10)  # of a tap
ROOM = dt.timedelta(seconds=5)  # beside blows: guards are looked at there
NEAR = dt.timedelta(seconds=1)  # the end of what is in chunks


@transaction.atomic
def begin_take(gym: Gym, station_id: int, student_id: int, now: dt.datetime, key: str = "") -> Take:
    """A student steps up to the bag. Whoever was there steps back; a second tap on the same student changes nothing.

    A tap that comes late puts the student where they stood: from its instant until the next stepped up.
    """
    station = own_station(gym, station_id)
    student = Student.objects.for_gym(gym).filter(pk=student_id).first()
    if student is None:
        raise NotYours("student")
    allow(student, gym.today)
    again = station.takes.filter(key=key).first() if key else None
    if again is not None:
        return again
    there = _there(station, now)
    since = station.takes.filter(began_at__gt=now).order_by("began_at", "pk")
    if there is not None and there.ended_at is not None and timezone.now() - now < LATE and not since.exists():
        now, there = there.ended_at, None  # a tap of just now, by a clock that is a little behind
    if there is not None and there.session.student_id == student.pk:
        there.stood_at = max(now, there.stood_at or now)
        there.save(update_fields=["stood_at"])
        return there
    until = there.ended_at if there is not None else None
    if there is not None:
        _end_at(there, now, student)
    later = since.first()
    if later is not None:
        until = later.began_at if until is None else min(until, later.began_at)
    session = evening.evening_of(student, gym.today)
    stream = station.streams.first() if until is None else None
    key = key or new_key()
    recording = Recording.objects.create(
        gym=gym,
        student=student,
        session=session,
        bag_version=station.bag.versions.first(),
        session_label="",
        task=TASK,
        run=f"{session.recordings.count() + 1:02d}",
        acquired_at=now,
        length_s=0.0,
        rate_hz=UNKNOWN_RATE_HZ,
        checksum=f"take {key}",
        open=True,
        stated={"as": student.label},
    )
    basis = of_today(gym, [recording])[recording.pk]
    run = AnalysisRun.objects.create(
        recording=recording,
        version=basis.version,
        bag=basis.bag,
        calibrations=basis.calibrations,
        body_mass_kg=basis.body_mass_kg,
        stance=basis.stance,
    )
    recording.analysis = run
    recording.save(update_fields=["analysis"])
    # where it begins is found among what was gathered from now on: the hub may still have what was before
    take = Take.objects.create(
        station=station, session=session, recording=recording, key=key, began_at=now, ended_at=until, stream=stream
    )
    if until is not None or timezone.now() - now > LATE:
        settle_soon(take)  # the live worker looks at what comes, not at what has
    tell(gym.pk, station.pk, "take", take=take.pk)
    return take


@transaction.atomic
def claim(gym: Gym, station_id: int, student_id: int, since: dt.datetime, until: dt.datetime, key: str = "") -> Take:
    """Blows that nobody was said to throw were a student's: who stood there from shortly before until shortly after."""
    station = own_station(gym, station_id)
    if key and (again := station.takes.filter(key=key).first()) is not None:
        return again
    there = _there(station, until)
    if there is not None and there.began_at < since:
        raise BadInput(f"Those blows are {there.session.student.name}'s by now.")
    before = station.takes.filter(ended_at__lte=since).aggregate(last=Max("ended_at"))["last"]
    take = begin_take(gym, station_id, student_id, max(since - ROOM, before or since - ROOM), key)
    if take.ended_at is None or take.ended_at > until + ROOM:
        end_take(gym, take.pk, until + ROOM)
    return take


@transaction.atomic
def end_take(gym: Gym, take_id: int, now: dt.datetime) -> Take:
    """The student steps back: what runs ends, and the batch settles all of it. A tap that comes so late that something
    was begun, or the student tapped, after it ends nothing: the student was still there."""
    take = own_take(gym, take_id)
    tapped = take.stood_at is not None and take.stood_at > now
    if not tapped and not take.marks.filter(at__gt=now, sounded=True).exists():
        _end(take, now)
    return take


def end_open(station: Station, now: dt.datetime) -> None:
    for take in Take.objects.select_for_update(of=("self",)).filter(station=station, ended_at__isnull=True):
        _end(take, now)


def _end(take: Take, at: dt.datetime) -> None:
    """It ends; or it ended already, and earlier than was known: what came after is no longer this student's."""
    if take.settled_at is not None or (take.ended_at is not None and take.ended_at <= at):
        return
    beyond = Q(until__isnull=True) | Q(until__gt=at)
    end_sets(take, at, list(take.marks.filter(beyond, kind=Mark.Kind.SET)))
    for open_one in take.marks.filter(beyond, kind=Mark.Kind.ROUND):
        close(open_one, at)
    take.ended_at, take.last_packet = max(at, take.began_at), None
    speed = float(take.stream.opening["speed"]) if take.stream else 1.0
    if take.began_at + dt.timedelta(seconds=take.recording.length_s / speed) > at - NEAR:
        # chunks may hold what came after: they are made anew of its packets, which are kept until it is settled
        take.recording.chunks.all().delete()
        take.packed_packet, take.settled_s = 0, 0.0
    take.save(update_fields=["ended_at", "last_packet", "packed_packet", "settled_s"])
    settle_soon(take)
    tell(take.station.gym_id, take.station_id, "take", take=take.pk)


def _there(station: Station, at: dt.datetime) -> Take | None:
    """The take of who stood at a station at an instant, locked."""
    rows = station.takes.select_for_update(of=("self",)).select_related("session__student", "recording", "station__gym")
    return rows.filter(Q(ended_at__isnull=True) | Q(ended_at__gt=at), began_at__lte=at).order_by("-began_at").first()


def _end_at(take: Take, at: dt.datetime, other: Student) -> None:
    """It ended when another stepped up, which may be told only now: what came after is no longer this student's.

    Raises BadInput where that can't be, or comes too late to be put right.
    """
    who = take.session.student.name
    begun = take.marks.filter(at__gt=at, sounded=True).exclude(kind=Mark.Kind.STAMPS).exists()
    if begun or (take.stood_at is not None and take.stood_at > at):
        raise BadInput(
            f"Since that tap {who} was tapped, or a set begun, at this bag: {other.name} can't have stood there. "
            f"Tap {other.name} again if it is their turn now."
        )
    if take.settled_at is not None:
        raise BadInput(
            f"{who} stood at this bag then, and is settled. Take out under Read what {other.name} threw of it."
        )
    _end(take, at)


@transaction.atomic
def anew_on_stream(take: Take) -> None:
    """A hub began a new stream under a take that is open. The station is locked first, as whoever steps up does."""
    own_station(take.station.gym, take.station_id)
    now, gym = timezone.now(), take.station.gym
    if not take.recording.strikes.exists() and not take.recording.chunks.exists():
        Take.objects.filter(pk=take.pk, ended_at__isnull=True).update(
            stream=None, first_packet=None, firsts={}, starts={}, packed_packet=0, clock=None
        )
        return
    running = take.marks.filter(kind=Mark.Kind.SET, until__isnull=True).select_related("planned").first()
    end_take(gym, take.pk, now)
    other = begin_take(gym, take.station_id, take.session.student_id, now)
    if running is not None and running.planned is not None:
        p = running.planned
        text = evening.SetText(code=p.code, limb=p.limb, level=p.level, levels=p.levels, school_id=p.school_id,
                               strikes=p.strikes, gear=p.gear)  # fmt: skip
        begin_set(gym, other.pk, Which(text=text), When(at=now))


def forget(student: Student) -> None:
    """Packets of a student's takes that are not settled: of who is erased nothing is kept, and of others everything."""
    for take in Take.objects.filter(session__student=student, settled_at__isnull=True).select_related(
        "station", "stream"
    ):
        if placed(take):
            packets_of(take).delete()
