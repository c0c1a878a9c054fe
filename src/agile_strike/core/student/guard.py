"""How restless a guard is: a place that sways slowly and bounces fast about one point, as a Gaussian process.

A bouncing boxer's wrist wanders by centimetres and a standing foot hardly at all, sideways more than in height. The two
spreads, level and in height, are those under which a unit's own quiet pieces are likeliest, once a line and a parabola
(errors of velocity and of gravity) are taken off them (restricted likelihood, Patterson and Thompson 1971).
"""

from dataclasses import dataclass, replace
from itertools import pairwise, product

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from agile_strike.core.student.filters import lowest
from agile_strike.core.student.still import WIDE_S, still_sd
from agile_strike.core.target import GRAVITY_M_S2

Floats = NDArray[np.float64]

SWAY_S, BOUNCE_S = 0.4, 0.09  # time over which slow sway and bounce forget themselves
WANDER_S = 0.6  # in which a hand that goes elsewhere is there
PAUSED_M_S = 0.25  # of a moment's doubt, below which a hand pauses
#: how still a pause is told to be: strictly, and so that a guard that bounces pauses too, of which more is asked; how
#: far hands go about one place, and from where on they surely go elsewhere
PAUSES, ONE_PLACE_M, ELSEWHERE_M = ((0.2, 0.2), (0.1, 0.3)), (0.055, 0.065), (0.06, 0.075)
LONGEST_MOVE_S = 2.5
BESIDE_S = 2.6  # before a contact, in which its guard is looked at
FEWEST_MOVES = 4
MOSTLY_PCT = 70.0  # before many strikes the way there is not seen: it was not still at both ends
WANDERS = 1.4  # times: places that a hand is put to are no Gaussian process, and the next may be farther
DART_S, DART_BESIDE_S = 0.05, 0.2
DARTS, DART_M_S2 = 8.0, 6.0  # times as hard as mostly, and at least so hard
CARRIED_S = 0.8  # beside another limb's contact
JITTER_M = 0.003
UNSEEN = 1e6
SLOW_M, FAST_M = (0.004, 0.007, 0.011, 0.016, 0.022, 0.03), (0.001, 0.003, 0.006, 0.01, 0.014, 0.02)
DOUBT_OCTAVES = 1.5  # of the usual spreads, before the evening has been seen
MOST_PIECES = 60  # of an evening: more say the same
BESIDE_LEVEL, BESIDE_HEIGHT = 1.5, 2.0  # beside a strike a guard is less steady than far from one: simulated evenings


@dataclass(frozen=True, slots=True)
class Sway:
    slow_m: float
    fast_m: float
    wander_m: float = 0.0  #: of a hand that is put somewhere else meanwhile

    def times(self, by: float) -> "Sway":
        return Sway(by * self.slow_m, by * self.fast_m, self.wander_m)


@dataclass(frozen=True, slots=True)
class Guard:
    level: Sway
    height: Sway

    def wandering(self, by_m: float) -> "Guard":
        return Guard(replace(self.level, wander_m=by_m), replace(self.height, wander_m=by_m))

    def axes(self) -> tuple[tuple[Sway, list[int]], tuple[Sway, list[int]]]:
        """How each of the axes x, y and z, upward, sways: what is alike together."""
        return (self.level, [0, 1]), (self.height, [2])


USUAL = Guard(Sway(0.022, 0.006), Sway(0.011, 0.014))


def sway(t: Floats, seen: NDArray[np.bool_], how: Sway) -> Floats:
    """Covariance (s, k, k) of the guard's place at times t (k,), m^2; looks not `seen` (s, k) say nothing."""
    kernel = _kernel(t, how)
    out = np.broadcast_to(kernel, (len(seen), *kernel.shape)).copy()
    diagonal = np.arange(len(t))
    out[:, diagonal, diagonal] += JITTER_M**2 + np.where(seen, 0.0, UNSEEN)
    return out


