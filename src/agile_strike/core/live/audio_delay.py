"""How late a tablet sounds what it is given: somebody taps the bag with each of its beeps, and the bag's unit feels it.

Who taps along with even beeps is early by some tens of milliseconds, without knowing (Repp, "Sensorimotor
synchronization: a review of the tapping literature", Psychonomic Bulletin & Review 12, 2005). That is taken off, and
how much people differ in it is what the delay is not known better than, however many beeps there are.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag.detection import block_length, block_means, candidates
from agile_strike.core.errors import BadInput
from agile_strike.core.recording import UnitSignal

Floats = NDArray[np.float64]

FIRST_FELT = 2  # beeps, in which the hand falls in
FEWEST = 6  # taps that agree
EARLIEST_S, LATEST_S = -0.15, 0.6  # of a tap, after its beep was given to the loudspeaker
ALIKE_S = 0.12  # that taps of one person lie within
EARLY_S, EARLY_SD_S = 0.03, 0.02  # of a person who taps along
LEAST_JOLT_M_S2 = 0.8  # a tap with the fist, not a strike


@dataclass(frozen=True, slots=True)
class AudioDelay:
    delay_s: float
    sd_s: float
    taps: int


def taps(bag_unit: UnitSignal) -> Floats:
    """Seconds (t,) of the unit's samples, from its first, at which somebody tapped the bag."""
    block = block_length(bag_unit)
    accel, gyro = block_means(bag_unit.accel_m_s2, block), block_means(bag_unit.gyro_rad_s, block)
    at, size = candidates(block, bag_unit.rate_hz, accel, gyro)
    return np.asarray(at[size >= LEAST_JOLT_M_S2] / bag_unit.rate_hz, np.float64)


def audio_delay(beeps_s: Floats, taps_s: Floats, clock_sd_s: float) -> AudioDelay:
    """From beeps (b,) as they were given to the loudspeaker and taps (t,), on one clock that is known to `clock_sd_s`.

    Raises BadInput where too few taps agree.
    """
    after = taps_s[None, :] - beeps_s[FIRST_FELT:, None]
    near = np.where((after >= EARLIEST_S) & (after <= LATEST_S), after, np.nan)
    offsets = np.sort(near[~np.isnan(near)])
    if len(offsets) == 0:
        raise BadInput("The bag felt no tap near the beeps. Tap it firmly, with the fist, at each of them.")
    within = np.searchsorted(offsets, offsets + ALIKE_S, side="right") - np.arange(len(offsets))
    first = int(within.argmax())
    own = offsets[first : first + within[first]]
    beeps_met = int(np.any((near >= own[0]) & (near <= own[-1]), axis=1).sum())
    if beeps_met < FEWEST:
        raise BadInput(
            f"Only {beeps_met} taps fell in with the beeps. Listen to the first two, then tap with each; try again."
        )
    spread = 1.4826 * float(np.median(np.abs(own - np.median(own))))
    sd = float(np.sqrt(EARLY_SD_S**2 + 1.57 * spread**2 / len(own) + clock_sd_s**2))
    return AudioDelay(max(0.0, float(np.median(own)) + EARLY_S), sd, len(own))
