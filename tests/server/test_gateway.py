"""The door for hubs, over real sockets: a token, packets by WebSocket or POST, each kept once and acknowledged then."""

import asyncio
import secrets
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import cbor2
import numpy as np
import pytest
from django.db import connection
from live_makers import Evening
from processes import PATIENT_S, PROJECT, begun, ended, free_port, listening, until
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import ClientConnection, connect

from agile_strike.core.errors import BadInput
from agile_strike.core.recording import Participant, UnitSignal
from agile_strike.core.recording import Recording as CoreRecording
from agile_strike.formats.packets import Opening, Packet, Part, UnitFacts, decode, encode
from agile_strike.hub.faults import Faults
from agile_strike.hub.post import Refused, post
from agile_strike.hub.run import Hub
from agile_strike.hub.sources import Replay
from agile_strike.hub.spool import Spool
from agile_strike.hub.student import SimulatedStudent
from agile_strike.live.door import gateway, stations
from agile_strike.live.models import Packet as Row
from agile_strike.live.models import Stream

pytestmark = pytest.mark.django_db(transaction=True)
OPENING = Opening(stream="stream-of-a-test", units={"bag": UnitFacts(rate_hz=1000.0, serial="KQ-100")})
BEFORE_IT_IS_KILLED = 50  # packets, of some 150


@dataclass
class Door:
    """A web server on the tests' own database."""

    port: int
    process: "subprocess.Popen[bytes]"

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"


def serve(port: int) -> "subprocess.Popen[bytes]":
    environment = {"AGILE_STRIKE_DB_NAME": connection.settings_dict["NAME"], "PYTHONPATH": str(PROJECT / "src")}
    command = [sys.executable, "-m", "uvicorn", "agile_strike.config.asgi:application", "--port", str(port)]
    started = begun([*command, "--log-level", "error"], environment)
    listening(port, started)
    return started


@pytest.fixture
def door(evening: Evening) -> Iterator[Door]:
    port = free_port()
    one = Door(port, serve(port))
    yield one
    ended(one.process, politely=False)


def packet(number: int) -> bytes:
    part = Part(first=40 * number, accel=np.ones((40, 3), np.float32), gyro=np.zeros((40, 3), np.float32))
    return encode(Packet(number=number, hub_s=0.04 * number, units={"bag": part}))


def talk(door: Door, token: str) -> ClientConnection:
    address = door.url.replace("http", "ws") + "/api/gateway"
    return connect(address, additional_headers={"Authorization": f"Bearer {token}"}, proxy=None)


def numbers() -> list[int]:
    return list(Row.objects.order_by("number").values_list("number", flat=True))


def test_packets_are_acknowledged_once_they_are_kept_and_kept_once(door: Door, evening: Evening) -> None:
    with talk(door, evening.token) as line:
        line.send(cbor2.dumps({"open": OPENING.said()}))
        assert cbor2.loads(line.recv(timeout=PATIENT_S))["welcome"] == OPENING.stream
        acked: list[int] = []
        for number in (0, 2, 1, 2, 0):
            line.send(packet(number))
        while len(acked) < 5:
            acked += cbor2.loads(line.recv(timeout=PATIENT_S)).get("ack", [])
        line.send(cbor2.dumps({"n": 9, "t": 0.0, "u": {"nose": {}}}))
        line.send(cbor2.dumps({"n": 10, "t": 2**70}))
        line.send(cbor2.dumps({"n": 11, "t": 0.0, "u": bytes(3_000_000)}))
        bad: list[list[object]] = []
        while len(bad) < 3:
            bad += cbor2.loads(line.recv(timeout=PATIENT_S)).get("bad", [])
        assert [number for number, _ in bad] == [9, 10, 11]  # and the line stands
    assert sorted(acked) == [0, 0, 1, 2, 2]
    said = post(door.url, evening.token, OPENING, [packet(2), packet(3)])  # the same stream by the other way
    assert said["ack"] == [2, 3]
    assert numbers() == [0, 1, 2, 3]


