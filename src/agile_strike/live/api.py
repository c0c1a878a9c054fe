"""At the bag: stations, takes, sets and calls; and what the screens there show."""

import datetime as dt
import time
from typing import Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema, Status
from pydantic import Field

from agile_strike.core.children import is_child
from agile_strike.core.errors import BadInput, NotYours
from agile_strike.core.sets.calls import Round
from agile_strike.evening import services as evening
from agile_strike.evening.api import PlanIn
from agile_strike.evening.models import Session
from agile_strike.evening.services import SetText, said
from agile_strike.gym.asking import found, gym
from agile_strike.gym.bodies import Changed, Count, Finite, Id, In, Line, Moment, Name, Problem, Word
from agile_strike.live.door import stations as by_the_door
from agile_strike.live.models import Station, Take
from agile_strike.live.screens import pages, sentence, tonight, volume
from agile_strike.live.settling.unsettled import Unsettled, try_again, unsettled
from agile_strike.live.taps import rounds, sets, sound, takes
from agile_strike.live.telling.told import LiveEvent
from agile_strike.people.models import Student
from agile_strike.people.services import age_of

router = Router()


class StationIn(In):
    name: Name
    bag_id: Id


class TokenOut(Schema):
    """A station that was made, and its token, told this once."""

    id: int
    name: str
    token: str


class SimulateIn(In):
    bag_id: Id
    speed: Finite = 1.0
    minutes: Finite = Field(60.0, ge=1.0, le=240.0)


class TurnIn(In):
    student_id: Id
    at: Moment | None = None  #: by the server's clock, as the tablet knows it; now where it says nothing
    key: Word = ""


class WhoseIn(In):
    """Whose blows those were that nobody was said to throw."""

    student_id: Id
    since: Moment
    until: Moment
    key: Word = ""


class HereIn(In):
    here: bool


def aware(at: dt.datetime) -> dt.datetime:
    """A time that is told without a zone is the server's own."""
    return at if at.tzinfo else at.replace(tzinfo=dt.UTC)


class WhenIn(In):
    """An instant by the server's clock, as the tablet knows it, and how well it does."""

    at: Moment
    doubt_ms: Finite = Field(0.0, ge=0.0, le=10_000.0)
    key: Word = ""

    @property
    def when(self) -> sets.When:
        return sets.When(at=aware(self.at), doubt_ms=self.doubt_ms, key=self.key[:20])


class BeginIn(WhenIn):
    planned_id: Id | None = None
    trial_id: Id | None = None
    place: Count | None = None  #: of the trial's block in the evening
    text: PlanIn | None = None


class SetEndIn(WhenIn):
    mark: Word = ""  #: key of the set that ends; empty for the one that runs


class CallIn(WhenIn):
    kind: Word
    value: Line = Field("", max_length=300)
    until: Moment | None = None


class RoundIn(WhenIn):
    length_s: Finite = 120.0
    calls: list[Line] = Field(max_length=60)
    order: Word = "random"
    gap_s: Finite = 3.0
    last_gap_s: Finite = 3.0
    body_share: Finite = Field(0.0, ge=0.0, le=1.0)
    rush: bool = False


class SoundedIn(In):
    cues: list[WhenIn] = Field(max_length=500)


class BeepsIn(In):
    beeps: list[Moment] = Field(max_length=60)  #: when each was given to the loudspeaker, by the server's clock
    doubt_ms: Finite = Field(0.0, ge=0.0, le=10_000.0)


class ClockOut(Schema):
    server_s: float


@router.get("/live/events", response=LiveEvent)
def live_events(request: HttpRequest) -> None:
    """Server-sent events, one of these each. `screens.events` answers this address; here stands what it tells."""
    raise NotYours("stream of events")


@router.get("/live/clock", response=ClockOut)
def clock(request: HttpRequest) -> ClockOut:
    """For a tablet that asks how its clock stands to ours."""
    return ClockOut(server_s=time.time())


