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
TRIED_S = (0.006, 0.008, 0.01, 0.012, 0.015, 0.018, 0.022, 0.027, 0.033)
FEWEST = 8  # blows
CLEAN = 0.04  # of a blow's moment: what else moves the bag may leave so much
CLEAN_BY_S = 0.008
HARD = 0.3  # of the middle blow's moment: softer ones say little
LEAST_LEFT, LEAST_PER_S = 0.017, 2.2  # share left where the fit begins, and over its time: what passes for a tail
#: a limb that pushes for longer than blows do, not leather: its moment climbs on and stops; of the whole, and of a tail
#: of which much is left where the fit begins
MOST, MOST_SLOW, SLOW_LEFT = 0.6, 0.35, 0.06
#: standard errors from nought, and misfit with a tail over that without: either is clear where the other is very clear
SURE, LEAVES = (4.5, 9.0), (0.5, 0.65)
WEIGHED_SD, EVEN_SD = 0.05, 0.002  # of mass against inertia; of the middle moment of many blows, over its jump


@dataclass(frozen=True, slots=True)
class Tail:
    share: float = 0.0  #: of a push that is still to come, carried back to its middle
    s: float = 0.012  #: in which it falls to a third
    perhaps: float = 0.0  #: share of one that blows hint at, and do not show clearly

    def left(self, since_s: Floats) -> Floats:
        """Share of the whole push that is still to come."""
        return np.asarray(self.share * np.exp(-np.maximum(since_s, 0.0) / self.s))

    def rate(self, since_s: Floats) -> Floats:
        """The push then, per second: over the whole impulse."""
        return self.left(since_s) / self.s


AT_ONCE = Tail()
PERHAPS = Tail(perhaps=0.2)  # such as leather has that is worn
HINTS = 0.85  # of the misfit without a tail


def learnt(moment: Floats, turning: Floats, since_s: Floats) -> Tail:
    """From the moment about the top (s, n, 2) that s jolts left a bag with, at n instants from their middles, and the
    part of it (s, n, 2) that the bag has by turning.

    With a bag weighed or measured wrong the moment swings along a little, after all blows alike; so much of its turning
    is let go of as tells the swing's own course.
    """
    jumps = _jumps(moment, since_s)
    size = np.linalg.norm(jumps, axis=1)
    hard = size > HARD * np.median(size) if len(size) else np.zeros(0, bool)
    if hard.sum() < FEWEST:
        return AT_ONCE
    way = (jumps[hard] / size[hard, None] ** 2)[:, None, :]
    along, turned = ((x[hard] * way).sum(axis=2) for x in (moment, turning))
    clean = _fitted(along, since_s, CLEAN_BY_S).left < CLEAN
    if clean.sum() < FEWEST:
        return AT_ONCE
    # a swing goes one way after one blow and the other after the next: what all have alike is the leather's
    before = _sides(since_s)[0]
    alike, swing = (
        np.median(x[clean] - x[clean][:, before].mean(axis=1, keepdims=True), axis=0) for x in (along, turned)
    )
    tried = [(s, _fitted(alike[None], since_s, s, swing)) for s in TRIED_S]
    s = min((x for x in tried if x[1].share[0] < MOST), key=lambda x: x[1].left[0], default=tried[-1])[0]
    of_all, of_each = (_fitted(x, since_s, s, swing) for x in (alike[None], along[clean]))
    share = float(of_all.share[0])
    spread = 1.4826 * float(np.median(np.abs(of_each.share - np.median(of_each.share))))
    errors = share * float(clean.sum()) ** 0.5 / max(spread, 1e-9)
    left = share * float(np.exp(-AFTER_S[0] / s))
    seen = left > LEAST_LEFT and LEAST_PER_S * s < share < (MOST if left < SLOW_LEFT else MOST_SLOW)
    at_once = _fitted(alike[None], since_s, None, swing).left[0]
    clear = any(errors > sure and of_all.left[0] < leaves * at_once for sure, leaves in zip(SURE, LEAVES, strict=True))
    if clear and seen:
        return Tail(share, s)
    return PERHAPS if errors > SURE[0] and of_all.left[0] < HINTS * at_once else AT_ONCE


def _sides(since_s: Floats) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    before = (since_s > BEFORE_S[0]) & (since_s < BEFORE_S[1])
    return before, (since_s > AFTER_S[0]) & (since_s < AFTER_S[1])


def _jumps(moment: Floats, since_s: Floats) -> Floats:
    before, after = _sides(since_s)
    return np.asarray(moment[:, after].mean(axis=1) - moment[:, before].mean(axis=1))


@dataclass(frozen=True, slots=True)
class _Fit:
    share: Floats  #: (s,) that is left to come
    left: Floats  #: (s,) misfit over the step


def _fitted(along: Floats, since_s: Floats, s: float | None, swing: Floats | None = None) -> _Fit:
    """By one line before and after a step, a tail that falls in `s` (None: none), some of the swing's course (n,)."""
    before, after = _sides(since_s)
    use = before | after
    later = after[use].astype(np.float64)
    tail = np.exp(-since_s[use] / s) if s else np.zeros_like(later)
    course = np.zeros_like(later) if swing is None else swing[use]
    basis = np.stack([np.ones_like(later), since_s[use] / AFTER_S[1], later, -later * tail, course], axis=1)
    held = np.vstack([basis, [0.0, 0.0, 0.0, 0.0, EVEN_SD / WEIGHED_SD]])  # ridge (Hoerl and Kennard 1970)
    y = along[:, use].T
    c, *_ = np.linalg.lstsq(held, np.vstack([y, np.zeros((1, y.shape[1]))]), rcond=None)
    left = y - basis @ c
    step = np.where(np.abs(c[2]) > 0.2, c[2], np.inf)
    return _Fit(np.asarray(c[3] / step), np.asarray(np.sqrt((left**2).mean(axis=0)) / np.abs(step)))
