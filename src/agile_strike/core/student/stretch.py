"""A worn unit round one strike: velocity and place, smoothed from the guard before and after.

Velocity increments are summed from contact outward, forward and back, on a grid that contact falls on exactly
(strapdown after Savage 1998). Gravity, the velocity at contact and the place of the guard are then found together:
between strikes a person stays where they are, bouncing and swaying, so place is a Gaussian process of known spread
about one point (Rasmussen and Williams, ch. 2), while errors of velocity and gravity run away as lines and parabolas.
Nothing is integrated across a contact: each has a jump of its own, of which only this is told: the limb hardly moves
while it lasts, and a limb in a burst comes back to the same bag.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.student.attitude import Attitude
from agile_strike.core.student.course import COARSE_S, Course, Sums
from agile_strike.core.student.gravity import Gravity
from agile_strike.core.student.grid import AFTER, AFTER_S, BEFORE, BEFORE_S, LOOK_S, LOOKS_S, STEP_S, Neighbours
from agile_strike.core.student.rotation import exp, multiply, onto_upright, rotate
from agile_strike.core.student.smoother import (
    BACK,
    MAIN,
    PLACE_OF_GRAVITY,
    PLACE_OF_VELOCITY,
    InGuard,
    Outward,
    Solved,
    guarding,
    met_again,
    smooth,
)
from agile_strike.core.student.still import still
from agile_strike.core.student.strap import leaving, steadied
from agile_strike.core.student.unclip import Clipped

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

#: what a part did: a limb that met the bag, or a pad that is never twice in one place; one that stopped itself in the
#: air; a part that was carried along
STRUCK, MET, SWUNG, CARRIED = "struck", "met", "swung", "carried"

LINK_SD_M = 0.006  # of the way travelled in contact, from the speeds at its ends and its length
LOOSE_LINK_SD_M = 0.025  # where no bag told its length: six milliseconds at four metres a second
COARSE_HZ = 150.0  # below, a trunk's samples miss what a contact does to it
HIDDEN_M_S = 0.8  # by which a limb's mean speed may differ while its unit clips after contact
HIDDEN_M_S2 = 15.0  # by which a limb slows or speeds up while its unit clips after contact
EARLY_S = 0.35  # before contact, where a tell is
JOLTED_S = 0.03  # beside a contact: no limb is still there
HOLE_BEFORE_S, HOLE_AFTER_S = 0.5, 0.4  # samples that must all be there


@dataclass(frozen=True, slots=True)
class Stretches:
    """s strikes on one grid of n times; world axes have z up and any heading, the same through one stretch."""

    times_s: Floats  #: (n,) from contact
    velocity_m_s: Floats  #: (s, n, 3) of the piece that ends at contact, and of the one that begins after it
    place_m: Floats  #: (s, n, 3) from where contact began
    rate_rad_s: Floats  #: (s, n, 3) angular rate, world axes
    attitude: Floats  #: (s, n, 4) body to world, quaternion w x y z
    velocity_sd_m_s: Floats  #: (s,) at contact, along a level axis
    rise_sd_m_s: Floats  #: (s,) and along the vertical
    early_sd_m_s: Floats  #: (s,) before launch, where a tell is: nearer to the guard than contact is
    early_rise_sd_m_s: Floats  #: (s,) and along the vertical
    after_sd_m_s: Floats  #: (s,) after it, along a level axis
    after_rise_sd_m_s: Floats  #: (s,) and along the vertical
    home_sd_m: Floats  #: (s,) of a place on the way back against one before launch
    first: NDArray[np.int64]  #: (s,) index from which samples exist and no other own contact lies between
    last: NDArray[np.int64]  #: (s,) index up to which
    leaving_m_s: Floats  #: (s, 3) velocity at the end of contact; of a part that struck nothing, none
    leaving_sd_m_s: Floats  #: (s,) its doubt, by how smooth the course after it was
    clipped: Clipped  #: on the way to each contact
    ok: Bools  #: (s,) there was a guard to go by, and no hole near contact


@dataclass(frozen=True, slots=True)
class Tracked:
    """A unit, or a piece of what it delivered, with its attitude."""

    course: Course
    track: Attitude
    known: Gravity


@dataclass(frozen=True, slots=True)
class Contacts:
    """Contacts (s,) on the unit's clock."""

    at_s: Floats
    length_s: Floats
    beside: Neighbours
    clipped: Clipped

    @property
    def hidden_s(self) -> Floats:
        """(s,) after contact, in which the unit did not feel all."""
        return np.maximum(self.clipped.until_s - self.length_s, 0.0)

    def part(self, rows: slice | NDArray[np.int64]) -> "Contacts":
        return Contacts(self.at_s[rows], self.length_s[rows], self.beside.part(rows), self.clipped.part(rows))


