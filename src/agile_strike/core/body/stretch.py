"""A worn unit round one strike: velocity and place, smoothed from the guard before and after.

Velocity increments are summed from contact outward, forward and back, on a grid that contact falls on exactly
(strapdown after Savage 1998). Gravity, the velocity at contact and the place of the guard are then found together:
between strikes a person stays where they are, bouncing and swaying, so place is a Gaussian process of known spread
about one point (Rasmussen and Williams, ch. 2), while errors of velocity and gravity run away as lines and parabolas.
Nothing is integrated across a contact: each has a jump of its own, of which only this is told: the limb hardly moves
while it lasts, and a limb in a burst comes back to the same bag.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.body.gravity import COARSE_S, GravityTrack, sway
from agile_strike.core.body.integrals import Integrals
from agile_strike.core.body.rotation import exp, multiply, onto_upright, rotate

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

STEP_S = 0.002
BEFORE_S, AFTER_S = 0.8, 1.1
BEFORE, AFTER = round(BEFORE_S / STEP_S), round(AFTER_S / STEP_S)
LOOK_S = 0.05  # between looks at the guard; its bounce is slower
LOOK_BEFORE_S, LOOK_AFTER_S = 2.2, 1.6
GUARD_FROM_S, GUARD_TO_S = 0.62, 0.65  # of a strike: earlier than its tell, later than its return
SAME_GUARD_M = 0.04  # guard after a strike against before it
SAME_BAG_M = 0.05  # where a limb in a burst lands again
ORIGIN_SD_M = 1e-6
LEAST_GUARD_S = 0.4
HOLE_BEFORE_S, HOLE_AFTER_S = 0.5, 0.4  # samples that must all be there
LINK_SD_M = 0.006  # of the way travelled in contact, from the speeds at its ends and its length
EARLY, LATE = 0.43, 0.57  # force peaks early in a contact with loss, so more of it passes at the later speed
VELOCITY_PRIOR_M_S, PLACE_PRIOR_M = 8.0, 2.0
_FAR = np.arange(-LOOK_BEFORE_S, LOOK_AFTER_S + 1e-9, LOOK_S)
LOOKS_S: Floats = _FAR[(_FAR < -GUARD_FROM_S) | (_FAR > GUARD_TO_S)]  #: looks at the guard, from contact
PIECES = 5  # between contacts: two before, the two beside, one more after


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
    velocity_sd_m_s: Floats  #: (s,) at contact, along any axis
    after_sd_m_s: Floats  #: (s,) after it
    first: NDArray[np.int64]  #: (s,) index from which samples exist and no other own contact lies between
    last: NDArray[np.int64]  #: (s,) index up to which
    clipped_before: Floats  #: (s,) share of samples clipped in the last 250 ms before contact
    ok: Bools  #: (s,) there was a guard to go by, and no hole near contact


def stretches(
    whole: Integrals,
    track: GravityTrack,
    contact_s: Floats,
    length_s: Floats,
    beside: Neighbours,
    clipped: Floats,
    strikes: bool = True,
) -> Stretches:
    """Round contacts at `contact_s` (s,) of the unit's clock that last `length_s` (s,). With `strikes` this limb made
    them and each jolts it; without, the part moves smoothly on through all of them."""
    t: Floats = STEP_S * np.arange(-BEFORE, AFTER + 1, dtype=np.float64)
    edges = contact_s[:, None] + t[None, :]
    upto = whole.upto(edges)
    attitude = _attitudes(whole, track, edges, upto)
    turn = np.diff(upto[:, :, :3], axis=1) - STEP_S * track.gyro_bias_rad_s
    middle = multiply(attitude[:, :-1], exp(0.5 * turn))
    v = _from_contact(rotate(middle, np.diff(upto[:, :, 3:], axis=1)))
    p = _from_contact(STEP_S * 0.5 * (v[:, :-1] + v[:, 1:]))
    looks = contact_s[:, None] + LOOKS_S
    guard = _guarding(LOOKS_S, length_s, beside) & whole.seen(looks - LOOK_S, looks)
    solved = _smooth(
        t, v, p, _looked(t, v, p, track, edges, looks), guard, track.at(contact_s), length_s, beside, strikes
    )
    near = whole.seen(contact_s - HOLE_BEFORE_S, contact_s + HOLE_AFTER_S)
    return _in_world(t, v, p, turn, attitude, solved, length_s, beside, near, clipped, strikes)


def _looked(t: Floats, v: Floats, p: Floats, track: GravityTrack, edges: Floats, looks: Floats) -> Floats:
    """Place (s, k, 3) at each look from where contact began: beyond the fine grid's ends by the coarse track."""
    out = np.empty((*looks.shape, 3))
    for end, far in ((0, LOOKS_S <= t[0]), (-1, LOOKS_S >= t[-1])):
        since = (LOOKS_S[far] - t[end])[None, :, None]
        coarse = track.moved(edges[:, end : end + 1] if end == 0 else edges[:, -1:], looks[:, far])
        out[:, far] = p[:, end, None] + v[:, end, None] * since + coarse
    near = (LOOKS_S > t[0]) & (LOOKS_S < t[-1])
    out[:, near] = p[:, np.rint((LOOKS_S[near] - t[0]) / STEP_S).astype(np.int64)]
    return out


