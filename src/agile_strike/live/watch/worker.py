"""The live worker: packets in, provisional strikes out, for all stations of the database.

It keeps nothing that can't be made anew: killed, it reads the latest packets of each open take and goes on.
"""

import contextlib
import datetime as dt
import logging
import time
from collections import defaultdict
from collections.abc import Iterator
from typing import Any

import psycopg
from django.db import InterfaceError, OperationalError, close_old_connections, connection
from django.db.models import Exists, Min, OuterRef, Q, QuerySet
from django.utils import timezone

from agile_strike.core.errors import BadInput
from agile_strike.core.strikes import Strike as Found
from agile_strike.formats.packets import UnitFacts, decode, opening_of
from agile_strike.live.models import Mark, Packet, Stream, Take
from agile_strike.live.taps.takes import anew_on_stream
from agile_strike.live.telling.queue import settle_soon
from agile_strike.live.telling.told import PACKETS, tell
from agile_strike.live.watch.cursors import Cursors
from agile_strike.live.watch.kit import Kit
from agile_strike.live.watch.line import Line, line_of
from agile_strike.live.watch.nobodys import Nobodys
from agile_strike.live.watch.share import Share
from agile_strike.live.whose.of_set import mark_at
from agile_strike.live.whose.placing import placed
from agile_strike.review.keep import keep_provisional
from agile_strike.review.models import Strike

WAIT_S = 0.25  # for news, before it looks by itself
#: columns that are read when a take has been settled, not some times a second
HEAVY = (
    "state",
    "recording__events",
    *(f"recording__analysis__{n}" for n in ("flags", "not_measured", "clocks", "bursts", "bag_state")),
)
TAKES_EVERY_S = 0.25
CLEAN_EVERY_S = 30.0
CLOCK_EVERY_S = 1.0
CLOCK_MOVED_S = 0.02  # on the reference clock: less changes nothing that anybody sees
IDLE_KEPT = dt.timedelta(minutes=15)  # packets that no take holds: a tap may be on its way that does
LAST_KEPT = dt.timedelta(hours=12)  # the last of them
SWEPT = dt.timedelta(minutes=1)  # after which a take that has ended is asked to be settled once more
FIRST_LEARN = 6  # strikes: the student's units can then be tied to the bag's
BEFORE_S = 6.0  # of samples before the last known strike, that are looked at again: a search wants some
AGAIN_S = 1200.0  # behind a take's latest packet: what lies before that is told once it settles

log = logging.getLogger(__name__)


