"""A worn unit's angle and velocity increments between any instants, from sums that begin beside each contact.

Between two samples the signal is a straight line, so its integral is a parabola. Samples that are missing are bridged
and remembered; what a limb's own speeding up lost at the accelerometer's limit is put back. Nothing is summed from the
recording's beginning, so that a piece of it gives the same bits as the whole.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal
from agile_strike.core.student.holes import NONE, Holes, bridge
from agile_strike.core.student.unclip import Clipped, unclip

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

COARSE_S = 0.01
SECOND = round(1.0 / COARSE_S)  # coarse steps in one
BRIDGED_SHARE = 0.1  # of samples: what a lossy link drops does no harm where bridging leaves little open
BATCH_S = 60  # of general sums at a time


@dataclass(frozen=True, slots=True)
class Course:
    """One unit's samples from a whole second of its clock on: rates about body axes (gyro bias not yet taken off) and
    specific force."""

    rate_hz: float
    first: int  #: sample of the evening that the first one here is
    samples: NDArray[np.float32]  #: (n, 6) angular rate, specific force
    lost: NDArray[np.int32]  #: (n,) samples missing up to here
    holes: Holes = NONE

    @property
    def length_s(self) -> float:
        """Until the last sample, on the unit's clock."""
        return (self.first + len(self.samples) - 1) / self.rate_hz

    @property
    def first_second(self) -> int:
        return round(self.first / self.rate_hz)

    def place(self, at_s: Floats) -> Floats:
        """Instants in samples from the first one here, between samples too; beyond the ends time stands still."""
        return np.clip(at_s * self.rate_hz - self.first, 0.0, len(self.samples) - 1.001)

    def near(self, from_s: Floats, until_s: float) -> "Sums":
        """Sums (s,) from instants on, over `until_s` seconds."""
        start = np.floor(self.place(from_s)).astype(np.int64)
        count = int(np.ceil(until_s * self.rate_hz)) + 4
        rows = np.clip(start[:, None] + np.arange(count), 0, len(self.samples) - 1)
        near = self.samples[rows].astype(np.float64)
        summed = np.zeros_like(near)
        np.cumsum((near[:, 1:] + near[:, :-1]) * (0.5 / self.rate_hz), axis=1, out=summed[:, 1:])
        return Sums(self, start, near, summed)

    def seen(self, from_s: Floats, to_s: Floats) -> Bools:
        """Whether most samples between instants (...) were there."""
        n = len(self.samples)
        a, b = from_s * self.rate_hz - self.first, to_s * self.rate_hz - self.first
        inside = (a >= 0) & (b <= n - 1)
        i, j = (np.clip(x, 0, n - 1).astype(np.int64) for x in (a, np.ceil(b)))
        return np.asarray(inside & (self.lost[j] - self.lost[i] <= BRIDGED_SHARE * (j - i)))


@dataclass(frozen=True, slots=True)
class Sums:
    """Integrals of one unit from beside each of s contacts."""

    course: Course
    start: NDArray[np.int64]  #: (s,) sample that each begins at
    near: Floats  #: (s, n, 6) samples
    summed: Floats  #: (s, n, 6) from the first of them

    def upto(self, at_s: Floats) -> Floats:
        """Integrals (s, k, 6) up to instants (s, k) of the unit's clock."""
        place = self.course.place(at_s) - self.start[:, None]
        whole = place.astype(np.int64)
        f = (place - whole)[..., None]
        rows = np.arange(len(whole))[:, None]
        x = self.near[rows, whole]
        step = f * (x + 0.5 * f * (self.near[rows, whole + 1] - x)) / self.course.rate_hz
        return np.asarray(self.summed[rows, whole] + step)


def course_of(unit: UnitSignal, contact_s: Floats) -> tuple[Course, Clipped]:
    """The course of a unit, and what was clipped on the way to each of its limb's contacts (s,), on its own clock."""
    samples = np.empty((len(unit.accel_m_s2), 6), np.float32)
    samples[:, :3], samples[:, 3:] = unit.gyro_rad_s, unit.accel_m_s2
    lost, holes = np.zeros(len(samples), np.int32), NONE
    if not np.isfinite(samples.sum()):  # a sum is finite only if all that is summed is: cheaper than a look at each
        missing = np.asarray(~np.isfinite(samples).all(axis=1))
        holes = bridge(samples, missing, unit.rate_hz, unit.first_sample)
        np.cumsum(missing, out=lost)
    clipped = unclip(samples[:, 3:], contact_s, unit)
    return Course(unit.rate_hz, unit.first_sample, samples, lost, holes), clipped


def coarse_steps(course: Course) -> Floats:
    """Angle and velocity gained (m, 6) in each hundredth of a second, from the first whole second here on."""
    block = course.rate_hz * COARSE_S
    if block == round(block):
        return _by_blocks(course.samples, round(block), course.rate_hz)
    return _by_seconds(course)


def _by_blocks(samples: NDArray[np.float32], block: int, rate_hz: float) -> Floats:
    m = (len(samples) - 1) // block
    ends = samples[: m * block + 1 : block].astype(np.float64)
    out = 0.5 * (ends[1:] - ends[:-1])
    for k in range(block):  # strided sums: ten times faster than along a short axis
        out += samples[k : k + (m - 1) * block + 1 : block]
    out /= rate_hz
    return out


def _by_seconds(course: Course) -> Floats:
    """Where a step is no whole number of samples; each second is summed by itself."""
    first, last = course.first_second, int(np.floor(course.length_s))
    edges = COARSE_S * np.arange(SECOND + 1)
    parts = []
    for begin in range(first, last, BATCH_S):
        seconds = np.arange(begin, min(begin + BATCH_S, last), dtype=np.float64)
        upto = course.near(seconds, 1.0 + COARSE_S).upto(seconds[:, None] + edges)
        parts.append(np.diff(upto, axis=1).reshape(-1, 6))
    return np.concatenate(parts) if parts else np.zeros((0, 6))
