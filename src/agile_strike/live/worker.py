"""The live worker: packets in, provisional strikes out, for all stations of the database.

It keeps nothing that can't be made anew: killed, it reads the latest packets of each open take and goes on.
"""

import datetime as dt
import logging
import time
from collections import defaultdict
from typing import Any

import psycopg
from django.db import InterfaceError, OperationalError, close_old_connections, connection, transaction
from django.utils import timezone

from agile_strike.core.errors import BadInput
from agile_strike.core.strikes import Strike as Found
from agile_strike.formats.packets import decode, opening_of
from agile_strike.live.line import HELD_S, Line, line_of
from agile_strike.live.models import Packet, Station, Take
from agile_strike.live.placing import place, placed
from agile_strike.live.services import begin_take, end_take, settle_soon
from agile_strike.live.told import PACKETS, tell
from agile_strike.review.keep import keep_provisional
from agile_strike.review.models import Strike

WAIT_S = 0.25  # for news, before it looks by itself
KIT_EVERY_S = 1.0
CLEAN_EVERY_S = 30.0
IDLE_KEPT = dt.timedelta(minutes=2)  # packets that no take holds
SLACK = 400  # ids: of two commits at once, the one with the lower ids may be seen later
FIRST_LEARN = 6  # strikes: the student's units can then be tied to the bag's
CHUNK_PACKETS = 200
SILENT_S = 1.5  # without a sample, of a unit whose hub goes on sending

log = logging.getLogger(__name__)


