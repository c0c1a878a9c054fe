"""What a week asks of each limb: strikes, how many of them were hard for this student, and their impulse together.

That shares of such sums foretell injuries is doubted (Impellizzeri et al. 2020): they are told, not judged.
"""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.weeks.balance import WEEKS_BEFORE

Floats = NDArray[np.float64]

HARD = 0.75  # quantile of a limb's own earlier strikes: what lies above it is hard for this student
LEAST_EARLIER = 20  # strikes of a limb, before anything is called hard


@dataclass(frozen=True, slots=True)
class LimbLoad:
    limb: str
    strikes: int
    usual_strikes: float
    measured: int  #: of the week's strikes, those whose impulse a bag measured
    impulse_n_s: float  #: of those together
    usual_impulse_n_s: float
    hard: int | None  #: none: too few earlier strikes to say what is hard
    usual_hard: float | None


def by_limb(on: Sequence[dt.date], limb: Sequence[str], impulse_n_s: Floats, monday: dt.date) -> list[LimbLoad]:
    """Of every strike (n,), its day, limb and impulse (NaN where no bag measured it): the week of that Monday against
    the mean of up to three weeks before it in which anything was thrown."""
    week = np.array([(d - monday).days // 7 for d in on], dtype=np.int64)
    limbs = np.array(limb)
    before = sorted({int(w) for w in week if w < 0})[-WEEKS_BEFORE:]
    here, then = week == 0, np.isin(week, before)
    times = max(len(before), 1)
    out = []
    for name in sorted({*limbs[here].tolist(), *limbs[then].tolist()} - {"unknown", ""}):
        own = limbs == name
        known = impulse_n_s[own & (week < 0) & np.isfinite(impulse_n_s)]
        edge = float(np.quantile(known, HARD)) if len(known) >= LEAST_EARLIER else np.nan
        hard = [int((impulse_n_s[own & part] > edge).sum()) for part in (here, then)]
        out.append(
            LimbLoad(
                limb=name,
                strikes=int((own & here).sum()),
                usual_strikes=float((own & then).sum()) / times,
                measured=int(np.isfinite(impulse_n_s[own & here]).sum()),
                impulse_n_s=float(np.nansum(impulse_n_s[own & here])),
                usual_impulse_n_s=float(np.nansum(impulse_n_s[own & then])) / times,
                hard=hard[0] if np.isfinite(edge) else None,
                usual_hard=hard[1] / times if np.isfinite(edge) else None,
            )
        )
    return out
