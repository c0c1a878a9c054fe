"""Contacts of a bag and which of them are strikes, from a piece of its unit's samples and what is known of the unit.

Every contact is a function of the samples within a second of it and of that state; a piece gives the same bits as the
whole evening.
"""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag import detection, judge, pivot, swivel
from agile_strike.core.bag.clipping import restore
from agile_strike.core.bag.columns import Batch
from agile_strike.core.bag.contact import Contacts, contacts
from agile_strike.core.bag.mounting import Mounting
from agile_strike.core.bag.state import BagState, Looked
from agile_strike.core.bag.windows import cut
from agile_strike.core.recording import UnitSignal
from agile_strike.core.target import GRAVITY_M_S2, Bag

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

BATCH = 128  # windows at a time: 25 MB
SAME_G_M_S2 = 5.0  # a hanging bag's mean specific force stays near gravity's
HANGS_S = 0.5


def strikes(
    unit: UnitSignal, looked: Looked, state: BagState, bag: Bag, level_at: Callable[[float], str | None]
) -> list[Batch]:
    """All contacts of a piece, in order of time. `looked` is the same piece in means; `level_at` tells the height that
    was planned at a moment, where one was."""
    unit = state.stood_up(unit)
    accel, gyro = looked.accel @ state.turn.T, looked.gyro @ state.turn.T
    centres, sizes = detection.candidates(looked.block, unit.rate_hz, accel, gyro)
    hangs = _hangs(accel, centres // looked.block, looked.step_s, state.seat)
    gaps = detection.neighbours(centres, sizes, unit.rate_hz)
    seat = state.seat

    def measure(first: int) -> Batch:
        part = slice(first, first + BATCH)
        restored = restore(cut(unit, centres[part], (gaps[0][part], gaps[1][part])), unit)
        c = contacts(restored.windows, seat, bag)
        at = (centres[part] + unit.first_sample) / unit.rate_hz + c.pulse.start_s
        push = _pushes(c, bag, [level_at(float(t)) for t in at], seat)
        yes = judge.strikes(c, None if push is None else push.impulse_n_s.value, hangs[part], bag.mount == "swivel")
        return Batch(at, c, push, restored, yes)

    # NumPy lets go of the interpreter: two batches at a time, in order
    with ThreadPoolExecutor(max_workers=min(4, os.cpu_count() or 1)) as pool:
        return list(pool.map(measure, range(0, len(centres), BATCH)))


def _hangs(accel: Floats, at: NDArray[np.int64], step_s: float, seat: Mounting) -> Bools:
    """Which candidates (s,) come while the unit hung as a bag's unit hangs: gravity's size, up its own z axis."""
    if not seat.upright:
        return np.zeros(len(at), bool)
    reach = int(HANGS_S / step_s)
    total = np.concatenate([np.zeros((1, 3)), np.cumsum(accel, axis=0)])
    low, high = np.clip(at - reach, 0, len(accel)), np.clip(at + reach, 0, len(accel))
    mean = (total[high] - total[low]) / np.maximum(high - low, 1)[:, None]
    along = mean @ seat.rotation[2]
    size = np.linalg.norm(mean, axis=1)
    return np.asarray((np.abs(size - GRAVITY_M_S2) < SAME_G_M_S2) & (along > 0.6 * size))


def _pushes(c: Contacts, bag: Bag, levels: list[str | None], seat: Mounting) -> swivel.Pushes | None:
    if bag.mount == "swivel":
        return swivel.pushes(c, bag, seat.yaw_sd_rad)
    if bag.mount in ("fixed", "standing"):
        return pivot.pushes(c, bag, levels, seat.yaw_sd_rad)
    return None  # a partner's arms have no known mass