@router.get("/tonight", response=list[tonight.Tonight])
def tonight_list(request: HttpRequest) -> list[tonight.Tonight]:
    """The class list, as it stands tonight."""
    return tonight.tonight(gym(request))


@router.put("/tonight/{student_id}", response={200: Changed, 422: Problem})
def came(request: HttpRequest, student_id: int, what: HereIn) -> Changed:
    own = gym(request)
    student = found(Student.objects.for_gym(own), student_id, "student")
    return Changed(changed=evening.came(own, student, own.today, what.here).pk)


@router.get("/evenings/{evening_id}/volume-counts", response=list[volume.VolumeCount])
def volumes(request: HttpRequest, evening_id: int) -> list[volume.VolumeCount]:
    """How an evening's counts stand."""
    rows = Session.objects.for_gym(gym(request)).select_related("student")
    return volume.volumes_of(found(rows, evening_id, "evening"), None, [])


@router.get("/stations", response=list[pages.StationRow])
def stations(request: HttpRequest) -> list[pages.StationRow]:
    return pages.all_stations(gym(request))


@router.post("/stations", response={201: TokenOut, 422: Problem})
def make_station(request: HttpRequest, what: StationIn) -> Any:
    row, token = by_the_door.make_station(gym(request), what.name, what.bag_id)
    return Status(201, TokenOut(id=row.pk, name=row.name, token=token))


@router.delete("/stations/{station_id}", response={200: Changed, 422: Problem})
def revoke(request: HttpRequest, station_id: int) -> Changed:
    by_the_door.revoke(gym(request), station_id)
    return Changed(changed=1)


@router.post("/simulated-stations", response={201: Changed, 422: Problem})
def simulate(request: HttpRequest, what: SimulateIn) -> Any:
    """A simulated student at a station of its own; which, is in the answer."""
    return Status(201, Changed(changed=by_the_door.simulate(gym(request), what.bag_id, what.speed, what.minutes).pk))


@router.post("/stations/{station_id}/takes", response={201: pages.TakePage, 422: Problem})
def begin_take(request: HttpRequest, station_id: int, what: TurnIn) -> Any:
    own = gym(request)
    now = timezone.now()
    at = now if what.at is None else min(now, sets.When(at=aware(what.at)).checked(now))
    take = takes.begin_take(own, station_id, what.student_id, at, what.key[:20])
    return Status(201, _page(request, take.pk))


@router.post("/stations/{station_id}/nobodys", response={200: Changed, 422: Problem})
def whose(request: HttpRequest, station_id: int, what: WhoseIn) -> Changed:
    """Blows that nobody was said to throw are a student's; the evening that they are in."""
    now = timezone.now()
    since, until = (sets.When(at=aware(t)).checked(now) for t in (what.since, what.until))
    if until < since:
        raise BadInput("They end before they begin: give a later end.")
    take = takes.claim(gym(request), station_id, what.student_id, since, until, what.key[:20])
    return Changed(changed=take.session_id)


@router.get("/stations/{station_id}/take", response={200: pages.TakePage | None, 422: Problem})
def take_at(request: HttpRequest, station_id: int) -> pages.TakePage | None:
    """The take that is open at a station; nothing where nobody stands there."""
    own = gym(request)
    station = found(Station.objects.for_gym(own), station_id, "station")
    take = pages.open_takes(own).filter(station=station).first()
    return None if take is None else _page(request, take.pk)


@router.get("/takes/{take_id}", response=pages.TakePage)
def take(request: HttpRequest, take_id: int) -> pages.TakePage:
    return _page(request, take_id)


@router.get("/takes/{take_id}/usual", response=list[sentence.Usual])
def usual(request: HttpRequest, take_id: int, code: str) -> list[sentence.Usual]:
    """The student's own usual ranges for a strike."""
    return sentence.usual_of(found(Take.objects.for_gym(gym(request)), take_id, "take"), code)


