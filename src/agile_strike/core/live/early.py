"""How much wider a doubt must be while an evening goes on, by what was known when the figure was made.

A figure that is shown at once rests on a state learnt from few strikes, and on samples up to now; what that costs is
learnt from such figures against those of the settled evening and against the truth, measure by measure
(`simulation.fit_early`, in worlds drawn at random), and looked at in others. As all doubts here it is widened and never
narrowed. What would be too wide to be of use waits for the settled evening.
"""

from collections.abc import Mapping

from agile_strike.core.measured import Measured
from agile_strike.core.measures.doubts import too_wide

SEEN = (0, 4, 8, 16)  #: strikes that a state rests on, from which each column of the table counts
UNKNOWN = 1.6  # of what no world shows, as answers to calls
MOST = 3.0  # beyond, a figure says less than the word that it comes after the set

#: by measure, for each of `SEEN`
WIDER: dict[str, tuple[float, float, float, float]] = {}


def wider(measure: str, strikes: int) -> float:
    """By how much the doubt of a measure must be wider where the state rests on so many strikes."""
    column = max(k for k, least in enumerate(SEEN) if strikes >= least)
    return WIDER[measure][column] if measure in WIDER else UNKNOWN


def shown(measures: Mapping[str, Measured], strikes: int) -> dict[str, Measured]:
    """Those that can be shown at once, with doubts that hold."""
    out = {n: Measured(m.value, wider(n, strikes) * m.sd) for n, m in measures.items() if wider(n, strikes) <= MOST}
    return {n: m for n, m in out.items() if n not in too_wide(out)}
