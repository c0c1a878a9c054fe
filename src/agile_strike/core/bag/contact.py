"""One contact's jumps, read from trends before and after, and its pulse, found together in three rounds.

The swing goes on during a contact. What is constant in a free swing is carried across it: for a body on a chain that
is `I w + int w x I w - M r_top x v`, since the chain is the only force and pulls at the top, so its jump is the moment
of the push about the top, whatever the chain does meanwhile. The velocity itself has a trend, whose slope at
mid-contact is known from before.
Trends are fitted to integrated acceleration, where ringing at 60 to 140 Hz is thirty times smaller.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag import pulse, ringing
from agile_strike.core.bag.leather import Tail
from agile_strike.core.bag.motion import Motion
from agile_strike.core.bag.mounting import Mounting
from agile_strike.core.bag.windows import Trend, Windows, fit_trend
from agile_strike.core.target import Bag

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

TREND_S = 0.08
MARGIN_S = 0.003
STAYS_S = 0.05  # after the blow, where a limb that stays on the bag shows
#: rounds of finding where a contact begins and ends; without its seat's ringing, once that is known
ROUNDS, QUIETED_FROM = 4, 2
SLOPE_HELD = 3.0  # in samples, see fit_trend: chosen on simulated swings of up to 20 degrees
RUBS_PER_S = 0.4  # of a top's speed, by which its chain and straps rub it to a halt
STEADY_PULL_M_S2 = 3.0  # below, the chain is near slack and its direction no guide
QUIET_N_M_S = 0.05  # a unit's noise makes that of the moment beside even the lightest hit
LINE_SD_M = 0.015  # by which a push's line of action moves while it lasts: a fist rolls, and rubs on a curved skin
OF_PULSE = [3, 4, 6, 7, 8]  # of the jumps: the unit's velocity along the ground, and the spin
TAIL_UNLIKE = 0.5  # by which one blow's tail differs from those of its evening
END_SHARE, END_FORCE = 0.45, 0.03  # of a tail's time, where its force is so large beside the peak at the end
PERHAPS_S = 0.003  # by which an end may be misplaced where a tail is only hinted at
USUAL_TAIL_S = 0.012  # a large short one and a small long one fit alike
#: variance that acceleration (m/s2) and angular acceleration (rad/s2) channels have at the least
CHANNEL_FLOOR = np.array([0.2, 0.2, 2.0, 2.0, 2.0])


@dataclass(frozen=True, slots=True)
class Contacts:
    """Kinematics of s contacts in bag axes; velocities and spins at mid-contact."""

    pulse: pulse.Pulse
    dv_m_s: Floats  #: (s, 3) jump of velocity of the centre of mass; the chain's smooth pull is taken off
    dv_unit_m_s: Floats  #: (s, 3) jump of velocity at the unit
    spin_change_rad_s: Floats  #: (s, 3)
    top_moment_n_m_s: Floats  #: (s, 3) moment of the push about the bag's top
    chain: Floats  #: (s, 3) the chain's pull before contact over the mass
    dv_doubt_m_s: Floats  #: (s, 3)
    spin_doubt_rad_s: Floats  #: (s, 3)
    top_moment_doubt_n_m_s: Floats  #: (s, 3)
    unlike_a_bag: Floats  #: (s,) how far the moment about the top, constant in a free swing, is from it; over its jump
    after_push: Floats  #: (s,) force still acting in the 60 ms after contact, over the peak
    pushes_on: Floats  #: (s,) force that a limb which stayed on the bag goes on with, over the peak
    lets_go_s: Floats  #: (s,) by which an end is misplaced where leather lets go late
    measurable: Bools  #: (s,) there were samples on both sides and no hole in the contact
    clipped: Bools  #: (s,) the accelerometer clipped during contact


def contacts(windows: Windows, seat: Mounting, bag: Bag) -> Contacts:
    """Kinematics of every window of a unit that sits so."""
    t, dt = windows.times_s, 1.0 / windows.rate_hz
    body = Motion(windows, seat, bag)
    still = _StillToCome(seat.tail, t)
    felt, raw = body.felt, pulse.channels(body.felt, body.gyro, windows.rate_hz)
    open_ = ~windows.missing & (t > windows.free_from_s[:, None]) & (t < windows.free_until_s[:, None])
    start, end = np.full(windows.count, -0.012), np.full(windows.count, 0.014)
    jump = np.zeros((windows.count, 9))
    top = np.array([0.0, 0.0, bag.com_below_top_m])
    for turn in range(ROUNDS):
        last = turn == ROUNDS - 1
        if turn >= QUIETED_FROM:
            late = still.pushes(jump, end)
            rest, _ = pulse.without_swing(raw, t, start, end, open_, late)
            rest -= late  # falling off, it is no ringing
            felt = body.felt.copy()
            felt[:, :, :2] += ringing.taken_off(rest[:, :, :2], rest[:, :, 2:], t, start, end, open_)
        com_v, carried, moment = body.carried(felt)
        since = t[None, :] - ((start + end) / 2.0)[:, None]
        before_use = open_ & (t < start[:, None] - MARGIN_S) & (t > start[:, None] - TREND_S)
        after_use = open_ & (t > end[:, None] + MARGIN_S) & (t < end[:, None] + TREND_S)
        before = fit_trend(carried, since, before_use, 2, windows.rate_hz, spread=last)
        held = _slope_after(before, com_v, since, after_use, windows.rate_hz, jump, top), SLOPE_HELD, last
        after = fit_trend(carried, since, after_use, 3, windows.rate_hz, *held)
        missed = still.missed(since, after_use, 3, windows.rate_hz, SLOPE_HELD)
        jump = (after.value - before.value) / (1.0 - missed)
        z = pulse.channels(felt, body.gyro, windows.rate_hz)
        rest, noise = pulse.without_swing(z, t, start, end, open_, still.pushes(jump, end))
        wander = _wander(jump[:, :3], end - start, body.inertia, seat.position_m, bag)
        shape = pulse.shape_of(rest, noise, jump[:, OF_PULSE], CHANNEL_FLOOR, wander)
        found = pulse.landmarks(shape, t, open_)
        start, end = found.start_s, found.end_s
    moment_before = fit_trend(moment, since, before_use, 1, windows.rate_hz)
    moment_jump = fit_trend(moment, since, after_use, 1, windows.rate_hz, spread=False).value - moment_before.value
    moment_jump /= 1.0 - still.missed(since, after_use, 1, windows.rate_hz)
    if still.some:
        carried, moment = carried + still.left(jump), moment + still.left(moment_jump)
        after = fit_trend(carried, since, after_use, 3, windows.rate_hz, *held)
    moment_after = fit_trend(moment, since, after_use, 1, windows.rate_hz)
    unlike = TAIL_UNLIKE * np.abs(missed) + np.abs(still.perhaps_missed(since, after_use, windows.rate_hz))
    inside = (t >= start[:, None] - dt) & (t <= end[:, None] + dt)
    doubt = np.hypot(np.hypot(before.value_doubt, after.value_doubt), unlike * np.abs(jump))
    moment_doubt = np.hypot(moment_before.value_doubt, moment_after.value_doubt)
    return Contacts(
        pulse=found,
        dv_m_s=jump[:, :3],
        dv_unit_m_s=jump[:, 3:6],
        spin_change_rad_s=jump[:, 6:],
        top_moment_n_m_s=moment_jump,
        chain=before.slope[:, :3],
        dv_doubt_m_s=doubt[:, :3],
        spin_doubt_rad_s=doubt[:, 6:],
        top_moment_doubt_n_m_s=np.hypot(moment_doubt, unlike * np.abs(moment_jump)),
        unlike_a_bag=_unlike_a_bag(moment_before, moment_after, bag, jump[:, :3]),
        after_push=_after_push(found, t, open_),
        pushes_on=_pushes_on(carried[:, :, :2], found, t, open_, windows.rate_hz, jump[:, :2]),
        lets_go_s=still.end_doubt_s(found),
        measurable=before.enough & after.enough & ~(inside & windows.missing).any(axis=1),
        clipped=np.asarray((inside & windows.clipped).any(axis=1)),
    )


class _StillToCome:
    """What leather that lets go late still has to give, once a contact is over."""

    def __init__(self, tail: Tail, times_s: Floats) -> None:
        self.tail, self.some, self.times_s = tail, tail.share > 0.0, times_s
        self._left, self._rate = tail.left(times_s)[None, :, None], tail.rate(times_s)[None, :, None]

    def left(self, jump: Floats) -> Floats:
        """Of jumps (s, k), what is missing of them at each instant: (s, n, k)."""
        return jump[:, None, :] * self._left

    def missed(self, since: Floats, use: Bools, degree: int, rate_hz: float, slope_held: float = 0.0) -> Floats:
        """Share (s, 1) of a jump that a trend after it does not see."""
        if not self.some:
            return np.zeros((len(since), 1))
        return _missed(self.tail, self.times_s, since, use, degree, rate_hz, slope_held)

    def perhaps_missed(self, since: Floats, use: Bools, rate_hz: float) -> Floats:
        """The same of a tail that nobody is sure of."""
        if not self.tail.perhaps:
            return np.zeros((len(since), 1))
        return _missed(Tail(self.tail.perhaps, self.tail.s), self.times_s, since, use, 3, rate_hz, SLOPE_HELD)

    def pushes(self, jump: Floats, end: Floats) -> Floats:
        """What the pulse's channels (s, n, 5) feel of it after each `end` (s,)."""
        later = (self.times_s[None, :] > end[:, None])[:, :, None]
        return np.where(later, jump[:, None, OF_PULSE] * self._rate, 0.0)

    def end_doubt_s(self, found: pulse.Pulse) -> Floats:
        """How far off an end (s,) may be: a force that falls slowly passes 5 % of its peak no one knows quite when."""
        if self.tail.perhaps:
            return np.full(len(found.end_s), PERHAPS_S)
        force = self.tail.rate(found.end_s) / np.maximum(found.peak_per_s, 1e-9)
        return END_SHARE * max(self.tail.s, USUAL_TAIL_S) * np.minimum(force / END_FORCE, 1.0)


