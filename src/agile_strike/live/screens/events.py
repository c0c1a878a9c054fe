"""Server-sent events: what happens in a gym, for as long as who opened them is signed in."""

import asyncio
import contextlib
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import get_user
from django.contrib.sessions.backends.db import SessionStore
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse

from agile_strike.gym.database import give_back_connection
from agile_strike.gym.models import Member
from agile_strike.live.telling.fan import fan

BEAT_S = 10.0  # so that a dead line is noticed, by either end; and whether who opened it is still signed in


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
