"""The live worker: packets in, provisional strikes out, for all stations of the database.

It keeps nothing that can't be made anew: killed, it reads the latest packets of each open take and goes on.
"""

import contextlib
import datetime as dt
import logging
import time
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import psycopg
from django.db import InterfaceError, OperationalError, close_old_connections, connection
from django.db.models import Exists, Max, OuterRef, Q
from django.utils import timezone

from agile_strike.core.errors import BadInput
from agile_strike.core.strikes import Strike as Found
from agile_strike.formats.packets import Packet as Sent
from agile_strike.formats.packets import UnitFacts, decode, opening_of
from agile_strike.live.models import Mark, Packet, Station, Stream, Take
from agile_strike.live.taps.takes import anew_on_stream
from agile_strike.live.telling.queue import settle_soon
from agile_strike.live.telling.told import PACKETS, tell
from agile_strike.live.watch.line import HELD_S, Line, line_of
from agile_strike.live.watch.nobodys import Nobodys
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
KIT_EVERY_S = 1.0
CLEAN_EVERY_S = 30.0
CLOCK_EVERY_S = 1.0
CLOCK_MOVED_S = 0.02  # on the reference clock: less changes nothing that anybody sees
IDLE_KEPT = dt.timedelta(minutes=15)  # packets that no take holds: a tap may be on its way that does
LAST_KEPT = dt.timedelta(hours=12)  # the last of them
SWEPT = dt.timedelta(minutes=1)  # after which a take that has ended is asked to be settled once more
MISSED_S = 60.0  # that a packet may come after its neighbours and still be looked at at once
BEHIND = 50  # packets before the latest, from which a stream is looked at that was not before
FIRST_LEARN = 6  # strikes: the student's units can then be tied to the bag's
CHUNK_PACKETS = 200
SILENT_S = 1.5  # without a sample, of a unit whose hub goes on sending

log = logging.getLogger(__name__)


@dataclass(slots=True)
class Cursor:
    """Which packets of a stream have been looked at: all below `floor`, and some beyond it."""

    floor: int
    seen: set[int] = field(default_factory=set)
    waits_since: float | None = None  #: for the packet at the floor, while later ones are there

    def is_new(self, number: int) -> bool:
        new = number not in self.seen
        self.seen.add(number)
        return new

    def go_on(self, now: float) -> None:
        """Up to the first that is missing, or beyond it once it has been waited for long enough."""
        before = self.floor
        if self.waits_since is not None and now - self.waits_since > MISSED_S and self.seen:
            self.floor = min(self.seen)
        while self.floor in self.seen:
            self.seen.remove(self.floor)
            self.floor += 1
        if self.floor != before or not self.seen:
            self.waits_since = None
        if self.seen and self.waits_since is None:
            self.waits_since = now