class Worker:
    def __init__(self) -> None:
        self.lines: dict[int, Line] = {}  #: by take
        self._seen: dict[int, None] = {}  #: ids of packets, in order
        self._last = 0
        self._listens: psycopg.Connection[Any] | None = None
        self._kit_at: dict[int, float] = {}
        self._kit: dict[int, dict[str, list[float]]] = defaultdict(dict)
        self._cleaned_at = 0.0
        self._learns: dict[int, int] = defaultdict(int)

    def run_for_ever(self) -> None:
        while True:
            try:
                self.wait()
                self.step()
            except (OperationalError, InterfaceError, psycopg.OperationalError):
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
        self._seen.clear()
        self._last = 0
        close_old_connections()

    def step(self) -> None:
        """Take in what came, find what is to be found, tell it."""
        takes = self._open_takes()
        for key in [k for k in self.lines if k not in takes]:
            del self.lines[key]
        for key, take in takes.items():
            if key not in self.lines:
                self.lines[key] = self._again(take)
            else:
                self._refreshed(self.lines[key], take)
        self._take_in(takes, self._new_ids())
        for key, line in list(self.lines.items()):
            try:
                self._measure(line)
            except (OperationalError, InterfaceError):
                raise
            except Exception:  # one bag's trouble is no other's; the line is made anew from what is kept
                log.exception("take %s could not be measured just now", key)
                del self.lines[key]
        self._tell_kit()
        if time.monotonic() - self._cleaned_at > CLEAN_EVERY_S:
            self._cleaned_at = time.monotonic()
            clean(timezone.now())

    # --- packets

    def _open_takes(self) -> dict[int, Take]:
        rows = Take.objects.filter(ended_at__isnull=True).select_related(
            "station__gym", "stream", "session__student", "recording__analysis", "recording__bag_version"
        )
        return {t.pk: t for t in rows}

    def _new_ids(self) -> list[int]:
        """Packets that have not been looked at."""
        if not self._last:
            self._last = Packet.objects.order_by("-id").values_list("id", flat=True).first() or 0
        rows = Packet.objects.filter(id__gt=self._last - SLACK).order_by("id").values_list("id", flat=True)
        new = [key for key in rows if key not in self._seen]
        self._seen |= dict.fromkeys(new)
        self._last = max([self._last, *new])
        while len(self._seen) > 4 * SLACK:
            self._seen.pop(next(iter(self._seen)))
        return new

    def _take_in(self, takes: dict[int, Take], new: list[int]) -> None:
        if not new:
            return
        by_station = {t.station_id: t for t in takes.values()}
        rows = Packet.objects.filter(id__in=new).select_related("stream").order_by("id")
        for row in rows:
            packet = decode(bytes(row.content))
            take = by_station.get(row.stream.station_id)
            self._note_kit(row.stream.station_id, packet.units, row.stream.opening)
            if take is None:
                continue
            line = self.lines[take.pk]
            if take.stream_id is not None and take.stream_id != row.stream_id:
                if row.stream_id > take.stream_id:
                    self._another_stream(take)
                continue
            if take.first_packet is None and not place(take, row.stream, packet, row.received_at):
                continue
            line.take = take
            assert take.first_packet is not None
            if row.number >= take.first_packet:
                line.take_in(packet)

    def _another_stream(self, take: Take) -> None:
        """The hub began anew, with nothing left of what it had: the student goes on in a take of their own."""
        station, student = take.station, take.session.student
        try:
            with transaction.atomic():
                end_take(station.gym, take.pk, timezone.now())
                begin_take(station.gym, station.pk, student.pk, timezone.now())
        except BadInput as error:
            log.warning("station %s could not go on: %s", station.pk, error)

    def _again(self, take: Take) -> Line:
        """What is held of a take, from its latest packets."""
        line = line_of(take)
        placed(take)
        if take.stream is None or take.first_packet is None:
            return line
        rows = Packet.objects.filter(stream=take.stream, number__gte=take.first_packet)
        since = timezone.now() - dt.timedelta(seconds=HELD_S / float(take.stream.opening["speed"]))
        first = rows.order_by("number").first()
        recent = list(rows.filter(received_at__gte=since).order_by("number"))
        if first is not None and "bag" not in line.firsts:
            recent = [first, *(r for r in recent if r.pk != first.pk)]
        for row in recent:
            line.take_in(decode(bytes(row.content)))
            self._seen[row.pk] = None
        known = (
            Strike.objects.filter(recording=take.recording).order_by("-contact_s").values_list("contact_s", flat=True)
        )
        line.judged.extend(known[:20])
        return line

    def _refreshed(self, line: Line, take: Take) -> None:
        """What the batch, or another process, has written of the take meanwhile."""
        if take.settled_s != line.take.settled_s:
            line.told(take.state, take.firsts)
        line.take = take

    # --- strikes

    def _measure(self, line: Line) -> None:
        take = line.take
        for found, whole in line.found():
            row = keep_provisional(take.recording, found)
            tell(take.station.gym_id, take.station_id, "strike", take=take.pk, **told(row, found, whole))
            if not whole:
                self._learns[take.pk] += 1
                worn = [n for n in line.gathered if n != "bag"]
                if worn and line.state.body is None and self._learns[take.pk] % FIRST_LEARN == 0:
                    settle_soon(take)
        clock = line.on_reference if take.clock is None else None
        if clock is not None and line.now_s > 1.0:
            take.clock = clock.to_json()
            Take.objects.filter(pk=take.pk, clock__isnull=True).update(clock=take.clock)

    # --- the kit

    def _note_kit(self, station_id: int, units: dict[str, Any], opening: dict[str, Any]) -> None:
        now = time.monotonic()
        for name, part in units.items():
            values = part.gyro if part.gyro is not None else part.sole
            moved = 0.0
            if values is not None and len(values):
                moved = float(abs(values).max()) if values.size else 0.0
            before = self._kit[station_id].get(name, [0.0, 0.0])
            self._kit[station_id][name] = [now, max(moved, before[1])]
        for name in opening_of(opening).units:
            self._kit[station_id].setdefault(name, [0.0, 0.0])

    def _tell_kit(self) -> None:
        now = time.monotonic()
        for station_id, units in self._kit.items():
            if now - self._kit_at.get(station_id, 0.0) < KIT_EVERY_S:
                continue
            self._kit_at[station_id] = now
            station = Station.objects.filter(pk=station_id).first()
            if station is None:
                continue
            stream = station.streams.first()
            battery = stream.battery if stream else {}
            said = {
                name: {
                    "silent_s": round(min(now - at, 9999.0), 1) if at else None,
                    "moved": round(moved, 2),
                    "battery_pct": battery.get(name),
                }
                for name, (at, moved) in units.items()
            }
            for values in units.values():
                values[1] = 0.0
            tell(station.gym_id, station_id, "kit", units=said)


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
    """Packets that no take holds, nor will: a class talks between sets, and nobody asked to keep that."""
    idle = Packet.objects.filter(received_at__lt=now - IDLE_KEPT)
    held = Take.objects.filter(settled_at__isnull=True, stream__isnull=False).values_list(
        "stream_id", "first_packet", "last_packet"
    )
    for stream, first, last in held:
        if first is not None:
            idle = idle.exclude(stream_id=stream, number__gte=first, number__lte=last if last is not None else 2**62)
    # a station where a take waits for its first packet keeps what has come
    waiting = Take.objects.filter(settled_at__isnull=True, first_packet__isnull=True).values("station_id")
    idle.exclude(stream__station_id__in=waiting).delete()
