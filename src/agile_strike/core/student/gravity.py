"""Which way is up for a worn unit, all evening long: rates integrated in one near-inertial frame, gravity found in it.

As in VQF (Laidig and Seel 2023) specific force is averaged in the frame that the gyro keeps still, where a limb's own
movement cancels and gravity stays. Here only the guard is averaged: a clipped contact does not cancel. And since a
guard sways, each quiet piece is fitted as a place that stays near one point (see `stretch`), not as a plain mean.
How restless the guard is, level and in height, is learnt from the pieces themselves (see `guard`).
"""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.student.attitude import UPRIGHT, Attitude, attitude_from
from agile_strike.core.student.course import COARSE_S, SECOND, Course, coarse_steps
from agile_strike.core.student.guard import USUAL, Calm, Guard, calm, restlessness, sway, wandering
from agile_strike.core.student.rotation import conjugate, onto_upright, rotate, unit
from agile_strike.core.target import GRAVITY_M_S2

Floats = NDArray[np.float64]

LOOK_EVERY = 4  # coarse steps between looks
LONGEST_LOOKS, SHORTEST_LOOKS = 50, 12  # of a quiet piece: 2 s and half a second
SPREAD_S = 25.0  # over which pieces are averaged: a gyro's bias, once taken off, drifts by less than sway feigns
BIAS_PRIOR_RAD_S = 0.02
WARMING_RAD_S = 0.006  # by which a bias may change through an evening
NOTHING: Floats = np.zeros(0)
BIAS_SEEN_S = 400.0
LEAST_SD_M_S2 = 0.012
LAGS = (1, 3, 6)  # pieces apart, at which gravity's turning is looked at
FACED_LAGS = (1, 3, 6, 12, 24)  # at which it is looked which way a unit faces
MAD_SD, MOST_SPREADS, LEAST_FACED_RAD = 1.48, 4.0, 0.03
BESIDE_PIECES, UNLIKE_SD = 3, 4.0
TURNED_M_S2 = 0.1  # at a hole, beyond which that says nothing of a bias
SLOPE_M_S3 = 0.001  # gravity's seeming turn by what is left of a bias, six thousandths of a degree a second
SLIPPED_DEG = 30.0  # between the first and the last part of an evening; a guard changes by 10
SLIPPED_ELSEWHERE_DEG = 60.0  # of a limb that is put elsewhere, and turns with that
FEWEST_PIECES = 6
UNTOLD_S = 0.5  # at the end of what has come: a strike may be on its way that has not landed
NEARER_S = 0.56  # than a quiet stretch comes to the contacts beside it: there a hand pauses


