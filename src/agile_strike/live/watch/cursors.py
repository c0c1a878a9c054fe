"""Which packets of each stream have been looked at, and which are next.

Two web processes commit in whatever order: the numbers of each stream tell what is new, and no id does. A worker that
was held up, or has begun anew, reads what has gathered piece by piece: no evening is held in memory whole, and no
station waits for the others.
"""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field

from django.db import connection
from django.db.models import Max

from agile_strike.live.models import Packet

MISSED_S = 60.0  # that a packet may come after its neighbours and still be looked at at once
BEHIND = 50  # packets before the latest, from which a stream is looked at that was not before
PIECE = 150  # packets of a stream at a time: some nine seconds of one that is sent as it is gathered
#: asked some times a second for every stream at once: a union of Django's queries takes longer to compile than to run
NEXT = """
    SELECT p.id, p.stream_id, p.number FROM unnest(%s::bigint[], %s::bigint[]) AS c (stream, floor)
    CROSS JOIN LATERAL (
        SELECT id, stream_id, number FROM live_packet WHERE stream_id = c.stream AND number >= c.floor
        ORDER BY number LIMIT %s
    ) p ORDER BY p.stream_id, p.number
"""


@dataclass(slots=True)
class Cursor:
    """Of one stream: all below `floor` have been looked at, and some beyond it."""

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


@dataclass(slots=True)
class Cursors:
    by_stream: dict[int, Cursor] = field(default_factory=dict)
    more: bool = False  #: of some stream there may be another piece

    def look_from(self, stream_id: int, number: int) -> None:
        self.by_stream[stream_id] = Cursor(number)

    def piece(self, streams: Iterable[int], now: float) -> list[int]:
        """Ids of the next packets that have not been looked at, by stream and number; from now on they have been."""
        keys = set(streams)
        self.by_stream = {k: c for k, c in self.by_stream.items() if k in keys}
        unknown = Packet.objects.filter(stream__in=keys - self.by_stream.keys()).order_by().values("stream")
        latest = dict(unknown.annotate(last=Max("number")).values_list("stream", "last"))
        for key in keys - self.by_stream.keys():
            self.by_stream[key] = Cursor(max(0, latest.get(key, 0) - BEHIND))
        self.more = False
        if not keys:
            return []
        # those that are beyond a missing one, and the next
        most = PIECE + max(len(self.by_stream[key].seen) for key in keys)
        with connection.cursor() as cursor:
            cursor.execute(NEXT, [list(keys), [self.by_stream[key].floor for key in keys], most])
            rows = cursor.fetchall()
        counts = Counter(stream for _, stream, _ in rows)
        new = [pk for pk, stream, number in rows if self.by_stream[stream].is_new(number)]
        for key in keys:
            self.more |= counts[key] == most
            self.by_stream[key].go_on(now)
        return new