def stretches(unit: Tracked, contacts: Contacts, part: str = STRUCK) -> Stretches:
    """Round s contacts. A limb that made them was jolted by each; any other part moves smoothly on through them."""
    jolted = part in (STRUCK, MET)
    whole, track, known = unit.course, unit.track, unit.known
    at, length_s, beside = contacts.at_s, contacts.length_s, contacts.beside
    t: Floats = STEP_S * np.arange(-BEFORE, AFTER + 1, dtype=np.float64)
    edges = at[:, None] + t[None, :]
    sums = whole.near(at - BEFORE_S - 2.0 * COARSE_S, BEFORE_S + AFTER_S + 3.0 * COARSE_S)
    upto = sums.upto(edges)
    gravity, gravity_sd = known.at(at)
    upright = onto_upright(gravity)
    attitude = _attitudes(sums, unit, upright, at, edges, upto)
    turn = np.diff(upto[:, :, :3], axis=1) - STEP_S * known.bias_at(at)[:, None, :]
    middle = multiply(attitude[:, :-1], exp(0.5 * turn))
    v = _from_contact(rotate(middle, np.diff(upto[:, :, 3:], axis=1)))
    p = _from_contact(STEP_S * 0.5 * (v[:, :-1] + v[:, 1:]))
    out = Outward(t, *(steadied(t, v, p, length_s) if jolted else (v, p)))
    looks = at[:, None] + LOOKS_S
    whole_from, whole_to = whole.holes.unbroken(at)
    unbroken = (looks - LOOK_S >= whole_from[:, None]) & (looks <= whole_to[:, None])
    darts = known.calm.darts(track.pushed, COARSE_S)[np.minimum(track.step(looks), len(track.pushed) - 1)]
    seen = guarding(LOOKS_S, length_s, beside) & whole.seen(looks - LOOK_S, looks) & unbroken & ~darts
    place = _looked(out, track, upright, at)
    guard = InGuard(place, seen, known.guard, rotate(upright, gravity), gravity_sd)
    others = (beside.last_to_s, beside.next_from_s)
    if part == MET:
        others = (np.full_like(at, -np.inf), np.full_like(at, np.inf))
    met = tuple(
        met_again(out, track, upright, at, np.where((at + x >= whole_from) & (at + x <= whole_to), x, np.inf))
        for x in others
    )
    alone = _alone(t, contacts) & (edges > whole_from[:, None]) & (edges < whole_to[:, None])
    moments = still(t, out.velocity, turn / STEP_S, guard.gravity, alone) if part != CARRIED else None
    link_sd = np.hypot(LOOSE_LINK_SD_M if part == MET else LINK_SD_M, HIDDEN_M_S * contacts.hidden_s)
    solved = smooth(
        out,
        guard,
        length_s,
        link_sd,
        beside,
        (met[0], met[1]) if jolted else None,
        moments,
        coarse=whole.rate_hz < COARSE_HZ,
    )
    near = whole.seen(at - HOLE_BEFORE_S, at + HOLE_AFTER_S)
    near &= (whole_from <= at - HOLE_BEFORE_S) & (whole_to >= at + HOLE_AFTER_S)
    turning = _Turning(attitude, turn / STEP_S, whole_from - at, whole_to - at)
    return _in_world(out, turning, replace(solved, ok=solved.ok & near), contacts, part)


def _alone(t: Floats, contacts: Contacts) -> Bools:
    """Where on the grid (s, n) the limb is in the piece that ends at this contact, or the one that begins after it."""
    x, beside = t[None, :], contacts.beside
    last, nxt = (
        np.where(np.isfinite(at), at, far) for at, far in ((beside.last_to_s, -np.inf), (beside.next_from_s, np.inf))
    )
    own = (x < -JOLTED_S) | (x > contacts.length_s[:, None] + JOLTED_S)
    return np.asarray(own & (x > last[:, None] + JOLTED_S) & (x < nxt[:, None]))


def _looked(out: Outward, track: Attitude, upright: Floats, contact_s: Floats) -> Floats:
    """Place (s, k, 3) at each look from where contact began: beyond the fine grid's ends by the coarse track."""
    t, v, p = out.times_s, out.velocity, out.place
    looks = contact_s[:, None] + LOOKS_S
    found = np.empty((*looks.shape, 3))
    for end, far in ((0, LOOKS_S <= t[0]), (-1, LOOKS_S >= t[-1])):
        since = (LOOKS_S[far] - t[end])[None, :, None]
        coarse = track.moved(contact_s[:, None] + t[end], looks[:, far])
        found[:, far] = p[:, end, None] + v[:, end, None] * since + rotate(upright[:, None, :], coarse)
    near = (LOOKS_S > t[0]) & (LOOKS_S < t[-1])
    found[:, near] = p[:, np.rint((LOOKS_S[near] - t[0]) / STEP_S).astype(np.int64)]
    return found