@router.post("/takes/{take_id}/end", response={200: Changed, 422: Problem})
def end_take(request: HttpRequest, take_id: int, what: WhenIn | None = None) -> Changed:
    """The student steps back: at the tap's instant, however late it comes."""
    now = timezone.now()
    takes.end_take(gym(request), take_id, now if what is None else min(now, what.when.checked(now)))
    return Changed(changed=1)


@router.get("/evenings/{evening_id}/unsettled", response=list[Unsettled])
def unsettled_of(request: HttpRequest, evening_id: int) -> list[Unsettled]:
    """Turns of an evening whose figures are still the first ones."""
    return unsettled(gym(request), evening_id)


@router.post("/takes/{take_id}/settle", response={200: Changed, 422: Problem})
def settle_again(request: HttpRequest, take_id: int) -> Changed:
    """One that could not be settled is tried once more."""
    try_again(gym(request), take_id)
    return Changed(changed=1)


@router.post("/takes/{take_id}/sets", response={201: pages.TakePage, 422: Problem})
def begin_set(request: HttpRequest, take_id: int, what: BeginIn) -> Any:
    which = sets.Which(
        planned_id=what.planned_id,
        block=None if what.trial_id is None else (what.trial_id, what.place or 0),
        text=None if what.text is None else said(gym(request), SetText(**what.text.model_dump())),
    )
    sets.begin_set(gym(request), take_id, which, what.when)
    return Status(201, _page(request, take_id))


@router.post("/takes/{take_id}/sets/end", response={200: pages.TakePage, 422: Problem})
def end_set(request: HttpRequest, take_id: int, what: SetEndIn) -> pages.TakePage:
    sets.end_set(gym(request), take_id, what.when, what.mark)
    return _page(request, take_id)


@router.post("/takes/{take_id}/rounds", response={201: pages.TakePage, 422: Problem})
def begin_round(request: HttpRequest, take_id: int, what: RoundIn) -> Any:
    """A round with calls: it begins in some seconds, and its calls are in the answer."""
    plan = Round(
        length_s=what.length_s,
        calls=tuple(what.calls),
        order=what.order,
        gap_s=what.gap_s,
        last_gap_s=what.last_gap_s,
        body_share=what.body_share,
        rush=what.rush,
    )
    rounds.begin_round(gym(request), take_id, plan, what.when)
    return Status(201, _page(request, take_id))


@router.post("/takes/{take_id}/sounded", response={200: Changed, 422: Problem})
def sounded(request: HttpRequest, take_id: int, what: SoundedIn) -> Changed:
    """Which cues were heard, and when."""
    heard = [rounds.Sounded(c.key, aware(c.at), c.doubt_ms) for c in what.cues]
    return Changed(changed=rounds.sounded(gym(request), take_id, heard))


@router.post("/takes/{take_id}/beeps", response={200: sound.SoundDelay, 422: Problem})
def beeps(request: HttpRequest, take_id: int, what: BeepsIn) -> sound.SoundDelay:
    """How late a tablet sounds: somebody tapped the bag with each of its beeps."""
    return sound.sound_delay(gym(request), take_id, [aware(b) for b in what.beeps], what.doubt_ms)


@router.post("/takes/{take_id}/calls", response={201: Changed, 422: Problem})
def call(request: HttpRequest, take_id: int, what: CallIn) -> Any:
    until = None if what.until is None else aware(what.until)
    sets.call(gym(request), take_id, what.kind, what.value, what.when, until)
    return Status(201, Changed(changed=1))


@router.post("/takes/{take_id}/stamps", response={200: Changed, 422: Problem})
def stamps(request: HttpRequest, take_id: int) -> Changed:
    """Three stamps are asked for now: they tie the clocks of what is worn."""
    sets.ask_stamps(gym(request), take_id, timezone.now())
    return Changed(changed=1)


def _page(request: HttpRequest, take_id: int) -> pages.TakePage:
    own = gym(request)
    rows = Take.objects.for_gym(own).select_related(
        "session__student", "recording__bag_version__bag", "station", "stream"
    )
    row = found(rows, take_id, "take")
    return pages.take_page(own, row, is_child(age_of(row.session.student.birth_date, own.today)))
