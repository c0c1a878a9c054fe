"""Gravity, velocity at contact and place of the guard, found together from the guard before and after a strike.

Linear in its unknowns and Gaussian in what is known of them: two small matrices a strike, one for the level axes and
one for height, since a guard sways otherwise than it bounces.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.student.attitude import Attitude
from agile_strike.core.student.grid import BEFORE, GUARD_FROM_S, GUARD_TO_S, LOOK_S, LOOKS_S, STEP_S, Neighbours
from agile_strike.core.student.guard import Guard, sway
from agile_strike.core.student.rotation import rotate
from agile_strike.core.student.still import Still
from agile_strike.core.student.strap import SPRINGS_BACK, leaving, told_by_course

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

STEADY = 0.7  # times a doubt, where the guard keeps its place: simulated evenings
SAME_GUARD_M = 0.04  # guard after a strike against before it
SAME_BAG_M, SWING_M_S = 0.045, 0.06  # where a limb lands again, and how a bag swings away from there
SAME_BAG_WITHIN_S = 1.7
ORIGIN_SD_M = 1e-6
LEAST_GUARD_S = 0.4
SURE_GRAVITY_M_S2 = (
    0.12  # then a limb that meets the bag again, and a trunk's attitude, need no guard beside the strike
)
STOPS_M_S = 0.8  # of the mean speed in contact: a fist may stop at once and spring back
USUAL_M_S = 5.0  # of a blow
EARLY, LATE = 0.43, 0.57  # force peaks early in a contact with loss, so more of it passes at the later speed
VELOCITY_PRIOR_M_S, PLACE_PRIOR_M = 8.0, 2.0
BACK_S, LAUNCH_S = 0.35, 0.2  # after contact, when a limb is back, and before it, when it set out
PIECES = 5  # between contacts: two before, the two beside, one more after


@dataclass(frozen=True, slots=True)
class Outward:
    """What was summed from contact outward on the grid; gravity not yet taken off."""

    times_s: Floats  #: (n,) from contact
    velocity: Floats  #: (s, n, 3) frame of contact, z up
    place: Floats  #: (s, n, 3)


@dataclass(frozen=True, slots=True)
class InGuard:
    """What is known of the guard and of gravity beside each strike."""

    place: Floats  #: (s, k, 3) at each look, summed from contact
    seen: Bools  #: (s, k) the limb was in the guard, and its samples were there
    restless: Guard
    gravity: Floats  #: (s, 3) specific force at rest, frame of contact
    gravity_sd: Floats  #: (s,)


@dataclass(frozen=True, slots=True)
class Met:
    """The limb's own contact before or after this one, near enough that it met the same bag."""

    since_s: Floats  #: (s,) from contact, 0 where it does not count
    place: Floats  #: (s, 3) there, gravity not yet taken off
    counts: Bools  #: (s,)


@dataclass(frozen=True, slots=True)
class Solved:
    gravity: Floats  #: (s, 3) specific force at rest, frame of contact
    velocity: Floats  #: (s, PIECES, 3)
    place: Floats  #: (s, PIECES, 3)
    home_sd_m: Floats  #: (s,) of a place on the way back against one before launch, along a level axis
    level: Floats  #: (s, m, m) covariance of the unknowns along x or y
    height: Floats  #: (s, m, m) and along z
    steady: (
        float  #: times a doubt: a guard that keeps its place sways less wildly than a Gaussian process of its spread
    )
    ok: Bools


#: places of the unknowns along one axis: velocity and place of each piece, gravity, guard before, and its move after
_V, _P, _G, _M, _A = 0, PIECES, 2 * PIECES, 2 * PIECES + 1, 2 * PIECES + 2
_ALL = _A + 1
PLACE_OF_VELOCITY, PLACE_OF_GRAVITY = _V, _G
MAIN, BACK = 2, 3  # the piece that ends at contact, the piece that begins after it


