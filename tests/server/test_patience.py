"""No page waits for a database that says nothing, and no screen hears on that was sent away."""

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator
from typing import Any

import psycopg
import pytest
from asgiref.sync import async_to_sync, sync_to_async
from django.conf import settings
from django.db import OperationalError, connection
from django.http import HttpRequest, StreamingHttpResponse
from django.test import Client

from agile_strike.gym.database import HeldToTime, patience_of, refuse_if_over
from agile_strike.gym.models import Gym, Member
from agile_strike.live.screens import events


def test_a_silent_database_is_waited_for_once_in_a_request(db: None) -> None:
    own = connection.get_connection_params()
    with HeldToTime.connect(**own) as line, HeldToTime.connect(**own) as another, patience_of(0.3):
        assert line.execute("SELECT 1").fetchone() == (1,)
        began = time.monotonic()
        with pytest.raises(psycopg.OperationalError, match=r"said nothing for 0\.3 s"):
            line.execute("SELECT pg_sleep(600)")
        with pytest.raises(psycopg.OperationalError, match="said nothing"):
            another.execute("SELECT pg_sleep(600)")
        with pytest.raises(OperationalError):
            refuse_if_over()
        assert line.closed
        assert time.monotonic() - began < 300  # it would have been twenty minutes
    with HeldToTime.connect(**own) as worker:  # nothing is held to time outside a request
        assert worker.execute("SELECT pg_sleep(0.4), 1").fetchone() == ("", 1)


class Quiet:
    """A fan in which nothing happens: its line to the database would outlive the test."""

    async def open(self, gym_id: int) -> "asyncio.Queue[str]":
        return asyncio.Queue()

    def close(self, queue: object) -> None: ...


def heard_after(client: Client, change: Any) -> list[str]:
    """What a screen is told after something happened to who opened it, until its stream ends."""
    request = HttpRequest()
    request.COOKIES[settings.SESSION_COOKIE_NAME] = client.cookies[settings.SESSION_COOKIE_NAME].value

    async def listen() -> list[str]:
        response = await events.events(request)
        assert isinstance(response, StreamingHttpResponse)
        stream: AsyncIterator[Any] = response.streaming_content  # type: ignore[assignment]
        out = [await anext(stream), await anext(stream)]
        await sync_to_async(change)()
        with contextlib.suppress(StopAsyncIteration):
            async with asyncio.timeout(60):
                while True:
                    out.append(await anext(stream))
        return out

    return async_to_sync(listen)()


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("what", ["signs out", "crosses over", "is removed", "may no more", "has a new password"])
def test_who_is_gone_hears_nothing_more(coach: Client, gym: Gym, what: str, monkeypatch: pytest.MonkeyPatch) -> None:
    # a beat is a tenth of the product's: the test is of what a beat asks, not of how often
    monkeypatch.setattr(events, "BEAT_S", 1.0)
    monkeypatch.setattr(events, "fan", Quiet())
    member = Member.objects.select_related("user").get(gym=gym)
    elsewhere = Gym.objects.create(name="Another")

    def password() -> None:
        member.user.set_password("another one")
        member.user.save()

    change = {
        "signs out": lambda: coach.delete("/api/session"),
        "crosses over": lambda: Member.objects.update(gym=elsewhere),
        "is removed": lambda: Member.objects.all().delete(),
        "may no more": lambda: type(member.user).objects.update(is_active=False),
        "has a new password": password,
    }[what]
    told = heard_after(coach, change)
    assert "again" in str(told[0])
    assert "here" in str(told[1])
    assert len(told) <= 3  # one beat may have been on its way
