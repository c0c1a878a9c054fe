"""Strikes of an evening that goes on: the state and the window of the one analysis, asked as soon as samples allow.

What is shown first rests on a window that ends soon after contact and on a state learnt from less than the evening; its
doubt is widened by what that was found to cost (`live.early`), and the settled evening takes its place.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.analysis import State, strikes
from agile_strike.core.bag import detection
from agile_strike.core.bag.state import BagState, learn, look
from agile_strike.core.live.early import shown
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.strikes import Strike
from agile_strike.core.target import Bag
from agile_strike.core.window import window

Floats = NDArray[np.float64]

LOOK_AFTER_S = 0.09  # a contact: of 16 ms as a rule, 40 of a kick, and the trend after it
FULL_AFTER_S = 2.7  # the limb is back in its guard, weight has settled
SEARCHED_S = 3.0  # of the latest samples: as long as one that is sent again may take
SEARCHED_WHOLE_S = 1.0  # the same where none is missing: enough for the search's own filters
SETTLED_S = 0.4  # at a stretch's beginning, in which the search's own filters have not settled
SAME_S = 0.06
FIRST_LEARNT_S = 4.0  # of a bag that hangs: less says nothing of how its unit sits


@dataclass(frozen=True, slots=True)
class Seen:
    """Where the bag was jolted: seconds (s,) on its clock, and how long before the latest sample."""

    at_s: Floats
    ago_s: Floats


def jolts(bag: UnitSignal, state: BagState) -> Seen:
    """Jolts in a stretch of a bag's unit, up to its latest sample; which are strikes is judged by `measured`."""
    last = bag.first_sample + len(bag.accel_m_s2)
    block = detection.block_length(bag)
    first = -(-bag.first_sample // block) * block
    rows = slice(first - bag.first_sample, None)
    looked = look(replace(bag, first_sample=first, accel_m_s2=bag.accel_m_s2[rows], gyro_rad_s=bag.gyro_rad_s[rows]))
    if len(looked.accel) < int(2 * SETTLED_S / looked.step_s):
        return Seen(np.zeros(0), np.zeros(0))
    accel, gyro = looked.accel @ state.turn.T, looked.gyro @ state.turn.T
    centres, _ = detection.candidates(looked.block, bag.rate_hz, accel, gyro)
    at = (centres + first) / bag.rate_hz
    settled = at > first / bag.rate_hz + (SETTLED_S if first else 0.0)
    return Seen(at[settled], last / bag.rate_hz - at[settled])


def measured(so_far: Recording, at_s: float, state: State, whole: bool) -> Strike | None:
    """The strike at a jolt; None where it is none. `whole`: what lies after it has come as well, so that the student's
    units say theirs; else the bag's alone."""
    known = state if whole else replace(state, body=None)
    piece = window(so_far, at_s, known.body)
    if not whole:
        piece = replace(piece, units={"bag": piece.units["bag"]})
    found = strikes(piece, known)
    near = min(found, key=lambda s: abs(s.contact_s - at_s), default=None)
    if near is None or abs(near.contact_s - at_s) > SAME_S:
        return None
    return replace(near, measures=shown(near.measures, known.strikes))


def first_state(bag_unit: UnitSignal, bag: Bag) -> BagState | None:
    """How the unit sits, from the evening's first seconds; None where those that came are too few to say."""
    if np.isfinite(bag_unit.accel_m_s2[:, 0]).sum() < FIRST_LEARNT_S * bag_unit.rate_hz:
        return None
    return replace(learn(None, look(bag_unit), bag_unit.rate_hz, bag), seen=None)