@dataclass(frozen=True, slots=True)
class Gravity:
    """What is slow of one unit's attitude: all that a window needs to know which way is up in it."""

    gyro_bias_rad_s: Floats  #: (3,) body axes, in the middle of what was seen
    gyro_drift_rad_s2: Floats  #: (3,) by which it changes, as a unit warms
    seen_s: Floats  #: (2,) from when to when; before and after, a bias stays
    anchors: Floats  #: (n, 4) body to the near-inertial frame at each whole second of the unit's clock
    piece_s: Floats  #: (k,) instants of the quiet pieces
    piece_g: Floats  #: (k, 3) specific force at rest in each
    piece_sd: Floats  #: (k,)
    guard: Guard  #: how restless it is
    slipped: bool  #: it sat otherwise at the end than at the start
    hole_s: Floats = field(default_factory=lambda: NOTHING)  #: (h,) instants at which samples were missing
    hole_var: Floats = field(default_factory=lambda: NOTHING)  #: (h,) m2/s4, by which gravity may seem to turn there
    calm: Calm = field(default_factory=Calm)
    bias_sd: Floats = field(default_factory=lambda: np.zeros(2))  #: of the bias, rad/s, and of its change, rad/s2

    def bias_at(self, instants_s: Floats) -> Floats:
        """The gyro's bias (n, 3) at instants (n,) of the unit's clock, rad/s."""
        since = np.clip(instants_s, self.seen_s[0], self.seen_s[1]) - 0.5 * (self.seen_s[0] + self.seen_s[1])
        return np.asarray(self.gyro_bias_rad_s + since[:, None] * self.gyro_drift_rad_s2)

    def at(self, instants_s: Floats) -> tuple[Floats, Floats]:
        """Specific force at rest (s, 3) in the near-inertial frame, and its standard uncertainty (s,), m/s2."""
        if len(self.piece_s) == 0:
            return np.tile([0.0, 0.0, GRAVITY_M_S2], (len(instants_s), 1)), np.full(len(instants_s), GRAVITY_M_S2)
        apart = self.piece_s[None, :] - instants_s[:, None]
        near = np.exp(-0.5 * (apart / SPREAD_S) ** 2) + 1e-9
        weight, across = self._across_holes(instants_s, near / self.piece_sd**2)
        # a line, since what is left of a gyro's bias turns gravity; its slope is known to be small
        design = np.stack([np.ones_like(apart), apart], axis=2)
        slope = self._slope_sd(instants_s)
        normal = np.einsum("skb,skc,sk->sbc", design, design, weight)
        normal[:, 1, 1] += slope**-2
        inverse: Floats = np.linalg.inv(normal)
        of_piece = np.einsum("sbc,skc,sk->skb", inverse[:, :1], design, weight)[:, :, 0]
        shared = (of_piece * np.sqrt(across)) * np.where(apart < 0.0, 1.0, 1j)  # all beyond a hole are off alike
        variance = (of_piece**2 * self.piece_sd**2).sum(axis=1) + np.abs(shared.sum(axis=1)) ** 2
        sd = np.sqrt(variance + (inverse[:, 0, 1] / slope) ** 2)
        # not brought to 9.81: what the unit's scale and bias make of gravity is what must be taken off. Summed row by
        # row: a product of matrices gives one contact other bits than many
        return (of_piece[:, :, None] * self.piece_g).sum(axis=1), np.hypot(sd, LEAST_SD_M_S2)

    def _slope_sd(self, instants_s: Floats) -> Floats:
        """How fast (n,) gravity may seem to turn at instants (n,) by what is not known of the gyro's bias, m/s3."""
        away = np.clip(instants_s, self.seen_s[0], self.seen_s[1]) - 0.5 * (self.seen_s[0] + self.seen_s[1])
        return np.asarray(np.hypot(SLOPE_M_S3, GRAVITY_M_S2 * np.hypot(self.bias_sd[0], away * self.bias_sd[1])))

    def _across_holes(self, instants_s: Floats, weight: Floats) -> tuple[Floats, Floats]:
        """Weights (s, k) of pieces without those of what turned at holes meanwhile, and its variance (s, k). However
        many pieces lie beyond a hole, together they say no more than it leaves open (Sherman and Morrison 1950)."""
        turned = self.turned(self.piece_s)
        across = np.abs(turned[None, :] - self.turned(instants_s)[:, None])
        before = self.piece_s[None, :] < instants_s[:, None]
        none = np.zeros((len(instants_s), 1))
        earlier, later = (
            np.concatenate([none, np.cumsum(np.where(side, weight, 0.0), axis=1)], axis=1) for side in (before, ~before)
        )
        beyond = np.where(
            before,
            earlier[:, np.searchsorted(turned, turned, side="right")],
            later[:, -1:] - later[:, np.searchsorted(turned, turned)],
        )
        return weight / (1.0 + across * beyond), across

    def turned(self, instants_s: Floats) -> Floats:
        """Variance (n,) of gravity's seeming turns at all holes before instants (n,)."""
        before = np.concatenate([[0.0], np.cumsum(self.hole_var)])
        return np.asarray(before[np.searchsorted(self.hole_s, instants_s)])


@dataclass(frozen=True, slots=True)
class _Pieces:
    """Quiet pieces of a guard."""

    at_s: Floats  #: (k,)
    g: Floats  #: (k, 3) specific force at rest in each
    sd: Floats  #: (k,)
    guard: Guard


