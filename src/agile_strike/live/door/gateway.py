"""Where hubs come in: a WebSocket at /api/gateway, and POST /api/gateway/packets. See docs/gateway.md.

Both speak CBOR, show a station's token, and are answered once what they sent is committed.
"""

import asyncio
import contextlib
import datetime as dt
import json
import logging
import time
from typing import Any

import cbor2
from asgiref.sync import sync_to_async
from django.db import DatabaseError, InterfaceError, OperationalError, connection
from django.utils import timezone

from agile_strike.core.errors import BadInput
from agile_strike.formats.packets import LARGEST_BYTES, BadPacket, Opening, number_in, opening_of, packet_of, read
from agile_strike.live.door.asked import asked_of
from agile_strike.live.door.landing import Come, Landing
from agile_strike.live.door.plausible import Numbers
from agile_strike.live.door.stations import station_of
from agile_strike.live.models import Packet, Station, Stream
from agile_strike.live.telling.fan import fan

PATH, POST_PATH = "/api/gateway", "/api/gateway/packets"
LARGEST_POST = 8_000_000
HOLD_S = 1.0  # that a hub waits when the server is behind
ASK_EVERY_S = 2.0  # that a hub is told what is being done, if nothing seems to have changed
QUIET = ("kit", "strike", "settled")  # events that change nothing of what is being done
REFUSED, AWAY, BAD, TAKEN = 4401, 4503, 4422, 4409  # why a WebSocket was closed
SENDS = dt.timedelta(seconds=5)  # after its last packet a hub still counts as the one that sends

log = logging.getLogger(__name__)
landing = Landing()


class Gateway:
    """The two ways in, beside the application for all else."""

    def __init__(self, app: Any) -> None:
        self.app = app

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] == "websocket":
            await _socket(scope, receive, send)
        elif scope["type"] == "http" and scope["path"] == POST_PATH and scope["method"] == "POST":
            await _post(scope, receive, send)
        else:
            await self.app(scope, receive, send)


def _token(scope: Any) -> str:
    said = next((v.decode("latin-1") for k, v in scope["headers"] if k == b"authorization"), "")
    return said.removeprefix("Bearer ").strip() if said.startswith("Bearer ") else ""


@sync_to_async(thread_sensitive=False)
def _station(token: str) -> Station | None:
    try:
        return station_of(token)
    finally:
        connection.close()


@sync_to_async(thread_sensitive=False)
def _opened(station: Station, opening: Opening) -> tuple[Stream, Numbers]:
    """The hub's stream. Raises Taken while another hub sends for this station: whose samples those of two would be,
    nobody could tell."""
    try:
        now = Packet.objects.filter(stream__station=station, received_at__gt=timezone.now() - SENDS)
        if now.exclude(stream__key=opening.stream).exists():
            raise Taken
        stream, _ = Stream.objects.get_or_create(
            station=station, key=opening.stream, defaults={"opening": opening.said()}
        )
        if stream.opening != opening.said():
            stream.opening = opening.said()
            stream.save(update_fields=["opening"])
        numbers = Numbers(opening)
        last = stream.packets.order_by("-number").values_list("content", flat=True).first()
        if last is not None:
            numbers.note(packet_of(read(bytes(last))))
        return stream, numbers
    finally:
        connection.close()


@sync_to_async(thread_sensitive=False)
def _asked(station_id: int, stream_id: int) -> dict[str, Any]:
    try:
        return asked_of(station_id, stream_id)
    finally:
        connection.close()


# --- by WebSocket


async def _socket(scope: Any, receive: Any, send: Any) -> None:
    await receive()  # that it wants to connect
    if scope["path"].rstrip("/") != PATH:
        await send({"type": "websocket.close", "code": 4404})
        return
    try:
        station = await _station(_token(scope))
    except (OperationalError, InterfaceError):  # closed before it is accepted, it would read as a token refused
        await send({"type": "websocket.accept"})
        await send({"type": "websocket.close", "code": AWAY})
        return
    if station is None:
        await send({"type": "websocket.close", "code": REFUSED})
        return
    await send({"type": "websocket.accept"})
    talk = _Talk(station, receive, send)
    try:
        await talk.run()
    except _Gone:
        pass
    except Taken:
        await talk.close(TAKEN)
    except (DatabaseError, InterfaceError):
        await talk.close(AWAY)


class Taken(Exception):
    """Another hub with the same token sends."""


class _Gone(Exception):
    """The hub is no longer there."""


