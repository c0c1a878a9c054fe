"""The reference hub: gathers what its units have measured, keeps it on disk, and sends it until the server has it.

At least once: a packet stays in the spool until the server says that it is committed, and is sent again after a second,
after every cut, and after the hub itself was killed. The server keeps one of each number.
"""

import asyncio
import contextlib
import random
import time
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from typing import Any

import cbor2
from websockets.asyncio.client import connect
from websockets.exceptions import ConnectionClosed, InvalidHandshake, InvalidStatus

from agile_strike.core.errors import BadInput
from agile_strike.formats.packets import Opening, Packet, encode
from agile_strike.hub.faults import Faults
from agile_strike.hub.post import Refused, post
from agile_strike.hub.sources import Source
from agile_strike.hub.spool import Spool

TICK_S = 0.06  # a packet: short beside what an eye notices, long beside what a packet costs
WELCOME_S = 10.0
AGAIN_S = 1.0  # without an answer
FULL_S = 0.5  # between tries to write to a full disk
TRY_S = (0.2, 0.5, 1.0, 2.0)  # between tries to reach the server
MOST_ON_THE_WAY = 200  # packets without an answer: further ones wait in the spool
BATTERY_EVERY = 250  # packets
TRIES_BEFORE_POST = 3
REFUSES = (401, 403)
TAKEN = 4409  # a WebSocket's close code, by docs/gateway.md


@dataclass(slots=True)
class Hub:
    source: Source
    spool: Spool
    server: str  #: as http://127.0.0.1:8000
    token: str
    faults: Faults = field(default_factory=Faults)
    say: Callable[[str], None] = print
    battery_pct: float = 96.0
    _clock: tuple[float, float] | None = None  #: the server's minus ours, and half the way there and back
    _news: asyncio.Event = field(default_factory=asyncio.Event)
    _ended: bool = False
    _full: bool = False
    _taken: bool = False
    _zero_s: float = 0.0  #: of the machine's steady clock, where the hub's own began

    @property
    def now_s(self) -> float:
        """The hub's clock. After a restart the wall's clock says how long it was away; later on whoever sets it
        moves nothing."""
        return time.monotonic() - self._zero_s

    def take_up_clock(self) -> None:
        place = self.spool.place
        self._zero_s = time.monotonic() - max(time.time() - place.began_at, place.gathered_s)

    async def run(self) -> None:
        """Until the source has ended and the server has all of it. Raises BadInput where it knows no such hub."""
        self.take_up_clock()
        gather = asyncio.create_task(self._gather())
        send = asyncio.create_task(self._send())
        done, left = await asyncio.wait((gather, send), return_when=asyncio.FIRST_EXCEPTION)
        for task in left:
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task
        for task in done:
            task.result()

    async def _gather(self) -> None:
        place = self.spool.place
        while not self.source.ended(place.sent):
            at_s = self.now_s * self.source.speed
            parts = await asyncio.to_thread(self.source.due, at_s, place.sent)
            sent = place.sent | {p: part.first + part.count for p, part in parts.items()}
            parts = self.faults.of_units(parts, at_s)
            if parts:
                number = place.next
                tells = number % BATTERY_EVERY == 0
                packet = Packet(
                    number=number,
                    hub_s=self.now_s,
                    units=parts,
                    battery_pct=dict.fromkeys(parts, max(5.0, self.battery_pct - at_s / 360.0)) if tells else {},
                    clock=self._clock if tells or number < 5 else None,
                )
                while not self._kept(packet, sent):  # what units measure meanwhile is gathered once there is room
                    await asyncio.sleep(FULL_S)
                self._news.set()
            await asyncio.sleep(TICK_S)
        self._ended = True
        self._news.set()

    def _kept(self, packet: Packet, sent: dict[str, int]) -> bool:
        """Whether the disk took it. A full one ends nothing: what is on it goes on being sent, and makes room."""
        try:
            self.spool.put(encode(packet), sent, packet.hub_s)
        except OSError as error:
            if not self._full:
                self.say(f"{self.spool.folder}: gathering waits ({error.strerror}). Make room on this disk.")
            self._full = True
            return False
        if self._full:
            self.say("There is room again: gathering goes on.")
        self._full = False
        return True

    # --- sending

    async def _send(self) -> None:
        tries = 0
        while not (self._ended and not any(True for _ in self.spool.waiting())):
            try:
                if tries >= TRIES_BEFORE_POST and await self._by_post():
                    continue
                await self._by_socket()
                tries = 0
            except InvalidStatus as error:
                self._given_up(error.response.status_code)
                tries += 1
            except (OSError, ConnectionClosed, InvalidHandshake, TimeoutError) as error:
                if isinstance(error, ConnectionClosed) and error.rcvd is not None and error.rcvd.code == TAKEN:
                    self._wait_for_the_other()
                tries += 1
            await asyncio.sleep(TRY_S[min(tries, len(TRY_S)) - 1] if tries else 0.0)

    def _wait_for_the_other(self) -> None:
        if not self._taken:
            self.say("Another hub sends for this station: this one gathers, and sends once that one has ended.")
        self._taken = True

    def _given_up(self, status: int) -> None:
        if status == 409:
            self._wait_for_the_other()
        if status in REFUSES:
            raise BadInput("The server knows no such station token. Make a new one under Kit, and give it to the hub.")

    def _opening(self) -> Opening:
        return Opening(stream=self.spool.place.stream, units=self.source.units, speed=self.source.speed)

    async def _by_socket(self) -> None:
        address = self.server.replace("http", "ws", 1).rstrip("/") + "/api/gateway"
        headers = {"Authorization": f"Bearer {self.token}"}
        async with connect(address, additional_headers=headers, max_size=2**20, proxy=None, compression=None) as socket:
            began = self.now_s
            await socket.send(cbor2.dumps({"open": self._opening().said()}))
            async with asyncio.timeout(WELCOME_S):
                self._heard(cbor2.loads(await socket.recv(decode=False)), began)
            self._taken = False
            way = _OnTheWay(self.faults)
            hear = asyncio.create_task(self._hear(socket, way))
            try:
                while not hear.done():
                    self._news.clear()
                    for number in self._to_send(way):
                        content = self.spool.get(number)
                        if content is not None:
                            await way.go(number, content, socket.send)
                    if self._ended and not any(True for _ in self.spool.waiting()):
                        return
                    with contextlib.suppress(TimeoutError):
                        await asyncio.wait_for(self._news.wait(), AGAIN_S)
                hear.result()
            finally:
                hear.cancel()
                with contextlib.suppress(asyncio.CancelledError, ConnectionClosed, OSError):
                    await hear

    def _to_send(self, way: "_OnTheWay") -> list[int]:
        """What has never been sent on this connection, and what was sent a second ago and not answered."""
        place, now = self.spool.place, time.monotonic()
        if way.next is None:
            way.next = place.next
            return [n for n in self.spool.waiting() if n < place.next]
        if now < way.held_until:
            return []
        again = [n for n, at in way.sent_at.items() if now - at > AGAIN_S + way.longest_s]
        if len(way.sent_at) >= MOST_ON_THE_WAY:
            return again
        new = list(range(way.next, min(place.next, way.next + MOST_ON_THE_WAY)))
        way.next += len(new)
        return [*again, *new]

    async def _hear(self, socket: Any, way: "_OnTheWay") -> None:
        async for content in socket:
            said = cbor2.loads(content)
            self._heard(said, None)
            for number in said.get("ack", ()):
                way.sent_at.pop(number, None)
                self.spool.drop(number)
            if "hold" in said:
                way.held_until = time.monotonic() + float(said["hold"])
            for number, why in said.get("bad", ()):
                self.say(f"packet {number} was refused: {why}")
                way.sent_at.pop(number, None)
                self.spool.drop(number)
            if self._ended:
                self._news.set()

    def _heard(self, said: dict[str, Any], asked_at: float | None) -> None:
        """The clocks, by the way there and back (RFC 5905, 8): what is shortest knows best."""
        echo = said.get("t")
        now = self.now_s
        began = asked_at if asked_at is not None else echo
        if began is not None and "r" in said:
            doubt = max(0.0, (now - began - (said["s"] - said["r"])) / 2.0)
            offset = ((said["r"] - began) + (said["s"] - now)) / 2.0
            if self._clock is None or doubt <= 1.5 * self._clock[1]:
                self._clock = (offset, doubt)
        if "ask" in said:
            self.source.told(said["ask"])

    async def _by_post(self) -> bool:
        """One round by POST; whether the server could be reached so."""
        waiting = list(self.spool.waiting())[:MOST_ON_THE_WAY]
        contents = [c for c in (self.spool.get(n) for n in waiting) if c is not None]
        try:
            said = await asyncio.to_thread(post, self.server, self.token, self._opening(), contents)
        except Refused as error:
            self._given_up(error.status)
            return False
        except OSError:
            return False
        self._heard(said, None)
        for place, why in said.get("bad_at", ()):
            self.say(f"packet {waiting[place]} was refused: {why}")
        for number in [*said.get("ack", ()), *(waiting[place] for place, _ in said.get("bad_at", ()))]:
            self.spool.drop(number)
        await asyncio.sleep(TICK_S)
        return True


