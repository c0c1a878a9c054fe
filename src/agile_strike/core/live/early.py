"""How much wider a doubt must be while an evening goes on, by what was known when the figure was made.

A figure that is shown at once rests on a state learnt from few strikes, and on samples up to now; what that costs is
learnt from such figures against those of the settled evening and against the truth, measure by measure
(`simulation.fit_early`, in worlds drawn at random), and looked at in others. As all doubts here it is widened and never
narrowed. What would be too wide to be of use waits for the settled evening.
"""

from collections.abc import Mapping

from agile_strike.core.measured import Measured
from agile_strike.core.measures.doubts import too_wide
from agile_strike.core.measures.of_bag import BAG_NUMERIC

Row = tuple[float, float, float, float]

SEEN = (0, 4, 8, 16)  #: strikes that a state rests on, from which each column of a row counts
AFTER = float("inf")  # the set: nothing of it is told at once
MOST = 3.0  # beyond, a figure says less than the word that it comes after the set

#: what most measures need: the bag's unit is known after four seconds of hanging, the student's after some strikes
OF_BAG: Row = (1.0, 1.0, 1.0, 1.0)
OF_STUDENT: Row = (AFTER, 1.0, 1.0, 1.0)
#: what no world shows, as answers to calls
UNKNOWN: Row = (1.6, 1.6, 1.6, 1.6)
NOT_IN_WORLDS = ("reaction_ms", "response_ms", "step_before_ms")
#: what others need: in 40 worlds of which none is among those of the settled doubts
WIDER: dict[str, Row] = {
    "bag_energy_j": (1.2, 1.2, 1.0, 1.0),
    "contact_ms": (AFTER, AFTER, 1.0, 1.0),
    "gap_ms": (1.2, 1.1, 1.0, 1.0),
    "hand_before_ms": (AFTER, 1.0, 1.3, 1.0),
    "impulse_n_s": (1.4, 1.3, 1.0, 1.0),
    "lead_heel_pct": (AFTER, 1.0, 1.0, 1.3),
    "lead_load_contact_pct": (AFTER, 1.0, 1.0, 1.1),
    "pelvis_before_ms": (AFTER, 1.0, 1.2, 1.0),
    "pullback_mm": (AFTER, 1.1, 1.0, 1.0),
    "push_bw_s": (AFTER, 1.0, 1.2, 1.3),
    "push_index": (2.6, 2.7, 1.0, 1.0),
    "separation_deg": (AFTER, 1.0, 1.9, 1.1),
    "speed_held_pct": (AFTER, 1.0, 1.2, 1.2),
    "tell_ms": (AFTER, 1.8, 1.5, 1.2),
    "turnover_late_pct": (AFTER, 1.1, 1.1, 1.0),
}


def wider(measure: str, strikes: int) -> float:
    """By how much the doubt of a measure must be wider where the state rests on so many strikes."""
    column = max(k for k, least in enumerate(SEEN) if strikes >= least)
    usual = UNKNOWN if measure in NOT_IN_WORLDS else OF_BAG if measure in BAG_NUMERIC else OF_STUDENT
    return WIDER.get(measure, usual)[column]


def shown(measures: Mapping[str, Measured], strikes: int) -> dict[str, Measured]:
    """Those that can be shown at once, with doubts that hold."""
    known = {n: wider(n, strikes) for n in measures}
    out = {n: Measured(m.value, known[n] * m.sd) for n, m in measures.items() if known[n] <= MOST}
    wide = too_wide(out)
    return {n: m for n, m in out.items() if n not in wide}
