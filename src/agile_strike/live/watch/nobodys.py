"""Blows on a bag while nobody was said to stand there. They are told on Kit, and can still be somebody's."""

import datetime as dt
from dataclasses import dataclass, field

import numpy as np
from django.db.models import Q

from agile_strike.core.target import GRAVITY_M_S2
from agile_strike.formats.packets import Packet
from agile_strike.live.models import Stream, Take
from agile_strike.live.telling.told import NobodysBlows
from agile_strike.live.whose.placing import clock_of

JOLT_M_S2 = 30.0  # beside gravity: a bag that only swings feels a tenth of it, a light blow twice as much
APART = dt.timedelta(seconds=0.3)  # two packets of one blow are not
FEWEST = 3  # a bag is bumped into, or moved aside
TOLD = dt.timedelta(minutes=12)  # after which their packets are soon forgotten


@dataclass(slots=True)
class Nobodys:
    """The latest such blows, by station. What a worker did not live to tell is nobody's, as before."""

    latest: dict[int, NobodysBlows] = field(default_factory=dict)

    def note(self, packet: Packet, stream: Stream, take: Take | None) -> None:
        """`take`: the one that is open there."""
        part = packet.units.get("bag")
        if part is None or part.accel is None or not len(part.accel):
            return
        if float(np.abs(np.linalg.norm(part.accel, axis=1) - GRAVITY_M_S2).max()) < JOLT_M_S2:
            return
        # one that was read before its hub had told its clock
        offset_s, _ = clock_of(stream if stream.clock is not None else Stream.objects.get(pk=stream.pk))
        at = dt.datetime.fromtimestamp(packet.hub_s + offset_s, dt.UTC)
        if (take is not None and at >= take.began_at) or _stood_there(stream.station_id, at, at):
            return
        known = self.latest.get(stream.station_id)
        if known is None or at - known.until > TOLD:
            self.latest[stream.station_id] = NobodysBlows(since=at, until=at, blows=1)
        else:
            known.blows += at - known.until > APART
            known.since, known.until = min(at, known.since), max(at, known.until)

    def told(self, station_id: int, now: dt.datetime) -> NobodysBlows | None:
        """Those that are still nobody's."""
        known = self.latest.get(station_id)
        if known is None or known.blows < FEWEST:
            return None
        if now - known.until > TOLD or _stood_there(station_id, known.since, known.until):
            del self.latest[station_id]
            return None
        return known


def _stood_there(station_id: int, since: dt.datetime, until: dt.datetime) -> bool:
    rows = Take.objects.filter(station=station_id, began_at__lte=until)
    return rows.filter(Q(ended_at__isnull=True) | Q(ended_at__gt=since)).exists()
