"""Calibration from recordings: a unit's offset, scale and gyro bias from rest; a bag's inertia from its free swing; the
whole chain's gain from a ball of known mass and speed. Each result carries its doubt.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from agile_strike.core.errors import BadInput
from agile_strike.core.measured import Measured
from agile_strike.core.recording import UnitSignal
from agile_strike.core.target import GRAVITY_M_S2, Bag

Floats = NDArray[np.float64]

REST_S = 1.0
STILL_RAD_S, STILL_M_S2 = 0.03, 0.15  # spread within a second of a unit that lies on a table
APART_DEG = 20.0  # two rests closer than this are one position
POSITIONS = 6
WIDE_G = 0.8  # each half-axis must have been near vertical once
SWINGS_LEAST = 5
SMALL_SWING_RAD = 0.25  # the period of larger swings grows with their size


@dataclass(frozen=True, slots=True)
class UnitCalibration:
    """Corrects a unit's raw samples: accel = (raw - offset) * scale, gyro = raw - bias."""

    accel_offset_m_s2: Floats  #: (3,)
    accel_scale: Floats  #: (3,)
    gyro_bias_rad_s: Floats  #: (3,)
    offset_sd_m_s2: float
    scale_sd: float
    residual_m_s2: float  #: what rests leave of 9.81, root mean square
    before_m_s2: float  #: the same before correcting
    positions: Floats  #: (k, 3) specific force at each rest, as read

    def apply(self, unit: UnitSignal) -> UnitSignal:
        accel = (unit.accel_m_s2 - self.accel_offset_m_s2) * self.accel_scale
        return replace(
            unit,
            accel_m_s2=accel.astype(np.float32),
            gyro_rad_s=(unit.gyro_rad_s - self.gyro_bias_rad_s).astype(np.float32),
        )


def from_rests(unit: UnitSignal) -> UnitCalibration:
    """Six or more positions at rest, each for a second or longer (the multi-position test of IEEE Std 1293).

    Raises BadInput where the recording does not show enough of them.
    """
    rests, rates = _rests(unit)
    positions = _apart(rests)
    if len(positions) < POSITIONS:
        found = "1 position at rest was" if len(positions) == 1 else f"{len(positions)} positions at rest were"
        raise BadInput(
            f"{found} found, and six are needed: lay the unit on each of its sides, two seconds each, without "
            "touching it."
        )
    missing = [
        f"{'+' if sign > 0 else '-'}{axis}"
        for k, axis in enumerate("xyz")
        for sign in (1.0, -1.0)
        if (sign * positions[:, k]).max() < WIDE_G * GRAVITY_M_S2
    ]
    if missing:
        raise BadInput(f"No rest had the unit's {', '.join(missing)} side up: add it and record again.")
    fit = least_squares(
        lambda u: np.linalg.norm((positions - u[:3]) * u[3:], axis=1) - GRAVITY_M_S2,
        np.concatenate([np.zeros(3), np.ones(3)]),
        x_scale=np.concatenate([np.full(3, 0.1), np.full(3, 0.01)]),
    )
    left = fit.fun
    noise = max(float(np.sqrt((left @ left) / max(len(left) - 6, 1))), 0.005)
    sd = noise * np.sqrt(np.diag(np.linalg.pinv(fit.jac.T @ fit.jac)))
    before = np.linalg.norm(positions, axis=1) - GRAVITY_M_S2
    return UnitCalibration(
        fit.x[:3],
        fit.x[3:],
        np.median(rates, axis=0),
        float(sd[:3].max()),
        float(sd[3:].max()),
        float(np.sqrt(np.mean(left**2))),
        float(np.sqrt(np.mean(before**2))),
        positions,
    )