class Worker:
    def __init__(self) -> None:
        self.lines: dict[int, Line] = {}  #: by take
        self._cursors: dict[int, Cursor] = {}  #: by stream
        self._watched: set[int] = set()  #: the latest stream of each station
        self._listens: psycopg.Connection[Any] | None = None
        self._kit_at = self._takes_at = -1e9
        self._open: dict[int, Take] = {}
        self._stood: list[tuple[Any, ...]] = []  #: what of them changes, as it was when they were looked up
        self._streams: dict[int, Stream] = {}
        self._units: dict[int, dict[str, UnitFacts]] = {}
        self._kit: dict[int, dict[str, list[float]]] = defaultdict(dict)
        self._nobodys = Nobodys()
        self._cleaned_at = 0.0
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
        for _ in self._listens.notifies(timeout=WAIT_S, stop_after=1):
            pass

    def _forget(self) -> None:
        """Start anew: what was on its way when the database went may not have been kept."""
        if self._listens is not None:
            self._listens.close()
        self._listens = None
        self.lines.clear()
        self._cursors.clear()
        self._takes_at = -1e9
        self._stood = []
        close_old_connections()

    def step(self) -> None:
        """Take in what came, find what is to be found, tell it. What a bag felt is told before anybody's rest is worked
        out, which takes longer and nobody waits for."""
        more = True
        while more:
            takes = self._takes()
            self._take_in(takes, self._new())
            for key, line in list(self.lines.items()):
                with self._alone(key):
                    self._measure(line)
            more = self._one_rest()
            self._tell_kit()
            if time.monotonic() - self._cleaned_at > CLEAN_EVERY_S:
                self._cleaned_at = time.monotonic()
                clean(timezone.now())

    @contextlib.contextmanager
    def _alone(self, take_id: int) -> Iterator[None]:
        """One bag's trouble is no other's: its line is made anew from what is kept."""
        try:
            yield
        except (OperationalError, InterfaceError):
            raise
        except Exception:
            log.exception("take %s could not be measured just now", take_id)
            self.lines.pop(take_id, None)

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
        self._watched = set(latest.values_list("pk", flat=True))
        standing = Take.objects.filter(ended_at__isnull=True)
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

    def _facts(self, stream_id: int) -> dict[str, UnitFacts]:
        if stream_id not in self._streams:
            self._streams[stream_id] = Stream.objects.get(pk=stream_id)
            self._units[stream_id] = opening_of(self._streams[stream_id].opening).units
        return self._units[stream_id]

    def _new(self) -> list[int]:
        """Ids of packets that have not been looked at, by streams. Two web processes commit in whatever order: the
        numbers of each stream tell what is new, and no id does."""
        keys = self._watched | {t.stream_id for t in self._open.values() if t.stream_id is not None}
        for key in keys - self._cursors.keys():
            last = Packet.objects.filter(stream=key).aggregate(last=Max("number"))["last"]
            self._cursors[key] = Cursor(0 if last is None else max(0, last - BEHIND))
        wanted = Q()
        for key in keys:
            wanted |= Q(stream=key, number__gte=self._cursors[key].floor)
        if not keys:
            return []
        rows = Packet.objects.filter(wanted).order_by("stream", "number").values_list("pk", "stream_id", "number")
        new = [pk for pk, stream, number in rows if self._cursors[stream].is_new(number)]
        now = time.monotonic()
        for key in keys:
            self._cursors[key].go_on(now)
        return new

    def _take_in(self, takes: dict[int, Take], new: list[int]) -> None:
        if not new:
            return
        by_station = {t.station_id: t for t in takes.values()}
        rows = Packet.objects.filter(id__in=new).order_by("stream", "number")
        for stream_id, number, content in rows.values_list("stream_id", "number", "content"):
            facts = self._facts(stream_id)
            stream = self._streams[stream_id]
            take = by_station.get(stream.station_id)
            with self._alone(0 if take is None else take.pk):
                packet = decode(bytes(content))
                self._note_kit(stream.station_id, packet, facts)
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
        rows = Packet.objects.filter(stream=take.stream, number__gte=take.first_packet)
        since = timezone.now() - dt.timedelta(seconds=HELD_S)
        first = rows.order_by("number").first()
        recent = list(rows.filter(received_at__gte=since).order_by("number"))
        if recent:
            self._cursors[take.stream.pk] = Cursor(recent[0].number, {r.number for r in recent})
        if first is not None and "bag" not in line.firsts:
            recent = [first, *(r for r in recent if r.pk != first.pk)]
        facts = self._facts(take.stream.pk)
        for row in recent:
            line.take_in(decode(bytes(row.content)), facts)
        own = Strike.objects.filter(recording=take.recording).order_by("-contact_s")
        known = list(own.values_list("contact_s", flat=True)[:20])
        line.judged.extend(known)
        line.look_from(max(known, default=0.0))
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

    # --- the kit

    def _note_kit(self, station_id: int, packet: Sent, facts: dict[str, UnitFacts]) -> None:
        now, kit = time.monotonic(), self._kit[station_id]
        for name, part in packet.units.items():
            values = part.gyro if part.gyro is not None else part.sole
            moved = float(abs(values).max()) if values is not None else 0.0
            before = kit.get(name, [0.0, 0.0])[1]
            kit[name] = [now, moved if moved > before else before]
        for name in facts:
            if name not in kit:
                kit[name] = [0.0, 0.0]

    def _tell_kit(self) -> None:
        """Once a second, for each station whose hub was ever heard: what each unit does."""
        now = time.monotonic()
        if now - self._kit_at < KIT_EVERY_S or not self._kit:
            return
        self._kit_at = now
        gyms = dict(Station.objects.filter(pk__in=list(self._kit)).values_list("pk", "gym_id"))
        batteries = dict(
            Stream.objects.filter(station__in=list(gyms)).order_by("id").values_list("station_id", "battery")
        )
        for station_id, gym_id in gyms.items():
            units = self._kit[station_id]
            said = {
                name: {
                    "silent_s": round(min(now - at, 9999.0), 1) if at else None,
                    "moved": round(moved, 2),
                    "battery_pct": batteries.get(station_id, {}).get(name),
                }
                for name, (at, moved) in units.items()
            }
            for values in units.values():
                values[1] = 0.0
            tell(gym_id, station_id, "kit", units=said, nobodys=self._nobodys.told(station_id, timezone.now()))


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
    for take in Take.objects.filter(settled_at__isnull=True, ended_at__lt=now - SWEPT):
        settle_soon(take, SWEPT.total_seconds())
