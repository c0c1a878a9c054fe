"""From a recording to its strikes: candidates, mounting, contact mechanics, judgement, measures with their doubt.

Detection runs over the whole recording on 5 ms means; everything after is a function of a window round each contact
and of slow state (the mounting), so that an hour costs what its strikes cost.
"""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag import detection, facing, judge, loadcell, mount_check, pivot, swivel
from agile_strike.core.bag.bursts import Burst, bursts
from agile_strike.core.bag.clipping import restore
from agile_strike.core.bag.columns import Batch, StrikeColumns, joined
from agile_strike.core.bag.contact import Contacts, contacts
from agile_strike.core.bag.mounting import Mounting, mounting
from agile_strike.core.bag.rows import planned_level, rows, strength, whole_recording_notes
from agile_strike.core.bag.windows import cut
from agile_strike.core.measures.of_bag import BAG_NUMERIC
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.strikes import NotMeasured, Strike
from agile_strike.core.student.clocks import UnitClock, not_aligned
from agile_strike.core.student.joined import NO_TURN_RATES, UNIT_OF, lacking, with_student
from agile_strike.core.target import GRAVITY_M_S2, Bag

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

VERSION = "3"
SHORTEST_S = 1.0
BATCH = 128  # windows at a time: 25 MB
SAME_G_M_S2 = 5.0  # a hanging bag's mean specific force stays near gravity's
CONTACT_BUSY_S = (0.06, 0.07)


@dataclass(frozen=True, slots=True)
class Analysis:
    recording: Recording
    strikes: list[Strike]
    bursts: list[Burst]
    units: list[UnitClock]
    flags: tuple[str, ...]
    not_measured: list[NotMeasured]
    mounting: Mounting | None = None
    version: str = VERSION


def analyse(recording: Recording) -> Analysis:
    """All strikes of a recording. A recording without a bag unit has none, and says so."""
    unit = recording.units.get("bag")
    units = [_untied(name) for name in recording.units]
    why = _why_nothing(recording)
    if why:
        return Analysis(recording, [], [], units, (), [NotMeasured(m, why) for m in ("contact_s", *BAG_NUMERIC)])
    assert unit is not None
    assert recording.bag is not None
    if recording.bag.mount == "wall" and unit.load_n is not None:
        return _told(recording, loadcell.strikes(unit), units, None, (), [])
    return _analyse_body(recording, unit, recording.bag, units)


def _why_nothing(recording: Recording) -> str:
    """What a recording lacks without which no strike can be had; empty where nothing."""
    unit, bag = recording.units.get("bag"), recording.bag
    if unit is None:
        return "no bag unit in this recording"
    if bag is None:
        return "the bag unit's sidecar has no StrikeTarget"
    if unit.length_s < SHORTEST_S:
        return "the recording is shorter than a second"
    if not unit.feels_turning and not (bag.mount == "wall" and unit.load_n is not None):
        return f"the bag unit {NO_TURN_RATES}: without them its push can't be had"
    return ""


