"""Server-sent events: one LISTEN a process, fanned out to the screens that are open, each cut to its own gym."""

import asyncio
import contextlib
import json
import logging
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from typing import Any

import psycopg
from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import get_user
from django.contrib.sessions.backends.db import SessionStore
from django.db import InterfaceError, OperationalError, connection
from django.http import HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse

from agile_strike.gym.database import give_back_connection
from agile_strike.gym.models import Member
from agile_strike.live.told import SCREENS

WAITING = 500  # events for one screen: one that takes none is told to begin anew
BEAT_S = 10.0  # so that a dead line is noticed, by either end; and whether who opened it is still signed in
AGAIN_S = 0.5

log = logging.getLogger(__name__)


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


async def events(request: HttpRequest) -> HttpResponse | StreamingHttpResponse:
    """GET /api/live/events: what happens in the gym of who is signed in, from now on and for as long as they are."""
    gym_id = await gym_of(request)
    if gym_id is None:
        return JsonResponse({"message": "Sign in first."}, status=401)
    response = StreamingHttpResponse(_stream(request, gym_id), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


@sync_to_async
def gym_of(request: HttpRequest) -> int | None:
    """The gym of who is signed in with a request's session, as it stands now; none where nobody is."""
    fresh = HttpRequest()
    fresh.session = SessionStore(session_key=request.COOKIES.get(settings.SESSION_COOKIE_NAME))
    try:
        user = get_user(fresh)
        if not user.is_authenticated:
            return None
        return Member.objects.filter(user_id=user.pk).values_list("gym_id", flat=True).first()
    finally:
        give_back_connection()  # what follows lasts as long as the page is open


async def _still(request: HttpRequest, gym_id: int) -> bool:
    """Whether who opened a stream may hear on: not signed out, not crossed over to another gym, not removed. Where
    nobody can say, the page comes again, or is refused."""
    try:
        return await gym_of(request) == gym_id
    except (OperationalError, InterfaceError):
        return False


async def _stream(request: HttpRequest, gym_id: int) -> AsyncIterator[str]:
    queue = await fan.open(gym_id)
    loop = asyncio.get_running_loop()
    try:
        yield 'data: {"kind": "again"}\n\n'
        ask_at = loop.time() + BEAT_S
        while True:
            if loop.time() >= ask_at:  # also where events come without a pause
                if not await _still(request, gym_id):
                    return
                ask_at = loop.time() + BEAT_S
                yield ": still here\n\n"
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout_at(ask_at):
                    payload = await queue.get()
                yield f"data: {payload}\n\n"
    finally:
        fan.close(queue)
