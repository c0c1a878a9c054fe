"""The curves of one strike from the floor up: load, turn rates and speed on one time axis with contact at zero."""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.student.feet import Soles
from agile_strike.core.student.grid import BEFORE, STEP_S
from agile_strike.core.student.stretch import Stretches

Floats = NDArray[np.float64]

FROM_S, TO_S = -0.5, 0.6
LANE_STEP_S = 0.004
LANES = ("lead_load_pct", "pelvis_deg_s", "torso_deg_s", "speed_m_s")  #: from the floor up
TIMES_S = np.arange(round(FROM_S / LANE_STEP_S), round(TO_S / LANE_STEP_S) + 1) * LANE_STEP_S


def _places() -> slice:
    stride = round(LANE_STEP_S / STEP_S)
    first = BEFORE + round(FROM_S / STEP_S)
    return slice(first, first + stride * len(TIMES_S), stride)


def speed_lane(s: Stretches, i: int) -> Floats:
    """Speed of the limb, out and back."""
    return np.asarray(np.linalg.norm(s.velocity_m_s[i, _places()], axis=1))


def turn_lane(s: Stretches, i: int, sign: float) -> Floats:
    """Turn rate into the strike, degrees a second."""
    return np.asarray(np.degrees(sign * s.rate_rad_s[i, _places(), 2]))


def load_lane(s: Soles, contact_s: float) -> Floats:
    """Lead foot's share of the load, per cent."""
    i, j = np.searchsorted(s.times_s, [contact_s + FROM_S - LANE_STEP_S, contact_s + TO_S + LANE_STEP_S])
    return np.asarray(np.interp(contact_s + TIMES_S, s.times_s[i:j], s.share_pct[i:j]))
