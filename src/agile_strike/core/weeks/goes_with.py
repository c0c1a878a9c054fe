"""What goes with force, within one student and one strike: which measures of the body move with impulse.

Strike by strike: each strike against the mean of its own set, so that neither a level of a trial, nor a bag, nor a good
evening makes a tie. All measures at once (partial), since they move together; each measure's own noise taken off the
squares that it swells, which else would thin its tie and lend it to its neighbours (errors in variables; Fuller 1987,
ch. 2.2), with a sandwich over sets (Liang and Zeger 1986). Which ties are told is held to one false one in twenty
pages, not in twenty measures (Holm 1979); the size that is told is shrunk (James and Stein 1961, its positive part).

Evening by evening: means of evenings, one measure at a time, since there are few evenings.

It goes with, it does not cause: only a trial can tell that.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtr, stdtrit

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

LEAST_STRIKES = 60
LEAST_SETS = 12
A_MEASURE = 12  # strikes for each measure that is asked
LEAST_EVENINGS = 5
THERE = 0.8  # of the strikes: a measure that is rarer would throw the others' away
LEAST_RELIABLE = 0.4  # of a measure's spread within sets, the part that is no noise
CLAIMED = 0.05  # of pages without any tie, on how many one is told
PER_CENT = 100.0

#: what of the body is asked, from the floor up, and what would test it: a factor, its level with less and with more
ASKED: dict[str, tuple[str, str, str]] = {
    "load_shift_pct": ("weight transfer", "stay centred", "full shift onto the lead heel"),
    "lead_heel_pct": ("weight transfer", "stay centred", "full shift onto the lead heel"),
    "push_bw_s": ("vertical", "level", "lift through the legs"),
    "pivot_deg": ("hip and foot turn", "no turn", "full turn"),
    "turn_deg": ("hip and foot turn", "small hip thrust", "full turn"),
    "turn_done_pct": ("hip and foot turn", "small hip thrust", "full turn"),
    "pelvis_peak_deg_s": ("hip and foot turn", "small hip thrust", "full turn"),
    "torso_peak_deg_s": ("body tension", "loose until contact", "opened then closed"),
    "lean_deg": ("weight transfer", "stay centred", "drive and lean through"),
}


@dataclass(frozen=True, slots=True)
class Range:
    value: float
    low: float  #: 95 %
    high: float


@dataclass(frozen=True, slots=True)
class Tie:
    """A measure against impulse."""

    measure: str
    partial: Range  #: per cent of impulse for one usual spread more of the measure, the others held
    shrunk: float  #: the same, as it is best told
    goes: bool  #: beyond doubt, among all that were asked
    spread: float  #: usual spread within a set, in the measure's unit, without its noise
    evenings: Range | None  #: between evenings, alone: per cent for one spread of evening means
    heavy: Range  #: mean in the heaviest third of each set
    light: Range  #: in the lightest


@dataclass(frozen=True, slots=True)
class GoesWith:
    ties: tuple[Tie, ...]  #: in the order that they were given
    left_out: dict[str, str]  #: measure -> why
    strikes: int
    sets: int
    evenings: int
    refused: str | None = None


def goes_with(
    impulse: Floats, set_of: Ints, evening: Ints, measures: dict[str, Floats], noise: dict[str, Floats]
) -> GoesWith:
    """Impulse (n,), N s; set and evening of each strike (n,); each measure (n,) with its own sd strike by strike (n,),
    NaN where it is not there."""
    here = np.isfinite(impulse) & (impulse > 0.0)
    left_out: dict[str, str] = {}
    chosen = []
    for name, value in measures.items():
        share = float(np.isfinite(value[here]).mean()) if here.any() else 0.0
        if share < THERE:
            left_out[name] = f"there in {PER_CENT * share:.0f} % of the strikes"
        else:
            chosen.append(name)
    while True:
        use = here.copy()
        for n in chosen:
            use &= np.isfinite(measures[n]) & np.isfinite(noise[n])
        use = _in_sets(use, set_of)
        counts = (int(use.sum()), len(np.unique(set_of[use])), len(np.unique(evening[use])))
        if not chosen:
            return _refuse(left_out, counts, "no measure of the body is there in most strikes")
        if counts[0] < max(LEAST_STRIKES, A_MEASURE * len(chosen)) or counts[1] < LEAST_SETS:
            wanted = max(LEAST_STRIKES, A_MEASURE * len(chosen))
            return _refuse(
                left_out, counts, f"it takes {wanted} strikes with all of them, in {LEAST_SETS} sets or more"
            )
        x = np.column_stack([measures[n][use] for n in chosen])
        u = np.column_stack([noise[n][use] for n in chosen]) ** 2
        inner, within_u = _centred(x, set_of[use]), u * _kept(set_of[use])[:, None]
        total = (inner**2).sum(axis=0)
        reliable = 1.0 - within_u.sum(axis=0) / np.maximum(total, 1e-30)
        if reliable.min() >= LEAST_RELIABLE:
            break
        worst = int(np.argmin(reliable))
        left_out[chosen.pop(worst)] = "its noise hides how it differs from strike to strike"
    y = PER_CENT * _centred(np.log(impulse[use])[:, None], set_of[use])[:, 0]
    spread = np.sqrt(total * reliable / (counts[0] - counts[1]))
    beta, sd, df, cov = _partial(y, inner / spread, within_u / spread**2, set_of[use])
    reach = float(stdtrit(df, 0.975))
    goes = _holm(2.0 * stdtr(df, -np.abs(beta) / sd))
    thin = _shrink(beta, cov)
    heavy, light = _thirds(impulse[use], inner + x.mean(axis=0), set_of[use])
    ties = tuple(
        Tie(
            name,
            Range(float(beta[k]), float(beta[k] - reach * sd[k]), float(beta[k] + reach * sd[k])),
            float(thin * beta[k]),
            bool(goes[k]),
            float(spread[k]),
            _between(np.log(impulse[use]), x[:, k], evening[use]),
            heavy[k],
            light[k],
        )
        for k, name in enumerate(chosen)
    )
    return GoesWith(ties, left_out, *counts)


def _refuse(left_out: dict[str, str], counts: tuple[int, int, int], why: str) -> GoesWith:
    return GoesWith((), left_out, *counts, refused=why)


def _in_sets(use: NDArray[np.bool_], set_of: Ints) -> NDArray[np.bool_]:
    """Without strikes that stand alone in their set."""
    _, place = np.unique(set_of, return_inverse=True)
    count = np.bincount(place, weights=use)
    out: NDArray[np.bool_] = use & (count[place] >= 2)
    return out


def _centred(x: Floats, set_of: Ints) -> Floats:
    """Each row against the mean of its set."""
    _, place = np.unique(set_of, return_inverse=True)
    count = np.bincount(place)
    out = np.empty_like(x)
    for j in range(x.shape[1]):
        out[:, j] = x[:, j] - (np.bincount(place, x[:, j]) / count)[place]
    return out


def _kept(set_of: Ints) -> Floats:
    """The part of a strike's own noise that is left once its set's mean is taken off."""
    _, place, count = np.unique(set_of, return_inverse=True, return_counts=True)
    out: Floats = 1.0 - 1.0 / count[place]
    return out


def _partial(y: Floats, x: Floats, u: Floats, set_of: Ints) -> tuple[Floats, Floats, float, Floats]:
    """Slopes, their sd, the degrees of freedom, and their covariance."""
    _, place = np.unique(set_of, return_inverse=True)
    groups = int(place.max()) + 1
    a = x.T @ x - np.diag(u.sum(axis=0))
    beta = np.asarray(np.linalg.solve(a, x.T @ y), dtype=np.float64)
    # a sandwich's small-sample lean is taken off set by set, by the leverage that each has (as CR2; Bell and
    # McCaffrey 2002), here in its first order
    scores = x * (y - x @ beta)[:, None] + u * beta
    inverse = np.linalg.inv(a)
    lever = np.einsum("ij,jk,ik->i", x, np.linalg.inv(x.T @ x), x)
    held = np.bincount(place, lever, groups)
    sums = [np.bincount(place, scores[:, j], groups) for j in range(x.shape[1])]
    by_set: Floats = np.column_stack(sums) / np.sqrt(np.maximum(1.0 - held, 0.2))[:, None]
    cov: Floats = inverse @ (by_set.T @ by_set) @ inverse
    return beta, np.sqrt(np.diag(cov)), groups - 1.0, cov


def _holm(p: Floats) -> NDArray[np.bool_]:
    """Which of these are told, so that no false one is in 95 of 100 pages."""
    order = np.argsort(p)
    told = np.zeros(len(p), dtype=bool)
    for rank, k in enumerate(order):
        if p[k] > CLAIMED / (len(p) - rank):
            break
        told[k] = True
    return told


def _shrink(beta: Floats, cov: Floats) -> float:
    """By how much all of them together are likely too large."""
    if len(beta) < 3:
        return 1.0
    size = float(beta @ np.linalg.solve(cov, beta))
    return max(0.0, 1.0 - (len(beta) - 2.0) / max(size, 1e-12))


def _between(log: Floats, x: Floats, evening: Ints) -> Range | None:
    """The tie between evening means; None where there are too few of them."""
    _, place, count = np.unique(evening, return_inverse=True, return_counts=True)
    if len(count) < LEAST_EVENINGS:
        return None
    y, v = (np.bincount(place, s) / count for s in (log, x))
    y, v = PER_CENT * (y - y.mean()), v - v.mean()
    spread = float(np.sqrt((v**2).sum() / (len(v) - 1)))
    if spread <= 0.0:
        return None
    slope = float(v @ y / (v @ v))
    df = len(v) - 2
    sd = float(np.sqrt(((y - slope * v) ** 2).sum() / df / (v @ v)))
    reach = float(stdtrit(df, 0.975)) * sd
    return Range(slope * spread, (slope - reach) * spread, (slope + reach) * spread)


def _thirds(impulse: Floats, x: Floats, set_of: Ints) -> tuple[list[Range], list[Range]]:
    """Each measure's mean in the heaviest and in the lightest third of every set, with the interval over strikes; x is
    against its set's mean, so that sets that differ among themselves widen nothing."""
    heavy = np.zeros(len(impulse), dtype=bool)
    light = np.zeros(len(impulse), dtype=bool)
    for key in np.unique(set_of):
        own = np.flatnonzero(set_of == key)
        ranked = own[np.argsort(impulse[own])]
        third = max(1, len(own) // 3)
        light[ranked[:third]], heavy[ranked[-third:]] = True, True
    return _means(x[heavy]), _means(x[light])


def _means(x: Floats) -> list[Range]:
    mean = x.mean(axis=0)
    reach = float(stdtrit(max(len(x) - 1, 1), 0.975)) * x.std(axis=0, ddof=1) / np.sqrt(len(x))
    return [Range(float(m), float(m - r), float(m + r)) for m, r in zip(mean, reach, strict=True)]
