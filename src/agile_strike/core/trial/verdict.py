"""The verdict on an interval, and how much more would have to be thrown until it settles."""

from math import ceil

import numpy as np

from agile_strike.core.trial.blocks import Blocks
from agile_strike.core.trial.effect import Effect

CLEAR, LIKELY, NO_DIFFERENCE, NOT_SETTLED = "clear", "likely", "no_difference", "not_settled"
NORMAL_95 = 1.96
DRAWS, MOST_EVENINGS = 400, 60
SEED = 7  # the same trial gets the same answer


def verdict(low: float, high: float, worth: float) -> str:
    if low > worth or high < -worth:
        return CLEAR
    if low > 0.0 or high < 0.0:
        return LIKELY
    return NO_DIFFERENCE if -worth < low and high < worth else NOT_SETTLED


def evenings_needed(e: Effect, sessions: int, worth: float, by_evening_sd: float) -> float:
    """Further evenings like those there were until the interval should settle, on average.

    What may be true is drawn from what is known, evenings are drawn about it, and each draw goes on until its own
    interval lies beyond zero or within what is worth having (predictive stopping; Spiegelhalter, Freedman 1986). The
    interval narrows with the root of the evenings; its multiple of the sd falls from a t's to a normal's, and the sd of
    an evening from what it might be to `by_evening_sd`, what it most likely is.
    """
    rng = np.random.default_rng(SEED)
    multiple = (e.high - e.low) / 2.0 / e.sd
    truth = e.value + e.sd * rng.standard_normal((DRAWS, 1))
    further = np.arange(1, MOST_EVENINGS + 1)
    seen = np.cumsum(truth + by_evening_sd * rng.standard_normal((DRAWS, MOST_EVENINGS)), axis=1)
    total = sessions + further
    value = np.abs(sessions * e.value + seen) / total
    var = (sessions * sessions * e.sd**2 + further * min(by_evening_sd**2, sessions * e.sd**2)) / total
    half = (NORMAL_95 + (multiple - NORMAL_95) * sessions / total) * np.sqrt(var / total)
    settled = (value > half) | (value < worth - half)
    first = np.where(settled.any(axis=1), settled.argmax(axis=1) + 1, MOST_EVENINGS)
    return float(first.mean())


def blocks_needed(b: Blocks, e: Effect, worth: float) -> int:
    """Blocks of each level still to throw, at as many an evening as there were."""
    each = len(b.mean) / (2.0 * b.sessions)
    noise = e.block_sd**2 + b.within_var / float(np.mean(b.strikes))
    by_evening = float(np.sqrt(e.day_sd**2 + 2.0 * noise / each))
    return max(1, ceil(each * evenings_needed(e, b.sessions, worth, by_evening) - 1e-9))