class _Talk:
    """One hub's WebSocket, until it is cut."""

    def __init__(self, station: Station, receive: Any, send: Any) -> None:
        self.station, self.receive, self._send = station, receive, send
        self.stream: Stream | None = None
        self.numbers: Numbers | None = None
        self.lands: set[asyncio.Task[None]] = set()

    async def run(self) -> None:
        asks: asyncio.Task[None] | None = None
        try:
            while True:
                message = await self.receive()
                if message["type"] == "websocket.disconnect":
                    return
                content, got = message.get("bytes"), time.time()
                if content is None:
                    await self.close(BAD)
                    return
                said: Any = None
                try:
                    said = read(content)
                    if self.stream is None or self.numbers is None:
                        await self._open(said, got)
                        asks = asyncio.create_task(self._ask())
                        continue
                    packet = packet_of(said)
                    self.numbers.refuse(packet)
                except BadPacket as error:
                    number = said.get("n") if isinstance(said, dict) else number_in(content)
                    if self.stream is None or type(number) is not int:
                        await self.send({"error": str(error)})
                        await self.close(BAD)
                        return
                    await self.send({"bad": [[number, str(error)]]})
                    continue
                if landing.behind:
                    await self.send({"hold": HOLD_S})
                come = Come(self.stream.pk, self.station.pk, packet, content, timezone.now())
                task = asyncio.create_task(self._land(come, got))
                self.lands.add(task)
                task.add_done_callback(self.lands.discard)
        finally:
            if asks is not None:
                asks.cancel()

    async def _open(self, said: Any, got: float) -> None:
        if not isinstance(said, dict) or "open" not in said:
            raise BadPacket("that comes first opens no stream", "Say first which stream it is, and of which units.")
        self.stream, self.numbers = await _opened(self.station, opening_of(said["open"]))
        ask = await _asked(self.station.pk, self.stream.pk)
        await self.send({"welcome": self.stream.key, "r": got, "s": time.time(), "ask": ask})

    async def _land(self, come: Come, got: float) -> None:
        try:
            await landing.land([come])
            await self.send({"ack": [come.packet.number], "t": come.packet.hub_s, "r": got, "s": time.time()})
        except _Gone:
            pass
        except DatabaseError:  # not acknowledged: the hub keeps it and sends it again
            log.warning("packets of station %s could not be kept", self.station.pk)
            with contextlib.suppress(_Gone):
                await self.close(AWAY)

    async def _ask(self) -> None:
        """Tells the hub what is being done at its bag, whenever that changes; cuts it off once its token is revoked."""
        assert self.stream is not None
        before = None
        heard = await fan.open(self.station.gym_id)
        try:
            while True:
                try:
                    ask = await _asked(self.station.pk, self.stream.pk)
                    if ask.get("revoked"):
                        await self.close(REFUSED)
                        return
                    if ask != before:
                        before = ask
                        await self.send({"ask": ask})
                except (DatabaseError, InterfaceError):
                    await asyncio.sleep(HOLD_S)
                    continue
                await self._news(heard)
        except _Gone:
            return
        finally:
            fan.close(heard)

    async def _news(self, heard: "asyncio.Queue[str]") -> None:
        """Until something was begun, ended or called at this station, or a while has gone."""
        with contextlib.suppress(TimeoutError):
            async with asyncio.timeout(ASK_EVERY_S):
                while True:
                    said = json.loads(await heard.get())
                    if said.get("station", self.station.pk) == self.station.pk and said["kind"] not in QUIET:
                        return

    async def send(self, said: dict[str, Any]) -> None:
        try:
            await self._send({"type": "websocket.send", "bytes": cbor2.dumps(said)})
        except Exception as error:  # the server raises its own kinds where the other end is gone
            raise _Gone from error

    async def close(self, code: int) -> None:
        with contextlib.suppress(Exception):
            await self._send({"type": "websocket.close", "code": code})


# --- by POST


async def _post(scope: Any, receive: Any, send: Any) -> None:
    got = time.time()
    try:
        station = await _station(_token(scope))
        if station is None:
            await _answer(send, 401, {"error": "No station has this token."})
            return
        body = await _body(receive)
        if body is None:
            await _answer(send, 413, {"error": f"Send at most {LARGEST_POST} bytes at once."})
            return
        await _answer(send, 200, await _posted(station, body, got))
    except BadInput as error:
        await _answer(send, 422, {"error": str(error)})
    except Taken:
        await _answer(send, 409, {"error": "Another hub sends for this station. End it, or make a station of its own."})
    except (DatabaseError, InterfaceError):
        await _answer(send, 503, {"error": "The database is away. Keep the packets and send them again."})


async def _body(receive: Any) -> bytes | None:
    body: bytes = b""
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            return None
        body += bytes(message.get("body", b""))
        if len(body) > LARGEST_POST:
            return None
        if not message.get("more_body"):
            return body


async def _posted(station: Station, body: bytes, got: float) -> dict[str, Any]:
    said = read(body, LARGEST_POST)
    if not isinstance(said, dict) or not isinstance(said.get("packets"), list) or "open" not in said:
        raise BadPacket("says not which stream it is of", "Send open and packets, as docs/gateway.md says.")
    stream, sample_numbers = await _opened(station, opening_of(said["open"]))
    come, bad = [], []
    for k, content in enumerate(said["packets"]):
        try:
            if not isinstance(content, bytes) or len(content) > LARGEST_BYTES:
                raise BadPacket("is no bytes, or too many", "Send each packet as its own CBOR.")
            packet = packet_of(read(content))
            sample_numbers.refuse(packet)
            come.append(Come(stream.pk, station.pk, packet, content, timezone.now()))
        except BadPacket as error:
            bad.append([k, str(error)])  # by its place: it may have no number that can be read
    if come:
        await landing.land(come)
    numbers = [c.packet.number for c in come]
    ask = await _asked(station.pk, stream.pk)
    last = max((c.packet.hub_s for c in come), default=None)
    return {"ack": numbers, "bad_at": bad, "t": last, "r": got, "s": time.time(), "ask": ask}


async def _answer(send: Any, status: int, said: dict[str, Any]) -> None:
    headers = [(b"content-type", b"application/cbor")]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": cbor2.dumps(said)})
