"""Which stations a live worker watches: each station has one worker, and those that are alive share them.

The leases are PostgreSQL's advisory locks (its manual, 13.3.5). They belong to a session: who is killed or cut off has
given back what it held at that moment, without a clock and without a heartbeat; nobody has to be believed dead.
"""

from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Any

import psycopg

ALIVE, STATION = 52_001, 52_002  # first keys: that a worker is there, and that it has a station
HELD = """
    SELECT classid::int, objid::int, pid = pg_backend_pid() FROM pg_locks
    WHERE locktype = 'advisory' AND granted AND classid IN (%s, %s)
      AND database = (SELECT oid FROM pg_database WHERE datname = current_database())
"""
#: a worker whose machine is cut off is noticed by the server within so many seconds
CUT_OFF = "SET tcp_keepalives_idle = 2; SET tcp_keepalives_interval = 1; SET tcp_keepalives_count = 2"


@dataclass(slots=True)
class Share:
    """Held on a connection of its own, which commits by itself. Raises psycopg.OperationalError."""

    db: psycopg.Connection[Any]
    own: set[int] = field(default_factory=set)

    def __post_init__(self) -> None:
        self.db.execute(CUT_OFF)
        self.db.execute("SELECT pg_advisory_lock_shared(%s, 0)", [ALIVE])

    def renew(self, stations: Collection[int]) -> set[int]:
        """Of these stations those that are this worker's from now on: as many as every other's, or one more."""
        held = self.db.execute(HELD, [ALIVE, STATION]).fetchall()
        workers = sum(kind == ALIVE for kind, _, _ in held)
        most = -(-len(stations) // max(1, workers))
        self._give_back(self.own - set(stations))
        self._give_back(set(sorted(self.own)[most:]))
        free = sorted(set(stations) - {key for kind, key, _ in held if kind == STATION})
        for key in free:
            if len(self.own) >= most:
                break
            if self._one("SELECT pg_try_advisory_lock(%s, %s)", key):
                self.own.add(key)
        return self.own

    def _give_back(self, stations: set[int]) -> None:
        for key in stations:
            self._one("SELECT pg_advisory_unlock(%s, %s)", key)
        self.own = self.own - stations

    def _one(self, query: str, key: int) -> bool:
        row = self.db.execute(query, [STATION, key]).fetchone()
        return bool(row and row[0])
