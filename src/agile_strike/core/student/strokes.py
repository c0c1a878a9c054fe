"""Strokes of one limb from its unit alone: each way that it goes in one direction, from slow to slow.

Velocity is specific force in the frame that the gyro keeps still, less gravity, less its own mean over a second: over
a strike and its return a limb goes nowhere. Nothing is summed across a jolt that went beyond the accelerometer's
limit, which does not say how much was lost.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from agile_strike.core.recording import UnitSignal
from agile_strike.core.student.attitude import Attitude, attitude_from
from agile_strike.core.student.course import COARSE_S, Course, coarse_steps, course_of
from agile_strike.core.student.jolts import jolts
from agile_strike.core.student.rotation import conjugate, rotate, unit

Floats = NDArray[np.float64]
Places = NDArray[np.int64]

SLOWEST_M_S = 1.5  # of a stroke that is looked at
HOME_S = 1.2  # over which a limb goes nowhere
LEVEL_S, MOVED_M_S2 = 2.0, 3.0  # over which its push is gravity's; what is this far off it says little of it
SLOW_SHARE = 0.1  # of a stroke's top, where it begins and ends
LONGEST_S = 0.7
APART_S = 0.06  # of two tops
STOPS_S = (0.02, 0.045)  # before a stroke's top and after its end, in which it was stopped
JOLT_M_S2, CLIPPED_S = 40.0, (0.01, 0.04)  # before a jolt and after it, in which what is clipped is its own
EVEN_S = 0.012  # that rings
LEAST_S = 3.0


@dataclass(frozen=True, slots=True)
class Strokes:
    """k strokes of one limb in order of time, on its unit's clock."""

    begins_s: Floats  #: (k,)
    top_s: Floats
    ends_s: Floats
    top_m_s: Floats  #: (k,) highest speed
    way_m: Floats
    along: Floats  #: (k, 3) direction at the top, in the frame that the gyro keeps still
    in_unit: Floats  #: (k, 3) that direction in the unit's own axes at the end
    launched_m_s2: Floats  #: (k,) the hardest that it was sped up
    braked_m_s2: Floats  #: (k,) the hardest that it was slowed over a hundredth of a second
    stopped_m_s2: Floats  #: (k,) and in any sample
    held_s: Floats  #: (k,) for how long it was slowed at least half as hard
    rested_s: Floats  #: (k,) how long it had been slow before
    tilt_deg: Floats  #: (k,) of the unit at the end, from how it hangs at rest

    def __len__(self) -> int:
        return len(self.top_s)


def strokes(signal: UnitSignal) -> tuple[Strokes, Course]:
    """All strokes of a limb unit, and its course. One that is too short to say anything has none."""
    course, _ = course_of(signal, np.zeros(0))
    steps = coarse_steps(course)
    if len(steps) < LEAST_S / COARSE_S:
        return _none(), course
    track = attitude_from(steps, np.median(steps[:, :3], axis=0) / COARSE_S)
    push = track.pushed / COARSE_S
    up = _gravity(push)
    felt = push - up
    velocity = _velocity(felt, _breaks(course, signal, len(felt)))
    speed = np.linalg.norm(velocity, axis=1)
    near = 2 * round(APART_S / COARSE_S) + 1
    tops = np.flatnonzero((speed >= SLOWEST_M_S) & (speed == maximum_filter1d(speed, near)))
    if not len(tops):
        return _none(), course
    return _told(tops, velocity, felt, track, course, _tilts(track, up)), course


def _none() -> Strokes:
    k, three = np.zeros(0), np.zeros((0, 3))
    return Strokes(k, k, k, k, k, three, three, k, k, k, k, k, k)


def _gravity(push: Floats) -> Floats:
    """Specific force at rest (m, 3) about each step: the mean of those that are like it (one Huber step)."""
    wide = round(LEVEL_S / COARSE_S)
    level = uniform_filter1d(push, wide, axis=0, mode="nearest")
    for _ in range(2):
        off = np.linalg.norm(push - level, axis=1)
        share = 1.0 / (1.0 + (off / MOVED_M_S2) ** 2)
        weight = uniform_filter1d(share, wide, mode="nearest")
        level = uniform_filter1d(push * share[:, None], wide, axis=0, mode="nearest") / weight[:, None]
    return np.asarray(level)


