"""A unit's attitude in the near-inertial frame that its gyro keeps still, on a grid of hundredths of a second.

The grid is summed second by second, each from an attitude that is known at its beginning: a piece of the evening then
has the same bits as the whole, once those are known.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.student.course import COARSE_S, SECOND
from agile_strike.core.student.rotation import exp, multiply, rotate, running

Floats = NDArray[np.float64]

UPRIGHT: Floats = np.array([1.0, 0.0, 0.0, 0.0])


@dataclass(frozen=True, slots=True)
class Attitude:
    """On a coarse grid, from a whole second of the unit's clock on."""

    first: int  #: step of the evening that the first one here is
    attitude: Floats  #: (m + 1, 4) body to the near-inertial frame
    pushed: Floats  #: (m, 3) velocity gained in each step, in that frame; gravity has not been taken off

    def step(self, at_s: Floats) -> NDArray[np.int64]:
        """The step (...) in which each instant lies, counted from the first one here."""
        return np.clip((at_s / COARSE_S).astype(np.int64) - self.first, 0, len(self.attitude) - 1)

    @property
    def last(self) -> int:
        return len(self.attitude) - 1

    def at(self, step: NDArray[np.int64]) -> Floats:
        return np.asarray(self.attitude[step])

    def begins_s(self, step: NDArray[np.int64]) -> Floats:
        return np.asarray(COARSE_S * (step + self.first).astype(np.float64))

    def moved(self, from_s: Floats, to_s: Floats) -> Floats:
        """Place gained (s, k, 3) between instants (s, 1) and (s, k), by one that stood still at the first: smooth
        stretches only."""
        lowest = np.minimum(to_s.min(axis=1, keepdims=True), from_s)
        most = float((np.maximum(to_s.max(axis=1, keepdims=True), from_s) - lowest).max())
        start = np.floor(self._place(lowest)).astype(np.int64)
        rows = np.clip(start + np.arange(int(np.ceil(most / COARSE_S)) + 2), 0, len(self.pushed) - 1)
        pushed = self.pushed[rows]
        velocity, place = np.zeros((2, len(rows), rows.shape[1] + 1, 3))
        np.cumsum(pushed, axis=1, out=velocity[:, 1:])
        np.cumsum(COARSE_S * 0.5 * (velocity[:, 1:] + velocity[:, :-1]), axis=1, out=place[:, 1:])

        def upto(at_s: Floats) -> tuple[Floats, Floats]:
            at = self._place(at_s) - start
            k = at.astype(np.int64)
            f = (at - k)[..., None]
            own = np.arange(len(k))[:, None]
            v = velocity[own, k] + f * (velocity[own, k + 1] - velocity[own, k])
            # velocity is a straight line between the points, so place is a parabola
            return v, place[own, k] + COARSE_S * f * 0.5 * (velocity[own, k] + v)

        v0, p0 = upto(from_s)
        _, p1 = upto(to_s)
        return np.asarray(p1 - p0 - v0 * (to_s - from_s)[..., None])

    def _place(self, at_s: Floats) -> Floats:
        return np.clip(at_s / COARSE_S - self.first, 0.0, len(self.attitude) - 1.001)


def attitude_from(
    steps: Floats,
    bias: Floats,
    first_second: int = 0,
    anchors: Floats | None = None,
    begins: Floats = UPRIGHT,
) -> Attitude:
    """From turns and pushes (m, 6) of coarse steps that begin at a whole second, less a gyro's bias, (3,) or (m, 3).
    `anchors` (n, 4) are the attitudes at whole seconds of the evening, where all of them are known; else it is carried
    on from how it `begins` (4,)."""
    turn, push = steps[:, :3] - COARSE_S * bias, steps[:, 3:]
    cone = np.zeros_like(turn)
    cone[1:] = np.cross(turn[:-1], turn[1:]) / 12.0  # second-order coning (Savage 1998)
    m = len(steps)
    seconds = -(-m // SECOND)
    each = np.zeros((seconds * SECOND, 4))
    each[:, 0] = 1.0
    each[:m] = exp(turn + cone)
    inner = running(each.reshape(seconds, SECOND, 4))
    if anchors is None:
        starts = np.zeros((1, seconds, 4))
        starts[:] = begins
        if seconds > 1:
            starts[0, 1:] = multiply(begins, running(inner[None, :-1, -1])[0])
        begin = starts[0] / np.linalg.norm(starts[0], axis=1, keepdims=True)
    else:
        begin = anchors[np.clip(first_second + np.arange(seconds), 0, len(anchors) - 1)]
    whole = multiply(np.broadcast_to(begin[:, None, :], inner.shape), inner)
    whole /= np.linalg.norm(whole, axis=2, keepdims=True)
    attitude = np.concatenate([begin[:, None, :], whole[:, :-1]], axis=1).reshape(-1, 4)[: m + 1]
    if len(attitude) == m:  # it ends with a whole second
        attitude = np.concatenate([attitude, whole[-1:, -1]] if seconds else [np.array([[1.0, 0.0, 0.0, 0.0]])])
    middle = multiply(attitude[:-1], exp(0.5 * turn))
    return Attitude(first_second * SECOND, attitude, rotate(middle, push))
