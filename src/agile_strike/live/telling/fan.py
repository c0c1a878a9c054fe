"""One LISTEN a process, fanned out to all who wait in it, each cut to its own gym."""

import asyncio
import json
from dataclasses import dataclass, field
from typing import Any

import psycopg
from asgiref.sync import sync_to_async
from django.db import connection

from agile_strike.live.telling.told import SCREENS

WAITING = 500  # events for one screen: one that takes none is told to begin anew
AGAIN_S = 0.5


@dataclass(slots=True)
class Fan:
    """One a process."""

    screens: dict["asyncio.Queue[str]", int] = field(default_factory=dict)  #: and the gym of each
    _task: "asyncio.Task[None] | None" = None

    async def open(self, gym_id: int) -> "asyncio.Queue[str]":
        queue: asyncio.Queue[str] = asyncio.Queue(WAITING)
        self.screens[queue] = gym_id
        if self._task is None or self._task.done():
            ready = asyncio.Event()
            self._task = asyncio.create_task(self._listen(ready))
            await ready.wait()
        return queue

    def close(self, queue: "asyncio.Queue[str]") -> None:
        self.screens.pop(queue, None)

    async def _listen(self, ready: asyncio.Event) -> None:
        """For ever; where the database was away, screens are told to ask for everything again."""
        while True:
            try:
                said = await sync_to_async(_parameters, thread_sensitive=False)()
                async with await psycopg.AsyncConnection.connect(**said, autocommit=True) as line:
                    await line.execute(f"LISTEN {SCREENS}")
                    ready.set()
                    self._all('{"kind": "again"}')
                    async for notice in line.notifies():
                        self._tell(notice.payload)
            except psycopg.OperationalError:
                ready.set()
                await asyncio.sleep(AGAIN_S)

    def _tell(self, payload: str) -> None:
        event = json.loads(payload)
        gym_id = event.pop("gym")
        for queue in [q for q, g in self.screens.items() if g == gym_id]:
            self._put(queue, json.dumps(event))

    def _all(self, payload: str) -> None:
        for queue in list(self.screens):
            self._put(queue, payload)

    @staticmethod
    def _put(queue: "asyncio.Queue[str]", payload: str) -> None:
        if queue.full():
            while not queue.empty():
                queue.get_nowait()
            payload = '{"kind": "again"}'
        queue.put_nowait(payload)


def _parameters() -> dict[str, Any]:
    try:
        return {k: v for k, v in connection.get_connection_params().items() if k not in ("cursor_factory", "context")}
    finally:
        connection.close()


fan = Fan()