class Worker:
    def __init__(self) -> None:
        self.lines: dict[int, Line] = {}  #: by take
        self._cursors = Cursors()
        self._watched: set[int] = set()  #: the latest stream of each station
        self._listens: psycopg.Connection[Any] | None = None
        self._share: Share | None = None  #: none: all stations are this one's
        self._takes_at = -1e9
        self._open: dict[int, Take] = {}
        self._stood: list[tuple[Any, ...]] = []  #: what of them changes, as it was when they were looked up
        self._streams: dict[int, Stream] = {}
        self._units: dict[int, dict[str, UnitFacts]] = {}
        self._kit = Kit()
        self._nobodys = Nobodys()
        self._cleaned_at = 0.0
        self._stumbled: set[int] = set()  #: takes of which something could not be measured
        self._learns: dict[int, int] = defaultdict(int)

    def run_for_ever(self) -> None:
        while True:
            try:
                self.wait()
                self.step()
            except (OperationalError, InterfaceError, psycopg.OperationalError) as error:
                if isinstance(error.__cause__, psycopg.errors.DeadlockDetected):
                    continue  # one of two had to give way: what it was about is looked at again
                log.warning("the database is away; the live worker waits for it")
                self._forget()
                time.sleep(0.5)

    def wait(self) -> None:
        """Until packets have come, or a moment."""
        if self._listens is None:
            said = {
                k: v for k, v in connection.get_connection_params().items() if k not in ("cursor_factory", "context")
            }
            self._listens = psycopg.connect(**said, autocommit=True)
            self._listens.execute(f"LISTEN {PACKETS}")
            self._share = Share(self._listens)
        for _ in self._listens.notifies(timeout=WAIT_S, stop_after=1):
            pass

    def _forget(self) -> None:
        """Start anew: what was on its way when the database went may not have been kept."""
        if self._listens is not None:
            self._listens.close()
        self._listens = self._share = None
        self.lines.clear()
        self._cursors = Cursors()
        self._takes_at = -1e9
        self._stood = []
        close_old_connections()

    def step(self) -> None:
        """Take in what came, find what is to be found, tell it. What a bag felt is told before anybody's rest is worked
        out, which takes longer and nobody waits for."""
        more = True
        while more:
            takes = self._takes()
            now = time.monotonic()
            self._take_in(takes, self._cursors.piece(self._streams_of(takes), now))
            for key, line in list(self.lines.items()):
                with self._alone(key):
                    self._measure(line)
            more = self._one_rest() or self._cursors.more
            self._kit.tell(now, timezone.now(), self._nobodys)
            if time.monotonic() - self._cleaned_at > CLEAN_EVERY_S:
                self._cleaned_at = time.monotonic()
                clean(timezone.now())

    @contextlib.contextmanager
    def _alone(self, take_id: int) -> Iterator[None]:
        """One bag's trouble is no other's: its line goes on with what comes next; the rest settles."""
        try:
            yield
        except (OperationalError, InterfaceError):
            raise
        except Exception:
            log.exception("take %s could not be measured just now", take_id)
            self.lines.pop(take_id, None)
            self._stumbled.add(take_id)

    # --- packets

    def _takes(self) -> dict[int, Take]:
        """Open takes, looked up anew some times a second, with their lines."""
        now = time.monotonic()
        if now - self._takes_at < TAKES_EVERY_S:
            return self._open
        self._takes_at = now
        latest = (
            Stream.objects.filter(station__revoked_at__isnull=True).order_by("station_id", "-id").distinct("station_id")
        )
        by_station = dict(latest.values_list("station_id", "pk"))
        standing = Take.objects.filter(ended_at__isnull=True)
        if self._share is not None:
            waiting = set(standing.values_list("station_id", flat=True))
            own = self._share.renew(by_station.keys() | waiting)
            by_station = {k: s for k, s in by_station.items() if k in own}
            standing = standing.filter(station__in=own)
            self._kit.keep(own)
        self._watched = set(by_station.values())
        stood = list(standing.order_by("pk").values_list("pk", "stream", "first_packet", "settled_s"))
        if stood != self._stood:
            along = ("station__gym", "stream", "session__student", "recording__analysis", "recording__bag_version")
            self._open = {t.pk: t for t in standing.select_related(*along).defer(*HEAVY)}
            self._stood = stood
        for key in [k for k in self.lines if k not in self._open]:
            del self.lines[key]
        for key, take in self._open.items():
            with self._alone(key):
                if key not in self.lines:
                    self.lines[key] = self._again(take)
                else:
                    self._refreshed(self.lines[key], take)
        running: dict[int, list[str]] = defaultdict(list)
        open_sets = Mark.objects.filter(take__in=list(self._open), kind=Mark.Kind.SET, until__isnull=True)
        for key, value in open_sets.values_list("take_id", "value"):
            running[key].append(value)
        for key, line in self.lines.items():
            line.running = tuple(running[key])
        return self._open

    def _streams_of(self, takes: dict[int, Take]) -> set[int]:
        return self._watched | {t.stream_id for t in takes.values() if t.stream_id is not None}

    def _facts(self, stream_id: int) -> dict[str, UnitFacts]:
        if stream_id not in self._streams:
            self._streams[stream_id] = Stream.objects.get(pk=stream_id)
            self._units[stream_id] = opening_of(self._streams[stream_id].opening).units
        return self._units[stream_id]

    def _take_in(self, takes: dict[int, Take], new: list[int]) -> None:
        if not new:
            return
        by_station = {t.station_id: t for t in takes.values()}
        now = time.monotonic()
        rows = Packet.objects.filter(id__in=new).order_by("stream", "number")
        for stream_id, number, came, content in rows.values_list("stream_id", "number", "received_at", "content"):
            facts = self._facts(stream_id)
            stream = self._streams[stream_id]
            take = by_station.get(stream.station_id)
            with self._alone(0 if take is None else take.pk):
                packet = decode(bytes(content))
                self._kit.note(stream.station_id, packet, facts, now)
                self._kit.note_lag(stream.station_id, came, timezone.now())
                self._nobodys.note(packet, stream, take)
                if take is None or take.pk not in self.lines:
                    continue
                if take.stream_id is not None and take.stream_id != stream_id:
                    if stream_id > take.stream_id:
                        self._another_stream(take)
                        del by_station[stream.station_id]
                elif take.first_packet is None:
                    if placed(take):  # with all that has come of it
                        self.lines[take.pk] = self._again(take)
                elif number >= take.first_packet:
                    self.lines[take.pk].take = take
                    self.lines[take.pk].take_in(packet, facts)

    def _another_stream(self, take: Take) -> None:
        """The hub began anew, with nothing left of what it had: who has not struck yet goes on with it, who has goes on
        in a take of their own, and so does a set that runs."""
        self._takes_at, self._stood = -1e9, []
        try:
            anew_on_stream(take)
        except BadInput as error:
            log.warning("station %s could not go on: %s", take.station_id, error)
        self.lines.pop(take.pk, None)

    def _again(self, take: Take) -> Line:
        """What is held of a take, from its latest packets."""
        line = line_of(take)
        placed(take)
        if take.stream is None or take.first_packet is None:
            return line
        facts = self._facts(take.stream.pk)
        rows = Packet.objects.filter(stream=take.stream, number__gte=take.first_packet)
        first = rows.order_by("number").first()
        if first is not None and "bag" not in line.firsts:
            line.take_in(decode(bytes(first.content)), facts)
        own = Strike.objects.filter(recording=take.recording).order_by("-contact_s")
        known = list(own.values_list("contact_s", flat=True)[:20])
        line.judged.extend(known)
        if take.pk in self._stumbled:  # over the same again?
            return line
        from_s = max(known[0] if known else 0.0, take.settled_s)
        line.look_from(from_s, facts)
        self._cursors.look_from(take.stream.pk, packet_at(rows, line, from_s - BEFORE_S))
        return line

    def _refreshed(self, line: Line, take: Take) -> None:
        """What the batch, or another process, has written of the take meanwhile."""
        if take.settled_s != line.take.settled_s:
            line.told(take.state, take.firsts)
        line.take = take

    # --- strikes

    def _measure(self, line: Line) -> None:
        take = line.take
        for found in line.found():
            self._tell(line, found, whole=False)
            self._learns[take.pk] += 1
            worn = [n for n in line.gathered if n != "bag"]
            if worn and line.state.body is None and self._learns[take.pk] % FIRST_LEARN == 0:
                settle_soon(take)
        self._keep_clock(line)

    def _one_rest(self) -> bool:
        """The rest of the strike that has waited longest; whether there was one."""
        ripe = {key: line.now_s - at for key, line in self.lines.items() if (at := line.ripe) is not None}
        if not ripe:
            return False
        key = max(ripe, key=ripe.__getitem__)
        line = self.lines[key]
        with self._alone(key):
            at = line.ripe
            assert at is not None
            found = line.rest(at)
            if found is not None:
                self._tell(line, found, whole=True)
        return True

    def _tell(self, line: Line, found: Found, whole: bool) -> None:
        take = line.take
        row = keep_provisional(take.recording, found)
        sets = list(Mark.objects.filter(take=take, kind=Mark.Kind.SET))
        said = told(row, found, whole) | {"mark": mark_at(take, sets, found.contact_s)}
        tell(take.station.gym_id, take.station_id, "strike", take=take.pk, **said)

    def _keep_clock(self, line: Line) -> None:
        """How the clocks stand, by the quickest packet so far: the first ones may all have been held up. What the batch
        has found by all of them stands."""
        take, now = line.take, time.monotonic()
        if take.settled_s or line.now_s <= 1.0 or now - line.clock_at < CLOCK_EVERY_S:
            return
        line.clock_at = now
        clock = line.on_reference
        if clock is None or not clock.differs(take.clock, now_s=line.now_s, by_s=CLOCK_MOVED_S):
            return
        take.clock = clock.to_json()
        if Take.objects.filter(pk=take.pk, settled_s=0.0).update(clock=take.clock):
            tell(take.station.gym_id, take.station_id, "set", take=take.pk)


