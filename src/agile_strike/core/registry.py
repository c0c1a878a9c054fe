"""The one list of measures: name, unit, decimals, needs, meaning. Tables, axes, CSV headers, API and docs read it."""

from dataclasses import dataclass
from typing import Literal

Better = Literal["more", "less", "neither"]


@dataclass(frozen=True, slots=True)
class Measure:
    """One measure of a strike."""

    name: str
    label: str  #: as a coach says it
    unit: str
    decimals: int
    needs: tuple[str, ...]  #: units that it cannot do without
    better: Better
    meaning: str
    computed_from: str
    numeric: bool = True


_ALL = (
    Measure(
        "peak_force_n",
        "Peak force",
        "N",
        0,
        ("bag",),
        "more",
        "The highest push during contact. A soft bag or a slow unit hides the very top.",
        "Impulse times the peak of the contact's shape, after a zero-phase low-pass.",
    ),
    Measure(
        "impulse_n_s",
        "Impulse",
        "N s",
        1,
        ("bag",),
        "more",
        "All the push of the strike, added up over contact: what moved the bag. Noise and slap do not add to it.",
        "The bag's mass times the speed that its centre of mass gained; swing and chain taken off.",
    ),
    Measure(
        "contact_ms",
        "Contact",
        "ms",
        1,
        ("bag",),
        "neither",
        "How long fist and bag pushed on each other, from and to 5 % of peak force.",
        "The contact's shape in time.",
    ),
    Measure(
        "rise_ms",
        "Rise",
        "ms",
        1,
        ("bag",),
        "neither",
        "How fast force climbed from 10 % to 90 % of its peak.",
        "The contact's shape in time.",
    ),
    Measure(
        "push_index",
        "Push index",
        "",
        2,
        ("bag",),
        "neither",
        "Mean force over peak force. Near 0.64 is even; a slap is peaky and low, a driven strike flat and high.",
        "Impulse, contact and peak force.",
    ),
    Measure(
        "hit_below_top_m",
        "Hit height",
        "m",
        2,
        ("bag",),
        "neither",
        "How far below the bag's top the push went through the bag.",
        "How much the bag tipped for the push it got: its inertia times the spin gained, over the impulse.",
    ),
    Measure(
        "off_centre_m",
        "Off centre",
        "m",
        3,
        ("bag",),
        "neither",
        "How far to the side of the bag's axis the push went. A glancing hit spins the bag instead of moving it.",
        "The spin that the bag gained about its own axis, over the impulse.",
    ),
    Measure(
        "direction_deg",
        "Direction",
        "deg",
        0,
        ("bag",),
        "neither",
        "Bearing of the push about the bag's axis, counted from the unit.",
        "The direction of the speed gained.",
    ),
    Measure(
        "bag_energy_j",
        "Bag energy",
        "J",
        1,
        ("bag",),
        "more",
        "Movement energy that this strike gives a bag at rest.",
        "Impulse, line of action, mass and inertia of the bag.",
    ),
    Measure(
        "level",
        "Level",
        "",
        0,
        ("bag",),
        "neither",
        "Head, body or low, by the gym's own bands on this bag.",
        "Hit height and the bag's bands.",
        numeric=False,
    ),
    Measure("gap_ms", "Gap", "ms", 0, ("bag",), "neither", "Time since the strike before.", "Contact times."),
)
MEASURES: dict[str, Measure] = {m.name: m for m in _ALL}
NUMERIC: tuple[str, ...] = tuple(m.name for m in _ALL if m.numeric)
FLAG_MEANINGS = {
    "clipped": "The unit ran into its limit during contact. Impulse was recovered from what it still saw.",
    "gap": "Samples are missing here.",
    "mount_mismatch": "The bag moved as one on another mount would. Check the mount: the wrong one is wrong by half.",
    "peak_is_floor": "The true peak was at least this high.",
    "in_burst": "Part of a burst: the strike before came less than a second earlier.",
    "limb_unsure": "Which limb struck is not certain.",
    "implausible": "The value lies outside what a person can do. Check bag and mount.",
}
#: beyond these a value is flagged; MEASURES.md gives adult values, which these surround generously
PLAUSIBLE = {"peak_force_n": (30.0, 15000.0), "impulse_n_s": (1.0, 200.0)}
