"""What a hub sends: numbered packets of all its units, as CBOR (RFC 8949) with typed arrays (RFC 8746).

The words on the wire are those of docs/gateway.md. Units and clocks stay as they are sent: samples are numbered on each
unit's own clock, from the stream's first.
"""

import io
import math
from dataclasses import dataclass, field
from typing import Any, NoReturn

import cbor2
import numpy as np
from numpy.typing import NDArray

from agile_strike.core.errors import BadInput
from agile_strike.core.recording import UNITS, UnitSignal

Samples = NDArray[np.float32]

FLOAT32_LE = 85  # RFC 8746: typed array of 32-bit floats, little endian
MOST_SAMPLES = 20_000  # of one unit in a packet: some seconds of the fastest
LARGEST_BYTES = 2_000_000
LARGEST_NUMBER = 2**53
LARGEST_SECONDS = 1e11  # of any clock: three thousand years
MOST_ITEMS = 4000  # of numbers, words, lists in one message; a packet of eleven units has some 150
DEEPEST = 8  # lists and maps within each other; a packet needs four
#: tags that the decoder gives a meaning to, among them numbers beyond 64 bits, patterns and shared references: what
#: they ask for can take seconds, and no message needs one
_MEANT_TAGS = (
    *range(6), *range(21, 26), *range(28, 31), *range(32, 38), 43, 100, 256, 258, 260, 261, 1004, 43000, 55799,
)  # fmt: skip
WIDTHS = {"a": 3, "g": 3, "s": 2, "l": 1}  # specific force, angular rate, load under heel and forefoot, a wall's load
MOST_RATE_HZ = 8000.0


class BadPacket(BadInput):
    """What came from a hub is no packet; the hub must not send it again."""

    def __init__(self, what: str, remedy: str) -> None:
        super().__init__(f"The packet {what}. {remedy}")