# --- attitude


def _attitudes(sums: Sums, unit: Tracked, upright: Floats, contact_s: Floats, edges: Floats, upto: Floats) -> Floats:
    """Body to the frame of contact (s, n, 4): the coarse attitude, and the turn since."""
    at = unit.track.step(edges)
    coarse_s = unit.track.begins_s(at)
    first = at[:, :1]
    every = first + np.arange(int((at[:, -1:] - first).max()) + 1)  # each coarse step once: five fine ones share it
    coarse = multiply(upright[:, None, :], unit.track.at(np.minimum(every, unit.track.last)))
    bias = unit.known.bias_at(contact_s)[:, None, :]
    since = upto[:, :, :3] - sums.upto(coarse_s)[:, :, :3] - (edges - coarse_s)[:, :, None] * bias
    return multiply(coarse[np.arange(len(at))[:, None], at - first], exp(since))


def _from_contact(steps: Floats) -> Floats:
    """Sums (s, n, k) of steps (s, n - 1, k), zero at contact."""
    out = np.zeros((steps.shape[0], steps.shape[1] + 1, *steps.shape[2:]))
    np.cumsum(steps, axis=1, out=out[:, 1:])
    out -= out[:, BEFORE : BEFORE + 1].copy()
    return out


@dataclass(frozen=True, slots=True)
class _Turning:
    attitude: Floats  #: (s, n, 4) body to the frame of contact
    rate_rad_s: Floats  #: (s, n - 1, 3) between the grid's times, body axes
    from_s: Floats  #: (s,) from contact, since when no hole leaves anything open
    to_s: Floats  #: (s,) and until when


def _in_world(out: Outward, turning: _Turning, solved: Solved, contacts: Contacts, part: str) -> Stretches:
    jolted = part in (STRUCK, MET)
    t, g, length_s, beside = out.times_s, solved.gravity, contacts.length_s, contacts.beside
    main = np.where((t[None, :, None] <= 0.5 * length_s[:, None, None]) | (not jolted), 1.0, 0.0)

    def of(which: Floats) -> Floats:
        return main * which[:, MAIN, None, :] + (1.0 - main) * which[:, BACK, None, :]

    time = t[None, :, None]
    velocity = of(solved.velocity) + out.velocity - g[:, None, :] * time
    place = of(solved.place) + of(solved.velocity) * time + out.place - 0.5 * g[:, None, :] * time**2
    rate = np.concatenate([turning.rate_rad_s, turning.rate_rad_s[:, -1:]], axis=1)
    q = onto_upright(g)[:, None, :]
    attitude = multiply(np.broadcast_to(q, turning.attitude.shape), turning.attitude)
    last_to = np.where(np.isfinite(beside.last_to_s), beside.last_to_s, -np.inf)
    first = np.searchsorted(t, np.maximum(last_to, turning.from_s))
    last = np.searchsorted(t, np.minimum(beside.next_from_s, turning.to_s)) - 1
    before, after = PLACE_OF_VELOCITY + MAIN, PLACE_OF_VELOCITY + (BACK if jolted or part == CARRIED else MAIN)
    velocity = rotate(q, velocity)
    s = len(velocity)
    early = np.zeros(solved.level.shape[1])
    early[[before, PLACE_OF_GRAVITY]] = 1.0, EARLY_S
    early_sd, early_rise_sd = (np.sqrt(np.einsum("i,sij,j->s", early, c, early)) for c in (solved.level, solved.height))
    steady = solved.steady if part != CARRIED else 1.0
    left, left_sd = leaving(t, velocity, length_s) if jolted else (np.zeros((s, 3)), np.zeros(s))
    left_sd = np.hypot(left_sd, HIDDEN_M_S2 * contacts.hidden_s)
    return Stretches(
        times_s=t,
        velocity_m_s=velocity,
        place_m=rotate(q, place),
        rate_rad_s=rotate(attitude, rate),
        attitude=attitude,
        velocity_sd_m_s=steady * np.sqrt(solved.level[:, before, before]),
        rise_sd_m_s=steady * np.sqrt(solved.height[:, before, before]),
        early_sd_m_s=steady * early_sd,
        early_rise_sd_m_s=steady * early_rise_sd,
        after_sd_m_s=steady * np.sqrt(solved.level[:, after, after]),
        after_rise_sd_m_s=steady * np.sqrt(solved.height[:, after, after]),
        home_sd_m=steady * solved.home_sd_m,
        first=first,
        last=np.clip(last, 0, len(t) - 1),
        leaving_m_s=left,
        leaving_sd_m_s=left_sd,
        clipped=contacts.clipped,
        ok=solved.ok,
    )
