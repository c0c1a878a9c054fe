"""Samples that never came: bridged, with what that leaves open of a unit's speed and attitude.

A lossy link drops packets of tens of milliseconds. In a guard a cubic with the slopes beside the hole (Hermite) bridges
one to a hundredth of a metre a second; in a strike it is off by metres. How far is told by what the cubic adds to a
straight line, and by how far the samples on both sides are apart. Whatever is summed across a hole that leaves much
open is not what the limb did, and is not used.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

SLOPE_S = 0.006  # beside a hole, over which its ends' slopes are taken
#: of what the cubic adds to the line, and of the way from side to side: what 95 in 100 holes of 10 to 80 ms keep
#: within, cut into evenings that had none; twice a standard uncertainty of the three axes together
OF_BEND, OF_STEP = 1.0, 0.1
SPEED_M_S, TURN_RAD = 0.004, 0.0005  # that noise beside the hole makes of it
SD_SHARE = 0.6  # of that along one axis
OPEN_M_S, OPEN_RAD = 0.02, 0.004  # beyond, a sum across it is not used


@dataclass(frozen=True, slots=True)
class Holes:
    """In order of time (h,), on the unit's clock."""

    from_s: Floats  #: the last sample before
    to_s: Floats  #: the first after
    speed_sd_m_s: Floats
    turn_sd_rad: Floats

    @property
    def open(self) -> "Holes":
        """Those that leave much open."""
        much = (self.speed_sd_m_s > OPEN_M_S) | (self.turn_sd_rad > OPEN_RAD)
        return Holes(*(x[much] for x in (self.from_s, self.to_s, self.speed_sd_m_s, self.turn_sd_rad)))

    def unbroken(self, at_s: Floats) -> tuple[Floats, Floats]:
        """From when and until when (s,) nothing is open round instants (s,); infinite where nothing is."""
        much = self.open
        ends = np.concatenate([[-np.inf], np.maximum.accumulate(much.to_s)])
        begins = np.concatenate([much.from_s, [np.inf]])
        return ends[np.searchsorted(much.from_s, at_s)], begins[np.searchsorted(much.from_s, at_s)]

    def parts(self, spans_s: list[tuple[float, float]]) -> list[tuple[float, float]]:
        """The same stretches, cut where something is open."""
        much, out = self.open, []
        for a, b in spans_s:
            cut = (much.to_s > a) & (much.from_s < b)
            begins, ends = np.append(a, much.to_s[cut]), np.append(much.from_s[cut], b)
            out += [(float(i), float(j)) for i, j in zip(begins, ends, strict=True) if j > i]
        return out


NONE = Holes(*(np.zeros(0) for _ in range(4)))


def bridge(samples: NDArray[np.float32], missing: Bools, rate_hz: float, first: int) -> Holes:
    """Fill the samples (n, 6: angular rate, specific force) that are `missing` (n,), in place; the first one is sample
    `first` of the unit. At the recording's ends the nearest sample stands for them."""
    good = np.flatnonzero(~missing)
    if not len(good):
        samples[:] = 0.0
        return NONE
    samples[: good[0]], samples[good[-1] + 1 :] = samples[good[0]], samples[good[-1]]
    at = np.flatnonzero(np.diff(good) > 1)
    left, right = good[at], good[at + 1]
    back = max(1, round(SLOPE_S * rate_hz))
    beyond = [good[np.clip(at - back, 0, None)], good[np.clip(at + 1 + back, None, len(good) - 1)]]
    slopes = []
    for near, far, away in ((left, beyond[0], left - beyond[0]), (right, beyond[1], right - beyond[1])):
        rise = samples[near].astype(np.float64) - samples[far]
        slopes.append(rise / np.where(away == 0, np.inf, away)[:, None])
    steps = (right - left).astype(np.float64)
    inside = np.flatnonzero(missing[good[0] : good[-1]]) + good[0]
    which = np.searchsorted(right, inside)
    x = ((inside - left[which]) / steps[which])[:, None]
    a, b = (samples[side].astype(np.float64) for side in (left, right))
    rise_a, rise_b = (s * steps[:, None] for s in slopes)
    samples[inside] = (
        (1 - x) ** 2 * ((1 + 2 * x) * a[which] + x * rise_a[which])
        + x**2 * ((3 - 2 * x) * b[which] - (1 - x) * rise_b[which])
    ).astype(np.float32)
    length_s = steps / rate_hz
    bend = length_s[:, None] * (rise_b - rise_a) / 12.0
    step = length_s[:, None] * (b - a)
    turn, speed = (
        SD_SHARE
        * np.hypot(OF_BEND * np.linalg.norm(bend[:, part], axis=1), OF_STEP * np.linalg.norm(step[:, part], axis=1))
        for part in (slice(0, 3), slice(3, 6))
    )
    of_noise = length_s / 0.04
    return Holes(
        (first + left) / rate_hz, (first + right) / rate_hz, speed + SPEED_M_S * of_noise, turn + TURN_RAD * of_noise
    )
