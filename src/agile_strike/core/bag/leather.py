"""How a bag's leather lets go: all at once, or with a push that falls off over tens of milliseconds.

Leather and filling that creep press on after the blow (a Zener solid: Johnson, Contact Mechanics, ch. 6.5). Whoever
reads the swing just after it takes that push for swing, and finds too little impulse and a force that is too low. What
is left of it at t after a blow is `share exp(-t / s)` of the whole, in all that the blow moves. The moment about the
bag's top shows it, since a free swing keeps that; every blow of an evening says the same of its bag, up to what a limb
does that stays on it, so the middle of many is told.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

BEFORE_S, AFTER_S = (-0.1, -0.015), (0.022, 0.11)  # beside a blow; a kick's lasts 18 ms beyond its middle
TRIED_S = (0.008, 0.012, 0.018, 0.027)
FEWEST = 8  # blows
CLEAN = 0.04  # of a blow's moment: what else moves the bag may leave so much
HARD = 0.3  # of the middle blow's moment: softer ones say little
LEAST_PER_S = 3.2  # share over its time: a swing that all blows have alike looks as a long and small tail does
MOST = 0.6  # a limb that pushes for longer than blows do, not leather: its moment climbs on and stops
SURE, CLEARLY = 4.5, 8.0  # standard errors from nought
LEAVES, QUICK_LEAVES = 0.4, 0.7  # misfit with a tail over that without; no swing looks as quick as the quickest


@dataclass(frozen=True, slots=True)
class Tail:
    share: float = 0.0  #: of a push that is still to come, carried back to its middle
    s: float = 0.012  #: in which it falls to a third

    def left(self, since_s: Floats) -> Floats:
        """Share of the whole push that is still to come."""
        return np.asarray(self.share * np.exp(-np.maximum(since_s, 0.0) / self.s))

    def rate(self, since_s: Floats) -> Floats:
        """The push then, per second: over the whole impulse."""
        return self.left(since_s) / self.s


AT_ONCE = Tail()


def learnt(moment: Floats, since_s: Floats) -> Tail:
    """From the moment about the top (s, n, 2) that s jolts left a bag with, at n instants from their middles."""
    jumps = _jumps(moment, since_s)
    size = np.linalg.norm(jumps, axis=1)
    hard = size > HARD * np.median(size) if len(size) else np.zeros(0, bool)
    if hard.sum() < FEWEST:
        return AT_ONCE
    along = (moment[hard] * (jumps[hard] / size[hard, None])[:, None, :]).sum(axis=2) / size[hard, None]
    clean = _fitted(along, since_s, TRIED_S[0])[1] < CLEAN
    if clean.sum() < FEWEST:
        return AT_ONCE
    # a swing goes one way after one blow and the other after the next: what all have alike is the leather's
    alike = np.median(along[clean] - along[clean][:, _sides(since_s)[0]].mean(axis=1, keepdims=True), axis=0)
    s = min(TRIED_S, key=lambda s: float(_fitted(alike[None], since_s, s)[1][0]))
    (share,), (left,) = _fitted(alike[None], since_s, s)
    shares, _ = _fitted(along[clean], since_s, s)
    spread = 1.4826 * float(np.median(np.abs(shares - np.median(shares))))
    at_once = _fitted(alike[None], since_s, None)[1][0]
    clear = float(share) * clean.sum() ** 0.5 / max(spread, 1e-9)
    leaves = QUICK_LEAVES if s == TRIED_S[0] and clear > CLEARLY else LEAVES
    leather = LEAST_PER_S * s < share < MOST and clear > SURE and left < leaves * at_once
    return Tail(float(share), s) if leather else AT_ONCE


def _sides(since_s: Floats) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    before = (since_s > BEFORE_S[0]) & (since_s < BEFORE_S[1])
    return before, (since_s > AFTER_S[0]) & (since_s < AFTER_S[1])


def _jumps(moment: Floats, since_s: Floats) -> Floats:
    before, after = _sides(since_s)
    return np.asarray(moment[:, after].mean(axis=1) - moment[:, before].mean(axis=1))


def _fitted(along: Floats, since_s: Floats, s: float | None) -> tuple[Floats, Floats]:
    """Share (s,) that is left to come, by one line before and after a step, and what that leaves (s,) of the step;
    without `s` the share is nought."""
    before, after = _sides(since_s)
    use = before | after
    later = after[use].astype(np.float64)
    tail = np.exp(-since_s[use] / s) if s else np.zeros_like(later)
    basis = np.stack([np.ones_like(later), since_s[use] / AFTER_S[1], later, -later * tail], axis=1)
    c, *_ = np.linalg.lstsq(basis, along[:, use].T, rcond=None)
    left = along[:, use].T - basis @ c
    step = np.where(np.abs(c[2]) > 0.2, c[2], np.inf)
    return np.asarray(c[3] / step), np.asarray(np.sqrt((left**2).mean(axis=0)) / np.abs(step))