def _analyse_body(recording: Recording, unit: UnitSignal, bag: Bag, units: list[UnitClock]) -> Analysis:
    block = detection.block_length(unit)
    step_s = block / unit.rate_hz
    accel, gyro = detection.block_means(unit.accel_m_s2, block), detection.block_means(unit.gyro_rad_s, block)
    turn = facing.turn_of(accel)
    unit, accel, gyro = facing.stood_up(unit, turn), accel @ turn.T, gyro @ turn.T
    centres, sizes = detection.candidates(unit, accel, gyro)
    busy = _busy(len(accel), centres // block, step_s)
    seat = mounting(accel, gyro, step_s, busy, bag, facing.out_axis_known(turn))
    hangs = _hangs(accel, centres // block, step_s, seat)
    gaps = detection.neighbours(centres, sizes, unit.rate_hz)

    def measure(first: int) -> Batch:
        part = slice(first, first + BATCH)
        restored = restore(cut(unit, centres[part], (gaps[0][part], gaps[1][part])), unit)
        c = contacts(restored.windows, seat.rotation, seat.position_m, seat.gyro_bias_rad_s, bag)
        at = centres[part] / unit.rate_hz + c.pulse.start_s
        push = _pushes(c, bag, [planned_level(recording, float(t)) for t in at], seat)
        yes = judge.strikes(c, None if push is None else push.impulse_n_s.value, hangs[part], bag.mount == "swivel")
        return Batch(at, c, push, restored, yes)

    # NumPy lets go of the interpreter: two batches at a time, in order
    with ThreadPoolExecutor(max_workers=min(4, os.cpu_count() or 1)) as pool:
        batches = list(pool.map(measure, range(0, len(centres), BATCH)))
    flags: tuple[str, ...] = ("mount_mismatch",) if _mismatch(batches, bag) else ()
    notes = whole_recording_notes(unit, bag, seat)
    if turn is not facing.UPRIGHT or seat.quarters:
        flags += ("turned:bag",)
    if turn is not facing.UPRIGHT:
        seat = replace(seat, rotation=seat.rotation @ turn, gyro_bias_rad_s=seat.gyro_bias_rad_s @ turn)
    found = joined(batches, bag, unit)
    if why := _no_bag(batches, bag):
        flags, found = ("no_bag",), found.none()
        notes += [NotMeasured(m, why) for m in ("contact_s", *BAG_NUMERIC)]
    return _told(recording, found, units, seat, flags, notes)


def _untied(name: str) -> UnitClock:
    if name == "bag":
        return UnitClock("bag", 0.0, 0.0, 0.0, "reference", True)
    return not_aligned(name)


def _busy(blocks: int, at: NDArray[np.int64], step_s: float) -> Bools:
    """Blocks (m,) in which something may be touching the bag."""
    busy = np.zeros(blocks + 1, np.int64)
    before, after = (int(s / step_s) for s in CONTACT_BUSY_S)
    np.add.at(busy, np.clip(at - before, 0, blocks), 1)
    np.add.at(busy, np.clip(at + after, 0, blocks), -1)
    return np.asarray(np.cumsum(busy)[:blocks] > 0)


def _hangs(accel: Floats, at: NDArray[np.int64], step_s: float, seat: Mounting) -> Bools:
    """Which candidates (s,) come while the unit hung as a bag's unit hangs: gravity's size, up its own z axis."""
    if not seat.upright:
        return np.zeros(len(at), bool)
    reach = int(0.5 / step_s)
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


def _mismatch(batches: list[Batch], bag: Bag) -> bool:
    if not batches or bag.mount not in ("swivel", "fixed", "standing"):
        return False
    points, turns = zip(*(mount_check.turning_points(b.contacts, bag) for b in batches), strict=True)
    return mount_check.contradicts(
        np.concatenate(points), np.concatenate(turns), bag, np.concatenate([b.yes for b in batches])
    )


def _no_bag(batches: list[Batch], bag: Bag) -> str:
    if not batches or bag.mount not in ("swivel", "fixed", "standing"):
        return ""
    return judge.no_bag(
        np.concatenate([b.yes for b in batches]),
        np.concatenate([np.linalg.norm(b.contacts.dv_m_s[:, :2], axis=1) for b in batches]),
        np.concatenate([b.contacts.unlike_a_bag for b in batches]),
    )


def _told(
    recording: Recording,
    found: StrikeColumns,
    units: list[UnitClock],
    seat: Mounting | None,
    flags: tuple[str, ...],
    notes: list[NotMeasured],
) -> Analysis:
    strikes = rows(recording, found, notes)
    worn = [u for u in units if u.unit != "bag"]
    if worn:
        strikes, clocks, more = with_student(recording, strikes, notes)
        units = [clocks.get(u.unit, u) for u in units]
        flags += more
    else:
        notes += [NotMeasured(m, f"no {UNIT_OF[n]} in this recording") for m, n in lacking(frozenset({"bag"}))]
    runs = bursts([s.contact_s for s in strikes], [strength(s) for s in strikes])
    return Analysis(recording, strikes, runs, units, flags, notes, seat)
