"""What physics says of three columns: acceleration, turn rate or a magnetic field, and in which unit of measure.

A unit at rest feels gravity, whichever way it hangs; gravity turns in its axes as its gyro says (`dg/dt = g x w`, rigid
body kinematics); a magnetometer's length hardly changes; a quaternion has length one.
"""

from dataclasses import dataclass
from itertools import permutations, product

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.target import GRAVITY_M_S2

Floats = NDArray[np.float64]

STEP_S = 0.05
CALM = 0.12  # of gravity: beyond it the unit is pushed, and its specific force is not gravity's
FEWEST = 25
MOST_ROWS = 400_000
BLOCK_S, NEAR_REST = 0.25, 0.15
TURNED = 0.5  # radians from gravity's usual direction: a bag that swings shows less, and no turning of gravity's own
QUIET, RESTS = 0.05, 5  # of gravity, for so many steps
LEVER_M = (0.04, 2.2)  # from where a struck or swung unit turns: narrower than what parts degrees from radians
STILLEST = 0.1  # share of a recording's blocks


@dataclass(frozen=True, slots=True)
class Shape:
    """Of three columns together."""

    rest: float  #: length where it is steadiest
    rest_spread: float  #: of that length from one still moment to the next, relative
    near_rest: float  #: share of the lengths that are within a seventh of it
    usual: float  #: median length
    high: float  #: 99.9th percentile of length
    whole: bool  #: all cells are whole numbers
    moves: bool

    @property
    def like_gravity(self) -> float:
        """0 to 1: lengths gather at one value, and leave it when something happens."""
        if self.rest <= 0 or not self.moves:
            return 0.0
        gathers = min(1.0, max(0.0, (self.near_rest - 0.08) / 0.2))
        return float(
            gathers * np.exp(-((self.rest_spread / 0.2) ** 2)) * (1.0 if self.high > 1.25 * self.rest else 0.4)
        )

    @property
    def like_turning(self) -> float:
        """0 to 1: nearly nothing at rest, and plenty otherwise."""
        if self.high <= 0:
            return 0.0
        return float(1.0 / (1.0 + (self.rest / self.high / 0.12) ** 2))

    @property
    def like_field(self) -> float:
        """0 to 1: hardly any change of length, ever."""
        if self.usual <= 0:
            return 0.0
        return float(
            np.exp(-(((max(self.high / self.usual, 1.0) - 1.0) / 0.6) ** 2))
            * np.exp(-((np.log(max(self.rest, 1e-12) / self.usual) / 0.3) ** 2))
        )


