"""What a drill moved: each student's step in a measure from the evening on in which the drill was taken up.

One student's step is that of the course of evenings (see `course`); students' steps are averaged alike, and the doubt
of the mean is the larger of what their own doubts and what their differences say, by a t of the students (the two-stage
analysis of summary measures; Matthews and others 1990). It says what went with the drill, not what the drill did.
"""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from agile_strike.core.weeks.course import Told, course
from agile_strike.core.weeks.evenings import Evening

WITHIN = dt.timedelta(days=42)  # before and after: longer ago much else has changed
NORMAL = 1.959964


@dataclass(frozen=True, slots=True)
class Moved:
    students: int  #: of whom it can be told
    change: Told | None  #: in the measure's unit, from before to after


def moved(taken_up: Sequence[tuple[Sequence[Evening], dt.date]]) -> Moved:
    """Of students who took a drill up, each with evenings and the day of the first on which it was drilled; that
    evening's strikes are the last of before."""
    steps: list[Told] = []
    for told, first in taken_up:
        near = [e for e in told if abs(e.on - first) <= WITHIN]
        marks = course(near, [first + dt.timedelta(days=1)]).marks
        steps += [m.step for m in marks if m.step is not None]
    if len(steps) < 2:
        return Moved(len(steps), steps[0] if steps else None)
    value = np.array([s.value for s in steps])
    own = np.array([(s.high - s.low) / (2.0 * NORMAL) for s in steps])
    n = len(steps)
    sd = float(np.sqrt(max(value.var(ddof=1) / n, (own**2).sum() / n**2)))
    reach = float(stdtrit(n - 1, 0.975)) * sd
    mean = float(value.mean())
    return Moved(n, Told(mean, mean - reach, mean + reach))