def _missed(
    tail: Tail, times_s: Floats, since: Floats, use: Bools, degree: int, rate_hz: float, slope_held: float
) -> Floats:
    left = np.broadcast_to(tail.left(times_s)[None, :, None], (*since.shape, 1))
    flat = np.zeros((len(since), 1))
    return np.clip(fit_trend(left, since, use, degree, rate_hz, flat, slope_held, False).value, -0.5, 0.5)


def _wander(dv_m_s: Floats, length_s: Floats, inertia: Floats, position_m: Floats, bag: Bag) -> Floats:
    """(s, 5, 3) what the pulse's channels feel of a moment about each axis, as large as a usual force LINE_SD_M off."""
    turn = np.diag(1.0 / inertia)
    at_unit = np.cross(turn, position_m).T[:2]  # acceleration of the unit that such a moment brings
    force = bag.mass_kg * np.linalg.norm(dv_m_s[:, :2], axis=1) / np.maximum(length_s, 5e-3)
    return np.asarray(LINE_SD_M * force[:, None, None] * np.concatenate([at_unit, turn]))


def _slope_after(
    before: Trend, com_v: Floats, since: Floats, use: Bools, rate_hz: float, jump: Floats, top: Floats
) -> Floats:
    """The slope to expect after contact: the one before, and with a chain askew a share of the step in its pull.

    The blow sets the top moving, and a moving top pulls harder on its chain (`v^2 / l`); along the bag that step is
    seen, and across it comes in the proportion in which the chain pulled before.
    """
    up = fit_trend(com_v[:, :, 2:], since, use, 2, rate_hz, spread=False).slope[:, 0]
    slope = before.slope.copy()
    pull = before.slope[:, 2]
    lean = before.slope[:, :2] / np.where(pull > STEADY_PULL_M_S2, pull, np.inf)[:, None]
    slope[:, :2] += lean * (up - pull)[:, None]
    top_speed = jump[:, :3] + np.cross(jump[:, 6:], top)
    slope[:, :2] -= RUBS_PER_S * top_speed[:, :2]
    return slope


