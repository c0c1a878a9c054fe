"""The force curve of one strike, from the samples round it: the same contact mechanics as the analysis."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline
from scipy.ndimage import gaussian_filter1d

from agile_strike.core.bag import swivel
from agile_strike.core.bag.clipping import restore
from agile_strike.core.bag.contact import contacts
from agile_strike.core.bag.mounting import Mounting
from agile_strike.core.bag.pulse import CUT_OFF_HZ, SMOOTH_S
from agile_strike.core.bag.windows import cut
from agile_strike.core.recording import UnitSignal
from agile_strike.core.target import Bag

FROM_S, TO_S = -0.015, 0.05
DRAWN_STEP_S = 0.00025
TYPICAL_PEAK_AFTER_S = 0.006


@dataclass(frozen=True, slots=True)
class Curve:
    """Force against time from contact; landmarks in milliseconds from contact."""

    ms: NDArray[np.float64]
    force_n: NDArray[np.float64] | None  #: None where the mount or clipping gives no force; then `shape` is drawn
    shape: NDArray[np.float64]  #: force over its peak
    end_ms: float
    peak_ms: float
    rise_from_ms: float
    rise_to_ms: float
    cut_off_hz: float


def curve(
    unit: UnitSignal,
    contact_s: float,
    seat: Mounting,
    bag: Bag,
    gaps_s: tuple[float, float] = (np.inf, np.inf),
    impulse_n_s: float | None = None,
) -> Curve:
    """`unit` holds the samples round the contact, or all; `gaps_s` are those to the strikes before and after."""
    centre = np.array([round((contact_s + TYPICAL_PEAK_AFTER_S) * unit.rate_hz) - unit.first_sample])
    windows = cut(unit, centre, (np.array([gaps_s[0]]), np.array([gaps_s[1]])))
    restored = restore(windows, unit)
    c = contacts(restored.windows, seat, bag)
    p = c.pulse
    if impulse_n_s is None and bag.mount == "swivel" and bool(restored.ok[0]):
        impulse_n_s = float(swivel.pushes(c, bag, seat.yaw_sd_rad).impulse_n_s.value[0])
    smooth = gaussian_filter1d(p.shape[0], SMOOTH_S * unit.rate_hz)
    start = float(p.start_s[0])
    # between samples the band-limited shape is drawn by a cubic spline
    t = np.arange(FROM_S, TO_S, DRAWN_STEP_S)
    s = CubicSpline(windows.times_s - start, smooth)(t)
    top = float(p.peak_per_s[0])
    climb = (t >= 0) & (t <= float(p.peak_s[0]) - start)
    ts, ss = t[climb], np.maximum.accumulate(s[climb]) if climb.any() else s[climb]
    return Curve(
        1e3 * t,
        None if impulse_n_s is None else impulse_n_s * s,
        s / top,
        1e3 * float(p.end_s[0] - p.start_s[0]),
        1e3 * float(p.peak_s[0] - p.start_s[0]),
        1e3 * float(np.interp(0.1 * top, ss, ts)) if len(ss) else 0.0,
        1e3 * float(np.interp(0.9 * top, ss, ts)) if len(ss) else 0.0,
        CUT_OFF_HZ,
    )