def _rests(unit: UnitSignal) -> tuple[Floats, Floats]:
    """Mean specific force (k, 3) and rate (k, 3) of every still second."""
    each = max(2, round(REST_S * unit.rate_hz))
    n = len(unit.accel_m_s2) // each
    accel = unit.accel_m_s2[: n * each].astype(np.float64).reshape(n, each, 3)
    gyro = unit.gyro_rad_s[: n * each].astype(np.float64).reshape(n, each, 3)
    # a second's noise goes; what is left of movement shows in its tenths
    tenths = accel[:, : each // 10 * 10].reshape(n, 10, -1, 3).mean(axis=2)
    still = (gyro.std(axis=1).max(axis=1) < STILL_RAD_S) & (tenths.std(axis=1).max(axis=1) < STILL_M_S2)
    still &= np.isfinite(accel).all(axis=(1, 2))
    if not still.any():
        raise BadInput("The unit was never at rest for a second: lay it on a table and do not touch it.")
    return accel[still].mean(axis=1), gyro[still].mean(axis=1)


def _apart(rests: Floats) -> Floats:
    groups: list[list[Floats]] = []
    for rest in rests:
        for group in groups:
            mean = np.mean(group, axis=0)
            if rest @ mean > np.cos(np.radians(APART_DEG)) * np.linalg.norm(rest) * np.linalg.norm(mean):
                group.append(rest)
                break
        else:
            groups.append([rest])
    return np.array([np.mean(g, axis=0) for g in groups])


@dataclass(frozen=True, slots=True)
class Swing:
    """A bag's free swing about a pivot, and the inertia that follows."""

    period_s: Measured
    inertia_cm_kg_m2: Measured
    times_s: Floats  #: (n,) of the stretch that was fitted
    rate_rad_s: Floats  #: (n,) turn rate about the swing's axis
    fitted_rad_s: Floats  #: (n,)


def from_swing(unit: UnitSignal, bag: Bag, pivot_above_top_m: float) -> Swing:
    """Hang the bag from a pivot at its top, let it swing a hand's breadth, keep still for five swings or more.

    A damped sinusoid is fitted to the turn rate; `I_p = M g d T^2 / 4 pi^2` with the swing's size taken off the period
    (`T = T0 (1 + a^2 / 16)`), then `I_cm = I_p - M d^2`. Raises BadInput where no such swing shows.
    """
    t, rate = _swing_stretch(unit)
    spectrum = np.abs(np.fft.rfft(rate * np.hanning(len(rate)), 8 * len(rate)))
    hz = np.fft.rfftfreq(8 * len(rate), t[1] - t[0])
    band = (hz > 0.15) & (hz < 2.5)
    w0 = 2 * np.pi * float(hz[band][np.argmax(spectrum[band])])
    top = float(np.abs(rate).max())

    def model(u: Floats) -> Floats:
        size, phase, w, decay, offset = u
        return np.asarray(size * np.exp(-decay * t) * np.cos(w * t + phase) + offset)

    fits = [
        least_squares(lambda u: model(u) - rate, [top, phase, w0, 0.02, 0.0], x_scale=[top, 1.0, 0.1, 0.02, 0.01])
        for phase in (0.0, 0.5 * np.pi, np.pi, 1.5 * np.pi)
    ]
    fit = min(fits, key=lambda f: f.cost)
    left = fit.fun
    if float(np.sqrt(np.mean(left**2))) > 0.25 * float(np.std(rate)):
        raise BadInput("The bag did not swing freely: let it go once and keep your hands off for five swings.")
    size, w = float(abs(fit.x[0]) / fit.x[2]), float(fit.x[2])
    # what a fit leaves comes in runs: a tenth of the samples speak
    noise = float(np.sqrt((left @ left) / len(left)) * 10**0.5)
    w_sd = noise * float(np.sqrt(np.linalg.pinv(fit.jac.T @ fit.jac)[2, 2]))
    period = 2 * np.pi / w / (1.0 + (0.7 * size) ** 2 / 16.0)
    period_sd = period * float(np.hypot(w_sd / w, 0.0005))
    d = bag.com_below_top_m + pivot_above_top_m
    about_pivot = bag.mass_kg * GRAVITY_M_S2 * d * period**2 / (4 * np.pi**2)
    inertia = about_pivot - bag.mass_kg * d**2
    if inertia <= 0.0:
        raise BadInput(
            f"A swing of {period:.2f} s about a pivot {d:.2f} m above the middle is too fast: check the pivot's place."
        )
    # a period's doubt counts twice; a place known to 5 mm moves M d^2
    sd = float(
        np.hypot(2 * about_pivot * period_sd / period, bag.mass_kg * abs(about_pivot / bag.mass_kg / d - 2 * d) * 0.005)
    )
    return Swing(Measured(period, period_sd), Measured(inertia, sd), t, rate, model(fit.x))


def _swing_stretch(unit: UnitSignal) -> tuple[Floats, Floats]:
    """Turn rate about the axis that it mostly turns about, at 50 a second, from the end of handling on."""
    step = max(1, round(unit.rate_hz / 50.0))
    n = len(unit.gyro_rad_s) // step
    gyro = np.nan_to_num(unit.gyro_rad_s[: n * step].astype(np.float64)).reshape(n, step, 3).mean(axis=1)
    gyro -= np.median(gyro, axis=0)
    _, _, axes = np.linalg.svd(gyro, full_matrices=False)
    rate = gyro @ axes[0]
    t = np.arange(n) * step / unit.rate_hz
    # the longest stretch in which peaks only fall: from its highest small swing on
    high = np.abs(rate)
    small = high < SMALL_SWING_RAD * 2 * np.pi / 1.5
    last_large = int(np.flatnonzero(~small)[-1]) + 1 if (~small).any() else 0
    start = last_large + (int(np.argmax(high[last_large:])) if last_large < n else 0)
    if n - start < SWINGS_LEAST * 50:
        start = max(0, n - 60 * 50)
    t, rate = t[start:] - t[min(start, n - 1)], rate[start:]
    if len(t) < SWINGS_LEAST * 50 or float(np.abs(rate).max()) < 0.02:
        raise BadInput(
            "No free swing of five or more was found: let the bag swing a hand's breadth and record a minute."
        )
    return t, rate


@dataclass(frozen=True, slots=True)
class Gain:
    """What the whole chain makes of a known impulse."""

    gain: Measured  #: true over measured; multiply impulse and force by it
    measured_n_s: Floats
    true_n_s: Floats


def from_ball(measured: list[Measured], ball_kg: float, speeds_m_s: list[tuple[float, float]]) -> Gain:
    """A ball of known mass on a string, or dropped, hits the bag: `J = m (v_in + v_out)` for each hit."""
    if len(measured) != len(speeds_m_s) or len(measured) < 3:
        raise BadInput(
            f"{len(measured)} hits were found for {len(speeds_m_s)} pairs of speeds: give a pair for each, and three."
        )
    if not 0.05 <= ball_kg <= 50.0:
        raise BadInput(f"A ball of {ball_kg:g} kg is no ball: give its mass in kilograms.")
    true = np.array([ball_kg * (a + b) for a, b in speeds_m_s])
    found = np.array([m.value for m in measured])
    ratios = true / found
    gain = float(np.median(ratios))
    spread = 1.4826 * float(np.median(np.abs(ratios - gain)))
    if abs(gain - 1.0) > 0.3:
        raise BadInput(
            f"The bag shows {1.0 / gain:.2f} of the ball's impulse: check its mass and mount before correcting for it."
        )
    return Gain(Measured(gain, max(spread, 0.003) / len(found) ** 0.5), found, true)
