"""The measures of many strikes side by side: each value with its doubt, NaN where it could not be had."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag import swivel
from agile_strike.core.bag.clipping import Restored
from agile_strike.core.bag.contact import Contacts
from agile_strike.core.measured import MeasuredArray
from agile_strike.core.recording import UnitSignal
from agile_strike.core.target import Bag

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

NEEDED_RATE_HZ = 400.0  # below, a contact of 10 ms is four samples: no force and no length
FULL_RATE_HZ = 950.0

#: doubt of time landmarks, from simulated contacts with 6 % ringing, seconds at 1 kHz
EDGE_SD_S = 0.0001
LENGTH_SD_SHARE, LENGTH_SD_S = 0.03, 0.0006
RISE_SD_S, RISE_SD_SHARE = 0.0003, 0.1  # a soft bag's force climbs in two steps, a seat swings along; rigs
RESTORED_SD_SHARE = 0.02  # of the impulse of a clipped contact, beside the share that was put back
PEAK_SD_SHARE = 0.036  # the impulse's doubt comes on top
#: what is left of a ringing seat swings higher in contact than after it
RINGING_TIMES = 2.0
#: a limb that stays on the bag and pushes, above what a swing feigns: then the push has more in it, and lasts longer
STAYS, STAYS_IMPULSE, STAYS_S, SURELY = 0.06, 3.0, 0.03, 0.05
STAYS_MORE = 25.0  # times as much: how much wider the doubt is of where and whither such a blow went


@dataclass(frozen=True, slots=True)
class StrikeColumns:
    """Measures over s strikes, by name, with what is wrong with each."""

    columns: dict[str, MeasuredArray]
    clipped: Bools
    holes: Bools

    def none(self) -> "StrikeColumns":
        """The same measures of no strike."""
        columns = {n: MeasuredArray(c.value[:0], c.sd[:0]) for n, c in self.columns.items()}
        return StrikeColumns(columns, self.clipped[:0], self.holes[:0])


@dataclass(frozen=True, slots=True)
class Batch:
    """Candidates that were measured together."""

    at_s: Floats
    contacts: Contacts
    push: swivel.Pushes | None
    restored: Restored
    yes: Bools


def joined(batches: list[Batch], bag: Bag, unit: UnitSignal) -> StrikeColumns:
    """The strikes of all batches, in order of time."""
    parts = [_columns(batch, bag, unit) for batch in batches]
    names = parts[0].columns if parts else ()

    def whole(marks: list[Bools]) -> Bools:
        return np.concatenate(marks) if marks else np.zeros(0, bool)

    columns = {
        name: MeasuredArray(
            np.concatenate([p.columns[name].value for p in parts]), np.concatenate([p.columns[name].sd for p in parts])
        )
        for name in names
    }
    return StrikeColumns(columns, whole([p.clipped for p in parts]), whole([p.holes for p in parts]))


def _columns(batch: Batch, bag: Bag, unit: UnitSignal) -> StrikeColumns:
    at, c, push, restored, yes = batch.at_s, batch.contacts, batch.push, batch.restored, batch.yes
    p = c.pulse
    length = p.end_s - p.start_s
    stays = np.maximum(c.pushes_on - STAYS, 0.0)
    stays_s = STAYS_S * np.minimum(stays / SURELY, 1.0)
    longer_s = np.hypot(stays_s, c.lets_go_s)
    clipped = c.clipped
    fast = unit.rate_hz >= NEEDED_RATE_HZ
    slow = max(1.0, FULL_RATE_HZ / unit.rate_hz)
    shaped = c.measurable & ~clipped & fast
    whole = c.measurable & restored.ok
    columns: dict[str, MeasuredArray] = {
        "contact_s": MeasuredArray(at, np.full(len(at), EDGE_SD_S * slow)),
        "contact_ms": MeasuredArray(
            1e3 * length, 1e3 * np.hypot(slow * np.hypot(LENGTH_SD_S, LENGTH_SD_SHARE * length), longer_s)
        ).where(c.measurable & fast),
        "rise_ms": MeasuredArray(1e3 * p.rise_s, 1e3 * slow * np.hypot(RISE_SD_S, RISE_SD_SHARE * p.rise_s)).where(
            shaped
        ),
    }
    top_sd = np.hypot(PEAK_SD_SHARE, RINGING_TIMES * p.ringing)
    index = 1.0 / np.maximum(p.peak_per_s * length, 1e-9)
    longer = np.hypot(stays_s / np.maximum(length + stays_s, 1e-3), c.lets_go_s / np.maximum(length, 1e-3))
    columns["push_index"] = MeasuredArray(index, index * np.sqrt((top_sd**2 + 0.03**2) * slow**2 + longer**2)).where(
        shaped
    )
    if push is not None:
        gain, gain_sd = bag.impulse_gain, bag.impulse_gain_sd
        j = MeasuredArray(
            gain * push.impulse_n_s.value, np.hypot(gain * push.impulse_n_s.sd, gain_sd * push.impulse_n_s.value)
        )
        widened = j.value * np.hypot(
            j.sd / j.value, np.where(restored.share > 0, RESTORED_SD_SHARE + restored.share, 0.0)
        )
        columns["impulse_n_s"] = MeasuredArray(j.value, np.hypot(widened, STAYS_IMPULSE * stays * j.value)).where(whole)
        peak = j.value * p.peak_per_s
        columns["peak_force_n"] = MeasuredArray(
            peak, peak * np.sqrt((j.sd / j.value) ** 2 + (top_sd * slow) ** 2)
        ).where(shaped)
        more = np.where(restored.share > 0, 2.5 + 8.0 * restored.share, 1.0) + STAYS_MORE * stays
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
    kept = {name: MeasuredArray(column.value[yes], column.sd[yes]) for name, column in columns.items()}
    return StrikeColumns(kept, clipped[yes], ~c.measurable[yes])