def packet_at(rows: QuerySet[Packet], line: Line, at_s: float) -> int:
    """Number of the packet that held a second of a take, of those that are here; of the oldest that is looked at again
    where that second lies further back."""
    latest = rows.order_by("-number").first()
    if latest is None:
        assert line.take.first_packet is not None
        return line.take.first_packet
    assert line.take.stream is not None
    speed = float(line.take.stream.opening["speed"])
    ends_s = line.ends_s(decode(bytes(latest.content)))
    back_s = AGAIN_S if ends_s is None else min((ends_s - at_s) / speed, AGAIN_S)
    return int(rows.filter(gathered_s__gte=latest.gathered_s - back_s).aggregate(first=Min("number"))["first"])


def told(row: Strike, found: Found, whole: bool) -> dict[str, Any]:
    """What a screen needs to show a strike at once."""
    return {
        "strike": row.pk,
        "number": row.number,
        "contact_s": round(found.contact_s, 4),
        "limb": row.limb_said,
        "flags": row.flags,
        "version": row.version,
        "whole": whole,
        "measures": {n: [round(m.value, 5), round(m.sd, 5)] for n, m in found.measures.items()},
    }


def clean(now: dt.datetime) -> None:
    """Packets that no take holds, nor will: a class talks between sets, and nobody asked to keep that. The last of each
    stream stays for a while: with it the next student's first packet is known to be that. A take that was left without
    a job is settled all the same."""
    later = Packet.objects.filter(stream=OuterRef("stream"), number__gt=OuterRef("number"))
    idle = Packet.objects.filter(Exists(later) | Q(received_at__lt=now - LAST_KEPT), received_at__lt=now - IDLE_KEPT)
    held = Take.objects.filter(settled_at__isnull=True, first_packet__isnull=False)
    for stream, first in held.values_list("stream_id", "first_packet"):
        idle = idle.exclude(stream_id=stream, number__gte=first)
    # a station where a take waits for its first packet keeps what has come
    waiting = Take.objects.filter(settled_at__isnull=True, first_packet__isnull=True).values("station_id")
    idle.exclude(stream__station_id__in=waiting).delete()
    for take in Take.objects.filter(settled_at__isnull=True, failed="", ended_at__lt=now - SWEPT):
        settle_soon(take, SWEPT.total_seconds())
