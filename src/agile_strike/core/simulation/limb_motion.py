"""The course of a striking limb: guard, tell, launch, path, contact as the bag had it, and the way back."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.simulation.student import (
    FINE_HZ,
    FOOT_S,
    NEXT_FOOT_S,
    Body,
    Step,
    Technique,
    Thrown,
    noise,
    rising,
    smooth_step,
    stirred,
)

Floats = NDArray[np.float64]

#: attitude of the limb's unit in the guard and at contact: yaw, pitch (nose down positive), roll, degrees
ARM_GUARD, ARM_REACH = (12.0, -48.0, -20.0), (0.0, -4.0, -20.0)
LEG_GUARD, LEG_REACH = (0.0, 4.0, 0.0), (25.0, -62.0, 0.0)
WOBBLE_DEG = 2.0
RETURNED_S, LEADS_S = 0.8, 0.4  # after a strike, when the hand is home; before a contact, when tell and flight begin
PAUSE_S, MOVE_S, LEAST_MOVE_S = (0.2, 0.5), (0.45, 1.0), 0.3
MOVE_TURNS_DEG = 8.0
FEINT_S, FEINT_EVERY_S = (0.3, 0.6), 1.5
LIFTED_M = 0.04  # a foot that is set elsewhere
FOLLOW_S = 0.006  # after contact the limb leaves the collision's own course by then


@dataclass(frozen=True, slots=True)
class LimbMotion:
    """A limb's unit over the evening, world axes: position (n, 3) m and yaw, pitch, roll (n, 3) rad."""

    position_m: Floats
    angles_rad: Floats


def limb_motion(
    body: Body,
    limb_part: str,
    side: str,
    times_s: Floats,
    base_m: Floats,
    thrown: list[Thrown],
    walk: list[Step],
    rng: np.random.Generator,
) -> LimbMotion:
    """Course of the `side` hand or foot; `base_m` (n, 3) is where the trunk carries it, but for a foot's `walk`."""
    n = len(times_s)
    leg = limb_part == "foot"
    at_guard, at_reach = (LEG_GUARD, LEG_REACH) if leg else (ARM_GUARD, ARM_REACH)
    mirror = np.array([1.0 if side == "left" else -1.0, 1.0, 1.0 if side == "right" else -1.0])
    angles = np.tile(np.array(at_guard) * mirror, (n, 1))
    still = 0.15 if leg else 1.0  # a foot stands
    stir = stirred(body, times_s)
    angles += stir * np.column_stack([still * WOBBLE_DEG * noise(rng, n, 0.3, 2.0) for _ in range(3)])
    position = base_m * (0.1 if leg else 1.0)
    tremor = np.column_stack([still * body.tremor_m * noise(rng, n, 0.3, 2.5) for _ in range(3)])
    position = position + stir * tremor
    own = [s for s in thrown if s.limb == f"{side}_{limb_part}"]
    if body.moves_m and not leg:
        _put_elsewhere(body.moves_m, times_s, position, angles, own, rng)
    if body.shadows_m and not leg:
        _feint(body.shadows_m, times_s, position, angles, own, rng)
    if leg:
        delay = 0.0 if side == body.lead else NEXT_FOOT_S
        for step in walk:
            gone = step.gone(times_s, delay, FOOT_S)
            position += gone[:, None] * step.way_m
            position[:, 2] += LIFTED_M * np.sin(np.pi * gone) ** 2
    for k, one in enumerate(own):
        free_from = own[k - 1].end_s if k else -np.inf
        free_to = own[k + 1].contact_s if k + 1 < len(own) else np.inf
        _add_strike(one, times_s, position, angles, np.array(at_guard), np.array(at_reach), mirror, free_from, free_to)
    return LimbMotion(position, np.radians(angles))


def _put_elsewhere(
    moves_m: float, times_s: Floats, position: Floats, angles: Floats, own: list[Thrown], rng: np.random.Generator
) -> None:
    """Before each strike the hand goes to a new place, turning a little, and pauses there."""
    here, facing = np.zeros(3), np.zeros(3)
    for k, one in enumerate(own):
        begins = own[k - 1].end_s + RETURNED_S if k else 0.0
        ends = one.contact_s - LEADS_S - float(rng.uniform(*PAUSE_S))
        lasts = min(float(rng.uniform(*MOVE_S)), ends - begins)
        if lasts < LEAST_MOVE_S:
            continue
        way = rng.standard_normal(3)
        there = moves_m * float(rng.uniform(0.5, 1.0)) * way / np.linalg.norm(way)
        turned = MOVE_TURNS_DEG * rng.standard_normal(3)
        share = smooth_step((times_s - (ends - lasts)) / lasts)[:, None]
        position += share * (there - here)
        angles += share * (turned - facing)
        here, facing = there, turned


