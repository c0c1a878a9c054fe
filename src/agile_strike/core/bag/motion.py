"""The bag's motion in its own axes, from what its unit felt."""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag.mounting import Mounting
from agile_strike.core.bag.windows import Windows
from agile_strike.core.target import Bag

Floats = NDArray[np.float64]


class Motion:
    """Of s windows: angular rate, and specific force at the unit without what turning alone brings; (s, n, 3) each."""

    def __init__(self, windows: Windows, seat: Mounting, bag: Bag) -> None:
        self.bag, self.position_m, self.dt = bag, seat.position_m, 1.0 / windows.rate_hz
        self.gyro = (windows.gyro - seat.gyro_bias_rad_s) @ seat.rotation.T
        self.felt = windows.accel @ seat.rotation.T - np.cross(self.gyro, np.cross(self.gyro, self.position_m))
        self.inertia = np.array([bag.inertia_across_kg_m2, bag.inertia_across_kg_m2, bag.inertia_axial_kg_m2])
        self._turned = self.inertia * self.gyro
        #: the part of the moment about the top that the bag has by turning
        self.turning = self._turned + _integral(np.cross(self.gyro, self._turned), self.dt)

    def carried(self, felt: Floats) -> tuple[Floats, Floats, Floats]:
        """Of specific force (s, n, 3) at the unit: the centre's velocity (s, n, 3); that, the unit's and the spin
        (s, n, 9); and the moment that a free swing keeps (s, n, 3)."""
        unit_v = _integral(felt, self.dt)
        com_v = unit_v - np.cross(self.gyro, self.position_m)
        top = np.array([0.0, 0.0, self.bag.com_below_top_m])
        moment = self.turning - self.bag.mass_kg * np.cross(top, com_v)
        return com_v, np.concatenate([com_v, unit_v, self.gyro], axis=2), moment


def _integral(samples: Floats, dt: float) -> Floats:
    """Trapezoids from the window's first sample: (s, n, k)."""
    return np.cumsum(samples, axis=1) * dt - 0.5 * (samples + samples[:, :1]) * dt