def smooth(
    out: Outward,
    guard: InGuard,
    length_s: Floats,
    link_sd_m: Floats,
    beside: Neighbours,
    met: tuple[Met, Met] | None,
    moments: Still | None = None,
    *,
    coarse: bool = False,
) -> Solved:
    """`link_sd_m` (s,) is the doubt of the way travelled in contact, beside that of the speeds at its ends.
    All but the guard's sway is known alike along the three axes; z is up. Without `met` the part struck nothing, and
    goes on through contacts; but not one whose samples are too `coarse` to say what each did to it."""
    s = len(length_s)
    carried = met is None and not coarse
    goes_on = np.full(s, np.inf) if carried else length_s
    piece = np.full(guard.seen.shape, MAIN) if carried else _pieces(LOOKS_S, length_s, beside)
    prior = np.zeros(_ALL)
    prior[_V:_P] = VELOCITY_PRIOR_M_S**-2
    prior[_P:_G] = PLACE_PRIOR_M**-2
    prior[_P + MAIN] = ORIGIN_SD_M**-2  # contact begins at the origin of places
    prior[_M] = PLACE_PRIOR_M**-2
    prior[_A] = 1.0 / (SAME_GUARD_M**2 + guard.restless.level.wander_m**2)
    normal = np.broadcast_to(np.diag(prior), (s, _ALL, _ALL)).copy()
    target = np.zeros((s, _ALL, 3))
    known = guard.gravity_sd**-2
    normal[:, _G, _G] += known
    target[:, _G] += known[:, None] * guard.gravity
    if met is not None:
        _add_contacts(normal, target, out, length_s, met, link_sd_m)
    if moments is not None:
        _add_still(normal, target, out, moments, goes_on)
    design = _guard_design(LOOKS_S, piece)
    unknown = np.empty_like(target)
    covariances: list[Floats] = []
    for how, axes in guard.restless.axes():
        weighted = np.swapaxes(design, 1, 2) @ np.linalg.inv(sway(LOOKS_S, guard.seen, how))
        covariance: Floats = np.asarray(np.linalg.inv(normal + weighted @ design), dtype=np.float64)
        unknown[:, :, axes] = covariance @ (target[:, :, axes] - weighted @ guard.place[:, :, axes])
        covariances.append(covariance)
    again = np.ones(s, bool) if met is None else met[0].counts | met[1].counts
    enough = guard.seen.sum(axis=1) * LOOK_S > LEAST_GUARD_S
    enough |= again & (guard.gravity_sd < SURE_GRAVITY_M_S2)
    level, height = covariances
    steady = 1.0 if guard.restless.level.wander_m else STEADY
    home = np.zeros(_ALL)
    home[[_P + BACK, _V + BACK, _P + MAIN, _V + MAIN]] = 1.0, BACK_S, -1.0, LAUNCH_S
    home[_G] = -0.5 * (BACK_S**2 - LAUNCH_S**2)
    home_sd = np.sqrt(np.einsum("i,sij,j->s", home, level, home))
    return Solved(unknown[:, _G], unknown[:, _V:_P], unknown[:, _P:_G], home_sd, level, height, steady, enough)


def _add_still(normal: Floats, target: Floats, out: Outward, moments: Still, length_s: Floats) -> None:
    """Velocities of nought, each to its own doubt."""
    for k, sd in zip(moments.at, moments.sd_m_s.T, strict=True):
        design = np.zeros((len(sd), _ALL))
        when = out.times_s[k]
        after = when > 0.5 * length_s
        design[:, _V + MAIN] = ~after
        design[:, _V + BACK] = after
        design[:, _G] = -when
        share = (1.0 / sd)[:, None]
        _add_row(normal, target, design * share, -out.velocity[:, k] * share, 1.0)


def _pieces(at: Floats, length_s: Floats, beside: Neighbours) -> NDArray[np.int64]:
    """Which piece between contacts each look (s, k) lies in."""
    x = at[None, :]
    out = np.full((len(length_s), len(at)), MAIN)
    out[x < beside.last_from_s[:, None]] = MAIN - 1
    out[x < beside.before_last_to_s[:, None]] = MAIN - 2
    out[x > 0.5 * length_s[:, None]] = BACK
    out[x > beside.next_from_s[:, None]] = BACK + 1
    return out


