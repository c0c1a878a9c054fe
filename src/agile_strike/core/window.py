"""A piece of an evening round one strike: all that a strike is a function of, beside what is slow.

Whole seconds of each unit's own clock, so that sums run over the same stretches as in the whole; and a second more on
either side, for what is filtered.
"""

from dataclasses import replace

import numpy as np

from agile_strike.core.bag.detection import block_length
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.student.state import BodyState

BEFORE_S, AFTER_S = 2.6, 2.4  # of a strike, in which its limb's guard, load and settling are looked at
CONTACTS_S = 3.3  # other contacts so near bear on it
AROUND_S = 1.5  # of contacts, for the bag's own filters
MARGIN_S = 1


def window(recording: Recording, at_s: float, body: BodyState | None) -> Recording:
    """What the units delivered round a moment of the reference clock. Units whose clock is not known are left out."""
    units = {}
    for name, unit in recording.units.items():
        if name == "bag":
            reach = CONTACTS_S + AROUND_S
            units[name] = _cut(unit, at_s - reach, at_s + reach)
        elif body is not None and name in body.clocks and body.clocks[name].aligned:
            own = float(body.clocks[name].own(np.array(at_s)))
            units[name] = _cut(unit, own - BEFORE_S, own + AFTER_S)
    return replace(recording, units=units)


def _cut(unit: UnitSignal, from_s: float, to_s: float) -> UnitSignal:
    block = block_length(unit)
    first = max(0, int(np.floor((np.floor(from_s) - MARGIN_S) * unit.rate_hz)))
    first -= first % block if unit.unit == "bag" else 0
    last = int(np.ceil((np.ceil(to_s) + MARGIN_S) * unit.rate_hz)) + 1
    begins = max(first, unit.first_sample)  # a unit of which only the last stretch is held is cut as all of it would be
    rows = slice(begins - unit.first_sample, max(0, last - unit.first_sample))
    return replace(
        unit,
        first_sample=begins,
        accel_m_s2=unit.accel_m_s2[rows],
        gyro_rad_s=unit.gyro_rad_s[rows],
        load_n=None if unit.load_n is None else unit.load_n[rows],
        sole_n=None if unit.sole_n is None else unit.sole_n[rows],
    )