def _feint(
    shadows_m: float, times_s: Floats, position: Floats, angles: Floats, own: list[Thrown], rng: np.random.Generator
) -> None:
    """Between its strikes the hand darts out and home again, turning a little, and meets nothing."""
    ends = [0.0, *(one.end_s + RETURNED_S for one in own)]
    nexts = [*(one.contact_s - LEADS_S - FEINT_S[1] for one in own), float(times_s[-1]) - FEINT_S[1]]
    for free_from, free_to in zip(ends, nexts, strict=True):
        at = free_from + float(rng.exponential(FEINT_EVERY_S))
        while at < free_to:
            lasts = float(rng.uniform(*FEINT_S))
            way = np.array([1.0, 0.3 * rng.standard_normal(), 0.3 * rng.standard_normal()])
            i, j = np.searchsorted(times_s, [at, at + lasts])
            out = np.sin(np.pi * smooth_step((times_s[i:j] - at) / lasts))[:, None]
            position[i:j] += shadows_m * float(rng.uniform(0.5, 1.0)) * out * way
            angles[i:j] += out * (MOVE_TURNS_DEG * rng.standard_normal(3))
            at += lasts + float(rng.exponential(FEINT_EVERY_S))


def flight_s(q: Technique, contact_speed_m_s: float) -> tuple[float, float, float]:
    """Duration of the path, of its climb, and the peak speed."""
    peak = contact_speed_m_s / q.speed_held
    tail = q.hand_before_ms * 1e-3
    way = q.reach_m - tail * (peak + contact_speed_m_s) / 2.0
    x = np.linspace(0.0, 1.0, 400)
    mean = float(np.mean(rising(q, x)))
    climb = way / (peak * mean)
    return climb + tail, climb, peak


def _add_strike(
    one: Thrown,
    times_s: Floats,
    position: Floats,
    angles: Floats,
    at_guard: Floats,
    at_reach: Floats,
    mirror: Floats,
    free_from_s: float,
    free_to_s: float,
) -> None:
    q = one.technique
    total, climb, peak = flight_s(q, one.contact_speed_m_s)
    start = one.contact_s - total
    along = np.array([1.0, 0.0, one.rise_share])
    along /= np.linalg.norm(along)
    side = np.array([0.0, mirror[0], 0.0])
    down = np.array([0.0, 0.0, -1.0])
    tell_s = (
        min(q.tell_ms * 1e-3, max(start - free_from_s - 0.12, 0.04)) if np.isfinite(free_from_s) else q.tell_ms * 1e-3
    )
    i0, ic = np.searchsorted(times_s, [start - tell_s, one.contact_s])
    t = times_s[i0:ic]
    tell = smooth_step((t - (start - tell_s)) / tell_s)
    back = -q.pullback_m * along + q.drop_m * down
    # speed along the path
    climbing = rising(q, (t - start) / climb) * peak
    faded = np.clip((t - start - climb) / max(total - climb, 1e-4), 0.0, 1.0) ** 1.7
    fading = peak - (peak - one.contact_speed_m_s) * faded
    speed = np.where(t < start, 0.0, np.where(t < start + climb, climbing, fading))
    gone = np.cumsum(speed) / FINE_HZ
    length = q.reach_m + q.pullback_m
    share = np.clip(gone / length, 0.0, 1.0)
    # the tell is on top of where the guard wanders; the path then starts from there
    moved = tell[:, None] * back + gone[:, None] * along
    moved += (q.bow_up_m * np.sin(np.pi * share) ** 2)[:, None] * -down
    moved += (q.bow_m * np.sin(np.pi * share) ** 2)[:, None] * side + (q.drop_m * smooth_step(share))[:, None] * -down
    position[i0:ic] += moved
    turned = np.sin(np.pi / 2 * share) ** 2
    roll = q.turnover_deg * smooth_step((share - q.turnover_from) / (1.0 - q.turnover_from))
    reach = at_reach * mirror
    angles[i0:ic] += turned[:, None] * (reach - at_guard * mirror) + np.outer(roll, [0.0, 0.0, mirror[2]])
    # contact: the striking mass's own course
    ie = int(np.searchsorted(times_s, one.end_s))
    inside = np.interp(times_s[ic:ie], one.contact_times_s, one.contact_speeds_m_s)
    dent = np.cumsum(inside) / FINE_HZ
    last = moved[-1]
    position[ic:ie] += last + dent[:, None] * along
    base_turn = np.array(at_guard) * mirror
    delta = turned[-1] * (reach - base_turn) + np.array([0.0, 0.0, roll[-1] * mirror[2]])
    angles[ic:ie] += delta
    # the way back: a quintic from where contact left it to the guard, sinking on the way
    here = last + (dent[-1] if len(dent) else 0.0) * along
    leaving = (inside[-1] if len(inside) else 0.0) * along
    span = min(q.return_s, 0.95 * (free_to_s - one.end_s - 0.16)) if np.isfinite(free_to_s) else q.return_s
    span = max(span, 0.09)
    ir = int(np.searchsorted(times_s, one.end_s + span))
    x = (times_s[ie:ir] - times_s[ie - 1]) / span  # from the last instant of contact on
    keep = 1.0 - smooth_step(x)
    carry = x * (1 - x) ** 3 * (1 + 3 * x) * span
    sink = q.return_drop_m * np.sin(np.pi * np.clip(x, 0, 1)) ** 2
    position[ie:ir] += keep[:, None] * here + carry[:, None] * leaving + sink[:, None] * down
    angles[ie:ir] += keep[:, None] * delta
