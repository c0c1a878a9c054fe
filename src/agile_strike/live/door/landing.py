"""Packets that come in are committed together: all that came while the last commit was on its way is the next one.

So stations don't wait for each other's commits, and a hundred packets cost little more than one.
"""

import asyncio
import datetime as dt
import logging
from dataclasses import dataclass, field

from asgiref.sync import sync_to_async
from django.db import connection, transaction

from agile_strike.formats.packets import Packet as Sent
from agile_strike.live.models import Packet, Stream
from agile_strike.live.telling.told import packets_came

log = logging.getLogger(__name__)

DRIFT = 1e-4  # of two clocks against each other: ten times an ordinary crystal's
AHEAD_S = 2.0  # of the server's clock: a hub's can't be
MOST_WAITING = 2000  # packets of all hubs: beyond it hubs are told to hold theirs


@dataclass(frozen=True, slots=True)
class Come:
    stream_id: int
    station_id: int
    packet: Sent
    content: bytes
    at: dt.datetime


@dataclass(slots=True)
class Landing:
    """One a process. Raises what the database raises to everybody whose packets were in the same commit."""

    _waiting: list[tuple[Come, "asyncio.Future[None]"]] = field(default_factory=list)
    _runs: "asyncio.Task[None] | None" = None

    @property
    def behind(self) -> bool:
        return len(self._waiting) > MOST_WAITING

    async def land(self, come: list[Come]) -> None:
        """Returns once they are committed."""
        loop = asyncio.get_running_loop()
        futures = [loop.create_future() for _ in come]
        self._waiting += zip(come, futures, strict=True)
        if self._runs is None or self._runs.done():
            self._runs = asyncio.create_task(self._work())
        await asyncio.gather(*futures)

    async def _work(self) -> None:
        while self._waiting:
            batch, self._waiting = self._waiting, []
            try:
                await sync_to_async(commit, thread_sensitive=False)([c for c, _ in batch])
            except Exception as error:
                for _, future in batch:
                    if not future.done():
                        future.set_exception(error)
            else:
                for _, future in batch:
                    if not future.done():
                        future.set_result(None)


def commit(come: list[Come]) -> None:
    """Keep packets, each number of a stream once; what they say of clock and batteries is kept on the stream."""
    try:
        with transaction.atomic():
            Packet.objects.bulk_create(
                [
                    Packet(
                        stream_id=c.stream_id,
                        number=c.packet.number,
                        content=c.content,
                        received_at=c.at,
                        gathered_s=c.packet.hub_s,
                    )
                    for c in sorted(come, key=lambda c: (c.stream_id, c.packet.number))
                ],
                ignore_conflicts=True,
            )
            told: dict[int, list[Come]] = {}
            for c in come:
                if c.packet.clock is not None or c.packet.battery_pct:
                    told.setdefault(c.stream_id, []).append(c)
            for key, packets in told.items():
                _note(key, packets)
            packets_came({c.station_id for c in come})
    finally:
        connection.close()  # back to the pool: no request ends here that would


def _note(stream_id: int, come: list[Come]) -> None:
    row = Stream.objects.select_for_update().get(pk=stream_id)
    for one in come:
        row.battery = row.battery | one.packet.battery_pct
        row.clock = _believed(row.clock, one)
    row.save(update_fields=["battery", "clock"])


def _believed(kept: list[float] | None, come: Come) -> list[float] | None:
    """The hub's clock as it is known with what a packet tells: the server's minus the hub's, its doubt, and when on the
    hub's clock that was told, seconds. What is known grows old as clocks drift. One by which the packet was gathered
    after it had come can't be."""
    if come.packet.clock is None:
        return kept
    offset_s, doubt_s = come.packet.clock
    at_s = come.packet.hub_s
    if at_s + offset_s - doubt_s > come.at.timestamp() + AHEAD_S:
        log.warning("the hub of station %s tells a clock that can't be: it is not believed", come.station_id)
        return kept
    if kept is not None:
        old_s = abs(at_s - kept[2]) if len(kept) > 2 else 0.0
        by_now_s = kept[1] + DRIFT * old_s
        if doubt_s > by_now_s and abs(offset_s - kept[0]) <= doubt_s + by_now_s:
            return kept
    return [offset_s, doubt_s, at_s]
