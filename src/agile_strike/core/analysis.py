"""From a recording to its strikes: candidates, mounting, contact mechanics, judgement, measures with their doubt.

Detection runs over the whole recording on 5 ms means; everything after is a function of a window round each contact
and of slow state (the mounting), so that an hour costs what its strikes cost.
"""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from agile_strike.core import detection, judge, loadcell, mount_check, pivot, swivel
from agile_strike.core.bag import GRAVITY_M_S2, Bag
from agile_strike.core.bursts import BURST_GAP_S, Burst, bursts
from agile_strike.core.clipping import Restored, restore
from agile_strike.core.contact import Contacts, contacts
from agile_strike.core.measured import Measured, MeasuredArray
from agile_strike.core.mounting import Mounting, mounting
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.registry import NUMERIC, PLAUSIBLE
from agile_strike.core.windows import cut

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

VERSION = "1"
SHORTEST_S = 1.0
BATCH = 128  # windows at a time: 25 MB
NEEDED_RATE_HZ = 400.0
FULL_RATE_HZ = 950.0
SAME_G_M_S2 = 5.0  # a hanging bag's mean specific force stays near gravity's
CONTACT_BUSY_S = (0.06, 0.07)

#: doubt of time landmarks, from simulated contacts with 6 % ringing, seconds at 1 kHz
EDGE_SD_S = 0.0001
LENGTH_SD_SHARE, LENGTH_SD_S = 0.02, 0.0002
RISE_SD_S = 0.0002
RESTORED_SD_SHARE = 0.02  # of the impulse of a clipped contact, beside the share that was put back
PEAK_SD_SHARE = 0.036  # ringing under the peak; the impulse's doubt comes on top


@dataclass(frozen=True, slots=True)
class Strike:
    """One contact: when, by which limb, what was measured and what is to be kept in mind."""

    contact_s: float
    limb: str
    measures: dict[str, Measured]
    level: str | None
    flags: tuple[str, ...]
    planned: str | None = None  #: value of the set that was running


@dataclass(frozen=True, slots=True)
class NotMeasured:
    measure: str
    why: str
    strike: int | None = None  #: index of the one strike, or None for the whole recording


@dataclass(frozen=True, slots=True)
class UnitClock:
    unit: str
    offset_s: float
    drift_ppm: float
    residual_ms: float
    aligned_by: str
    aligned: bool


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


@dataclass(slots=True)
class _Found:
    """Columns over the strikes of all batches, before they become rows."""

    at_s: list[Floats] = field(default_factory=list)
    columns: dict[str, list[MeasuredArray]] = field(default_factory=dict)
    clipped: list[Bools] = field(default_factory=list)
    holes: list[Bools] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class _Batch:
    """Candidates that were measured together."""

    at_s: Floats
    contacts: Contacts
    push: swivel.Pushes | None
    restored: Restored
    yes: Bools


def analyse(recording: Recording) -> Analysis:
    """All strikes of a recording. A recording without a bag unit has none, and says so."""
    unit = recording.units.get("bag")
    units = [_clock(name) for name in recording.units]
    if unit is None or recording.bag is None:
        why = "no bag unit in this recording" if unit is None else "the bag unit's sidecar has no StrikeTarget"
        return Analysis(recording, [], [], units, (), [NotMeasured(m, why) for m in ("contact_s", *NUMERIC)])
    if unit.length_s < SHORTEST_S:
        why = "the recording is shorter than a second"
        return Analysis(recording, [], [], units, (), [NotMeasured(m, why) for m in ("contact_s", *NUMERIC)])
    if recording.bag.mount == "wall" and unit.load_n is not None:
        return _assemble(recording, loadcell.strikes(unit), units, None, (), [])
    return _analyse_body(recording, unit, recording.bag, units)


