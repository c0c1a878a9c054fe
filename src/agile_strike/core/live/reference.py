"""When something happened on the reference clock that another clock tells: a tap on a tablet, a sound, a packet's way.

A hub notes when each packet's last sample had come. What varies is the way that samples took; the quickest ones say how
the two clocks stand to each other (the minimum filter of network time, RFC 5905, 10). A line that no packet is ahead
of, and that lies closest to the quickest of each half minute, says how one clock drifts against the other (Moon, Skelly
and Towsley, Estimation and removal of clock skew from network delay measurements, 1999): stretches in which all
packets were held up pull nothing.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize_scalar

Floats = NDArray[np.float64]

STRETCH_S = 30.0
MOST_DRIFT = 400e-6  # of two clocks against each other
QUICK_SHARE = 0.25  # of the quickest packets lie closer to the line than its doubt
WAY_SD_S = 0.002  # of the quickest sample from the unit to the hub: no one measures it


@dataclass(frozen=True, slots=True)
class Reference:
    """The hub's clock against the reference clock: `reference = at_zero_s + rate * hub`."""

    at_zero_s: float
    rate: float
    sd_s: float

    def of(self, hub_s: float) -> float:
        return self.at_zero_s + self.rate * hub_s


def quickest(hub_s: Floats, bag_s: Floats, speed: float = 1.0) -> NDArray[np.int64]:
    """The packets, of (k,), that tell all that `reference` wants to know: the quickest of each stretch."""
    ahead = bag_s - speed * hub_s  # the later a sample came, the less
    stretch = np.floor(hub_s * speed / STRETCH_S).astype(np.int64)
    order = np.lexsort((-ahead, stretch))
    first = np.flatnonzero(np.diff(stretch[order], prepend=stretch.min() - 1))
    return order[first].astype(np.int64)


def reference(hub_s: Floats, bag_s: Floats, speed: float = 1.0) -> Reference:
    """From packets (k,): the hub's clock when each had come, and the bag's clock after its last sample, seconds.
    `speed`: seconds of samples in a second of the hub's. Raises ValueError without a packet."""
    if not len(hub_s):
        raise ValueError("no packet says how the clocks stand")
    best = quickest(hub_s, bag_s, speed)
    at, ahead = hub_s[best], (bag_s - speed * hub_s)[best]
    middle, slope = float(np.mean(at)), 0.0
    if len(best) >= 3:
        most = MOST_DRIFT * speed
        lowest = minimize_scalar(lambda b: float(np.max(ahead - b * (at - middle))), bounds=(-most, most))
        slope = float(lowest.x)
    behind = np.max(ahead - slope * at) - (ahead - slope * at)
    spread = float(np.quantile(behind, QUICK_SHARE)) if len(best) >= 3 else 0.0
    return Reference(float(np.max(ahead - slope * at)), speed + slope, float(np.hypot(WAY_SD_S * speed, spread)))