def test_only_a_stations_own_token_opens_the_door_and_none_after_it_is_revoked(door: Door, evening: Evening) -> None:
    for token in ("", "wrong", secrets.token_urlsafe(24)):
        with pytest.raises(InvalidStatus), talk(door, token):
            pass
        with pytest.raises(Refused, match="401"):
            post(door.url, token, OPENING, [packet(0)])
    assert evening.token not in {evening.station.token_hash, ""}
    with talk(door, evening.token) as line:
        line.send(cbor2.dumps({"open": OPENING.said()}))
        stations.revoke(evening.gym, evening.station.pk)
        with pytest.raises(ConnectionClosed, match="4401"):
            list(line)
    with pytest.raises(Refused, match="401"):
        post(door.url, evening.token, OPENING, [packet(0)])
    assert numbers() == []


def test_a_second_hub_with_the_same_token_waits_while_the_first_sends(door: Door, evening: Evening) -> None:
    post(door.url, evening.token, OPENING, [packet(0)])
    other = Opening(stream="another-hub-of-it", units=OPENING.units)
    with pytest.raises(Refused, match="409"):
        post(door.url, evening.token, other, [packet(0)])
    with talk(door, evening.token) as line:
        line.send(cbor2.dumps({"open": other.said()}))
        with pytest.raises(ConnectionClosed, match="4409"):
            list(line)
    Row.objects.update(received_at=evening.now - gateway.SENDS)  # the first one has gone
    assert post(door.url, evening.token, other, [packet(0)])["ack"] == [0]


def short(seconds: float) -> CoreRecording:
    rng = np.random.default_rng(2)
    n = int(1000 * seconds)
    accel, gyro = (rng.standard_normal((n, 3)).astype(np.float32) for _ in range(2))
    return CoreRecording(Participant("01"), "", "", "", None, {"bag": UnitSignal("bag", 1000.0, accel, gyro)})


def test_a_server_killed_while_a_bad_network_brings_packets_loses_none(
    door: Door, evening: Evening, tmp_path: Path
) -> None:
    """The hub loses one in ten on the way, sends one in ten twice, some late; the server is killed and comes back."""
    played = short(6.0)
    faults = Faults(drop=0.1, double=0.1, reorder=0.2, delay_s=0.3)
    hub = Hub(Replay(played, 1.0), Spool(tmp_path / "spool"), door.url, evening.token, faults, say=lambda text: None)

    async def all_of_it() -> None:
        running = asyncio.create_task(hub.run())
        while hub.spool.place.next < BEFORE_IT_IS_KILLED:
            await asyncio.sleep(0.01)
        ended(door.process, politely=False)
        door.process = await asyncio.to_thread(serve, door.port)
        await asyncio.wait_for(running, PATIENT_S)

    asyncio.run(all_of_it())
    rows = Row.objects.order_by("number")
    assert [r.number for r in rows] == list(range(hub.spool.place.next))
    came = np.concatenate([decode(bytes(r.content)).units["bag"].accel for r in rows])
    assert np.array_equal(came, played.units["bag"].accel_m_s2)
    assert list(hub.spool.waiting()) == []
    hub.spool.close()
    clock = Stream.objects.get(key=hub.spool.place.stream).clock
    assert clock is None or abs(clock[0] - hub.spool.place.began_at) < clock[1] + 0.05


def test_a_hub_that_is_killed_goes_on_with_the_same_stream_and_its_spool_is_its_own(tmp_path: Path) -> None:
    spool = Spool(tmp_path)
    spool.put(b"one", {"bag": 40})
    spool.put(b"two", {"bag": 80})
    stream = spool.place.stream
    with pytest.raises(BadInput, match="another hub"):
        Spool(tmp_path)
    spool.close()
    again = Spool(tmp_path)
    assert (again.place.stream, again.place.next, again.place.sent) == (stream, 2, {"bag": 80})
    assert list(again.waiting()) == [0, 1]
    again.close()


def test_a_simulated_student_who_was_away_for_minutes_goes_on() -> None:
    source = SimulatedStudent(worn=())
    source.due(900.5, {"bag": 500_000})
    parts = until(lambda: source.due(902.5, {"bag": 500_000}))
    assert parts["bag"].first == 901_000
