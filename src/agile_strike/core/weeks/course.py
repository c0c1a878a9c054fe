"""The course of evenings: a line, a step and a change of slope at a mark, each with its doubt; the session is the unit.

Evening means scatter about their line by more than their strikes explain; that scatter is found by restricted
likelihood (Patterson and Thompson 1971), the line by weighted least squares, intervals by a t of the evenings left over
once the line is drawn.
"""

import datetime as dt
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize_scalar
from scipy.special import stdtrit

from agile_strike.core.weeks.evenings import Evening

Floats = NDArray[np.float64]

LEAST_EVENINGS = 3  # for a line with any doubt left
LEAST_A_SIDE = 2  # of a mark, for a step
SLOPE_A_SIDE = 6  # of a mark, for a slope of its own on either side
DAYS_A_WEEK = 7.0
NOTHING = 1e-12


@dataclass(frozen=True, slots=True)
class Told:
    """An estimate with its 95 % interval."""

    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class AtMark:
    """What happened at one mark, the others held."""

    on: dt.date
    step: Told | None  #: in the measure's unit
    slope_change: Told | None  #: a week
    why_not: str | None


@dataclass(frozen=True, slots=True)
class Course:
    slope: Told | None  #: a week, before the first mark where there are any
    slope_last: Told | None  #: a week, after the last mark that has a slope of its own
    day_sd: float | None  #: how evenings scatter about the line beyond what their strikes explain
    mdc: float | None  #: two evenings have to differ by more than this to differ at all
    line: tuple[tuple[dt.date, float], ...]  #: fitted, evening by evening
    marks: tuple[AtMark, ...]
    band: tuple[float, float] | None  #: about the mean of the first evenings: what chance alone gives


def course(told: list[Evening], marks: list[dt.date]) -> Course:
    """Fit through evenings in order; marks are days from which on something was otherwise."""
    days = np.array([e.on.toordinal() for e in told], dtype=np.float64)
    usable = [(m, _sides(days, m, marks)) for m in sorted(set(marks))]
    asked_for = LEAST_EVENINGS + sum(min(sides) >= LEAST_A_SIDE for _, sides in usable) + 1
    stepped = [m for m, (before, after) in usable if min(before, after) >= LEAST_A_SIDE]
    if len(told) < LEAST_EVENINGS + len(stepped) + 1:
        stepped = []
    if len(told) < LEAST_EVENINGS:
        return Course(None, None, None, None, (), _unfit(usable, {}, {}, len(told), asked_for), None)
    bent = [m for m in stepped if min(_sides(days, m, marks)) >= SLOPE_A_SIDE]
    sloped = len(told) >= LEAST_EVENINGS + len(stepped) + len(bent) + 1
    columns = [np.ones(len(days))]
    names: list[tuple[str, dt.date | None]] = [("level", None)]
    week = (days - days[0]) / DAYS_A_WEEK
    if sloped:
        columns.append(week - week.mean())
        names.append(("slope", None))
    for m in stepped:
        columns.append((days >= m.toordinal()).astype(np.float64))
        names.append(("step", m))
    for m in bent:
        columns.append(np.maximum(0.0, (days - m.toordinal()) / DAYS_A_WEEK))
        names.append(("bend", m))
    design = np.column_stack(columns)
    y = np.array([e.mean for e in told])
    noise = np.array([e.var for e in told])
    beta, covariance, day_var, df = _fit(design, y, noise)
    reach = float(stdtrit(df, 0.975))

    def one(weights: Floats) -> Told:
        value, sd = float(weights @ beta), max(float(weights @ covariance @ weights), 0.0) ** 0.5
        return Told(value, value - reach * sd, value + reach * sd)

    unit = np.eye(len(names))
    steps = {m: one(unit[i]) for i, (what, m) in enumerate(names) if what == "step" and m}
    bends = {m: one(unit[i]) for i, (what, m) in enumerate(names) if what == "bend" and m}
    slope = one(unit[1]) if sloped else None
    bend_places = [i for i, (what, _) in enumerate(names) if what == "bend"]
    last = one(unit[1] + unit[bend_places].sum(axis=0)) if sloped and bend_places else None
    spread = float(np.sqrt(day_var + noise.mean()))
    mdc = 1.96 * 2**0.5 * spread
    first = [e.mean for e in told if not marks or e.on < min(marks)] or [told[0].mean]
    middle = float(np.mean(first))
    band = 1.96 * spread * (1.0 + 1.0 / len(first)) ** 0.5
    fitted = design @ beta
    return Course(
        slope,
        last,
        float(np.sqrt(day_var)),
        mdc,
        tuple((e.on, float(f)) for e, f in zip(told, fitted, strict=True)),
        _unfit(usable, steps, bends, len(told), asked_for),
        (middle - band, middle + band),
    )


def _sides(days: Floats, mark: dt.date, marks: list[dt.date]) -> tuple[int, int]:
    """Evenings between this mark and its neighbours on either side."""
    at = mark.toordinal()
    earlier = max((m.toordinal() for m in marks if m < mark), default=0)
    later = min((m.toordinal() for m in marks if m > mark), default=10**9)
    return int(((days >= earlier) & (days < at)).sum()), int(((days >= at) & (days < later)).sum())


def _unfit(
    usable: list[tuple[dt.date, tuple[int, int]]],
    steps: dict[dt.date, Told],
    bends: dict[dt.date, Told],
    evenings: int,
    asked_for: int,
) -> tuple[AtMark, ...]:
    out = []
    for m, (before, after) in usable:
        why = None
        if m not in steps and min(before, after) >= LEAST_A_SIDE:
            why = f"{evenings} evenings in all: a step that can be told from chance needs {asked_for}"
        elif m not in steps:
            word = "evening" if before == 1 else "evenings"
            why = f"{before} {word} before it and {after} after: two on each side at the least"
        out.append(AtMark(m, steps.get(m), bends.get(m), why))
    return tuple(out)


def _fit(design: Floats, y: Floats, noise: Floats) -> tuple[Floats, Floats, float, int]:
    """Coefficients, their covariance, the variance of evenings about the line, degrees of freedom."""
    df = len(y) - design.shape[1]
    scale = max(float(np.var(y)), NOTHING)

    def parts(day_var: float) -> tuple[Floats, Floats, float]:
        w = 1.0 / (day_var + noise + NOTHING * scale)
        normal = design.T @ (w[:, None] * design)
        beta: Floats = np.asarray(np.linalg.solve(normal, design.T @ (w * y)), dtype=np.float64)
        rest = y - design @ beta
        minus_log = float(-np.log(w).sum() + np.linalg.slogdet(normal)[1] + (w * rest**2).sum())
        return beta, normal, minus_log

    found = minimize_scalar(lambda v: parts(v)[2], bounds=(0.0, 4.0 * scale), method="bounded")
    day_var = float(found.x) if parts(float(found.x))[2] < parts(0.0)[2] else 0.0
    beta, normal, _ = parts(day_var)
    w = 1.0 / (day_var + noise + NOTHING * scale)
    # the scatter that is left says whether the weights are too sure of themselves; they are never made surer
    left = float((w * (y - design @ beta) ** 2).sum()) / df
    return beta, np.linalg.inv(normal) * max(left, 1.0), day_var, df
