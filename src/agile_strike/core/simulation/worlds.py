"""Worlds drawn at random, each with its own families of what a method would take as given.

A guard that keeps one place, bounces, hardly moves, is put elsewhere, feints or walks; stamps that are firm, rounded,
faint, uneven, one too few or one too many; speed that climbs by one law or another; straps, sensors, bags and bodies. A
method that is good in some and not in others has taken one of them for the world.
"""

from dataclasses import dataclass, replace

import numpy as np

from agile_strike.core.recording import Participant
from agile_strike.core.simulation.plan import Evening, SetPlan
from agile_strike.core.simulation.student import KICK, Body, Technique
from agile_strike.core.simulation.unit import Mess
from agile_strike.core.simulation.wear import WORN, Stamps, WearMess
from agile_strike.core.target import GRAVITY_M_S2, Bag

GUARDS: dict[str, dict[str, float]] = {
    "sways": {"bounce_m": 0.012, "sway_m": 0.02, "tremor_m": 0.006},
    "bounces": {"bounce_m": 0.03, "sway_m": 0.015, "tremor_m": 0.006},
    "still": {"bounce_m": 0.001, "sway_m": 0.004, "tremor_m": 0.002},
    "elsewhere": {"bounce_m": 0.002, "sway_m": 0.006, "tremor_m": 0.003, "moves_m": 0.25},
    "restless": {"bounce_m": 0.01, "sway_m": 0.012, "tremor_m": 0.006, "moves_m": 0.12},
    "feints": {"bounce_m": 0.008, "sway_m": 0.012, "tremor_m": 0.004, "shadows_m": 0.25},
    "walks": {"bounce_m": 0.006, "sway_m": 0.01, "tremor_m": 0.004, "walks_m": 0.25},
}
STAMPS = {
    "firm": Stamps(),
    "rounded": Stamps(0.35, 0.035, 0.4, announced=False),
    "faint": Stamps(0.3, 0.015, 0.3),
    "one missed": Stamps(missed=True),
    "one more": Stamps(one_more=True),
}
#: power by which speed climbs, whether by a minimum-jerk step, and how long the way back takes
SHAPES: dict[str, tuple[float, bool, float]] = {
    "late": (1.6, False, 0.3),
    "early": (1.3, False, 0.24),
    "even": (0.8, True, 0.34),
    "slow back": (2.0, False, 0.45),
}
SENSORS: dict[str, dict[str, float]] = {
    "usual": {},
    "filtered": {"low_pass_hz": 120.0},
    "cheap": {"cross_axis_share": 0.01, "gyro_per_m_s2": 2e-5, "warming_rad_s": 0.004, "resolution_m_s2": 0.03},
    "losing": {"lost_share": 0.01},
    "slow": {"wrist_rate_hz": 400.0, "trunk_rate_hz": 100.0},
}
STRAPS = {"tight": (0.1, 55.0), "usual": (0.25, 28.0), "loose": (0.3, 14.0)}  # share of the jolt, hz
BAGS = {"usual": (16.0, 0.005), "soft": (24.0, 0.005), "hard": (11.0, 0.005), "badly weighed": (16.0, 0.03)}
LEATHER = {"springs back": 0.0, "tails off": 0.2}  # share of a push that comes back late
STUDENTS = {
    "adult": (72.0, 1.0),
    "heavy": (105.0, 1.1),
    "light": (52.0, 0.9),
    "child": (38.0, 0.6),
}  # kg, of the usual speed

_OF: dict[str, list[str]] = {
    "guard": list(GUARDS),
    "stamps": list(STAMPS),
    "shape": list(SHAPES),
    "sensor": list(SENSORS),
    "strap": list(STRAPS),
    "bag": list(BAGS),
    "student": list(STUDENTS),
}
FILLING = {"packed": 0.0, "water": 0.1}  # share of a bag's mass that moves inside it
FILLED = (0.75, 0.25)  # how often
FAMILIES = (*_OF, "leather", "filling")


@dataclass(frozen=True, slots=True)
class World:
    evening: Evening
    families: dict[str, str]  #: by FAMILIES


def drawn(rng: np.random.Generator) -> World:
    """A world, and an evening of 26 strikes in it with every unit on."""
    picked = {n: str(rng.choice(options)) for n, options in _OF.items()}
    mass, pace = STUDENTS[picked["student"]]
    climb, even, return_s = SHAPES[picked["shape"]]
    share, hz = STRAPS[picked["strap"]]
    contact_ms, mass_error = BAGS[picked["bag"]]
    usual = Technique(
        pullback_m=float(rng.uniform(0.0, 0.05)), drop_m=float(rng.uniform(0.0, 0.03)),
        climb=climb, even=even, return_s=return_s,
    )  # fmt: skip
    hook = replace(usual, bow_m=0.14, turnover_deg=40.0)
    sets = (
        SetPlan("rear-straight", "right_hand", "head", 8, 2.6, 6.5 * pace, contact_ms, technique=usual),
        SetPlan("lead-straight", "left_hand", "head", 6, 2.0, 6.0 * pace, contact_ms, technique=usual),
        SetPlan("lead-hook", "left_hand", "body", 6, 2.8, 6.2 * pace, contact_ms, technique=hook),
        SetPlan("rear-round", "right_foot", "low", 6, 5.0, 10.5 * pace, 1.4 * contact_ms, technique=KICK),
    )
    mess = WearMess(wobble_share=share, wobble_hz=hz, stamps=STAMPS[picked["stamps"]], **SENSORS[picked["sensor"]])  # type: ignore[arg-type]
    if rng.random() < 0.4:
        mess = replace(mess, full_scale_m_s2=32 * GRAVITY_M_S2)
    bag = Bag("swivel", float(rng.uniform(30, 65)), 1.15, 0.35, 0.28, chain_m=float(rng.uniform(0.35, 0.8)))
    picked["leather"] = str(rng.choice(list(LEATHER)))
    picked["filling"] = str(rng.choice(list(FILLING), p=FILLED))
    bag = replace(bag, filling=picked["filling"])  # type: ignore[arg-type]
    evening = Evening(
        bag, sets, Participant("01", mass, 1.75, 30.0, "orthodox", "right"), bumps=2, mess=Mess(), worn=WORN,
        mass_error_share=mass_error, wear_mess=mess, body=Body(mass, **GUARDS[picked["guard"]]),  # type: ignore[arg-type]
        tail_share=LEATHER[picked["leather"]], water_share=FILLING[picked["filling"]],
    )  # fmt: skip
    return World(evening, picked)
