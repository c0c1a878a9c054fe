"""A wall target: force straight from its load cell."""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import minimum_filter1d, uniform_filter1d

from agile_strike.core.bag import pulse
from agile_strike.core.bag.columns import StrikeColumns
from agile_strike.core.bag.judge import LEAST_IMPULSE_N_S, LONGEST_S, SHORTEST_S
from agile_strike.core.measured import MeasuredArray
from agile_strike.core.recording import UnitSignal

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

LEAST_PEAK_N = 60.0
APART_S = 0.06
HALF_WINDOW_S = 0.12
GAIN_SD_SHARE = 0.02  # a load cell as delivered; a swung-ball check narrows it


def strikes(unit: UnitSignal) -> StrikeColumns:
    """Contacts of a load cell's signal `unit.load_n` (n,), newtons, with any steady load taken off."""
    assert unit.load_n is not None
    load = np.nan_to_num(unit.load_n.astype(np.float64))
    wide = max(3, int(0.4 * unit.rate_hz))
    load = load - uniform_filter1d(minimum_filter1d(load, wide), wide)
    half = int(HALF_WINDOW_S * unit.rate_hz)
    near = max(1, int(APART_S * unit.rate_hz))
    at = [i for i in np.flatnonzero(load >= LEAST_PEAK_N) if load[i] == load[max(0, i - near) : i + near].max()]
    centres = np.array([i for k, i in enumerate(at) if k == 0 or i - at[k - 1] > near], dtype=np.int64)
    if len(centres) == 0:
        return StrikeColumns({}, np.zeros(0, bool), np.zeros(0, bool))
    offsets = np.arange(-half, half + 1)
    window = load[np.clip(centres[:, None] + offsets, 0, len(load) - 1)]
    found = pulse.landmarks(window, offsets / unit.rate_hz, np.ones(window.shape, bool))
    t = offsets / unit.rate_hz
    inside = (t >= found.start_s[:, None]) & (t <= found.end_s[:, None])
    impulse = (window * inside).sum(axis=1) / unit.rate_hz
    length, peak = found.end_s - found.start_s, found.peak_per_s
    yes = (length >= SHORTEST_S) & (length <= LONGEST_S) & (impulse >= LEAST_IMPULSE_N_S)
    dt = 1.0 / unit.rate_hz
    columns = {
        "contact_s": MeasuredArray(centres / unit.rate_hz + found.start_s, np.full(len(centres), dt / 2)),
        "contact_ms": MeasuredArray(1e3 * length, np.full(len(centres), 1e3 * dt)),
        "rise_ms": MeasuredArray(1e3 * found.rise_s, np.full(len(centres), 700 * dt)),
        "impulse_n_s": MeasuredArray(impulse, impulse * GAIN_SD_SHARE),
        "peak_force_n": MeasuredArray(peak, peak * np.hypot(GAIN_SD_SHARE, 0.01)),
        "push_index": MeasuredArray(impulse / (peak * length), np.full(len(centres), 0.03)),
    }
    kept = {n: MeasuredArray(c.value[yes], c.sd[yes]) for n, c in columns.items()}
    return StrikeColumns(kept, np.zeros(int(yes.sum()), bool), np.zeros(int(yes.sum()), bool))
