"""What is seen in strikes, what it likely comes from, and which drill it asks for."""

from dataclasses import dataclass

from agile_strike.core.playbook.schools import CHAIN, fits

PUNCHES = ("straight", "hook", "uppercut", "overhand")
STRAIGHTS = ("straight", "screwed-straight", "palm-heel")
REAR_STRAIGHTS = tuple(f"rear-{family}" for family in STRAIGHTS)
KICKS = ("round", "front", "side")


@dataclass(frozen=True, slots=True)
class Sign:
    """A measure beyond an edge, or what a coach says of the same."""

    code: str
    seen: str  #: and what it likely comes from, as a coach says it
    drill: str  #: code of a ladder
    measure: str | None = None
    low: bool = False  #: it is under the edge; else over it
    edge: float | None = None  #: where no school has one; without, only a school's own counts
    step: float = 1.0  #: how far beyond the edge is much, in the measure's unit
    strikes: tuple[str, ...] = ()
    remarks: tuple[str, ...] = ()

    def fits(self, code: str) -> bool:
        return not self.strikes or any(fits(code, one) for one in self.strikes)


#: what a factor of a trial, or an effort, asks for on purpose: no sign is read from it
ASKED = {
    "start weight": ("lead_load_contact_pct", "load_shift_pct"),
    "weight transfer": ("lead_load_contact_pct", "load_shift_pct", "lead_heel_pct", "lean_deg", "settle_ms"),
    "vertical": ("pelvis_rise_mm", "drop_mm"),
    "step": ("step_before_ms", "load_shift_pct", "pelvis_rise_mm"),
    "hip and foot turn": ("pivot_deg", "turn_done_pct", CHAIN),
    "stance": ("lead_load_contact_pct", "load_shift_pct", "pivot_deg", "lean_deg"),
    "hand start": ("pullback_mm",),
    "fist": ("turnover_late_pct",),
    "aim depth": ("push_index",),
    "round-kick style": ("pivot_deg",),
    "effort": ("effective_mass_pct", "push_index", "speed_held_pct"),
}

SIGNS = (
    Sign(
        "dips",
        "The hand dips before it sets off, which shows what comes.",
        "mirror",
        "drop_mm",
        False,
        20.0,
        20.0,
        PUNCHES,
        ("dipped",),
    ),
    Sign(
        "draws-back",
        "The hand is drawn back first: a wind-up shows what comes.",
        "mirror",
        "pullback_mm",
        False,
        20.0,
        20.0,
        PUNCHES,
        ("drew back",),
    ),
    Sign(
        "curves",
        "The path curves: most often the elbow flares.",
        "gate",
        "path_ratio",
        False,
        1.05,
        0.04,
        ("straight",),
        ("elbow out",),
    ),
    Sign(
        "sinks-home",
        "The hand sinks on its way home.",
        "gate",
        "return_drop_mm",
        False,
        70.0,
        40.0,
        ("straight",),
        ("low return",),
    ),
    Sign("shoulders-first", "The shoulders start before the hips.", "slow-parts", CHAIN, strikes=PUNCHES),
    Sign(
        "turn-late", "The fist lands before the turn is done.", "slow-parts", "turn_done_pct", True, 75.0, 15.0, PUNCHES
    ),
    Sign(
        "foot-still",
        "The rear foot stays as it is: a locked foot wears the knee.",
        "slow-parts",
        "pivot_deg",
        True,
        15.0,
        12.0,
        ("rear-straight",),
        ("foot stuck",),
    ),
    Sign(
        "turned-early",
        "The fist turns over early: most often the elbow goes out.",
        "slow-parts",
        "turnover_late_pct",
        True,
        20.0,
        10.0,
        ("straight",),
    ),
    Sign("locks", "The joint locks at the end.", "no-lock", strikes=("straight", "front", "side"), remarks=("locked",)),
    Sign(
        "arm-alone",
        "Speed with little weight behind it: the arm works alone.",
        "leg-drive",
        "effective_mass_pct",
        True,
        2.2,
        0.8,
        REAR_STRAIGHTS,
        ("arm only", "no trunk"),
    ),
    Sign(
        "slap",
        "A slap, not a push: it stops at the touch.",
        "aim-behind",
        "push_index",
        True,
        0.5,
        0.05,
        PUNCHES,
        ("stopped at touch",),
    ),
    Sign(
        "past-knee",
        "The head goes past the knee: it reaches instead of stepping.",
        "sinking-step",
        "lean_deg",
        False,
        14.0,
        6.0,
        PUNCHES,
        ("leaned", "reached"),
    ),
    Sign(
        "foot-early",
        "The foot lands first and the hand follows late.",
        "sinking-step",
        "step_before_ms",
        False,
        60.0,
        40.0,
        PUNCHES,
        ("stepped early", "two steps"),
    ),
    Sign(
        "rises",
        "The hips rise at contact: light where weight is wanted.",
        "sinking-step",
        "pelvis_rise_mm",
        False,
        30.0,
        20.0,
        STRAIGHTS,
        ("tall",),
    ),
    Sign(
        "in-front-of-heel",
        "The weight lands in front of the heel: it overshoots.",
        "transfer",
        "lead_heel_pct",
        True,
        None,
        10.0,
        PUNCHES,
    ),
    Sign(
        "stays-behind",
        "The weight stays behind: the shift stops midway.",
        "start-loaded",
        "load_shift_pct",
        True,
        None,
        8.0,
        PUNCHES,
    ),
    Sign(
        "little-over-lead",
        "Too little weight is over the lead foot: the shift stops midway.",
        "start-loaded",
        "lead_load_contact_pct",
        True,
        None,
        10.0,
        PUNCHES,
    ),
    Sign(
        "long-to-settle",
        "It takes long until the stance is steady again: it passes its target.",
        "transfer",
        "settle_ms",
        False,
        700.0,
        200.0,
        PUNCHES,
        ("over-turned",),
    ),
    Sign(
        "kick-fades",
        "The kick fades before it lands.",
        "kick-power",
        "speed_held_pct",
        True,
        85.0,
        6.0,
        KICKS,
        ("faded", "curled"),
    ),
    Sign(
        "foot-turns-little",
        "The support foot turns little: the hip slips.",
        "kick-form",
        "pivot_deg",
        True,
        60.0,
        25.0,
        ("round",),
        ("foot stuck", "hip under", "low knee"),
    ),
    Sign(
        "wrist-softens",
        "The wrist softens: the grip fades as they go by.",
        "grip",
        strikes=PUNCHES,
        remarks=("wrist soft",),
    ),
    Sign("rushed", "It is hurried: the parts run into each other.", "slow-parts", remarks=("rushed",)),
    Sign(
        "other-hand",
        "The other hand falls as the first one goes.",
        "mirror",
        strikes=PUNCHES,
        remarks=("hand dropped",),
    ),
)
