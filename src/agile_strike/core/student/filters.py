"""Filters of what units felt. SciPy's own take a second and a half to load, with all of its statistics: whoever
measures waits for that once, and pages never."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

ORDER = 3  # of Butterworth's filter; run both ways it is six, without a shift


def load() -> None:
    """Load them now: whoever has a first strike to tell of must not wait for it then."""
    import scipy.signal  # noqa: F401


def band_passed(signal: NDArray[Any], band_hz: tuple[float, float], rate_hz: float) -> Floats:
    """What lies within a band of a signal (n, ...) along its first axis, not shifted in time; of a unit that is too
    slow for the band's upper end, up to what it can tell."""
    from scipy.signal import butter, sosfiltfilt

    low, high = band_hz
    sections = butter(ORDER, (low, min(high, 0.45 * rate_hz)), "bandpass", fs=rate_hz, output="sos")
    return np.asarray(sosfiltfilt(sections, signal, axis=0), dtype=np.float64)


def products(signal: Floats, shape: Floats) -> Floats:
    """Sum of products of a shape (m,) with a signal (n,) at each place where it fits: (n - m + 1,)."""
    from scipy.signal import correlate

    return np.asarray(correlate(signal, shape, "valid"), dtype=np.float64)


def lowest(values: Floats, within: int) -> list[int]:
    """Places of values (n,) that are below all others up to `within` places away."""
    from scipy.signal import argrelmin

    return [int(k) for k in argrelmin(values, order=within)[0]]