def guarding(at: Floats, length_s: Floats, beside: Neighbours) -> Bools:
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


def _guard_design(at: Floats, piece: NDArray[np.int64]) -> Floats:
    """Looks (s, k) at the guard: `v t + p + P(t) - G t^2 / 2 = where the guard is`, with sway and bounce as noise."""
    design = np.zeros((*piece.shape, _ALL))
    for one in range(PIECES):
        here = (piece == one).astype(np.float64)
        design[:, :, _V + one] = here * at
        design[:, :, _P + one] = here
    design[:, :, _G] = -0.5 * at**2
    design[:, :, _M] = -1.0
    design[:, :, _A] = -(at > 0.0).astype(np.float64)
    return design


def _add_contacts(
    normal: Floats, target: Floats, out: Outward, length_s: Floats, met: tuple[Met, Met], link_sd_m: Floats
) -> None:
    """What is known of contacts: the limb travels little in its own, and in a burst it meets the same bag again."""
    t, v, p = out.times_s, out.velocity, out.place
    s = len(length_s)
    rows = np.arange(s)
    end = np.clip(BEFORE + np.rint(length_s / STEP_S).astype(np.int64), 0, len(t) - 1)
    e = t[end]
    left, left_sd = leaving(t, v, e)
    seen = told_by_course(left_sd, USUAL_M_S)
    # p_after(e) = (EARLY v_before + LATE v_end) e, with v_end the share `seen` of v_after(e) = v + V(e) - G e, and for
    # the rest what a blow leaves of v_before
    late = LATE * seen * e
    design = np.zeros((s, _ALL))
    design[:, _P + BACK] = 1.0
    design[:, _V + BACK] = e - late
    design[:, _V + MAIN] = -(EARLY + LATE * (1.0 - seen) * SPRINGS_BACK) * e
    design[:, _G] = -0.5 * e**2 + late * e
    known = p[rows, end] - late[:, None] * left
    sd = np.sqrt(link_sd_m**2 + seen * (LATE * e * left_sd) ** 2 + (STOPS_M_S * e) ** 2)[:, None]
    _add_row(normal, target, design / sd, -known / sd, 1.0)
    for again, which in zip(met, (MAIN, BACK), strict=True):
        design = np.zeros((s, _ALL))
        design[:, _P + which] = 1.0
        design[:, _V + which] = again.since_s
        design[:, _G] = -0.5 * again.since_s**2
        share = (again.counts / (SAME_BAG_M + SWING_M_S * np.abs(again.since_s)))[:, None]
        _add_row(normal, target, design * share, -again.place * share, 1.0)


def _add_row(normal: Floats, target: Floats, design: Floats, value: Floats, sd: float) -> None:
    normal += design[:, :, None] * design[:, None, :] / sd**2
    target += design[:, :, None] * value[:, None, :] / sd**2


def met_again(out: Outward, track: Attitude, upright: Floats, contact_s: Floats, instant_s: Floats) -> Met:
    """The limb's contact `instant_s` (s,) from this one, infinite where there is none, by the unit's own way there."""
    t, v, p = out.times_s, out.velocity, out.place
    edges = contact_s[:, None] + t
    counts = np.abs(instant_s) < SAME_BAG_WITHIN_S
    since = np.where(counts, instant_s, 0.0)
    inside = np.clip(np.rint((since - t[0]) / STEP_S).astype(np.int64), 0, len(t) - 1)
    rows = np.arange(len(since))
    place = p[rows, inside]
    far = counts & ((since < t[0]) | (since > t[-1]))
    if far.any():  # beyond the fine grid the coarse track goes on; contact lasts one of its steps
        beyond = (since - t[inside])[:, None]
        coarse = rotate(upright, track.moved(edges[rows, inside][:, None], (edges[:, BEFORE] + since)[:, None])[:, 0])
        place = np.where(far[:, None], place + v[rows, inside] * beyond + coarse, place)
    return Met(since, place, counts)
