"""What makes a comparison unfair from the start: it is refused, with the reason."""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.trial.blocks import Blocks

LEAST_BLOCKS = 2
MASS_CHANGE_SHARE = 0.03
#: what must be the same throughout: column -> what was found, and within what to compare
HELD = {
    "bag": ("another bag", "bag"),
    "mount": ("another mount", "mount"),
    "calibration": ("another calibration", "calibration"),
    "gloves": ("other gloves, and the measure moves with the glove,", "pair of gloves"),
}


def refused(
    levels: tuple[str, ...],
    held: dict[str, list[str]],
    body_mass_kg: NDArray[np.float64] | None,
    per_body_mass: bool,
    b: Blocks,
) -> str | None:
    if len(levels) < 2:
        return "there is only one level: a comparison needs two"
    for column, (what, within) in HELD.items():
        if len(set(held.get(column, []))) > 1:
            return f"{what} in part of it. Compare within one {within}"
    if body_mass_kg is not None and not per_body_mass and np.isfinite(body_mass_kg).any():
        if float(np.nanmax(body_mass_kg) / np.nanmin(body_mass_kg)) - 1.0 > MASS_CHANGE_SHARE:
            return "body mass changed by more than 3 %. Compare per body mass"
    for k in (0, 1):
        count = int((b.level == k).sum())
        if count < LEAST_BLOCKS:
            return f"{count} block{'' if count == 1 else 's'} of {levels[k]}: two of each level at the least"
    both = [set(b.level[b.session == i].tolist()) == {0, 1} for i in range(b.sessions)]
    return None if any(both) else "no evening holds both levels. Throw them on the same one"
