"""What real units make of what the rig feels: mounted askew, filtered, noisy, clipped, on clocks of their own."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import bessel, lfilter
from scipy.spatial.transform import Rotation

from agile_strike.core.recording import UnitSignal

Floats = NDArray[np.float64]
G = 9.80665


@dataclass(frozen=True, slots=True)
class Sensors:
    """Nought everywhere is an ideal unit."""

    askew_deg: float = 8.0
    noise_m_s2: float = 0.06
    noise_rad_s: float = 0.003
    bias_m_s2: float = 0.06
    bias_rad_s: float = 0.006
    scale: float = 0.002
    low_pass_hz: float = 250.0
    full_scale_m_s2: float = 16 * G
    offset_s: float = 0.7
    drift_ppm: float = 60.0


IDEAL = Sensors(0, 0, 0, 0, 0, 0, 0, np.inf, 0, 0)


def sensed(
    unit: str, times_s: Floats, felt: Floats, turn: Floats, rate_hz: float, how: Sensors, rng: np.random.Generator
) -> tuple[UnitSignal, tuple[float, float]]:
    """A unit's samples, and its clock: reference = offset + unit (1 + drift)."""
    is_reference = unit == "bag"
    offset = 0.0 if is_reference else how.offset_s * rng.uniform(-1, 1)
    drift = 0.0 if is_reference else how.drift_ppm * rng.uniform(-1, 1)
    if how.low_pass_hz:
        b, a = bessel(2, how.low_pass_hz, fs=1.0 / (times_s[1] - times_s[0]), norm="mag")
        felt, turn = (lfilter(b, a, x - x[0], axis=0) + x[0] for x in (felt, turn))
    n = int((times_s[-1] - max(offset, 0.0) - 0.1) * rate_hz)
    at = offset + np.arange(n) / rate_hz * (1.0 + 1e-6 * drift)
    axis = rng.standard_normal(3)
    tilt = Rotation.from_rotvec(np.radians(how.askew_deg * rng.uniform(0.4, 1.2)) * axis / np.linalg.norm(axis))

    def made(signal: Floats, bias: float, noise: float, most: float) -> NDArray[np.float32]:
        x = tilt.apply(np.column_stack([np.interp(at, times_s, signal[:, i]) for i in range(3)]))
        x *= 1.0 + how.scale * rng.standard_normal(3)
        x += bias * rng.standard_normal(3) + noise * rng.standard_normal((n, 3))
        return np.clip(x, -most, most).astype(np.float32)

    return UnitSignal(
        unit,
        rate_hz,
        made(felt, how.bias_m_s2, how.noise_m_s2, how.full_scale_m_s2),
        made(turn, how.bias_rad_s, how.noise_rad_s, 34.9),
        how.full_scale_m_s2,
        34.9,
        starts_s=None if is_reference else round(offset + rng.uniform(-0.5, 0.5), 3),
    ), (offset, drift)
