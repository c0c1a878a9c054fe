"""Is it a strike? A fast one-sided push that leaves the bag moving; never just a big number.

Shoves, leaning and steadying last too long; a tap on the unit rings and moves nothing; steps, jumps and rough handling
push both ways and go on pushing. Each limit stands with the reason that it was set by.
"""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag.contact import Contacts

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

SHORTEST_S = 0.004  # a jolt of the unit itself; the hardest bare-knuckle hit takes 6 ms
LONGEST_S = 0.058  # a kick lasts 40 ms; a shoulder bump starts near 80
ONE_SIDED = 0.78  # 6 % ringing of the shell costs 0.05 to 0.1
KEPT = (0.6, 1.4)  # what the contact holds of the whole change of motion
LEFT_OVER = 0.17  # push outside the contact, over its peak
AFTER_PUSH = 0.10  # a body part that stays on the bag goes on pushing
UNLIKE_A_BAG = 0.04  # hits leave 0.002 to 0.02, steps of a walker 0.05 and more
#: links of a chain that whip, or a seat that rings, make a bag move less like one: of a clear push more is let pass
CRISP_LEFT, CRISP_AFTER, CRISP_UNLIKE = 0.13, 0.05, 0.07
RESTLESS = 0.035  # scatter of velocity beside the contact, over its jump: hits leave under 0.02, a walker 0.05 and more
LEAST_IMPULSE_N_S = 1.5  # a third of a light child's jab
LEAST_PEAK_N = 60.0
LONG_S, LEAST_LONG_PEAK_N = 0.038, 250.0  # a kick is long and heavy; a light bag jerked by its chain is long and weak
FLAT = 0.82  # mean force over peak: a chain that jerks pulls evenly, no fist does
PLAUSIBLE_IMPULSE_N_S = 400.0


def strikes(c: Contacts, impulse_n_s: Floats | None, upright: Bools, hangs_free: bool) -> Bools:
    """Which of s contacts are strikes; `impulse_n_s` (s,) where the mount gives one, `upright` (s,) where the unit hung
    as a bag's unit hangs."""
    p = c.pulse
    length = p.end_s - p.start_s
    good = (
        upright
        & (length >= SHORTEST_S)
        & (length <= LONGEST_S)
        & (p.one_sided >= ONE_SIDED)
        & (p.share_inside >= KEPT[0])
        & (p.share_inside <= KEPT[1])
        & (p.left_over <= LEFT_OVER)
        & (c.after_push <= AFTER_PUSH)
    )
    if impulse_n_s is not None:
        flat = p.peak_per_s * np.maximum(length, SHORTEST_S) < 1.0 / FLAT
        good &= (impulse_n_s >= LEAST_IMPULSE_N_S) & (impulse_n_s <= PLAUSIBLE_IMPULSE_N_S)
        good &= impulse_n_s * p.peak_per_s >= np.where((length > LONG_S) | flat, LEAST_LONG_PEAK_N, LEAST_PEAK_N)
    if hangs_free:
        crisp = (p.left_over <= CRISP_LEFT) & (c.after_push <= CRISP_AFTER) & (length <= LONG_S)
        good &= c.unlike_a_bag <= np.where(crisp, CRISP_UNLIKE, UNLIKE_A_BAG)
    else:
        scatter = np.linalg.norm(c.dv_doubt_m_s, axis=1) / np.maximum(np.linalg.norm(c.dv_unit_m_s, axis=1), 1e-9)
        good &= scatter <= RESTLESS
    return np.asarray(good)


FEWEST_JOLTS = 8  # before anything is said of the whole
HARDLY_EVER = 0.25  # of a bag's hard jolts more are strikes, whatever else is done with it
MOVES_OTHERWISE, STRIKES_TOO = 0.02, 0.015  # middle `unlike_a_bag` of all hard jolts, and of what passed for strikes


def no_bag(yes: Bools, speed_m_s: Floats, unlike_a_bag: Floats) -> str:
    """Why a whole recording is no bag's, from all its jolts (c,): which passed for strikes, the speed that each gave,
    how unlike a hanging bag the unit moved beside it; empty where nothing says so.

    A walker's or a wrist's unit taken for the bag's now and then passes by chance. On a bag most hard jolts are strikes
    and those move as a bag does, so that a bag which is carried in or steadied keeps its strikes.
    """
    hard = speed_m_s >= 0.5 * float(np.median(speed_m_s[yes])) if yes.any() else np.ones(len(yes), bool)
    if hard.sum() < FEWEST_JOLTS or float(np.median(unlike_a_bag[hard])) <= MOVES_OTHERWISE:
        return ""
    passed = yes & hard
    if yes.any() and (passed.sum() >= HARDLY_EVER * hard.sum() or np.median(unlike_a_bag[yes]) <= STRIKES_TOO):
        return ""
    return "this unit does not move as a hanging bag does: was it the one on the bag?"