@dataclass(frozen=True, slots=True, kw_only=True)
class UnitFacts:
    """What stays the same about a unit through a stream."""

    rate_hz: float
    serial: str = ""
    model_text: str = ""
    accel_full_scale_m_s2: float | None = None
    gyro_full_scale_rad_s: float | None = None

    def said(self) -> dict[str, Any]:
        return {
            "hz": self.rate_hz,
            "serial": self.serial,
            "model": self.model_text,
            "accel_fs": self.accel_full_scale_m_s2,
            "gyro_fs": self.gyro_full_scale_rad_s,
        }


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening:
    """What a hub says first: which stream this is, and of which units."""

    stream: str  #: made by the hub once; the same after it was cut off, or started again with its spool
    units: dict[str, UnitFacts]  #: by placement
    speed: float = 1.0  #: seconds of samples in a second: more than one where a recording is played fast

    def said(self) -> dict[str, Any]:
        return {"stream": self.stream, "speed": self.speed, "units": {p: u.said() for p, u in self.units.items()}}


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """Some samples of one unit."""

    first: int  #: number of the first one, on the unit's own clock
    accel: Samples | None = None  #: (n, 3) m/s2
    gyro: Samples | None = None  #: (n, 3) rad/s
    sole: Samples | None = None  #: (n, 2) N
    load: Samples | None = None  #: (n, 1) N

    @property
    def count(self) -> int:
        return next(len(x) for x in (self.accel, self.gyro, self.sole, self.load) if x is not None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Packet:
    number: int  #: 0 is the stream's first
    hub_s: float  #: the hub's clock when the last sample in it had come
    units: dict[str, Part] = field(default_factory=dict)
    battery_pct: dict[str, float] = field(default_factory=dict)
    lost: dict[str, int] = field(default_factory=dict)  #: samples that the hub knows never came, by placement
    clock: tuple[float, float] | None = None  #: the server's clock minus the hub's, and its doubt, seconds


def encode(packet: Packet) -> bytes:
    units = {}
    for place, part in packet.units.items():
        arrays = {"a": part.accel, "g": part.gyro, "s": part.sole, "l": part.load}
        units[place] = {"i": part.first} | {
            k: cbor2.CBORTag(FLOAT32_LE, np.ascontiguousarray(x, "<f4").tobytes())
            for k, x in arrays.items()
            if x is not None
        }
    said: dict[str, Any] = {"n": packet.number, "t": packet.hub_s, "u": units}
    said |= {name: value for name, value in (("b", packet.battery_pct), ("x", packet.lost)) if value}
    if packet.clock is not None:
        said["k"] = list(packet.clock)
    return cbor2.dumps(said)


class _Items:
    """A file of bytes that ends where more items are asked of it than a message has."""

    def __init__(self, content: bytes, most: int) -> None:
        self._content, self._left = io.BytesIO(content), most

    def read(self, size: int) -> bytes:
        self._left -= 1
        if self._left < 0:
            raise ValueError("more items than a message has")
        return self._content.read(size)

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return False


def _no_tag(_: Any, __: bool) -> NoReturn:
    raise ValueError("a tag that no message needs")


def _decoder(content: bytes, most: int = 3 * MOST_ITEMS) -> cbor2.CBORDecoder:
    """An item takes up to three reads."""
    return cbor2.CBORDecoder(
        _Items(content, most),  # type: ignore[arg-type]  # reads like one
        read_size=1,
        semantic_decoders=dict.fromkeys(_MEANT_TAGS, _no_tag),
        max_depth=DEEPEST,
        allow_indefinite=False,
        allow_duplicate_keys=False,
        strict_hashable_types=True,
    )


def read(content: bytes, largest: int = LARGEST_BYTES) -> Any:
    """Any CBOR that a hub sent. Raises BadPacket."""
    number = number_in(content)
    which = "" if number is None else f"{number} "
    if len(content) > largest:
        raise BadPacket(f"{which}has {len(content)} bytes", f"Send at most {largest} at once.")
    try:
        return _decoder(content).decode()
    except Exception as error:  # its decoder raises many kinds
        remedy = f"Send it as docs/gateway.md says: no tag but {FLOAT32_LE}, numbers of 64 bits, {MOST_ITEMS} items."
        raise BadPacket(f"{which}is no CBOR that is taken here", remedy) from error


def number_in(content: bytes) -> int | None:
    """The number of a packet that is not read whole, where it stands first, as docs/gateway.md asks: so that a refusal
    names what it refuses."""
    if not content or content[0] >> 5 != 5:  # a map
        return None
    try:
        decoder = _decoder(content[1:65], 12)
        key, value = decoder.decode(), decoder.decode()
    except Exception:  # its decoder raises many kinds
        return None
    return value if key == "n" and type(value) is int and 0 <= value < LARGEST_NUMBER else None


def decode(content: bytes) -> Packet:
    """Raises BadPacket."""
    return packet_of(read(content))


def packet_of(said: Any) -> Packet:
    """A packet from what its CBOR says. Raises BadPacket."""
    if not isinstance(said, dict):
        raise BadPacket("is no map", "Send it as docs/gateway.md says.")
    number: Any = said.get("n")
    hub_s: Any = said.get("t")
    units: Any = said.get("u", {})
    if type(number) is not int or not 0 <= number < LARGEST_NUMBER:
        raise BadPacket("has no number n", "Number the stream's packets 0, 1, 2 and so on.")
    if not _finite(hub_s) or not isinstance(units, dict):
        raise BadPacket(f"{number} has no time t or no units u", "Give the hub's clock in seconds, and its units.")
    clock = said.get("k")
    if clock is not None and not (isinstance(clock, list) and len(clock) == 2 and all(_finite(c) for c in clock)):
        raise BadPacket(f"{number} has a clock k that is none", "Send the offset and its doubt, in seconds.")
    return Packet(
        number=number,
        hub_s=float(hub_s),
        units={_place(p): _part(p, part) for p, part in units.items()},
        battery_pct={_place(p): float(v) for p, v in _numbers(said, "b").items() if 0.0 <= v <= 100.0},
        lost={_place(p): int(v) for p, v in _numbers(said, "x").items() if v >= 0.0},
        clock=None if clock is None else (float(clock[0]), abs(float(clock[1]))),
    )


def opening_of(said: Any) -> Opening:
    """Raises BadPacket."""
    if not isinstance(said, dict) or not isinstance(said.get("stream"), str) or not 8 <= len(said["stream"]) <= 40:
        raise BadPacket("that opens has no stream", "Make a word of 8 to 40 letters for it, once.")
    units, speed = said.get("units"), said.get("speed", 1.0)
    if not isinstance(units, dict) or not units:
        raise BadPacket("that opens names no units", "Say which units the hub gathers, by placement.")
    if not _finite(speed) or not 0.01 <= speed <= 100.0:
        raise BadPacket("that opens has a speed that is none", "Say 1, or how much faster a recording is played.")
    return Opening(stream=said["stream"], units={_place(p): _facts(p, u) for p, u in units.items()}, speed=float(speed))


def _facts(place: str, said: Any) -> UnitFacts:
    if not isinstance(said, dict) or not _finite(said.get("hz")) or not 1.0 <= said["hz"] <= MOST_RATE_HZ:
        raise BadPacket(f"that opens has no rate for {place}", "Say its samples a second as hz.")
    scales = [said.get(n) for n in ("accel_fs", "gyro_fs")]
    if any(s is not None and not (_finite(s) and s > 0) for s in scales):
        raise BadPacket(f"that opens has no full scale for {place} that is one", "Give it in m/s2 and rad/s.")
    return UnitFacts(
        rate_hz=float(said["hz"]),
        serial=str(said.get("serial") or "")[:60],
        model_text=str(said.get("model") or "")[:80],
        accel_full_scale_m_s2=None if scales[0] is None else float(scales[0]),
        gyro_full_scale_rad_s=None if scales[1] is None else float(scales[1]),
    )


def _part(place: str, said: Any) -> Part:
    if not isinstance(said, dict) or type(said.get("i")) is not int or not 0 <= said["i"] < LARGEST_NUMBER:
        raise BadPacket(f"says not which sample of {place} is its first", "Number each unit's samples, as i.")
    arrays = {k: _array(place, k, said[k], width) for k, width in WIDTHS.items() if k in said}
    lengths = {len(a) for a in arrays.values()}
    if len(lengths) != 1 or not 0 < max(lengths) <= MOST_SAMPLES:
        raise BadPacket(f"has no samples of {place}, or not as many of each kind", "Send the same stretch of all.")
    if ("a" in arrays) != ("g" in arrays):
        raise BadPacket(f"has {place} with only one of a and g", "Send both; NaN where a sample is missing.")
    return Part(
        first=said["i"], accel=arrays.get("a"), gyro=arrays.get("g"), sole=arrays.get("s"), load=arrays.get("l")
    )


def _array(place: str, name: str, said: Any, width: int) -> Samples:
    fits = isinstance(said, cbor2.CBORTag) and said.tag == FLOAT32_LE and isinstance(said.value, bytes)
    if not fits or len(said.value) % (4 * width):
        raise BadPacket(f"has {name} of {place} in another form", "Send 32-bit floats, little endian, with tag 85.")
    values = np.frombuffer(said.value, "<f4").reshape(-1, width)
    if np.isinf(values).any():
        raise BadPacket(f"has an infinite {name} of {place}", "Send NaN where a sample is missing.")
    return values


def _place(said: Any) -> str:
    if said not in UNITS:
        raise BadPacket(f"names {str(said)[:30]}", f"A unit is worn at one of {', '.join(UNITS)}.")
    return str(said)


def _numbers(said: dict[str, Any], name: str) -> dict[str, float]:
    numbers = said.get(name, {})
    if not isinstance(numbers, dict) or not all(_finite(v) for v in numbers.values()):
        raise BadPacket(f"has {name} that are no numbers", "Give one number for each unit.")
    return numbers


def _finite(value: Any) -> bool:
    return type(value) in (int, float) and math.isfinite(value) and abs(value) <= LARGEST_SECONDS


def parts_of(unit: UnitSignal, rows: slice) -> Part:
    """Rows of a signal that begins with its first sample, as they are sent."""
    if unit.sole_n is not None:
        return Part(first=rows.start, sole=unit.sole_n[rows])
    load = None if unit.load_n is None else unit.load_n[rows][:, None]
    return Part(first=rows.start, accel=unit.accel_m_s2[rows], gyro=unit.gyro_rad_s[rows], load=load)
