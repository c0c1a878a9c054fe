"""What a coach does at the bag: stations and their tokens; takes, sets and calls, by the server's clock."""

import datetime as dt
import hashlib
import secrets
from dataclasses import dataclass

from django.db import IntegrityError, transaction
from django.db.models import Q
from django.utils import timezone

from agile_strike.capture.basis import of_today
from agile_strike.capture.models import AnalysisRun, Recording
from agile_strike.core.errors import BadInput, NotYours
from agile_strike.evening import services as evening
from agile_strike.evening.models import PlannedSet
from agile_strike.gym.models import Gym
from agile_strike.intake.queue import ask_once
from agile_strike.kit.models import Bag
from agile_strike.live.models import Mark, Station, Stream, Take, new_key
from agile_strike.live.placing import packets_of, placed
from agile_strike.live.told import tell
from agile_strike.people.models import Student
from agile_strike.people.services import allow
from agile_strike.trials.services import plan_block

TOKEN_BYTES = 24
MOST_STATIONS = 40
EARLIEST = dt.timedelta(hours=12)  # a tablet that had no network tells of the evening once it is back
LATEST = dt.timedelta(seconds=30)
UNKNOWN_RATE_HZ = 1.0  # until its first packet
TASK = "evening"
FASTEST = 20.0
LAST_OF_ALL = dt.datetime.max.replace(tzinfo=dt.UTC)
LAST_LANDS_S = 2.6  # after a set: its last strike is over, the student back in guard


