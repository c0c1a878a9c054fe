"""Which way round the bag's unit was hung, read from gravity: z should run up the bag, and often it does not.

Only whole quarter turns are looked for: which of the six ways the case's faces point. What is left, up to 40 degrees,
is tilt, and found with the mounting.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal
from agile_strike.core.target import GRAVITY_M_S2

Floats = NDArray[np.float64]

GRAVITY_WITHIN_M_S2 = 2.5  # of the middle of what the unit feels: else it is not known to have hung at all
ALONG_COS = 0.77  # 40 degrees

UPRIGHT = np.eye(3)
#: by which axis points up and whether it is the negative one: unit's axes to the bag's. Hung upside down or on its side
#: with its back to the bag, x still points out; with x up the out axis is not known, and the mounting looks for it.
_TURNS = {
    (2, False): UPRIGHT,
    (2, True): np.diag([1.0, -1.0, -1.0]),
    (1, False): np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]]),
    (1, True): np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]]),
    (0, False): np.array([[0.0, 0.0, -1.0], [0.0, 1.0, 0.0], [1.0, 0.0, 0.0]]),
    (0, True): np.array([[0.0, 0.0, 1.0], [0.0, 1.0, 0.0], [-1.0, 0.0, 0.0]]),
}


def turn_of(accel: Floats) -> Floats:
    """The quarter turns (3, 3) from the unit's axes to ones in which z runs up, from means (m, 3) of specific force.

    The identity where it hangs as it should, or where nothing points up for long enough to say.
    """
    if len(accel) == 0:
        return UPRIGHT
    middle = np.median(accel, axis=0)
    size = float(np.linalg.norm(middle))
    axis = int(np.argmax(np.abs(middle)))
    if abs(size - GRAVITY_M_S2) > GRAVITY_WITHIN_M_S2 or abs(middle[axis]) < ALONG_COS * size:
        return UPRIGHT
    return _TURNS[axis, bool(middle[axis] < 0.0)]


def out_axis_known(turn: Floats) -> bool:
    """Whether the unit's x still points out from the bag."""
    return bool(turn[0, 0] == 1.0)


def stood_up(unit: UnitSignal, turn: Floats) -> UnitSignal:
    """The unit's signal in axes of which z runs up: the same samples, so that ranges stay what they are."""
    if turn is UPRIGHT:
        return unit
    single = turn.astype(np.float32)
    return replace(unit, accel_m_s2=unit.accel_m_s2 @ single.T, gyro_rad_s=unit.gyro_rad_s @ single.T)
