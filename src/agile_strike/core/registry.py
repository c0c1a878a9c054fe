"""The one list of measures: tables, axes, CSV headers, API, docs, schools and checks read it."""

from dataclasses import replace

from agile_strike.core.measures.estimated import ESTIMATED_MEASURES
from agile_strike.core.measures.measure import Measure
from agile_strike.core.measures.of_bag import BAG_MEASURES
from agile_strike.core.measures.of_student import BODY_MEASURES

_ALL = (*BAG_MEASURES, *BODY_MEASURES, *ESTIMATED_MEASURES)
MEASURES: dict[str, Measure] = {m.name: m for m in _ALL}
PER_BODY_MASS = "_per_body_mass"
GROWS_WITH_MASS = ("peak_force_n", "impulse_n_s", "bag_energy_j")  # a heavier student has more of it
NUMERIC: tuple[str, ...] = tuple(m.name for m in _ALL if m.numeric)
PROVISIONAL = "provisional"
FLAG_MEANINGS = {
    PROVISIONAL: "Measured while the evening goes on, from what was known so far. The end of the set settles it.",
    "clipped": "The unit ran into its limit. What it missed was recovered from what it still saw, with a wider doubt.",
    "gap": "Samples are missing here.",
    "mount_mismatch": "The bag moved as one on another mount would. Check the mount: the wrong one is wrong by half.",
    "peak_is_floor": "The true peak was at least this high.",
    "in_burst": "Part of a burst: the strike before came less than a second earlier.",
    "limb_unsure": "Which limb struck is not certain.",
    "not_aligned": "This unit's clock could not be tied to the bag's: nothing that needs it was computed.",
    "slipped": "This unit sat otherwise at the end than at the start: it slipped round. Strap it on again.",
    "turned": "This unit hung another way up than it should, as gravity shows. It was turned round before measuring.",
    "no_bag": "This unit did not move as a hanging bag does. Check which one is on the bag.",
    "units_swapped": "Left and right units look swapped: the strikes are told as planned. Check the straps.",
    "implausible": "The value lies outside what a person can do. Check bag and mount.",
}
#: beyond these a value is flagged; MEASURES.md gives adult values, which these surround generously
PLAUSIBLE = {
    "peak_force_n": (30.0, 15000.0),
    "impulse_n_s": (1.0, 200.0),
    "contact_speed_m_s": (0.8, 22.0),
    "effective_mass_kg": (0.3, 25.0),
    "pelvis_peak_deg_s": (-300.0, 1500.0),
    "torso_peak_deg_s": (-300.0, 2000.0),
}


def find(name: str) -> Measure | None:
    """A measure by its name, or one per body mass by that name with `_per_body_mass` after it."""
    if not name.endswith(PER_BODY_MASS):
        return MEASURES.get(name)
    of = MEASURES.get(name.removesuffix(PER_BODY_MASS))
    if of is None or not of.numeric:
        return None
    return replace(
        of,
        name=name,
        label=f"{of.label} per body mass",
        unit=f"{of.unit}/kg",
        decimals=of.decimals + 2,
        needs=(*of.needs, "body mass"),
        meaning=f"{of.meaning} Divided by the student's body mass on that day.",
    )
