"""The curves of one strike on one time axis with contact at zero: from the floor up load, turn rates and speed; and the
striking limb's whole course, in the strike's own axes."""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.student.feet import Soles
from agile_strike.core.student.grid import BEFORE, STEP_S
from agile_strike.core.student.stretch import Stretches

Floats = NDArray[np.float64]

FROM_S, TO_S = -0.5, 0.6
LANE_STEP_S = 0.004
LANES = ("lead_load_pct", "pelvis_deg_s", "torso_deg_s", "speed_m_s")  #: from the floor up
#: the limb's velocity and turn rate: along its way to contact on the level, inward, up; of either side alike
COURSE = ("ahead_m_s", "inward_m_s", "up_m_s", "roll_deg_s", "pitch_deg_s", "yaw_deg_s")
WAY_S = 0.12  # before contact, that says which way is ahead
TIMES_S = np.arange(round(FROM_S / LANE_STEP_S), round(TO_S / LANE_STEP_S) + 1) * LANE_STEP_S


def _places() -> slice:
    stride = round(LANE_STEP_S / STEP_S)
    first = BEFORE + round(FROM_S / STEP_S)
    return slice(first, first + stride * len(TIMES_S), stride)


def speed_lane(s: Stretches, i: int) -> Floats:
    """Speed of the limb, out and back."""
    return np.asarray(np.linalg.norm(s.velocity_m_s[i, _places()], axis=1))


def course_lanes(s: Stretches, i: int, side: str) -> dict[str, Floats]:
    """Velocity and turn rate of a limb's unit in the strike's own axes, by COURSE. A left limb's are mirrored: a strike
    looks the same whichever side threw it."""
    way = s.velocity_m_s[i, BEFORE - round(WAY_S / STEP_S) : BEFORE, :2].sum(axis=0)
    ahead = way / max(float(np.linalg.norm(way)), 1e-9)
    mirror, left = (1.0 if side == "right" else -1.0), np.array([-ahead[1], ahead[0]])
    v, w = s.velocity_m_s[i, _places()], np.degrees(s.rate_rad_s[i, _places()])
    along = (v[:, :2] @ ahead, mirror * (v[:, :2] @ left), v[:, 2])
    # what turns is mirrored the other way round: about the axis that a mirror turns over it stays as it is
    about = (mirror * (w[:, :2] @ ahead), w[:, :2] @ left, mirror * w[:, 2])
    return dict(zip(COURSE, (*along, *about), strict=True))


def turn_lane(s: Stretches, i: int, sign: float) -> Floats:
    """Turn rate into the strike, degrees a second."""
    return np.asarray(np.degrees(sign * s.rate_rad_s[i, _places(), 2]))


def load_lane(s: Soles, contact_s: float) -> Floats:
    """Lead foot's share of the load, per cent."""
    i, j = np.searchsorted(s.times_s, [contact_s + FROM_S - LANE_STEP_S, contact_s + TO_S + LANE_STEP_S])
    return np.asarray(np.interp(contact_s + TIMES_S, s.times_s[i:j], s.share_pct[i:j]))