def _breaks(course: Course, signal: UnitSignal, m: int) -> Places:
    """Steps (b,) beyond each of which the sum begins anew: the first, and where what a jolt clipped ends. What a limb's
    own speeding up loses at the limit is little."""
    hit = np.asarray((np.abs(course.samples[:, 3:]) >= signal.clips_at_m_s2).any(axis=1))
    jolted = jolts(signal, JOLT_M_S2).at_s * signal.rate_hz - signal.first_sample if hit.any() else np.zeros(0)
    early, late = (round(x * signal.rate_hz) for x in CLIPPED_S)
    ends = [
        i + np.flatnonzero(hit[i : j + late])[-1]
        for i, j in ((max(0, int(k) - early), int(k)) for k in jolted)
        if hit[i : j + late].any()
    ]
    steps = np.array(ends, dtype=np.float64) / (course.rate_hz * COARSE_S)
    return np.unique(np.concatenate([[0], steps[steps < m - 2].astype(np.int64) + 1]))


def _velocity(felt: Floats, breaks: Places) -> Floats:
    """(m, 3): the sum from each break on, less its mean within half of `HOME_S` and the breaks beside."""
    half = round(0.5 * HOME_S / COARSE_S)
    m = len(felt)
    at = np.arange(m)
    piece = np.searchsorted(breaks, at, side="right") - 1
    ends = np.append(breaks[1:], m)
    total = np.cumsum(felt, axis=0) * COARSE_S
    summed = np.concatenate([np.zeros((1, 3)), np.cumsum(total, axis=0)])
    low, high = np.maximum(breaks[piece], at - half), np.minimum(ends[piece], at + half + 1)
    return np.asarray(total - (summed[high] - summed[low]) / (high - low)[:, None])


def _tilts(track: Attitude, up: Floats) -> Floats:
    """Degrees (m,) between up in the unit and how it lies at rest, the middle of all."""
    own = unit(rotate(conjugate(track.attitude[:-1]), up))
    usual = unit(np.median(own, axis=0)[None, :])[0]
    return np.asarray(np.degrees(np.arccos(np.clip(own @ usual, -1.0, 1.0))))


def _told(tops: Places, velocity: Floats, felt: Floats, track: Attitude, course: Course, tilts: Floats) -> Strokes:
    rows: list[tuple[float, ...]] = []
    along, in_unit = [], []
    reach = round(LONGEST_S / COARSE_S)
    before, after = (round(x / COARSE_S) for x in STOPS_S)
    speed = np.linalg.norm(velocity, axis=1)
    for top in tops:
        way = velocity[top] / speed[top]
        first = max(0, top - reach)
        forward = velocity[first : top + reach + 1] @ way
        slow = forward <= SLOW_SHARE * speed[top]
        k = top - first
        begun = np.flatnonzero(slow[:k])
        ended = np.flatnonzero(slow[k:])
        begins, ends = (int(begun[-1]) if len(begun) else 0), (k + int(ended[0]) if len(ended) else len(forward) - 1)
        # between two steps, by a straight line
        part = (forward[ends - 1] - SLOW_SHARE * speed[top]) / max(forward[ends - 1] - forward[ends], 1e-9)
        ends_s = COARSE_S * (first + ends + np.clip(part, 0.0, 1.0))
        push = felt[first : first + len(forward)] @ way
        own = rotate(conjugate(track.attitude[first + ends]), way)
        rate = course.rate_hz * COARSE_S
        i, j = int(max(0, top - before) * rate), int((first + ends + after) * rate)
        still = np.flatnonzero(speed[: first + begins + 1][::-1] > 0.25 * speed[top])
        along.append(way)
        in_unit.append(own)
        rows.append(
            (
                COARSE_S * (first + begins),
                COARSE_S * top,
                float(ends_s),
                float(speed[top]),
                float(forward[begins : ends + 1].sum() * COARSE_S),
                float(push[begins : k + 1].max()),
                float(-push[max(0, k - before) : ends + after].min()),
                *_stopped(-(course.samples[i:j, 3:] @ own), course.rate_hz),
                COARSE_S * float(still[0] if len(still) else first + begins),
                float(tilts[min(first + ends, len(tilts) - 1)]),
            )
        )
    c = np.array(rows).T
    return Strokes(c[0], c[1], c[2], c[3], c[4], np.array(along), np.array(in_unit), *c[5:])


def _stopped(slowed: Floats, rate_hz: float) -> tuple[float, float]:
    """The hardest that samples (n,) were slowed, m/s2, and how long at least half as hard, s, round that: without the
    ringing of a strap."""
    if not len(slowed):
        return 0.0, 0.0
    slowed = uniform_filter1d(slowed.astype(np.float64), max(1, round(EVEN_S * rate_hz)), mode="nearest")
    top = int(np.argmax(slowed))
    soft = slowed < 0.5 * slowed[top]
    before, after = soft[: top + 1][::-1], soft[top:]
    first = int(np.argmax(before)) if before.any() else top
    last = int(np.argmax(after)) if after.any() else len(after)
    return float(slowed[top]), (first + last - 1) / rate_hz