def _unlike_a_bag(before: Trend, after: Trend, bag: Bag, dv_m_s: Floats) -> Floats:
    """Scatter of the moment about the top beside the contact. A limb or a hand's load is held by no chain: there it
    wanders. A hit at the very top has no moment, so a share of the push's own size is added below the line."""
    jump = np.linalg.norm((after.value - before.value)[:, :2], axis=1)
    size = bag.mass_kg * bag.com_below_top_m * np.linalg.norm(dv_m_s[:, :2], axis=1)
    scatter = np.hypot(before.value_doubt, after.value_doubt)[:, :2]
    wander = np.maximum(np.linalg.norm(scatter, axis=1) - QUIET_N_M_S, 0.0)
    return np.asarray(wander / np.maximum(jump + 0.3 * size, 1e-9))


def _after_push(found: pulse.Pulse, t: Floats, open_: Bools) -> Floats:
    """Mean of the shape from 8 to 60 ms after contact, over its peak: a limb or a hand that stays shows here."""
    tail = open_ & (t > found.end_s[:, None] + 0.008) & (t < found.end_s[:, None] + 0.06)
    mean = (found.shape * tail).sum(axis=1) / np.maximum(tail.sum(axis=1), 1)
    return np.asarray(np.abs(mean) / np.maximum(found.peak_per_s, 1e-9))


def _pushes_on(com_v: Floats, found: pulse.Pulse, t: Floats, open_: Bools, rate_hz: float, jump: Floats) -> Floats:
    """How much harder the bag is still pushed once the blow seems over, along the blow (s, 2) and over its peak: the
    swing goes on as it was before, so that what its acceleration has gained, somebody gives it."""
    since, later = t[None, :] - found.start_s[:, None], t[None, :] - found.end_s[:, None]
    before = fit_trend(com_v, since, open_ & (since < -MARGIN_S) & (since > -TREND_S), 2, rate_hz, spread=False)
    after = fit_trend(com_v, later, open_ & (later > MARGIN_S) & (later < STAYS_S), 2, rate_hz, spread=False)
    size = np.maximum(np.linalg.norm(jump, axis=1), 1e-9)
    gained = ((after.slope - before.slope) * jump).sum(axis=1) / size
    return np.asarray(np.where(before.enough & after.enough, gained, 0.0) / (size * np.maximum(found.peak_per_s, 1e-9)))
