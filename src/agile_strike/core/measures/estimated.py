"""Measures of strikes that no bag felt, from the same student's own bag evenings. Never pooled with measured ones."""

from agile_strike.core.measures.measure import Measure

ESTIMATED_MEASURES = (
    Measure(
        "impulse_estimated_n_s",
        "Impulse as on the bag",
        "N s",
        0,
        ("limb", "bag evenings"),
        "neither",
        "Estimated from your bag evenings: what a strike as fast as this one brings on the bag. No bag measured it.",
        "The student's impulse for each metre a second of this strike on bag evenings, times the speed of this one.",
    ),
    Measure(
        "effective_mass_estimated_kg",
        "Mass behind it as on the bag",
        "kg",
        1,
        ("limb", "bag evenings"),
        "neither",
        "Estimated from your bag evenings: the mass that is usually behind this strike. This strike did not show it.",
        "The mean of the student's own effective mass in this strike, evening by evening.",
    ),
)
ESTIMATED = tuple(m.name for m in ESTIMATED_MEASURES)
