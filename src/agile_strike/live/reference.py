"""A take's reference clock: when an instant of the server's clock was on it."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from agile_strike.core.live.reference import Reference, reference
from agile_strike.formats.packets import Packet
from agile_strike.live.models import Stream

UNKNOWN_CLOCK_SD_S = 0.25  # of a hub that has not told how its clock stands


@dataclass(frozen=True, slots=True)
class OnReference:
    """From the server's clock to the reference clock of a take."""

    line: Reference
    server_minus_hub_s: float
    clock_sd_s: float

    def to_json(self) -> dict[str, float]:
        """`reference = zero_s + rate * (server - epoch_s)`, so that no digit is lost to the epoch's size."""
        return {
            "zero_s": self.line.at_zero_s,
            "rate": self.line.rate,
            "epoch_s": self.server_minus_hub_s,
            "sd_s": self.sd_s,
        }

    def of(self, at: dt.datetime) -> float:
        return self.line.of(at.timestamp() - self.server_minus_hub_s)

    @property
    def sd_s(self) -> float:
        return float(np.hypot(self.line.sd_s, self.clock_sd_s * self.line.rate))


def clock_of(stream: Stream, packets: list[tuple[Packet, dt.datetime]]) -> tuple[float, float]:
    """The server's clock minus the hub's, and its doubt, seconds: as the hub told it, else by the quickest packet."""
    if stream.clock is not None:
        return float(stream.clock[0]), float(stream.clock[1])
    ways = [at.timestamp() - packet.hub_s for packet, at in packets]
    return (min(ways), UNKNOWN_CLOCK_SD_S) if ways else (stream.began_at.timestamp(), UNKNOWN_CLOCK_SD_S)


def on_reference(stream: Stream, hub_s: Sequence[float], bag_s: Sequence[float]) -> OnReference | None:
    """From packets (k,): the hub's clock when each had come, and the take's bag clock after its last sample."""
    if not hub_s:
        return None
    line = reference(np.array(hub_s), np.array(bag_s), float(stream.opening["speed"]))
    return OnReference(line, *clock_of(stream, []))


def at_reference(clock: dict[str, float] | None, at: dt.datetime) -> float | None:
    """The same from what a take kept of it."""
    return None if clock is None else clock["zero_s"] + clock["rate"] * (at.timestamp() - clock["epoch_s"])
