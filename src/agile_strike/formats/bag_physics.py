"""What a struck bag's own motion says of its gyro's unit of measure.

A blow gives a free body speed and spin at once: `d_omega = J r / I` against `dv = J / M + d_omega x p`, so spin over
speed is `r M / I` and the like, within reach of one radian a metre for any bag and any ordinary hit (a rod of length
L: 12 r / L^2). Degrees taken for radians, or the other way round, are 57 times off, which no bag bridges.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, uniform_filter1d

Floats = NDArray[np.float64]

SMOOTH_S, BASELINE_S = 0.01, 0.5
APART_S = 0.3
REACH_S, BESIDE_S = 0.04, 0.06  # of the blow, and of the calm on either side of it
HARDEST = 12
LEAST_JOLT_M_S2 = 3.0
FEWEST = 3
BELIEVED = (0.05, 15.0)  #: rad/s for a m/s: within it a file's own word stands
LIKELY = (0.15, 6.0)  #: within it a unit of measure may be proposed


def spin_per_speed(accel_m_s2: Floats, gyro: Floats, rate_hz: float) -> float | None:
    """Spin for speed gained in the hardest jolts, in the gyro's own unit a m/s; None where there are too few.

    accel_m_s2, gyro: (n, 3).
    """
    size = max(1, round(SMOOTH_S * rate_hz))
    n = len(accel_m_s2)
    if n < 4 * round((BASELINE_S + REACH_S) * rate_hz):
        return None
    a = np.nan_to_num(accel_m_s2 - np.nanmedian(accel_m_s2, axis=0))
    w = np.nan_to_num(gyro)
    felt = a - uniform_filter1d(a, max(3, round(BASELINE_S * rate_hz)), axis=0, mode="nearest")
    jolt = uniform_filter1d(np.linalg.norm(felt, axis=1), size, mode="nearest")
    highest = maximum_filter1d(jolt, round(2 * APART_S * rate_hz) | 1)
    peaks = np.flatnonzero((jolt >= LEAST_JOLT_M_S2) & (jolt == highest))
    reach, beside = round(REACH_S * rate_hz), max(1, round(BESIDE_S * rate_hz))
    peaks = peaks[(peaks >= reach + beside) & (peaks < n - reach - beside)]
    hardest = peaks[np.argsort(jolt[peaks])[::-1][:HARDEST]]
    ratios = []
    for k in hardest.tolist():
        dv = float(np.linalg.norm(felt[k - reach : k + reach].sum(axis=0))) / rate_hz
        turn = w[k + reach : k + reach + beside].mean(axis=0) - w[k - reach - beside : k - reach].mean(axis=0)
        if dv > 0.0:
            ratios.append(float(np.linalg.norm(turn)) / dv)
    return float(np.median(ratios)) if len(ratios) >= FEWEST else None