# --- attitude


def _attitudes(whole: Integrals, track: GravityTrack, edges: Floats, upto: Floats) -> Floats:
    """Body to the track's frame (s, n, 4): the coarse attitude, and the turn since."""
    at = np.clip((edges / COARSE_S).astype(np.int64), 0, len(track.attitude) - 1)
    coarse_s: Floats = COARSE_S * at.astype(np.float64)
    since = upto[:, :, :3] - whole.upto(coarse_s)[:, :, :3] - (edges - coarse_s)[:, :, None] * track.gyro_bias_rad_s
    return multiply(track.attitude[at], exp(since))


def _from_contact(steps: Floats) -> Floats:
    """Sums (s, n, k) of steps (s, n - 1, k), zero at contact."""
    out = np.zeros((steps.shape[0], steps.shape[1] + 1, *steps.shape[2:]))
    np.cumsum(steps, axis=1, out=out[:, 1:])
    out -= out[:, BEFORE : BEFORE + 1].copy()
    return out


# --- the smoother


@dataclass(frozen=True, slots=True)
class _Solved:
    gravity: Floats  #: (s, 3) specific force at rest, frame of contact
    velocity: Floats  #: (s, PIECES, 3)
    place: Floats  #: (s, PIECES, 3)
    covariance: Floats  #: (s, m, m) of the unknowns along any axis
    ok: Bools


#: places of the unknowns along one axis: velocity and place of each piece, gravity, guard before, and its move after
_V, _P, _G, _M, _A = 0, PIECES, 2 * PIECES, 2 * PIECES + 1, 2 * PIECES + 2
_ALL = _A + 1
MAIN, BACK = 2, 3  # the piece that ends at contact, the piece that begins after it


def _smooth(
    t: Floats,
    v: Floats,
    p: Floats,
    looked: Floats,
    guard: Bools,
    gravity: tuple[Floats, Floats],
    length_s: Floats,
    beside: Neighbours,
    strikes: bool,
) -> _Solved:
    """The axes share what is known and how well: one matrix a strike, three right-hand sides."""
    s = len(length_s)
    piece = _pieces(LOOKS_S, length_s, beside) if strikes else np.full(guard.shape, MAIN)
    prior = np.zeros(_ALL)
    prior[_V:_P] = VELOCITY_PRIOR_M_S**-2
    prior[_P:_G] = PLACE_PRIOR_M**-2
    prior[_P + MAIN] = ORIGIN_SD_M**-2  # contact begins at the origin of places
    prior[_M], prior[_A] = PLACE_PRIOR_M**-2, SAME_GUARD_M**-2
    normal = np.broadcast_to(np.diag(prior), (s, _ALL, _ALL)).copy()
    target = np.zeros((s, _ALL, 3))
    known = gravity[1] ** -2
    normal[:, _G, _G] += known
    target[:, _G] += known[:, None] * gravity[0]
    _add_guard(normal, target, LOOKS_S, piece, guard, looked)
    if strikes:
        _add_contacts(normal, target, t, v, p, length_s, beside)
    covariance: Floats = np.asarray(np.linalg.inv(normal), dtype=np.float64)
    unknown = covariance @ target
    enough = guard.sum(axis=1) * LOOK_S > LEAST_GUARD_S
    return _Solved(unknown[:, _G], unknown[:, _V:_P], unknown[:, _P:_G], covariance, enough)


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