def gravity_of(
    whole: Course, quiet_s: list[tuple[float, float]], carried_s: Floats, *, faces: bool = False
) -> tuple[Gravity, Attitude]:
    """`quiet_s` are stretches of the unit's clock in which the limb is in the guard, `carried_s` the instants at which
    other limbs struck; `faces`, whether no strike at all is in them: then a body faces the bag in each."""
    holes = whole.holes
    quiet_s = holes.parts(quiet_s)
    quiet_s = [(a, b) for a, b in quiet_s if bool(whole.seen(np.array(a), np.array(min(b, whole.length_s))))]
    hole_var = (GRAVITY_M_S2 * holes.turn_sd_rad) ** 2
    steps = coarse_steps(whole)
    still = calm(steps[:, 3:], quiet_s, COARSE_S)
    quiet_s = still.parts(steps[:, 3:], quiet_s, COARSE_S, carried_s)
    bias = _first_bias(whole, quiet_s)
    # some minutes from the middle are enough to see what is left of a bias
    seen = round(BIAS_SEEN_S / COARSE_S)
    first = max(0, (len(steps) - seen) // 2) // SECOND * SECOND
    seen_s = COARSE_S * np.array([first, min(first + seen, len(steps))])
    part = attitude_from(steps[first : first + seen], bias)
    since = [(a - COARSE_S * first, b - COARSE_S * first) for a, b in quiet_s]
    pieces = _pieces(part.pushed, [(a, b) for a, b in since if a >= 0.0])
    known = Gravity(
        bias, np.zeros(3), seen_s, NOTHING, NOTHING, NOTHING, NOTHING, USUAL, False, holes.to_s, hole_var, still
    )
    turn = steps[first : first + seen, :3] - COARSE_S * bias if faces else None
    left, drift, bias_sd = _drift(part, pieces, known.turned(pieces.at_s + COARSE_S * first), turn)
    known = replace(known, gyro_bias_rad_s=bias + left, gyro_drift_rad_s2=drift, bias_sd=bias_sd)
    attitude = attitude_from(steps, known.bias_at(_begins_s(0, len(steps))))
    found = _pieces(attitude.pushed, quiet_s)
    anchors = attitude.attitude[::SECOND]
    slipped = _has_slipped(attitude, found, SLIPPED_DEG)
    told = replace(
        known,
        anchors=anchors,
        piece_s=found.at_s,
        piece_g=found.g,
        piece_sd=found.sd,
        guard=found.guard,
        slipped=slipped,
    )
    return told, attitude


def _begins_s(first_second: int, count: int) -> Floats:
    """When coarse steps (count,) begin."""
    return COARSE_S * np.arange(first_second * SECOND, first_second * SECOND + count, dtype=np.float64)


def wanders(whole: Course, attitude: Attitude, known: Gravity, quiet_s: list[tuple[float, float]]) -> float:
    """How far a striking limb is put elsewhere between strikes, m; nought where it keeps its place: see `guard`."""
    spans = [(max(0, int((a - NEARER_S) / COARSE_S)), int((b + NEARER_S) / COARSE_S)) for a, b in quiet_s]
    up, _ = known.at(np.array([0.5 * (a + b) for a, b in quiet_s]))
    steps = coarse_steps(whole)
    turned = steps[:, :3] - COARSE_S * known.bias_at(_begins_s(0, len(steps)))
    return wandering(attitude.pushed, turned, up, spans, COARSE_S)


def wandered(
    attitude: Attitude, known: Gravity, quiet_s: list[tuple[float, float]], carried_s: Floats, wander_m: float
) -> Gravity:
    """The same for a limb that is put elsewhere so far: that pushes it as gravity would, so each piece says less."""
    quiet_s = known.calm.parts(attitude.pushed, quiet_s, COARSE_S, carried_s)
    found = _pieces(attitude.pushed, quiet_s, wander_m=wander_m)
    slipped = _has_slipped(attitude, found, SLIPPED_ELSEWHERE_DEG)
    return replace(known, piece_s=found.at_s, piece_g=found.g, piece_sd=found.sd, guard=found.guard, slipped=slipped)


def attitude_in(piece: Course, known: Gravity) -> Attitude:
    """The attitude through a piece of the evening, from what is known of it: the same bits as in the whole."""
    steps = coarse_steps(piece)
    return attitude_from(
        steps, known.bias_at(_begins_s(piece.first_second, len(steps))), piece.first_second, known.anchors
    )


def covers(known: Gravity, piece: Course) -> bool:
    """Whether the attitude is known at each whole second that a piece begins or passes."""
    return piece.first_second + -(-len(coarse_steps(piece)) // SECOND) <= len(known.anchors)


def gravity_beyond(
    piece: Course, known: Gravity, quiet_s: list[tuple[float, float]], carried_s: Floats
) -> tuple[Gravity, Attitude]:
    """Gravity and attitude of a piece that ends after all that is known: the evening has gone on since it was learnt.

    The attitude is carried on from the last that is known, where the piece begins by then; else it begins anew, in a
    frame of its own. Which way is up since then is told by the piece's own quiet stretches, with what was learnt of
    how restless this guard is.
    """
    steps, first = coarse_steps(piece), piece.first_second
    joined = first < len(known.anchors)
    begins, since_s = (known.anchors[first], float(len(known.anchors) - 1)) if joined else (UPRIGHT, float(first))
    attitude = attitude_from(steps, known.bias_at(_begins_s(first, len(steps))), first, begins=begins)
    until_s = first + COARSE_S * len(steps) - UNTOLD_S
    spans = [(max(a, since_s), min(b, until_s)) for a, b in quiet_s if min(b, until_s) > max(a, since_s)]
    spans = [(a - first, b - first) for a, b in piece.holes.parts(spans)]
    found = _pieces(attitude.pushed, known.calm.parts(steps[:, 3:], spans, COARSE_S, carried_s - first), known.guard)
    at, g, sd = found.at_s + first, found.g, found.sd
    hole_s, hole_var = piece.holes.to_s, (GRAVITY_M_S2 * piece.holes.turn_sd_rad) ** 2
    if joined:
        new = hole_s > since_s
        at, g, sd = (np.concatenate(x) for x in ((known.piece_s, at), (known.piece_g, g), (known.piece_sd, sd)))
        hole_s = np.concatenate([known.hole_s, hole_s[new]])
        hole_var = np.concatenate([known.hole_var, hole_var[new]])
    return replace(known, piece_s=at, piece_g=g, piece_sd=sd, hole_s=hole_s, hole_var=hole_var), attitude


def _has_slipped(track: Attitude, pieces: _Pieces, least_deg: float) -> bool:
    """Up in the unit's own axes was one way in the guards of the first part of the evening and another in the last."""
    if len(pieces.at_s) < FEWEST_PIECES:
        return False
    at = np.clip(np.rint(pieces.at_s / COARSE_S).astype(np.int64), 0, len(track.attitude) - 1)
    up = unit(rotate(conjugate(track.attitude[at]), pieces.g))
    third = len(up) // 3
    first, last = np.median(up[:third], axis=0), np.median(up[-third:], axis=0)
    apart = first @ last / max(float(np.linalg.norm(first) * np.linalg.norm(last)), 1e-9)
    return bool(apart < np.cos(np.radians(least_deg)))


def _first_bias(whole: Course, quiet_s: list[tuple[float, float]]) -> Floats:
    """A guard turns to and fro; a bias does not: each stretch's mean rate, the stiller the stretch the heavier."""
    means, weights = [], []
    for a, b in quiet_s:
        i, j = max(0, int(a * whole.rate_hz)), min(len(whole.samples), int(b * whole.rate_hz))
        if j - i > 0.3 * whole.rate_hz:
            part = whole.samples[i:j, :3]
            means.append(part.mean(axis=0, dtype=np.float64))
            weights.append((j - i) / (0.02 + float(part.var())))
    return np.average(np.array(means), axis=0, weights=weights) if means else np.zeros(3)


def _pieces(
    pushed: Floats, quiet_s: list[tuple[float, float]], known: Guard | None = None, wander_m: float = 0.0
) -> _Pieces:
    """Place against 1, t and t^2 / 2 in each, sway as correlated noise (generalised least squares, Aitken 1935)."""
    spans = []
    for a, b in quiet_s:
        first, last = max(0, int(np.ceil(a / COARSE_S))), min(len(pushed), int(b / COARSE_S))
        looks = (last - first) // LOOK_EVERY
        parts = max(1, -(-looks // LONGEST_LOOKS))
        each = looks // parts
        if each >= SHORTEST_LOOKS:
            spans += [(first + p * each * LOOK_EVERY, each) for p in range(parts)]
    if not spans:
        return _Pieces(np.zeros(0), np.zeros((0, 3)), np.zeros(0), USUAL)
    starts, counts = np.array([s for s, _ in spans]), np.array([c for _, c in spans])
    k = int(counts.max())
    size = k * LOOK_EVERY
    rows = np.clip(starts[:, None] + np.arange(size), 0, len(pushed) - 1)
    gained = pushed[rows]
    # heights apart from the level: a guard sways otherwise than it bounces
    upright = onto_upright(gained.sum(axis=1))
    gained = rotate(upright[:, None, :], gained)
    v = np.cumsum(gained, axis=1)
    p = np.cumsum(COARSE_S * (v - 0.5 * gained), axis=1)[:, LOOK_EVERY - 1 :: LOOK_EVERY]
    t: Floats = COARSE_S * LOOK_EVERY * np.arange(1, k + 1, dtype=np.float64)
    guard = known or restlessness(t, p, counts).wandering(wander_m)
    sizes, which = np.unique(counts, return_inverse=True)
    centre = 0.5 * counts[:, None] * LOOK_EVERY * COARSE_S
    since = t[None, :] - centre
    design = np.stack([np.ones_like(since), since, 0.5 * since**2], axis=2)
    g = np.empty((len(spans), 3))
    sd = np.empty((2, len(spans)))
    for way, (how, axes) in enumerate(guard.axes()):
        weight = np.linalg.inv(sway(t, np.arange(k)[None, :] < sizes[:, None], how))[which]
        weighted = np.swapaxes(design, 1, 2) @ weight
        covariance: Floats = np.linalg.inv(np.asarray(weighted @ design + 1e-9 * np.eye(3), dtype=np.float64))
        fit = covariance @ (weighted @ p[:, :, axes])
        g[:, axes] = fit[:, 2]
        # a piece that is less like a guard than the rest (a step, a knock) says less
        left = p[:, :, axes] - design @ fit
        unlike = (left * (weight @ left)).sum(axis=(1, 2)) / (len(axes) * np.maximum(counts - 3, 1))
        sd[way] = np.sqrt(covariance[:, 2, 2] * np.maximum(unlike, 1.0))
    gravity = rotate(conjugate(upright), g)
    return _Pieces(starts * COARSE_S + centre[:, 0], gravity, _as_neighbours(gravity, sd.max(axis=0)), guard)


def _as_neighbours(g: Floats, sd: Floats) -> Floats:
    """The doubts (k,) of pieces: one that is far from what those beside it say (k, 3) was no guard, and says as little
    as it is off."""
    wide = min(2 * BESIDE_PIECES + 1, len(g))
    first = np.clip(np.arange(len(g)) - BESIDE_PIECES, 0, len(g) - wide)
    near = first[:, None] + np.arange(wide)
    off = np.linalg.norm(g - np.median(g[near], axis=1), axis=1)
    return np.where(off > UNLIKE_SD * sd, np.maximum(sd, off), sd)


def _drift(track: Attitude, pieces: "_Pieces", turned: Floats, turn: Floats | None) -> tuple[Floats, Floats, Floats]:
    """What is left of the gyro's bias (3,), body axes, in the middle of a track, and how fast it changes (3,), from how
    gravity seems to turn from piece to piece, and the doubt of both (2,); `turned` (k,) is the variance of what holes
    up to each made of it. `turn` (m, 3) is that of each step where all pieces face the bag, which tells what of a bias
    is about the vertical."""
    if len(pieces.at_s) < 2:
        return np.zeros(3), np.zeros(3), np.zeros(2)
    axes = rotate(track.attitude[:, None, :], np.broadcast_to(np.eye(3), (len(track.attitude), 3, 3)))
    length_s = COARSE_S * len(axes)
    away = COARSE_S * np.arange(len(axes)) - 0.5 * length_s
    # (m, bias and its drift by body axis, 3): turn that a unit of each has feigned
    feigned = np.cumsum(np.concatenate([axes, away[:, None, None] * axes], axis=1), axis=0) * COARSE_S
    at = np.clip(np.rint(pieces.at_s / COARSE_S).astype(np.int64), 0, len(feigned) - 1)
    normal, target = np.diag(np.repeat([BIAS_PRIOR_RAD_S, WARMING_RAD_S / length_s], 3) ** -2.0), np.zeros(6)
    for lag in LAGS:
        if len(at) <= lag:
            break
        way = feigned[at[lag:]] - feigned[at[:-lag]]
        g = 0.5 * (pieces.g[lag:] + pieces.g[:-lag])
        # in a frame that turns with the bias gravity seems to move by turn x g
        design = np.cross(way, g[:, None, :])
        moved = pieces.g[lag:] - pieces.g[:-lag]
        weight = 1.0 / (pieces.sd[lag:] ** 2 + pieces.sd[:-lag] ** 2)
        weight[turned[lag:] - turned[:-lag] > TURNED_M_S2**2] = 0.0
        normal += np.einsum("kbi,kci,k->bc", design, design, weight)
        target += np.einsum("kbi,ki,k->b", design, moved, weight)
    faced = _faced(track, pieces, turned, turn, feigned[at]) if turn is not None else (0.0, 0.0)
    solved = np.asarray(np.linalg.solve(normal + faced[0], target + faced[1]))
    # pairs that many pieces apart share pieces, and say less than as many that do not. A turn about gravity itself
    # moves it nowhere, and nobody sees it: of three axes the two that are known best count
    spread: Floats = len(LAGS) * np.asarray(np.linalg.inv(normal), dtype=np.float64)
    seen = [np.linalg.eigvalsh(spread[i : i + 3, i : i + 3])[:2].mean() for i in (0, 3)]
    return solved[:3], solved[3:], np.sqrt(np.array(seen))


def _faced(track: Attitude, pieces: "_Pieces", turned: Floats, turn: Floats, feigned: Floats) -> tuple[Floats, Floats]:
    """Normal equations (6, 6), (6,) of a bias and its drift, as in `_drift`, from which way a unit faces in each piece.

    Each lag counts by how differently pieces so far apart face (a structure function; Allan 1966): who walks round the
    bag says little by it, who always comes back to it much.
    """
    up = unit(pieces.g.mean(axis=0))
    heading = np.cumsum(rotate(track.attitude[: len(turn)], turn) @ up)
    facing = heading[np.clip(np.rint(pieces.at_s / COARSE_S).astype(np.int64), 0, len(heading) - 1)]
    normal, target = np.zeros((6, 6)), np.zeros(6)
    for lag in FACED_LAGS:
        if len(facing) < lag + FEWEST_PIECES:
            break
        way = (feigned[lag:] - feigned[:-lag]) @ up
        moved = facing[lag:] - facing[:-lag]
        apart = np.abs(moved - np.median(moved))
        spread_rad = float(np.hypot(MAD_SD * np.median(apart), LEAST_FACED_RAD))
        weight = (apart <= MOST_SPREADS * spread_rad) / spread_rad**2
        weight[turned[lag:] - turned[:-lag] > TURNED_M_S2**2] = 0.0
        normal += np.einsum("kb,kc,k->bc", way, way, weight)
        target += np.einsum("kb,k,k->b", way, moved, weight)
    return normal, target