def _analyse_body(recording: Recording, unit: UnitSignal, bag: Bag, units: list[UnitClock]) -> Analysis:
    block = detection.block_length(unit)
    step_s = block / unit.rate_hz
    accel, gyro = detection.block_means(unit.accel_m_s2, block), detection.block_means(unit.gyro_rad_s, block)
    centres, sizes = detection.candidates(unit, accel, gyro)
    busy = _busy(len(accel), centres // block, step_s)
    seat = mounting(accel, gyro, step_s, busy, bag)
    hangs = _hangs(accel, centres // block, step_s, seat)
    gaps = detection.neighbours(centres, sizes, unit.rate_hz)

    def measure(first: int) -> _Batch:
        part = slice(first, first + BATCH)
        restored = restore(cut(unit, centres[part], (gaps[0][part], gaps[1][part])), unit)
        c = contacts(restored.windows, seat.rotation, seat.position_m, seat.gyro_bias_rad_s, bag)
        at = centres[part] / unit.rate_hz + c.pulse.start_s
        push = _pushes(c, bag, [_planned_level(recording, float(t)) for t in at], seat)
        yes = judge.strikes(c, None if push is None else push.impulse_n_s.value, hangs[part], bag.mount == "swivel")
        return _Batch(at, c, push, restored, yes)

    # NumPy lets go of the interpreter: two batches at a time, in order
    with ThreadPoolExecutor(max_workers=min(4, os.cpu_count() or 1)) as pool:
        batches = list(pool.map(measure, range(0, len(centres), BATCH)))
    found = _Found()
    for batch in batches:
        _collect(found, batch, bag, unit)
    flags = ("mount_mismatch",) if _mismatch(batches, bag) else ()
    return _assemble(recording, _columns(found), units, seat, flags, _whole_recording_notes(unit, bag, seat))


def _clock(name: str) -> UnitClock:
    if name == "bag":
        return UnitClock("bag", 0.0, 0.0, 0.0, "reference", True)
    return UnitClock(name, 0.0, 0.0, 0.0, "none", False)


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


def _planned_level(recording: Recording, at_s: float) -> str | None:
    running = recording.set_at(at_s)
    return running.set_parts[2].get("level") if running else None


def _pushes(c: Contacts, bag: Bag, levels: list[str | None], seat: Mounting) -> swivel.Pushes | None:
    if bag.mount == "swivel":
        return swivel.pushes(c, bag, seat.yaw_sd_rad)
    if bag.mount in ("fixed", "standing"):
        return pivot.pushes(c, bag, levels, seat.yaw_sd_rad)
    return None  # a partner's arms have no known mass


def _collect(found: _Found, batch: _Batch, bag: Bag, unit: UnitSignal) -> None:
    at, c, push, restored, yes = batch.at_s, batch.contacts, batch.push, batch.restored, batch.yes
    p = c.pulse
    length = p.end_s - p.start_s
    clipped = c.clipped
    fast = unit.rate_hz >= NEEDED_RATE_HZ
    slow = max(1.0, FULL_RATE_HZ / unit.rate_hz)
    shaped = c.measurable & ~clipped & fast
    whole = c.measurable & restored.ok
    columns: dict[str, MeasuredArray] = {
        "contact_s": MeasuredArray(at, np.full(len(at), EDGE_SD_S * slow)),
        "contact_ms": MeasuredArray(1e3 * length, 1e3 * slow * np.hypot(LENGTH_SD_S, LENGTH_SD_SHARE * length)).where(
            c.measurable & fast
        ),
        "rise_ms": MeasuredArray(1e3 * p.rise_s, np.full(len(at), 1e3 * RISE_SD_S * slow)).where(shaped),
    }
    index = 1.0 / np.maximum(p.peak_per_s * length, 1e-9)
    columns["push_index"] = MeasuredArray(index, index * np.hypot(PEAK_SD_SHARE, 0.04) * slow).where(shaped)
    if push is not None:
        j = push.impulse_n_s
        widened = j.value * np.hypot(
            j.sd / j.value, np.where(restored.share > 0, RESTORED_SD_SHARE + restored.share, 0.0)
        )
        columns["impulse_n_s"] = MeasuredArray(j.value, widened).where(whole)
        peak = j.value * p.peak_per_s
        columns["peak_force_n"] = MeasuredArray(
            peak, peak * np.sqrt((j.sd / j.value) ** 2 + (PEAK_SD_SHARE * slow) ** 2)
        ).where(shaped)
        more = np.where(restored.share > 0, 2.5 + 8.0 * restored.share, 1.0)
        off, energy = push.off_centre_m, push.energy_j
        columns["off_centre_m"] = MeasuredArray(off.value, off.sd * more).where(whole & fast)
        columns["direction_deg"] = MeasuredArray(
            np.degrees(push.direction_rad.value), np.degrees(push.direction_rad.sd * more)
        ).where(whole & fast)
        columns["bag_energy_j"] = MeasuredArray(energy.value, energy.sd * more).where(whole & fast)
        if bag.mount == "swivel":
            height = push.hit_above_com_m
            columns["hit_below_top_m"] = MeasuredArray(bag.com_below_top_m - height.value, height.sd * more).where(
                whole & fast
            )
    found.at_s.append(at[yes])
    found.clipped.append(clipped[yes])
    found.holes.append(~c.measurable[yes])
    for name, column in columns.items():
        found.columns.setdefault(name, []).append(MeasuredArray(column.value[yes], column.sd[yes]))


def _columns(found: _Found) -> loadcell.StrikeColumns:
    def joined(parts: list[Bools]) -> Bools:
        return np.concatenate(parts) if parts else np.zeros(0, bool)

    columns = {
        name: MeasuredArray(np.concatenate([p.value for p in parts]), np.concatenate([p.sd for p in parts]))
        for name, parts in found.columns.items()
    }
    return loadcell.StrikeColumns(columns, joined(found.clipped), joined(found.holes))


def _mismatch(batches: list[_Batch], bag: Bag) -> bool:
    if not batches or bag.mount not in ("swivel", "fixed", "standing"):
        return False
    points, turns = zip(*(mount_check.turning_points(b.contacts, bag) for b in batches), strict=True)
    return mount_check.contradicts(
        np.concatenate(points), np.concatenate(turns), bag, np.concatenate([b.yes for b in batches])
    )


def _whole_recording_notes(unit: UnitSignal, bag: Bag, seat: Mounting) -> list[NotMeasured]:
    notes: list[NotMeasured] = []

    def absent(why: str, *names: str) -> None:
        notes.extend(NotMeasured(name, why) for name in names)

    if not seat.upright:
        absent("the bag unit did not hang upright: its z axis must run up the bag", "contact_s", *NUMERIC)
    if unit.rate_hz < NEEDED_RATE_HZ:
        absent(
            f"the bag unit delivers {unit.rate_hz:.0f} samples a second: force and contact length need 400",
            "peak_force_n",
            "contact_ms",
            "rise_ms",
            "push_index",
            "hit_below_top_m",
            "off_centre_m",
            "direction_deg",
            "bag_energy_j",
        )
    if bag.mount in ("fixed", "standing"):
        absent(f"a bag that turns about a point does not show where it was hit (mount {bag.mount})", "hit_below_top_m")
    if bag.mount in ("held", "wall"):
        why = (
            "a partner's arms have no known mass"
            if bag.mount == "held"
            else "a wall target needs a load cell, and this recording has none"
        )
        absent(why, "impulse_n_s", "peak_force_n", "hit_below_top_m", "off_centre_m", "direction_deg", "bag_energy_j")
    return notes


def _assemble(
    recording: Recording,
    found: loadcell.StrikeColumns,
    units: list[UnitClock],
    seat: Mounting | None,
    flags: tuple[str, ...],
    notes: list[NotMeasured],
) -> Analysis:
    bag, unit = recording.bag, recording.units["bag"]
    assert bag is not None
    times = found.columns["contact_s"].value if found.columns else np.zeros(0)
    told = {n.measure for n in notes}
    strikes: list[Strike] = []
    for i in np.argsort(times, kind="stable"):
        measures = {name: m for name, column in found.columns.items() if (m := column.at(int(i)))}
        contact = measures.pop("contact_s")
        marks = []
        if found.clipped[i]:
            marks.append("clipped:bag")
        if found.holes[i]:
            marks.append("gap:bag")
        if unit.rate_hz < FULL_RATE_HZ and "peak_force_n" in measures:
            marks.append("peak_is_floor")
        marks += [
            f"implausible:{n}"
            for n, (low, high) in PLAUSIBLE.items()
            if n in measures and not low <= measures[n].value <= high
        ]
        if strikes:
            gap = contact.value - strikes[-1].contact_s
            measures["gap_ms"] = Measured(1e3 * gap, 1e3 * EDGE_SD_S * 2**0.5)
            if gap < BURST_GAP_S:
                marks.append("in_burst")
        why = "the bag unit clipped during contact" if found.clipped[i] else "samples are missing in or beside contact"
        notes.extend(
            NotMeasured(n, why, len(strikes))
            for n in found.columns
            if n != "contact_s" and n not in measures and n not in told
        )
        planned = recording.set_at(contact.value)
        height = measures.get("hit_below_top_m")
        level = bag.level_at(height.value) if height else _planned_level(recording, contact.value)
        strikes.append(
            Strike(
                contact.value,
                _limb(planned.set_parts[1] if planned else ""),
                measures,
                level,
                tuple(marks),
                planned.value if planned else None,
            )
        )
    force = [_strength(s) for s in strikes]
    return Analysis(recording, strikes, bursts([s.contact_s for s in strikes], force), units, flags, notes, seat)


def _strength(strike: Strike) -> float | None:
    found = strike.measures.get("peak_force_n") or strike.measures.get("impulse_n_s")
    return found.value if found else None


LIMBS = tuple(f"{side}_{part}" for side in ("left", "right") for part in ("hand", "elbow", "knee", "foot"))


def _limb(planned: str) -> str:
    """The limb that the running set names; without units on the limbs nothing else can tell."""
    name = planned.strip().lower().replace(" ", "_").replace("-", "_")
    return name if name in LIMBS else "unknown"