def _add_guard(normal: Floats, target: Floats, at: Floats, piece: NDArray[np.int64], guard: Bools, p: Floats) -> None:
    """Looks at the guard: `v t + p + P(t) - G t^2 / 2 = where the guard is`, with sway and bounce as noise."""
    s, k = guard.shape
    weight = np.linalg.inv(sway(at, guard))
    design = np.zeros((s, k, _ALL))
    for one in range(PIECES):
        here = (piece == one).astype(np.float64)
        design[:, :, _V + one] = here * at
        design[:, :, _P + one] = here
    design[:, :, _G] = -0.5 * at**2
    design[:, :, _M] = -1.0
    design[:, :, _A] = -(at > 0.0).astype(np.float64)
    weighted = np.swapaxes(design, 1, 2) @ weight
    normal += weighted @ design
    target -= weighted @ p


def _add_contacts(
    normal: Floats, target: Floats, t: Floats, v: Floats, p: Floats, length_s: Floats, beside: Neighbours
) -> None:
    """What is known of contacts: the limb travels little in its own, and in a burst it meets the same bag again."""
    s = len(length_s)
    rows = np.arange(s)
    end = np.clip(BEFORE + np.rint(length_s / STEP_S).astype(np.int64), 0, len(t) - 1)
    e = t[end]
    # p_after(e) = (EARLY v_before + LATE v_after(e)) e, with v_after(e) = v + V(e) - G e
    design = np.zeros((s, _ALL))
    design[:, _P + BACK] = 1.0
    design[:, _V + BACK] = e - LATE * e
    design[:, _V + MAIN] = -EARLY * e
    design[:, _G] = -0.5 * e**2 + LATE * e**2
    known = p[rows, end] - LATE * e[:, None] * v[rows, end]
    _add_row(normal, target, design, -known, LINK_SD_M)
    for instant, which in ((beside.last_to_s, MAIN), (beside.next_from_s, BACK)):
        burst = np.isfinite(instant) & (np.abs(instant) < GUARD_FROM_S + GUARD_TO_S)
        place = np.clip(BEFORE + np.rint(np.where(burst, instant, 0.0) / STEP_S).astype(np.int64), 0, len(t) - 1)
        design = np.zeros((s, _ALL))
        design[:, _P + which] = 1.0
        design[:, _V + which] = t[place]
        design[:, _G] = -0.5 * t[place] ** 2
        _add_row(normal, target, design * burst[:, None], -p[rows, place] * burst[:, None], SAME_BAG_M)


def _add_row(normal: Floats, target: Floats, design: Floats, value: Floats, sd: float) -> None:
    normal += design[:, :, None] * design[:, None, :] / sd**2
    target += design[:, :, None] * value[:, None, :] / sd**2


def _in_world(
    t: Floats,
    v: Floats,
    p: Floats,
    turn: Floats,
    attitude: Floats,
    solved: _Solved,
    length_s: Floats,
    beside: Neighbours,
    near: Bools,
    clipped: Floats,
    strikes: bool,
) -> Stretches:
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
    c = solved.covariance
    velocity_sd = np.sqrt(c[:, _V + MAIN, _V + MAIN])
    after_sd = np.sqrt(c[:, _V + BACK, _V + BACK])
    return Stretches(
        t,
        rotate(q, velocity),
        rotate(q, place),
        spin,
        multiply(np.broadcast_to(q, attitude.shape), attitude),
        velocity_sd,
        after_sd,
        first,
        np.clip(last, 0, len(t) - 1),
        clipped,
        solved.ok & near,
    )
