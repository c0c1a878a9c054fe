"""When something happened on the reference clock that another clock tells: a tap on a tablet, a sound, a packet's way.

A hub notes when each packet's last sample had come. What varies is the way that samples took; the quickest
ones say how the two clocks stand to each other (the minimum filter of network time, RFC 5905, 10), and a line through
the quickest of each half minute says how one drifts against the other.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

STRETCH_S = 30.0
MOST_DRIFT = 400e-6  # of two clocks against each other
WAY_SD_S = 0.002  # of the quickest sample from the unit to the hub: no one measures it


@dataclass(frozen=True, slots=True)
class Reference:
    """The hub's clock against the reference clock: `reference = at_zero_s + rate * hub`."""

    at_zero_s: float
    rate: float
    sd_s: float

    def of(self, hub_s: float) -> float:
        return self.at_zero_s + self.rate * hub_s


def reference(hub_s: Floats, bag_s: Floats, speed: float = 1.0) -> Reference:
    """From packets (k,): the hub's clock when each had come, and the bag's clock after its last sample, seconds.
    `speed`: seconds of samples in a second of the hub's. Raises ValueError without a packet."""
    if not len(hub_s):
        raise ValueError("no packet says how the clocks stand")
    ahead = bag_s - speed * hub_s  # the later a sample came, the less
    stretch = np.floor((hub_s - hub_s.min()) * speed / STRETCH_S).astype(np.int64)
    best = np.array([np.flatnonzero(stretch == s)[np.argmax(ahead[stretch == s])] for s in np.unique(stretch)])
    slope = 0.0
    if len(best) >= 3:
        slope = float(np.clip(np.polyfit(hub_s[best], ahead[best], 1)[0], -MOST_DRIFT * speed, MOST_DRIFT * speed))
    zero = float(np.max(ahead - slope * hub_s)) if len(best) < 3 else float(np.median((ahead - slope * hub_s)[best]))
    spread = float(np.std((ahead - slope * hub_s)[best])) if len(best) >= 3 else 0.0
    return Reference(zero, speed + slope, float(np.hypot(WAY_SD_S * speed, spread)))
