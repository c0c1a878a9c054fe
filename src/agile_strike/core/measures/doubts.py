"""How much wider than a method's own sum a doubt must be to hold in worlds that it was not made in.

A doubt is added up from what a method knows of (noise, clocks, the guard, a seat) and so leaves out what it does not
know of. By how much is set, measure by measure, by worlds drawn at random (`simulation.fit_doubts`: the least
stretch by which two standard uncertainties hold in 92 of 100 strikes of every family), rounded up where a rig or
single draws asked for more, and looked at in other draws (`simulation.world_report`). As a Birge ratio does (Birge
1932), it widens and never narrows.
"""

from collections.abc import Mapping

import numpy as np

from agile_strike.core.measured import Measured

STRETCH: dict[str, float] = {
    "bag_energy_j": 1.5, "contact_ms": 1.1, "contact_speed_m_s": 1.15, "direction_deg": 1.45, "drop_mm": 1.25,
    "hand_before_ms": 1.1, "hit_below_top_m": 1.15, "lead_heel_pct": 1.3, "lead_load_contact_pct": 1.75,
    "lead_load_start_pct": 1.5, "lean_deg": 1.05, "load_shift_pct": 1.6, "off_centre_m": 1.3, "peak_speed_m_s": 1.15,
    "push_bw_s": 1.25, "push_index": 1.25, "rise_ms": 1.3, "settle_ms": 1.15, "tell_ms": 1.5,
    "turnover_late_pct": 1.15,
}  # fmt: skip

#: of a doubt's square, the part that all strikes of a recording share (the bag as it was weighed, a clock, a seat):
#: what averaging strikes leaves, and what a comparison of two levels within one recording does not feel
SHARED: dict[str, float] = {
    "bag_energy_j": 0.4, "contact_ms": 0.4, "contact_speed_m_s": 0.49, "direction_deg": 0.97,
    "effective_mass_kg": 0.29, "effective_mass_pct": 0.29, "flight_ms": 0.64, "hand_before_ms": 0.55,
    "hit_below_top_m": 0.12, "impulse_n_s": 0.51, "lead_load_start_pct": 0.13, "lean_deg": 0.41,
    "load_shift_pct": 0.06, "off_centre_m": 0.1, "path_ratio": 0.14, "peak_force_n": 0.2, "peak_speed_m_s": 0.23,
    "pelvis_before_ms": 0.94, "pelvis_peak_deg_s": 0.97, "pelvis_rise_mm": 0.12, "pivot_deg": 0.4, "pullback_mm": 0.22,
    "push_bw_s": 0.28, "push_index": 0.44, "return_drop_mm": 0.08, "return_ms": 0.4, "rise_ms": 0.44,
    "separation_deg": 0.39, "settle_ms": 0.35, "shoulder_tilt_deg": 0.09, "speed_held_pct": 0.79,
    "torso_before_ms": 0.94, "torso_peak_deg_s": 0.86, "turn_deg": 0.86, "turn_done_pct": 0.75, "turnover_deg": 0.74,
    "turnover_late_pct": 0.75,
}  # fmt: skip

#: beyond these doubts a figure says less than its absence, and is not told: as the measure, then as a share of it
MOST: dict[str, float] = {
    "drop_mm": 45.0, "flight_ms": 9.0, "pullback_mm": 45.0, "return_drop_mm": 45.0, "return_ms": 45.0,
    "settle_ms": 250.0,
}  # fmt: skip
MOST_SHARE: dict[str, float] = {"contact_speed_m_s": 0.07, "peak_speed_m_s": 0.06}


def too_wide(measures: Mapping[str, Measured]) -> frozenset[str]:
    """Those of which so little is known that they are not told."""
    return frozenset(
        n for n, m in measures.items() if m.sd > MOST.get(n, np.inf) or m.sd > MOST_SHARE.get(n, np.inf) * abs(m.value)
    )


def held(measures: Mapping[str, Measured]) -> dict[str, Measured]:
    """The same values with doubts that hold."""
    return {n: Measured(m.value, m.sd * STRETCH.get(n, 1.0)) for n, m in measures.items()}


def shared_sd(measure: str) -> float:
    """The share of a measure's standard uncertainty that a whole recording is off by."""
    return float(SHARED.get(measure, 0.0) ** 0.5)
