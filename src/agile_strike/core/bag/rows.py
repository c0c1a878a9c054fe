"""From columns to strikes: what was measured of each, what was not and why, and what is to be kept in mind."""

import numpy as np

from agile_strike.core.bag.bursts import BURST_GAP_S
from agile_strike.core.bag.columns import EDGE_SD_S, FULL_RATE_HZ, NEEDED_RATE_HZ, StrikeColumns
from agile_strike.core.bag.mounting import Mounting
from agile_strike.core.measured import Measured
from agile_strike.core.measures.doubts import held
from agile_strike.core.measures.of_bag import BAG_NUMERIC
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.registry import PLAUSIBLE
from agile_strike.core.strikes import LIMBS, NotMeasured, Strike
from agile_strike.core.target import Bag


def rows(recording: Recording, found: StrikeColumns, told: set[str]) -> tuple[list[Strike], list[NotMeasured]]:
    """The strikes in order of time, and what single ones lack, with the reason; not what is `told` of the whole."""
    bag, unit = recording.bag, recording.units["bag"]
    assert bag is not None
    times = found.columns["contact_s"].value if found.columns else np.zeros(0)
    strikes: list[Strike] = []
    notes: list[NotMeasured] = []
    for i in np.argsort(times, kind="stable"):
        measures = held({name: m for name, column in found.columns.items() if (m := column.at(int(i)))})
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
        level = bag.level_at(height.value) if height else planned_level(recording, contact.value)
        strikes.append(
            Strike(
                contact.value,
                planned_limb(recording, contact.value),
                measures,
                level,
                tuple(marks),
                planned.value if planned else None,
            )
        )
    return strikes, notes


def planned_level(recording: Recording, at_s: float) -> str | None:
    """The level that the set running at a moment was planned for."""
    running = recording.set_at(at_s)
    return running.set_parts[2].get("level") if running else None


def whole_recording_notes(unit: UnitSignal, bag: Bag, seat: Mounting) -> list[NotMeasured]:
    """What this recording can't give of any strike, and why."""
    notes: list[NotMeasured] = []

    def absent(why: str, *names: str) -> None:
        notes.extend(NotMeasured(name, why) for name in names)

    if not seat.upright:
        absent("the bag unit did not hang upright: its z axis must run up the bag", "contact_s", *BAG_NUMERIC)
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


def strength(strike: Strike) -> float | None:
    """Peak force, or impulse where there is none: to compare strikes of one burst."""
    found = strike.measures.get("peak_force_n") or strike.measures.get("impulse_n_s")
    return found.value if found else None


def planned_limb(recording: Recording, at_s: float) -> str:
    """The limb that the set running at a moment names, or `unknown`."""
    running = recording.set_at(at_s)
    name = running.set_parts[1].strip().lower().replace(" ", "_").replace("-", "_") if running else ""
    return name if name in LIMBS else "unknown"