def _kernel(t: Floats, how: Sway) -> Floats:
    apart = t[:, None] - t[None, :]
    slow, fast = (np.exp(-0.5 * (apart / over) ** 2) for over in (SWAY_S, BOUNCE_S))
    wander = how.wander_m**2 * np.exp(-0.5 * (apart / WANDER_S) ** 2) if how.wander_m else 0.0
    return np.asarray(how.slow_m**2 * slow + how.fast_m**2 * fast + wander)


def restlessness(t: Floats, place: Floats, counts: NDArray[np.int64]) -> Guard:
    """From places (k, n, 3) of k quiet pieces at times t (n,), z up, of which the first `counts` (k,) looks count."""
    n = int(np.percentile(counts, 25))
    rows = np.flatnonzero(counts >= n)
    rows = rows[:: -(-len(rows) // MOST_PIECES)]
    centred = t[:n] - t[:n].mean()
    whole, _ = np.linalg.qr(np.vander(centred, 3), mode="complete")
    free = whole[:, 3:]  # all that a parabola can't be
    left = np.swapaxes(place[rows, :n], 0, 1).reshape(n, -1)
    beyond = (free.T @ left).reshape(n - 3, len(rows), 3)
    tried = [Sway(slow, fast) for slow, fast in product(SLOW_M, FAST_M)]
    kernels = free.T @ np.stack([_kernel(t[:n], how) for how in tried]) @ free
    told: list[Sway] = []
    for usual, axes in USUAL.axes():
        likely = _likelihood(kernels, beyond[:, :, axes].reshape(n - 3, -1))
        away = np.log2([[how.slow_m / usual.slow_m, how.fast_m / usual.fast_m] for how in tried]) / DOUBT_OCTAVES
        told.append(tried[int(np.argmax(likely - 0.5 * (away**2).sum(axis=1)))])
    level, height = told
    # a small slow sway in height hides behind the bounce
    slow = max(height.slow_m, height.fast_m)
    return Guard(level.times(BESIDE_LEVEL), Sway(slow, height.fast_m).times(BESIDE_HEIGHT))


@dataclass(frozen=True, slots=True)
class Calm:
    """How hard a unit is pushed in the guard. A hand that darts out and home, or a foot that is set down, is pushed
    many times harder than mostly: that is no guard."""

    rest_m_s2: float = GRAVITY_M_S2  #: usual size of specific force, as the unit's own scale has it
    most_m_s2: float = 1e6  #: by which it differs in a guard

    def darts(self, pushed: Floats, step_s: float) -> NDArray[np.bool_]:
        """Steps (m,) of `step_s` in which it darts, or nearly, from gains of velocity (m, 3) with gravity in them."""
        hard = np.abs(_felt(pushed, step_s) - self.rest_m_s2) > self.most_m_s2
        return np.asarray(maximum_filter1d(hard.astype(np.int8), 2 * round(DART_BESIDE_S / step_s) + 1), bool)

    def parts(
        self, pushed: Floats, spans_s: list[tuple[float, float]], step_s: float, carried_s: Floats
    ) -> list[tuple[float, float]]:
        """Stretches without those in which it darts. Not cut is what a strike of another limb does to this one, at
        instants `carried_s`: the trunk takes it along, out and home, and half of that would be worse than the whole."""
        darts, out = self.darts(pushed, step_s), []
        for at in carried_s:
            darts[max(0, int((at - CARRIED_S) / step_s)) : max(0, int((at + CARRIED_S) / step_s))] = False
        for i, j in _steps(spans_s, step_s, len(pushed)):
            edges = np.flatnonzero(np.diff(np.concatenate([[1], darts[i:j].astype(np.int8), [1]])))
            out += [((i + a) * step_s, (i + b) * step_s) for a, b in zip(edges[::2], edges[1::2], strict=True)]
        return out


def calm(pushed: Floats, spans_s: list[tuple[float, float]], step_s: float) -> Calm:
    """From gains of velocity (m, 3), body axes, over the stretches of a guard. No attitude is known yet, so the size of
    specific force speaks, against its usual size."""
    felt = _felt(pushed, step_s)
    parts = [felt[i:j] for i, j in _steps(spans_s, step_s, len(pushed))]
    if not parts:
        return Calm()
    whole = np.concatenate(parts)
    rest = float(np.median(whole))
    return Calm(rest, max(DARTS * float(np.median(np.abs(whole - rest))), DART_M_S2))


def _felt(pushed: Floats, step_s: float) -> Floats:
    even = max(1, round(DART_S / step_s))
    return np.asarray(np.linalg.norm(uniform_filter1d(pushed, even, axis=0), axis=1) / step_s)


def _steps(spans_s: list[tuple[float, float]], step_s: float, count: int) -> list[tuple[int, int]]:
    steps = [(max(0, int(np.ceil(a / step_s))), min(count, int(b / step_s))) for a, b in spans_s]
    return [(i, j) for i, j in steps if j > i]


def wandering(pushed: Floats, turned: Floats, gravity: Floats, spans: list[tuple[int, int]], step_s: float) -> float:
    """How far (m, along one axis) a hand is put elsewhere between two moments in which it is still.

    pushed, turned: (n, 3) gains of velocity (gravity in them) and of angle in each step of `step_s`; spans: stretches
    of them without a contact, and gravity (k, 3) in each. Between two still moments velocity begins and ends at nought,
    so the way between them is known to centimetres whatever gravity was taken for. A guard that is never still says
    nothing and counts as one place.
    """
    ways = (_ways(pushed, turned, gravity, spans, step_s, *how) for how in PAUSES)
    usual = [float(np.percentile(w, MOSTLY_PCT)) if len(w) >= FEWEST_MOVES else 0.0 for w in ways]
    return max(
        WANDERS * u * float(np.clip((u - one) / (other - one), 0.0, 1.0))
        for u, one, other in zip(usual, ONE_PLACE_M, ELSEWHERE_M, strict=True)
    )


def _ways(
    pushed: Floats, turned: Floats, gravity: Floats, spans: list[tuple[int, int]], step_s: float, *how: float
) -> list[float]:
    """The longest way (m) between two pauses in each of some stretches, told by `how` (see `still_sd`)."""
    wide, beside = round(WIDE_S / step_s), round(BESIDE_S / step_s)
    ways: list[float] = []
    for (first, last), g in zip(spans, gravity, strict=True):
        own = slice(max(first, last - beside), last)  # what came before the next contact
        push = pushed[own] - step_s * g
        if len(push) < 3 * wide:
            continue
        sd = still_sd(push / step_s, turned[own] / step_s, wide, *how)
        at = [k for k in lowest(sd, wide) if sd[k] < PAUSED_M_S]
        hops = [_way(push[a:b], step_s) for a, b in pairwise(at) if (b - a) * step_s < LONGEST_MOVE_S]
        if hops:
            ways.append(max(hops))
    return ways


def _way(push: Floats, step_s: float) -> float:
    """Root of the mean square over the axes (m) of how far a hand went that was still at both ends."""
    v = np.cumsum(push, axis=0)
    v -= np.linspace(0.0, 1.0, len(push))[:, None] * v[-1]
    return float(np.sqrt(np.mean((v.sum(axis=0) * step_s) ** 2)))


def _likelihood(kernels: Floats, left: Floats) -> Floats:
    """Logarithms (s,), up to a constant, of the likelihood of what is left (m, c), column by column, under covariances
    (s, m, m): all that it says of them is its scatter."""
    lower = np.linalg.cholesky(kernels + JITTER_M**2 * np.eye(len(left)))
    inverse = np.linalg.inv(lower)
    scatter = ((inverse @ (left @ left.T)) * inverse).sum(axis=(1, 2))
    halved = np.log(np.diagonal(lower, axis1=1, axis2=2)).sum(axis=1)
    return np.asarray(-0.5 * scatter - left.shape[1] * halved)