def hashed(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


# --- stations


def make_station(gym: Gym, name: str, bag_id: int) -> tuple[Station, str]:
    """A station, and the token that its hub shows: it is told this once."""
    bag = Bag.objects.for_gym(gym).filter(pk=bag_id).first()
    if bag is None:
        raise NotYours("bag")
    name = name.strip()
    if not name:
        raise BadInput("Say what the station is called, as the bag by the window.")
    if Station.objects.for_gym(gym).count() >= MOST_STATIONS:
        raise BadInput(f"A gym has at most {MOST_STATIONS} stations. Revoke one that is no longer used.")
    token = secrets.token_hex(TOKEN_BYTES)  # urlsafe ones may begin with a dash
    try:
        with transaction.atomic():
            return Station.objects.create(gym=gym, name=name[:60], bag=bag, token_hash=hashed(token)), token
    except IntegrityError as error:
        raise BadInput(f"There is a station called {name[:60]} already. Give this one another name.") from error


@transaction.atomic
def revoke(gym: Gym, station_id: int) -> Station:
    """The hub's token counts no more, and the station is gone; what was recorded there stays."""
    row = own_station(gym, station_id)
    end_open(row, timezone.now())
    row.revoked_at, row.simulated_until, row.simulated_token = timezone.now(), None, ""
    row.save(update_fields=["revoked_at", "simulated_until", "simulated_token"])
    return row


def station_of(token: str) -> Station | None:
    """Whose token it is; None where it is nobody's, or no longer."""
    if not token:
        return None
    return Station.objects.standing().select_related("gym").filter(token_hash=hashed(token)).first()


def own_station(gym: Gym, station_id: int) -> Station:
    """The station's row, locked."""
    row = (
        Station.objects.for_gym(gym)
        .select_for_update(of=("self",))
        .select_related("gym", "bag")
        .filter(pk=station_id)
        .first()
    )
    if row is None:
        raise NotYours("station")
    return row


@transaction.atomic
def simulate(gym: Gym, bag_id: int, speed: float, minutes: float) -> Station:
    """A station at which a simulated student stands; the one that is there goes on."""
    if not 0.1 <= speed <= FASTEST:
        raise BadInput(f"A simulated evening runs at 0.1 to {FASTEST:g} times its speed.")
    row = Station.objects.for_gym(gym).select_for_update(of=("self",)).filter(simulated_token__gt="").first()
    if row is None:
        row, token = make_station(gym, "Simulated student", bag_id)
        row.simulated_token = token
    row.simulated_until, row.simulated_speed = timezone.now() + dt.timedelta(minutes=minutes), speed
    row.save(update_fields=["simulated_token", "simulated_until", "simulated_speed"])
    return row


# --- takes


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
    _end_sets(take, now, list(take.marks.filter(kind=Mark.Kind.SET, until__isnull=True)))
    for open_one in take.marks.filter(until__isnull=True, kind=Mark.Kind.ROUND):
        _close(open_one, now)
    take.ended_at = max(now, take.began_at)
    take.save(update_fields=["ended_at"])
    settle_soon(take)
    tell(take.station.gym_id, take.station_id, "take", take=take.pk)


def settle_soon(take: Take, in_s: float = 0.0) -> None:
    ask_once("settle_take", f"take {take.pk}", in_s, take_id=take.pk)


def own_take(gym: Gym, take_id: int) -> Take:
    """The take's row, locked."""
    rows = Take.objects.for_gym(gym).select_for_update(of=("self",)).select_related("station", "session__student")
    row = rows.filter(pk=take_id).first()
    if row is None:
        raise NotYours("take")
    return row


# --- sets, rounds and calls


@dataclass(frozen=True, slots=True, kw_only=True)
class When:
    """An instant that a tablet tells, by the server's clock as far as the tablet knows it."""

    at: dt.datetime
    doubt_ms: float = 0.0
    key: str = ""

    def checked(self, now: dt.datetime) -> dt.datetime:
        """Raises BadInput where the tablet's clock can't be right."""
        if not now - EARLIEST <= self.at <= now + LATEST:
            raise BadInput("The tablet's clock is off. Reload the page, then tap again.")
        return self.at


@dataclass(frozen=True, slots=True, kw_only=True)
class Which:
    """Which set: one that is planned, a trial's block, or one that is said now."""

    planned_id: int | None = None
    block: tuple[int, int] | None = None  #: of a trial, and its place in the evening
    text: evening.SetText | None = None


@transaction.atomic
def begin_set(gym: Gym, take_id: int, what: Which, when: When) -> Mark:
    """A set begins. What ran then ends with it; a second tap is the first. One that comes late ends nothing that was
    begun after it, and ended itself when that began."""
    take = own_take(gym, take_id)
    allow(take.session.student, gym.today)
    if take.ended_at is not None:
        raise BadInput("This student has stepped back from the bag. Tap the name, then begin.")
    again = take.marks.filter(key=when.key).first() if when.key else None
    if again is not None:
        return again
    at = max(when.checked(timezone.now()), take.began_at)
    sets = take.marks.filter(kind=Mark.Kind.SET)
    _end_sets(take, at, list(sets.filter(Q(until__isnull=True) | Q(until__gt=at), at__lte=at)))
    later = sets.filter(at__gt=at).order_by("at").first()
    planned = _which(gym, take, what)
    evening.begin(gym, planned.pk, at)
    if later is not None:
        evening.end(gym, planned.pk, later.at)
    planned.refresh_from_db()
    mark = Mark.objects.create(
        take=take,
        kind=Mark.Kind.SET,
        key=when.key or new_key(),
        value=planned.value[:300],
        planned=planned,
        at=at,
        doubt_ms=when.doubt_ms,
        until=None if later is None else later.at,
    )
    tell(gym.pk, take.station_id, "set", take=take.pk)
    return mark


def _which(gym: Gym, take: Take, what: Which) -> PlannedSet:
    if what.block is not None:
        student = take.session.student_id
        planned: PlannedSet | None = plan_block(gym, what.block[0], student, what.block[1], gym.today).planned
    elif what.planned_id is not None:
        planned = PlannedSet.objects.for_gym(gym).filter(pk=what.planned_id, session=take.session).first()
    elif what.text is not None:
        planned = evening.plan(gym, take.session_id, what.text)
    else:
        raise BadInput("Say which set begins.")
    if planned is None:
        raise NotYours("set")
    if planned.ended_at is not None:
        raise BadInput("That set has been thrown. Choose the next, or plan it once more.")
    return planned


@transaction.atomic
def ask_stamps(gym: Gym, take_id: int, now: dt.datetime) -> Take:
    take = own_take(gym, take_id)
    take.stamped_at = now
    take.save(update_fields=["stamped_at"])
    tell(gym.pk, take.station_id, "stamps", take=take.pk)
    return take


@transaction.atomic
def end_set(gym: Gym, take_id: int, when: When, key: str = "") -> Take:
    """The set of that key ends, or without one whichever runs; it is settled. A tap that comes late ends the set that
    it was made for, as of its own instant, and no other. Where there is none nothing changes."""
    take = own_take(gym, take_id)
    at = when.checked(timezone.now())
    sets = take.marks.filter(kind=Mark.Kind.SET)
    ends = sets.filter(Q(until__isnull=True) | Q(until__gt=at), key=key) if key else sets.filter(until__isnull=True)
    if ending := list(ends):
        _end_sets(take, at, ending)
        speed = float(take.stream.opening["speed"]) if take.stream else 1.0
        settle_soon(take, LAST_LANDS_S / speed)
        tell(gym.pk, take.station_id, "set", take=take.pk)
    return take


def _end_sets(take: Take, at: dt.datetime, ending: list[Mark]) -> None:
    """What they had still to call is called no more, and a round ends with its set."""
    for mark in ending:
        until = mark.until or LAST_OF_ALL
        _close(mark, at)
        take.marks.filter(kind=Mark.Kind.CUE, sounded=False, at__gt=at, at__lte=until).delete()
        for round_ in take.marks.filter(kind=Mark.Kind.ROUND, at__gte=mark.at, at__lte=until, until__gt=at):
            round_.until = max(at, round_.at)
            round_.save(update_fields=["until"])


@transaction.atomic
def call(gym: Gym, take_id: int, kind: str, value: str, when: When, until: dt.datetime | None = None) -> Mark:
    """Something was called or sounded. Told twice under one key it counts once."""
    take = own_take(gym, take_id)
    if kind not in (Mark.Kind.CUE, Mark.Kind.ROUND, Mark.Kind.STAMPS):
        raise BadInput("Only a cue, a round or stamps can be called.")
    again = take.marks.filter(key=when.key).first() if when.key else None
    if again is not None:
        return again
    at = when.checked(timezone.now())
    if until is not None and until < at:
        raise BadInput("It ends before it begins: give a later end.")
    mark = Mark.objects.create(
        take=take, kind=kind, key=when.key or new_key(), value=value[:300], at=at, doubt_ms=when.doubt_ms, until=until
    )
    tell(gym.pk, take.station_id, kind, take=take.pk)
    return mark


def _close(mark: Mark, at: dt.datetime) -> None:
    mark.until = max(at, mark.at)
    mark.save(update_fields=["until"])
    if mark.planned is not None:
        evening.end(mark.take.station.gym, mark.planned.pk, mark.until)


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