def shape_of(values: Floats, rate_hz: float | None = None) -> Shape:
    """values: (n, 3), NaN where missing; `rate_hz` where it is known by about."""
    values = values[np.isfinite(values).all(axis=1)][:MOST_ROWS]
    if len(values) < 8:
        return Shape(0.0, 1.0, 0.0, 0.0, 0.0, False, False)
    size = np.linalg.norm(values, axis=1)
    each = max(8, round(BLOCK_S * rate_hz) if rate_hz else len(size) // 150)
    each = min(each, max(8, len(size) // 20))
    blocks = values[: len(values) // each * each].reshape(-1, each, 3)
    lengths = np.linalg.norm(blocks, axis=2).mean(axis=1)
    moved = blocks.std(axis=1).sum(axis=1)
    still = np.argsort(moved)[: max(3, int(len(blocks) * STILLEST))]
    rest = float(np.median(lengths[still]))
    spread = float(np.median(np.abs(lengths[still] - rest))) * 1.4826 / max(rest, 1e-12)
    whole = bool((values == np.rint(values)).all())
    near = float((np.abs(size / max(rest, 1e-12) - 1.0) < NEAR_REST).mean())
    return Shape(
        rest,
        spread,
        near,
        float(np.median(size)),
        float(np.percentile(size, 99.9)),
        whole,
        bool(np.ptp(values, axis=0).max() > 0),
    )


@dataclass(frozen=True, slots=True)
class Turning:
    """How gravity turns beside how a gyro says it does."""

    factor: float  #: what to multiply the gyro by, rad/s
    sd: float
    explained: float  #: share of gravity's turning, 0 to 1
    best: tuple[tuple[int, int, int], tuple[int, int, int]]  #: order and signs of the gyro's axes that explain most
    best_explained: float


def turning(accel_m_s2: Floats, gyro: Floats, rate_hz: float) -> Turning | None:
    """By least squares over calm moments. None where the unit hardly turned."""
    step = max(1, round(rate_hz * STEP_S))
    n = min(len(accel_m_s2), len(gyro)) // step * step
    if n < FEWEST * step:
        return None
    with np.errstate(invalid="ignore"):
        g = accel_m_s2[:n].reshape(-1, step, 3).mean(axis=1)
        w = gyro[:n].reshape(-1, step, 3).mean(axis=1)
    good = np.isfinite(w).all(axis=1) & np.isfinite(g).all(axis=1)
    if good.sum() < FEWEST:
        return None
    still = np.linalg.norm(np.where(good[:, None], w, np.inf), axis=1)
    w = w - np.median(w[good & (still <= np.percentile(still[good], 30))], axis=0)
    size = np.linalg.norm(g, axis=1)
    calm = good & (np.abs(size / GRAVITY_M_S2 - 1.0) < CALM)
    pairs = calm[1:] & calm[:-1]
    moved = np.diff(g, axis=0)[pairs]
    middle = (0.5 * (g[1:] + g[:-1]))[pairs]
    rates = (0.5 * (w[1:] + w[:-1]))[pairs] * step / rate_hz
    strong = np.linalg.norm(moved, axis=1)
    if len(moved) < FEWEST or float(np.percentile(strong, 90)) < 0.05:
        return None
    # directions of gravity in moments of rest: a hanging bag has one, however it swings and is jolted in between
    quiet = calm & (np.abs(size / GRAVITY_M_S2 - 1.0) < QUIET)
    rests = np.convolve(quiet, np.ones(RESTS), "same") >= RESTS
    if rests.sum() < FEWEST:
        return None
    usual = np.median(g[rests], axis=0)
    away = np.arccos(np.clip((g[rests] @ usual) / np.maximum(size[rests] * np.linalg.norm(usual), 1e-12), -1.0, 1.0))
    if float(np.percentile(away, 90)) < TURNED:
        return None
    total = float((moved**2).sum())
    found = _fit(middle, rates, moved, total)
    if found is None:
        return None
    factor, sd, explained = found
    best, best_explained = ((0, 1, 2), (1, 1, 1)), explained
    for order in permutations(range(3)):
        for signs in product((1, -1), repeat=3):
            tried = _fit(middle, rates[:, order] * signs, moved, total)
            if tried is not None and tried[0] > 0 and tried[2] > best_explained:
                best, best_explained = (order, signs), tried[2]  # type: ignore[assignment]
    return Turning(factor, sd, explained if factor > 0 else 0.0, best, best_explained)


def _fit(middle: Floats, rates: Floats, moved: Floats, total: float) -> tuple[float, float, float] | None:
    x, y = np.cross(middle, rates).ravel(), moved.ravel()
    power = float(x @ x)
    if power <= 0:
        return None
    factor = float(x @ y) / power
    left = y - factor * x
    kept = np.abs(left) < 4.0 * max(float(np.median(np.abs(left))) * 1.4826, 1e-9)  # blows that average calm
    if kept.sum() > 10 and float(x[kept] @ x[kept]) > 0:
        factor = float(x[kept] @ y[kept]) / float(x[kept] @ x[kept])
        left = (y - factor * x)[kept]
        total, power = float(y[kept] @ y[kept]), float(x[kept] @ x[kept])
    sd = float(np.sqrt(left @ left / max(1, len(left) - 1) / power))
    return factor, sd, 1.0 - float(left @ left) / max(total, 1e-12)


def is_quaternion(values: Floats) -> bool:
    """(n, 4)."""
    values = values[np.isfinite(values).all(axis=1)][:MOST_ROWS]
    if len(values) < 8:
        return False
    size = np.linalg.norm(values, axis=1)
    return bool(
        np.abs(np.median(size) - 1.0) < 0.01
        and np.percentile(np.abs(size - 1.0), 95) < 0.02
        and np.abs(values).max() <= 1.01
    )


def lever_m(accel_m_s2: Floats, gyro: Floats, rate_hz: float) -> float | None:
    """How far from its turning point a unit would move, were its turn rates in rad/s: how it is pushed beside how its
    turn rate changes (`a = alpha x r`). Levers of limbs and bags are of one size; degrees for radians are 57 times off.
    """
    step = max(1, round(rate_hz * 0.02))
    n = min(len(accel_m_s2), len(gyro)) // step * step
    if n < 50 * step:
        return None
    with np.errstate(invalid="ignore"):
        a = accel_m_s2[:n].reshape(-1, step, 3).mean(axis=1)
        w = gyro[:n].reshape(-1, step, 3).mean(axis=1)
    good = np.isfinite(a).all(axis=1) & np.isfinite(w).all(axis=1)
    a, w = a[good], w[good]
    if len(a) < 50:
        return None
    pushed = np.abs(np.linalg.norm(a, axis=1) - GRAVITY_M_S2)
    changes = np.linalg.norm(np.gradient(w, step / rate_hz, axis=0), axis=1)
    hard = pushed >= np.percentile(pushed, 95)
    size = float(np.sqrt((changes[hard] ** 2).mean()))
    return float(np.sqrt((pushed[hard] ** 2).mean())) / size if size > 0 else None
