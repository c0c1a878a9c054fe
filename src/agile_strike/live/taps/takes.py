"""Who stands at the bag: a take begins when a student steps up, and ends when they step back."""

import datetime as dt

from django.db import transaction
from django.utils import timezone

from agile_strike.capture.basis import of_today
from agile_strike.capture.models import AnalysisRun, Recording
from agile_strike.core.errors import NotYours
from agile_strike.evening import services as evening
from agile_strike.gym.models import Gym
from agile_strike.live.models import Mark, Station, Stream, Take, new_key
from agile_strike.live.taps.own import own_station, own_take
from agile_strike.live.taps.sets import When, Which, begin_set, close, end_sets
from agile_strike.live.telling.queue import settle_soon
from agile_strike.live.telling.told import tell
from agile_strike.live.whose.placing import packets_of, placed
from agile_strike.people.models import Student
from agile_strike.people.services import allow

UNKNOWN_RATE_HZ = 1.0  # until its first packet
TASK = "evening"


@transaction.atomic
def begin_take(gym: Gym, station_id: int, student_id: int, now: dt.datetime) -> Take:
    """A student steps up to the bag. Whoever was there steps back; a second tap on the same student changes nothing."""
    station = own_station(gym, station_id)
    student = Student.objects.for_gym(gym).filter(pk=student_id).first()
    if student is None:
        raise NotYours("student")
    allow(student, gym.today)
    there = Take.objects.filter(station=station, ended_at__isnull=True).select_related("session").first()
    if there is not None and there.session.student_id == student.pk:
        return there
    end_open(station, now)
    session = evening.evening_of(student, gym.today)
    stream = Stream.objects.filter(station=station).first()
    key = new_key()
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
        station=station, session=session, recording=recording, key=key, began_at=now, stream=stream
    )
    tell(gym.pk, station.pk, "take", take=take.pk)
    return take


@transaction.atomic
def end_take(gym: Gym, take_id: int, now: dt.datetime) -> Take:
    """The student steps back: what runs ends, and the batch settles all of it. A tap that comes so late that something
    was begun after it ends nothing: the student was still there."""
    take = own_take(gym, take_id)
    if not take.marks.filter(at__gt=now, sounded=True).exists():
        _end(take, now)
    return take


def end_open(station: Station, now: dt.datetime) -> None:
    for take in Take.objects.select_for_update(of=("self",)).filter(station=station, ended_at__isnull=True):
        _end(take, now)


def _end(take: Take, now: dt.datetime) -> None:
    if take.ended_at is not None:
        return
    end_sets(take, now, list(take.marks.filter(kind=Mark.Kind.SET, until__isnull=True)))
    for open_one in take.marks.filter(until__isnull=True, kind=Mark.Kind.ROUND):
        close(open_one, now)
    take.ended_at = max(now, take.began_at)
    take.save(update_fields=["ended_at"])
    settle_soon(take)
    tell(take.station.gym_id, take.station_id, "take", take=take.pk)


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
