"""A worn unit round one strike: attitude, gravity, velocity and place, smoothed from the guard before and after.

Rates are integrated from contact outward, forward and back, on a grid that contact falls on exactly (strapdown after
Savage 1998: increments of angle and velocity). Gravity's direction, the velocity at contact and the place of the guard
are then found together: between strikes a person stays where they are, bouncing and swaying, so place is a Gaussian
process of known spread about one point (Rasmussen and Williams, ch. 2), while errors of velocity and of gravity run away
as straight lines and parabolas. Nothing is integrated across a contact: each has a jump of its own, and only what is
known of it is told, that the limb hardly moves while it lasts, and that a limb in a burst comes back to the same bag.
VQF (Laidig and Seel 2023) low-passes specific force in the same near-inertial frame; here strikes and clipped contacts
are left out of that mean, since clipped ones do not cancel.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline

from agile_strike.core.bag import GRAVITY_M_S2
from agile_strike.core.body.gravity import GravityTrack, in_contact_frame, sway
from agile_strike.core.body.rotation import exp, matrices, multiply, onto_upright, rotate, running
from agile_strike.core.recording import UnitSignal

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

STEP_S = 0.002
BEFORE_S, AFTER_S = 2.6, 2.0
BEFORE, AFTER = round(BEFORE_S / STEP_S), round(AFTER_S / STEP_S)
LOOK_S = 0.04  # between looks at the guard; its bounce is slower
GUARD_FROM_S, GUARD_TO_S = 0.62, 0.65  # of a strike: earlier than its tell, later than its return
SAME_GUARD_M = 0.04  # guard after a strike against before it
SAME_BAG_M = np.array([0.03, 0.05, 0.05])  # where a limb in a burst lands again: along the push, aside, up
LINK_SD_M = 0.006  # of the way travelled in contact, from the speeds at its ends and its length
EARLY, LATE = 0.43, 0.57  # force peaks early in a contact with loss, so more of it passes at the later speed
VELOCITY_PRIOR_M_S, PLACE_PRIOR_M = 8.0, 2.0
BIAS_SD_RAD_S = 0.0015  # what is left of a gyro's bias
CLIP_FLANK, LONGEST_CLIP, MOST_OVER = 4, 70, 1.8  # samples, samples, times the limit
PIECES = 5  # between contacts: two before, the two beside, one more after
TRACK_FROM_S = 0.5  # before contact: there the limb turns slowly and the coarse track is exact


@dataclass(frozen=True, slots=True)
class Neighbours:
    """Own contacts beside this one, seconds from it: (s,) each, infinite where there is none."""

    last_from_s: Floats
    last_to_s: Floats
    before_last_to_s: Floats
    next_from_s: Floats
    next_to_s: Floats


@dataclass(frozen=True, slots=True)
class Stretches:
    """s strikes on one grid of n times; world axes have z up and any heading, the same through one stretch."""

    times_s: Floats  #: (n,) from contact
    velocity_m_s: Floats  #: (s, n, 3) of the piece that ends at contact, and of the one that begins after it
    place_m: Floats  #: (s, n, 3) from where contact began
    rate_rad_s: Floats  #: (s, n, 3) angular rate, world axes
    attitude: Floats  #: (s, n, 4) body to world, quaternion w x y z
    velocity_sd_m_s: Floats  #: (s, 3) at contact, world axes
    after_sd_m_s: Floats  #: (s, 3) after it
    tilt_sd_rad: Floats  #: (s,)
    first: NDArray[np.int64]  #: (s,) index from which samples exist and no other own contact lies between
    last: NDArray[np.int64]  #: (s,) index up to which
    clipped_before: Floats  #: (s,) share of samples clipped in the last 250 ms before contact
    ok: Bools  #: (s,) there was a guard to go by, and no hole near contact


def stretches(unit: UnitSignal, track: GravityTrack, contact_s: Floats, length_s: Floats, beside: Neighbours,
              strikes: bool = True) -> Stretches:  # fmt: skip
    """Round contacts at `contact_s` (s,) of the unit's clock that last `length_s` (s,). With `strikes` this limb made
    them and each jolts it; without, the part moves smoothly on through all of them."""
    t = STEP_S * np.arange(-BEFORE, AFTER + 1)
    turn, push, seen, clipped = _increments(unit, contact_s, t, track.gyro_bias_rad_s)
    attitude = _attitudes(turn)
    middle = _half(attitude, turn)
    pushed = rotate(middle, push)  # velocity increments in the frame of contact
    v = _from_contact(pushed)
    p = _from_contact(STEP_S * 0.5 * (v[:, :-1] + v[:, 1:]))
    bias_axis = rotate(middle[:, :, None, :], np.broadcast_to(np.eye(3), (*middle.shape[:2], 3, 3)))
    there = BEFORE - round(TRACK_FROM_S / STEP_S)
    gravity = in_contact_frame(track, contact_s + t[there], attitude[:, there])
    solved = _smooth(t, v, p, pushed, bias_axis, gravity, length_s, beside, seen, strikes)
    return _in_world(t, v, p, turn, attitude, solved, length_s, beside, seen, clipped, strikes)


# --- increments and attitude


def _increments(unit: UnitSignal, contact_s: Floats, t: Floats, bias: Floats) -> tuple[Floats, Floats, Bools, Floats]:
    """Angle (s, n - 1, 3) and velocity (s, n - 1, 3) gained in each step, body axes; seen (s, n - 1); share clipped."""
    rate = unit.rate_hz
    low = np.floor((contact_s + t[0]) * rate).astype(np.int64) - 1
    size = int(np.ceil((t[-1] - t[0]) * rate)) + 4
    wanted = low[:, None] + np.arange(size)
    inside = (wanted >= 0) & (wanted < len(unit.accel_m_s2))
    at = np.clip(wanted, 0, len(unit.accel_m_s2) - 1)
    both = np.concatenate([unit.gyro_rad_s[at] - bias, unit.accel_m_s2[at]], axis=2).astype(np.float64)
    limit = 0.995 * unit.accel_full_scale_m_s2
    near = inside & (wanted < np.floor(contact_s * rate)[:, None] - 1) & (wanted > (contact_s - 0.25)[:, None] * rate)
    hit = (np.abs(both[:, :, 3:]) >= limit) & near[:, :, None]
    share = hit.any(axis=2).sum(axis=1) / np.maximum(near.sum(axis=1), 1)
    if hit.any():
        _declip(both[:, :, 3:], hit, limit)
    lost = ~inside | ~np.isfinite(both).all(axis=2)
    if lost.any():
        both[lost] = 0.0
        _bridge(both, lost)
    summed = np.zeros_like(both)
    np.cumsum(0.5 * (both[:, 1:] + both[:, :-1]) / rate, axis=1, out=summed[:, 1:])
    gone = np.concatenate([np.zeros((len(lost), 1)), np.cumsum(lost, axis=1)[:, 1:]], axis=1)
    place = (contact_s[:, None] + t[None, :]) * rate - low[:, None]
    whole = np.clip(place.astype(np.int64), 0, size - 2)
    part = place - whole
    rows = np.arange(len(low))[:, None]
    a, b = summed[rows, whole], summed[rows, whole + 1]
    # between two samples the signal is a straight line, so its integral is a parabola
    x, y = both[rows, whole], both[rows, whole + 1]
    f = part[:, :, None]
    edges = a + (f * x + 0.5 * f * f * (y - x)) / rate
    del b
    lost_by = gone[rows, whole]
    steps = np.diff(edges, axis=1)
    return steps[:, :, :3], steps[:, :, 3:], np.diff(lost_by, axis=1) == 0, share


def _declip(accel: Floats, hit: Bools, limit: float) -> None:
    """Put back, in place, what a limb's own speeding up lost at the accelerometer's limit: a cubic through two samples on
    either side meets both ends in height and slope, and does not fall below the limit."""
    for row, axis in {(int(r), int(k)) for r, k in zip(*np.nonzero(hit.any(axis=1)), strict=True)}:
        edges = np.flatnonzero(np.diff(np.concatenate([[False], hit[row, :, axis], [False]]).astype(np.int8)))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            if a < CLIP_FLANK or b + CLIP_FLANK > accel.shape[1] or b - a > LONGEST_CLIP:
                continue
            at = np.concatenate([np.arange(a - CLIP_FLANK, a), np.arange(b, b + CLIP_FLANK)])
            filled = CubicSpline(at, accel[row, at, axis])(np.arange(a, b))
            way = np.sign(accel[row, a, axis])
            accel[row, a:b, axis] = way * np.clip(way * filled, limit, MOST_OVER * limit)


def _bridge(both: Floats, lost: Bools) -> None:
    for row in np.flatnonzero(lost.any(axis=1)):
        good = np.flatnonzero(~lost[row])
        if len(good) < 2:
            continue
        holes = np.flatnonzero(lost[row])
        for k in range(both.shape[2]):
            both[row, holes, k] = np.interp(holes, good, both[row, good, k])


def _attitudes(turn: Floats) -> Floats:
    """Body to the frame of contact, (s, n, 4), from angle increments (s, n - 1, 3), outward from contact."""
    step = exp(turn)
    out = np.zeros((turn.shape[0], turn.shape[1] + 1, 4))
    out[:, BEFORE:, 0] = 1.0
    out[:, BEFORE + 1 :] = running(step[:, BEFORE:])
    back = step[:, :BEFORE][:, ::-1].copy()
    back[:, :, 1:] *= -1.0
    out[:, :BEFORE] = running(back)[:, ::-1]
    return out


def _half(attitude: Floats, turn: Floats) -> Floats:
    return multiply(attitude[:, :-1], exp(0.5 * turn))


def _from_contact(steps: Floats) -> Floats:
    """Sums (s, n, k) of steps (s, n - 1, k), zero at contact."""
    out = np.zeros((steps.shape[0], steps.shape[1] + 1, *steps.shape[2:]))
    np.cumsum(steps, axis=1, out=out[:, 1:])
    return out - out[:, BEFORE : BEFORE + 1]


# --- the smoother


@dataclass(frozen=True, slots=True)
class _Solved:
    gravity: Floats  #: (s, 3) specific force at rest, frame of contact
    velocity: Floats  #: (s, PIECES, 3)
    place: Floats  #: (s, PIECES, 3)
    bias: Floats  #: (s, 3) left-over gyro bias, rad/s
    covariance: Floats  #: (s, m, m) of all unknowns
    ok: Bools


#: places of the unknowns: velocity and place of each piece, gravity, guard before, guard after, gyro bias
_V, _P, _G, _M, _A, _B = 0, 3 * PIECES, 6 * PIECES, 6 * PIECES + 3, 6 * PIECES + 6, 6 * PIECES + 9
_ALL = _B + 3
MAIN, BACK = 2, 3  # the piece that ends at contact, the piece that begins after it


def _smooth(t: Floats, v: Floats, p: Floats, pushed: Floats, bias_axis: Floats, gravity: tuple[Floats, Floats],
            length_s: Floats, beside: Neighbours, seen: Bools, strikes: bool) -> _Solved:  # fmt: skip
    s = len(length_s)
    looks = np.arange(0, len(t), round(LOOK_S / STEP_S))
    at = t[looks]
    piece = _pieces(at, length_s, beside) if strikes else np.full((s, len(at)), MAIN)
    guard = _guarding(at, length_s, beside) & _seen_at(seen, looks)
    bias_place = _bias_places(pushed, bias_axis)
    normal = np.zeros((s, _ALL, _ALL))
    target = np.zeros((s, _ALL))
    prior = np.zeros(_ALL)
    prior[_V:_P] = VELOCITY_PRIOR_M_S**-2
    prior[_P:_G] = PLACE_PRIOR_M**-2
    prior[_M:_A] = PLACE_PRIOR_M**-2
    prior[_A:_B] = SAME_GUARD_M**-2
    prior[_B:] = BIAS_SD_RAD_S**-2
    normal += np.diag(prior)
    known = gravity[1] ** -2
    for k in range(3):
        normal[:, _G + k, _G + k] += known
        target[:, _G + k] += known * gravity[0][:, k]
    # contact begins at the origin of places
    for k in range(3):
        normal[:, _P + 3 * MAIN + k, _P + 3 * MAIN + k] += 1e-6**-2
    _add_guard(normal, target, at, piece, guard, p[:, looks], bias_place[:, looks])
    if strikes:
        _add_contacts(normal, target, t, v, p, bias_place, length_s, beside)
    covariance = np.linalg.inv(normal)
    unknown = (covariance @ target[:, :, None])[:, :, 0]
    enough = guard.sum(axis=1) * LOOK_S > 0.4
    return _Solved(
        unknown[:, _G:_M],
        unknown[:, _V:_P].reshape(s, PIECES, 3),
        unknown[:, _P:_G].reshape(s, PIECES, 3),
        unknown[:, _B:],
        covariance,
        enough,
    )


def _pieces(at: Floats, length_s: Floats, beside: Neighbours) -> NDArray[np.int64]:
    """Which piece between contacts each look (s, k) lies in."""
    x = at[None, :]
    out = np.full((len(length_s), len(at)), MAIN)
    out[x < beside.last_from_s[:, None]] = MAIN - 1
    out[x < beside.before_last_to_s[:, None]] = MAIN - 2
    out[x > 0.5 * length_s[:, None]] = BACK
    out[x > beside.next_from_s[:, None]] = BACK + 1
    return out


def _guarding(at: Floats, length_s: Floats, beside: Neighbours) -> Bools:
    """At which looks (s, k) the limb is in the guard, on neither side of any own strike."""
    x = at[None, :]

    def clear(start: Floats, end: Floats) -> Bools:
        return np.asarray((x < start[:, None] - GUARD_FROM_S) | (x > end[:, None] + GUARD_TO_S))

    none = np.zeros(len(length_s))
    out = clear(none, length_s)
    out &= np.where(np.isfinite(beside.last_to_s)[:, None], clear(beside.last_from_s, beside.last_to_s), True)
    out &= np.where(np.isfinite(beside.next_to_s)[:, None], clear(beside.next_from_s, beside.next_to_s), True)
    before = np.where(np.isfinite(beside.before_last_to_s), beside.before_last_to_s, -np.inf)
    return np.asarray(out & (x > before[:, None] + GUARD_TO_S))


def _seen_at(seen: Bools, looks: NDArray[np.int64]) -> Bools:
    return seen[:, np.clip(looks, 0, seen.shape[1] - 1)]


def _bias_places(pushed: Floats, bias_axis: Floats) -> Floats:
    """Place (s, n, 3 axes of bias, 3) that a unit gyro bias feigns: its turn since contact, crossed with what was felt."""
    turned = _from_contact(STEP_S * bias_axis)
    mid = 0.5 * (turned[:, 1:] + turned[:, :-1])
    velocity = _from_contact(-np.cross(mid, pushed[:, :, None, :]))
    return _from_contact(STEP_S * 0.5 * (velocity[:, 1:] + velocity[:, :-1]))


def _add_guard(normal: Floats, target: Floats, at: Floats, piece: NDArray[np.int64], guard: Bools, p: Floats,
               bias_place: Floats) -> None:  # fmt: skip
    """Looks at the guard: `v t + p + P(t) - G t^2 / 2 + bias = where the guard is`, with sway and bounce as noise."""
    s, k = guard.shape
    weight = np.linalg.inv(sway(at, guard))
    after = (at[None, :] > 0.0).astype(np.float64)
    for axis in range(3):
        design = np.zeros((s, k, _ALL))
        for one in range(PIECES):
            here = (piece == one).astype(np.float64)
            design[:, :, _V + 3 * one + axis] = here * at
            design[:, :, _P + 3 * one + axis] = here
        design[:, :, _G + axis] = -0.5 * at**2
        design[:, :, _M + axis] = -1.0
        design[:, :, _A + axis] = -after
        design[:, :, _B:] = bias_place[:, :, :, axis]
        weighted = np.swapaxes(design, 1, 2) @ weight
        normal += weighted @ design
        target -= (weighted @ p[:, :, axis : axis + 1])[:, :, 0]


def _add_contacts(normal: Floats, target: Floats, t: Floats, v: Floats, p: Floats, bias_place: Floats, length_s: Floats,
                  beside: Neighbours) -> None:  # fmt: skip
    """What is known of contacts: the limb travels little in its own, and in a burst it meets the same bag again."""
    s = len(length_s)
    end = np.clip(BEFORE + np.rint(length_s / STEP_S).astype(np.int64), 0, len(t) - 1)
    rows = np.arange(s)
    e = t[end]
    for axis in range(3):
        design = np.zeros((s, _ALL))
        # p_after(e) = (EARLY v_before + LATE v_after(e)) e, with v_after(e) = v + V(e) - G e
        design[:, _P + 3 * BACK + axis] = 1.0
        design[:, _V + 3 * BACK + axis] = e - LATE * e
        design[:, _V + 3 * MAIN + axis] = -EARLY * e
        design[:, _G + axis] = -0.5 * e**2 + LATE * e**2
        known = p[rows, end, axis] - LATE * e * v[rows, end, axis]
        _add_row(normal, target, design, -known, LINK_SD_M)
    for instant, which in ((beside.last_to_s, MAIN), (beside.next_from_s, BACK)):
        burst = np.isfinite(instant) & (np.abs(instant) < GUARD_FROM_S + GUARD_TO_S)
        if not burst.any():
            continue
        place = np.clip(BEFORE + np.rint(np.where(burst, instant, 0.0) / STEP_S).astype(np.int64), 0, len(t) - 1)
        x = t[place]
        for axis in range(3):
            design = np.zeros((s, _ALL))
            design[:, _P + 3 * which + axis] = 1.0
            design[:, _V + 3 * which + axis] = x
            design[:, _G + axis] = -0.5 * x**2
            design[:, _B:] = bias_place[rows, place, :, axis]
            sd = float(SAME_BAG_M.max())
            _add_row(normal, target, design * burst[:, None], -p[rows, place, axis] * burst, sd)


def _add_row(normal: Floats, target: Floats, design: Floats, value: Floats, sd: float) -> None:
    normal += design[:, :, None] * design[:, None, :] / sd**2
    target += design * value[:, None] / sd**2


def _in_world(t: Floats, v: Floats, p: Floats, turn: Floats, attitude: Floats, solved: _Solved, length_s: Floats,
              beside: Neighbours, seen: Bools, clipped: Floats, strikes: bool) -> Stretches:  # fmt: skip
    g = solved.gravity
    main = np.where((t[None, :, None] <= 0.5 * length_s[:, None, None]) | (not strikes), 1.0, 0.0)

    def of(which: Floats) -> Floats:
        return main * which[:, MAIN, None, :] + (1.0 - main) * which[:, BACK, None, :]

    time = t[None, :, None]
    velocity = of(solved.velocity) + v - g[:, None, :] * time
    place = of(solved.place) + of(solved.velocity) * time + p - 0.5 * g[:, None, :] * time**2
    up = g / np.maximum(np.linalg.norm(g, axis=1, keepdims=True), 1e-9)
    level = onto_upright(up)
    rate = np.zeros_like(velocity)
    rate[:, :-1] = turn / STEP_S
    rate[:, -1] = rate[:, -2]
    q = level[:, None, :]
    spin = rotate(multiply(q, attitude), rate)
    first = np.searchsorted(t, np.where(np.isfinite(beside.last_to_s), beside.last_to_s, -np.inf))
    last = np.searchsorted(t, np.where(np.isfinite(beside.next_from_s), beside.next_from_s, np.inf)) - 1
    hole = ~seen[:, BEFORE - 250 : BEFORE + 200].all(axis=1)
    turned = matrices(level)
    c = solved.covariance

    def sd(first_unknown: int) -> Floats:
        part = c[:, first_unknown : first_unknown + 3, first_unknown : first_unknown + 3]
        return np.sqrt(np.maximum(np.einsum("sij,sjk,sik->si", turned, part, turned), 0.0))

    tilt = np.sqrt(np.einsum("sii->s", c[:, _G:_M, _G:_M])) / GRAVITY_M_S2
    return Stretches(
        t,
        rotate(q, velocity),
        rotate(q, place),
        spin,
        multiply(np.broadcast_to(q, attitude.shape), attitude),
        sd(_V + 3 * MAIN),
        sd(_V + 3 * BACK),
        tilt,
        first,
        np.clip(last, 0, len(t) - 1),
        clipped,
        solved.ok & ~hole,
    )