@dataclass(slots=True)
class _OnTheWay:
    """What has been sent on one connection, with the faults that were asked for."""

    faults: Faults
    next: int | None = None
    held_until: float = 0.0  #: the server is behind: nothing more goes until then
    sent_at: dict[int, float] = field(default_factory=dict)
    lost: set[int] = field(default_factory=set)
    held: list[tuple[int, bytes]] = field(default_factory=list)
    late: set[asyncio.Task[None]] = field(default_factory=set)

    @property
    def longest_s(self) -> float:
        return self.faults.delay_s

    async def go(self, number: int, content: bytes, send: Callable[[bytes], Awaitable[None]]) -> None:
        self.sent_at[number] = time.monotonic()
        faults = self.faults
        if random.random() < faults.drop and number not in self.lost:
            self.lost.add(number)
            return
        if faults.delay_s:
            task = asyncio.create_task(_later(random.uniform(0.0, faults.delay_s), content, send))
            self.late.add(task)
            task.add_done_callback(self.late.discard)
            return
        if random.random() < faults.reorder and not self.held:
            self.held.append((number, content))
            return
        await send(content)
        if random.random() < faults.double:
            await send(content)
        while self.held:
            await send(self.held.pop()[1])


async def _later(seconds: float, content: bytes, send: Callable[[bytes], Awaitable[None]]) -> None:
    await asyncio.sleep(seconds)
    with contextlib.suppress(ConnectionClosed, OSError):
        await send(content)
