"""A take's reference clock: when an instant of the server's clock was on it."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from agile_strike.core.live.reference import Reference, quickest, reference
from agile_strike.live.models import Take
from agile_strike.live.whose.placing import clock_of


@dataclass(frozen=True, slots=True)
class OnReference:
    """From the server's clock to the reference clock of a take."""

    line: Reference
    ways: list[tuple[float, float]]  #: the quickest packets so far: when on the hub's clock, and the bag's
    server_minus_hub_s: float
    clock_sd_s: float

    def to_json(self) -> dict[str, Any]:
        """`reference = zero_s + rate * (server - epoch_s)`, so that no digit is lost to the epoch's size."""
        return {
            "zero_s": self.line.at_zero_s,
            "rate": self.line.rate,
            "epoch_s": self.server_minus_hub_s,
            "sd_s": self.sd_s,
            "ways": self.ways,
        }

    def of(self, at: dt.datetime) -> float:
        return self.line.of(at.timestamp() - self.server_minus_hub_s)

    def differs(self, kept: dict[str, Any] | None, now_s: float, by_s: float) -> bool:
        """Whether an instant would be placed otherwise than by what a take has kept, at `now_s` of the reference."""
        if kept is None:
            return True
        server = kept["epoch_s"] + (now_s - kept["zero_s"]) / kept["rate"]
        return abs(self.line.of(server - self.server_minus_hub_s) - now_s) > by_s

    @property
    def sd_s(self) -> float:
        return float(np.hypot(self.line.sd_s, self.clock_sd_s * self.line.rate))


def on_reference(take: Take, come: Sequence[tuple[float, float]]) -> OnReference | None:
    """From packets: the hub's clock when each had come, and the take's bag clock after its last sample. The quickest
    that the take has kept are asked as well: those that came last may all have been held up."""
    stream, kept = take.stream, [tuple(w) for w in (take.clock or {}).get("ways", ())]
    if stream is None or not (kept or come):
        return None
    hub_s, bag_s = np.array([*kept, *come], np.float64).T
    speed = float(stream.opening["speed"])
    ways = [(float(hub_s[k]), float(bag_s[k])) for k in quickest(hub_s, bag_s, speed)]
    return OnReference(reference(hub_s, bag_s, speed), ways, *clock_of(stream))


def at_reference(clock: dict[str, Any] | None, at: dt.datetime) -> float | None:
    """The same from what a take kept of it."""
    return None if clock is None else clock["zero_s"] + clock["rate"] * (at.timestamp() - clock["epoch_s"])
