"""The tell: what a limb does before it sets off, and since when.

A tell is a quick movement that leads into the launch, not the guard's own wandering: it begins where the quick way back
or down does. A figure on the edge of its window is none.
"""

from itertools import product

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from agile_strike.core.measured import Measured
from agile_strike.core.student.grid import STEP_S
from agile_strike.core.student.stretch import Stretches

Floats = NDArray[np.float64]

TELL_S = 0.4
TELL_M = 0.015
TELL_SD_S, TELL_SD_SHARE, MOST_TELL_SD_S = 0.008, 0.5, 0.02  # speed, in doubts; beyond, a top is too broad
LEADS_S, QUICK_S = 0.12, 0.2  # of launch, in which a tell ends; before that, in which it is quickest
QUICK_SHARE, BEGUN_SHARE = 0.15, 0.05  # of its quickest, at which it begins; of its way
EVEN = 5  # steps
BEFORE, FEWEST_BEFORE = 30, 8  # steps before it begins, by which is told how the guard went on its own
SETTLES = 3
EDGE = 5  # steps of the window in which no tell is seen to begin
GUARD_BETWEEN_S = 0.12  # a limb that has been back so long can show a tell
#: a wrong speed of 1 m/s moves a place read over the tell's time by so much, along the strike and in height
ALONG_M_PER_M_S, FALL_M_PER_M_S = 0.16, 0.12
PLACE_SD_M = 0.004  # where a guard was, of units that nobody calibrated
SPEED_FLOOR_M_S, BEFORE_LAUNCH = 0.015, 0.3


def tell(s: Stretches, i: int, launch: int, along: Floats, after_s: float, sensor_sd: float) -> dict[str, Measured]:
    """Pull-back, drop and, where one of them can be seen to begin, the tell of strike i, which set off at `launch` on
    the grid. `after_s` is the end of the limb's last strike; `sensor_sd`, m/s, what sensors may have made of speed."""
    t, p = s.times_s, s.place_m[i]
    first = launch - round(TELL_S / STEP_S)
    if first < s.first[i] or after_s + GUARD_BETWEEN_S > t[first]:
        return {}
    x, z = p[first : launch + 1] @ along, p[first : launch + 1, 2]
    pulled, fell, start = began(x, z)
    along_sd, rise_sd = (float(np.hypot(sd[i], SPEED_FLOOR_M_S)) for sd in (s.velocity_sd_m_s, s.rise_sd_m_s))
    sensor_sd *= BEFORE_LAUNCH  # what sensors make of a speed that has not climbed yet
    place_sd = 1e3 * float(np.hypot(PLACE_SD_M, ALONG_M_PER_M_S * np.hypot(along_sd, sensor_sd)))
    fall_sd = 1e3 * float(np.hypot(0.0012, FALL_M_PER_M_S * np.hypot(rise_sd, sensor_sd)))
    out = {"pullback_mm": Measured(1e3 * pulled, place_sd), "drop_mm": Measured(1e3 * fell, fall_sd)}
    if start is None or start <= EDGE:
        return out  # what began on the window's edge began before it, if at all
    # a top is broad where the guard sways: how far would the instant move with the speed that may be wrong there?
    since = TELL_SD_SHARE * (t[first : launch + 1] - t[launch])
    early, early_rise = (float(np.hypot(sd[i], SPEED_FLOOR_M_S)) for sd in (s.early_sd_m_s, s.early_rise_sd_m_s))
    ways = [(_pulled(x + a * early * since), _fell(z + a * early_rise * since)) for a in (-1.0, 0.0, 1.0)]
    others = [_earlier(ways[a][0][1], ways[b][1][1]) for a, b in product(range(3), repeat=2)]
    apart = np.array([STEP_S * (k - start) for k in others if k is not None])
    sd = float(np.hypot(TELL_SD_S, np.sqrt(np.mean(apart**2))))
    own = _earlier(_quick(x, own=True), _quick(z, own=True))
    if own is not None:  # where both ways of looking see it begin at once, no wrong speed moved it
        sd = min(sd, float(np.hypot(TELL_SD_S, STEP_S * (own - start))))
    if sd <= MOST_TELL_SD_S:
        out["tell_ms"] = Measured(1e3 * (launch - first - start) * STEP_S, 1e3 * sd)
    return out


def told(measures: dict[str, Measured]) -> bool:
    """The limb drew back or dipped far enough before it set off to be seen."""
    return any(n in measures and measures[n].value > 1e3 * TELL_M for n in ("pullback_mm", "drop_mm"))


def began(x: Floats, z: Floats) -> tuple[float, float, int | None]:
    """Pull-back and drop (m) over places along the strike and heights (n,), and the index at which either began."""
    (pulled, back), (fell, down) = _pulled(x), _fell(z)
    return pulled, fell, _earlier(back, down)


def _pulled(x: Floats) -> tuple[float, int | None]:
    return float((np.maximum.accumulate(x) - x).max()), _quick(x)


def _fell(z: Floats) -> tuple[float, int | None]:
    return float(max(z[0] - z.min(), 0.0)), _quick(z)


def _quick(x: Floats, own: bool = False) -> int | None:
    """Where the quick way down to the lowest place before launch (n,) began: where a twentieth of it was gone. None
    where that way is short: a guard's own wandering is slow, and stops and turns. `own`: against how the guard went
    just before, in which a speed that is wrong all along drops out."""
    leads = round(LEADS_S / STEP_S)
    low = len(x) - leads + int(np.argmin(x[-leads:]))
    down = -np.diff(x[: low + 1])
    if len(down) < 2:
        return None
    even = uniform_filter1d(down, EVEN, mode="nearest")
    quickest = low - 1 - int(np.argmax(even[::-1][: round(QUICK_S / STEP_S)]))
    usual = float(even[: quickest + 1].min()) if own else 0.0
    first = 0
    for _ in range(SETTLES if own else 1):
        slow = np.flatnonzero(even[: quickest + 1] - usual < QUICK_SHARE * (even[quickest] - usual))
        first = int(slow[-1]) + 1 if len(slow) else 0
        if own and first < FEWEST_BEFORE:
            return None
        if own:
            usual = float(even[max(0, first - BEFORE) : first].mean())
    gone = np.cumsum(down[first:low] - usual)
    if not len(gone) or gone[-1] <= TELL_M:
        return None
    if first == 0:
        return 0  # it was on its way before the window
    return first + 1 + int(np.flatnonzero(gone >= BEGUN_SHARE * gone[-1])[0])


def _earlier(a: int | None, b: int | None) -> int | None:
    return min((k for k in (a, b) if k is not None), default=None)
