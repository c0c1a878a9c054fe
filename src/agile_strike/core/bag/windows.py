"""Windows round contacts, stacked so that a thousand strikes cost few array operations, and trends fitted in them.

Shapes: s windows of n samples and k channels, (s, n, k). A live strike is a stack of one.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

BEFORE_S = 0.12
AFTER_S = 0.16


@dataclass(frozen=True, slots=True)
class Windows:
    """Samples round each candidate contact. Missing samples are bridged by straight lines and marked."""

    first: NDArray[np.int64]  #: (s,) index of each window's first sample in the unit's grid
    rate_hz: float
    times_s: Floats  #: (n,) from the candidate instant
    accel: Floats  #: (s, n, 3)
    gyro: Floats  #: (s, n, 3)
    missing: Bools  #: (s, n)
    clipped: Bools  #: (s, n) any accelerometer axis
    free_from_s: Floats  #: (s,) the strike before has let go, seconds from the candidate
    free_until_s: Floats  #: (s,) the next strike begins

    @property
    def count(self) -> int:
        return len(self.first)


def cut(unit: UnitSignal, centres: NDArray[np.int64], neighbours_s: tuple[Floats, Floats]) -> Windows:
    """Windows of `unit` round sample indices `centres` (s,); `neighbours_s` are the gaps to the candidates before and
    after each (s,), infinite at the ends. Samples beyond the recording's ends count as missing."""
    before, after = int(BEFORE_S * unit.rate_hz), int(AFTER_S * unit.rate_hz)
    offsets = np.arange(-before, after + 1)
    wanted = centres[:, None] + offsets
    n = len(unit.accel_m_s2)
    inside = (wanted >= 0) & (wanted < n)
    at = np.clip(wanted, 0, n - 1)
    accel, gyro = unit.accel_m_s2[at].astype(np.float64), unit.gyro_rad_s[at].astype(np.float64)
    missing = ~inside | np.isnan(accel).any(axis=2) | np.isnan(gyro).any(axis=2)
    clipped = (np.abs(accel) >= unit.clips_at_m_s2).any(axis=2)
    for i in np.flatnonzero(missing.any(axis=1)):
        _bridge(accel[i], missing[i])
        _bridge(gyro[i], missing[i])
    # half-way to a neighbour belongs to it: its own contact takes 10 to 40 ms round its peak
    return Windows(
        centres - before,
        unit.rate_hz,
        offsets / unit.rate_hz,
        accel,
        gyro,
        missing,
        clipped,
        -neighbours_s[0] + 0.03,
        neighbours_s[1] - 0.02,
    )


def _bridge(samples: Floats, missing: Bools) -> None:
    good = np.flatnonzero(~missing)
    for channel in range(samples.shape[1]):
        samples[missing, channel] = (
            np.interp(np.flatnonzero(missing), good, samples[good, channel]) if len(good) else 0.0
        )


@dataclass(frozen=True, slots=True)
class Trend:
    """A polynomial fitted beside a contact, read at mid-contact."""

    value: Floats  #: (s, k)
    slope: Floats  #: (s, k) per second
    spread: Floats  #: (s, k) root mean square of what it leaves
    value_doubt: Floats  #: (s, k) standard uncertainty of `value` if what is left over comes in runs of `RUN` samples
    enough: Bools  #: (s,) there were samples to fit


TIME_UNIT_S = 0.05  # of the fitted polynomials, so that their coefficients are of one size
FEWEST = 8  # samples for a trend
RUN_S = 0.004  # ringing near 100 Hz: samples within a third of a period say the same


def fit_trend(
    values: Floats,
    since_s: Floats,
    use: Bools,
    degree: int,
    rate_hz: float,
    slope: Floats | None = None,
    slope_held: float = 0.0,
    spread: bool = True,
) -> Trend:
    """Least squares through `values` (s, n, k) at times `since_s` (s, n) from mid-contact where `use` (s, n).

    With `slope` (s, k) per second the slope at mid-contact is drawn towards it: `slope_held` samples' worth of weight
    for a difference of one unit per 50 ms. Higher terms are held near zero just enough to stay solvable in a burst.
    Without `spread` what is left over is not worked out.
    """
    t = since_s / TIME_UNIT_S
    basis = np.stack([t**i for i in range(degree + 1)], axis=2)
    weighted = np.swapaxes(basis * use[:, :, None], 1, 2)
    normal = weighted @ basis
    target = weighted @ values
    normal += np.diag([1e-9, 1e-6, *[0.02] * (degree - 1)])
    if slope is not None:
        normal[:, 1, 1] += slope_held
        target[:, 1] += slope_held * slope * TIME_UNIT_S
    inverse = np.linalg.inv(normal)
    c = inverse @ target
    count = use.sum(axis=1)
    if not spread:
        none = np.zeros_like(c[:, 0])
        return Trend(c[:, 0], c[:, 1] / TIME_UNIT_S, none, none, count >= FEWEST)
    left = values - basis @ c
    square = (use.astype(np.float64)[:, None, :] @ (left * left))[:, 0]
    rms = np.sqrt(square / np.maximum(count - degree - 1.0, 1.0)[:, None])
    runs = max(1.0, RUN_S * rate_hz)
    doubt = rms * np.sqrt(np.maximum(inverse[:, 0, 0], 0.0) * runs)[:, None]
    return Trend(c[:, 0], c[:, 1] / TIME_UNIT_S, rms, doubt, count >= FEWEST)
