"""Names learnt from labelled courses, and how far they can be trusted on a student who was not among them.

A linear discriminant with a shrunk covariance (Ledoit and Wolf 2004; scikit-learn's): a gym has tens of strikes of a
kind, not thousands. How sure it is is learnt from students who are left out in turn, and so is how strange a course may
be: what was never labelled must not be called by the nearest name.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from sklearn.pipeline import Pipeline

Floats = NDArray[np.float64]

LEAST_STRIKES, LEAST_STUDENTS = 10, 2  # of a name, before it is ever suggested
MOST_FOLDS = 8
WANTED = 0.9  # of what is said, that must be right on students left out
STRANGE_PCT = 98.5  # of courses of a known name lie nearer to it than this
UNSURE = ""


@dataclass(frozen=True, slots=True)
class Courses:
    """Strikes of one kind of limb: their courses (n, d), names (n,) and who threw them (n,)."""

    figures: Floats
    names: Sequence[str]
    who: Sequence[int]

    def part(self, rows: NDArray[np.int64]) -> "Courses":
        return Courses(self.figures[rows], [self.names[i] for i in rows], [self.who[i] for i in rows])


@dataclass(frozen=True, slots=True)
class HeldOut:
    """What was said of strikes of students who were left out: names in order, and how often each was called what."""

    names: tuple[str, ...]
    table: NDArray[np.int64]  #: (k, k + 1): of each name, called by each; the last column: unsure
    students: int

    @property
    def said(self) -> float:
        """Share of strikes that got a name."""
        return float(self.table[:, :-1].sum() / max(self.table.sum(), 1))

    @property
    def right(self) -> float:
        """Share of those whose name was right."""
        return float(np.trace(self.table) / max(self.table[:, :-1].sum(), 1))


@dataclass(frozen=True, slots=True)
class Learnt:
    """What one kind of limb's names are told by."""

    fitted: "_Fitted"
    least: float  #: share of belief from which a name is said
    farthest: Floats  #: (2,) of a course from its name's middle, by the spread within names
    held_out: HeldOut

    def say(self, figures: Floats) -> list[tuple[str, float]]:
        """A name and how sure it is, for each of n courses (n, d); no name where it is unsure or unlike any known."""
        return [
            (name if sure >= self.least and bool((far <= self.farthest).all()) else UNSURE, sure)
            for name, sure, far in zip(*self.fitted.believed(figures), strict=True)
        ]


def learn(courses: Courses) -> Learnt | None:
    """Names from labelled strikes; None where too few names have been thrown often enough, by students enough."""
    known = _enough(courses)
    if known is None:
        return None
    names = np.array(known.names)
    said, sure, far = _left_out(known)
    right = said == names
    if not right.any():
        return None
    farthest = np.percentile(far[right], STRANGE_PCT, axis=0)
    near = (far <= farthest).all(axis=1)
    least = _least(sure[near], right[near])
    if least is None:
        return None
    kept = (sure >= least) & near
    order = tuple(sorted(set(known.names)))
    table = np.zeros((len(order), len(order) + 1), np.int64)
    for truth, called, told in zip(names, said, kept, strict=True):
        table[order.index(truth), order.index(called) if told else -1] += 1
    return Learnt(_fitted(known), least, farthest, HeldOut(order, table, len(set(known.who))))


def _enough(courses: Courses) -> Courses | None:
    """Strikes of names that are known well enough, where there are two or more of those."""
    names, who = np.array(courses.names), np.array(courses.who)
    well = [
        n for n in sorted(set(courses.names))
        if (names == n).sum() >= LEAST_STRIKES and len(set(who[names == n])) >= LEAST_STUDENTS
    ]  # fmt: skip
    return courses.part(np.flatnonzero(np.isin(names, well))) if len(well) >= 2 else None


@dataclass(frozen=True, slots=True)
class _Fitted:
    """A discriminant, and the spread of courses about the middle of their own name."""

    model: "Pipeline"
    middles: Floats  #: (k, d) of names, scaled
    whiten: Floats  #: (d, d): within it courses of one name are spread by one in each direction

    def believed(self, figures: Floats) -> tuple[list[str], Floats, Floats]:
        """The likeliest name of each course, the belief in it, and how far it is from that name's middle (n, 2): in all
        directions, since a strange course may differ in one that tells no known names apart, and in those that do."""
        discriminant, share = self.model[-1], self.model.predict_proba(figures)
        best = share.argmax(axis=1)
        off = (self.model[:-1].transform(figures) - self.middles[best]) @ self.whiten
        told = self.model.transform(figures) - discriminant.transform(self.middles)[best]
        far = np.sqrt(np.column_stack([(off**2).mean(axis=1), (told**2).mean(axis=1)]))
        return [str(discriminant.classes_[i]) for i in best], share.max(axis=1), far


def _fitted(courses: Courses) -> _Fitted:
    from sklearn.covariance import LedoitWolf  # takes half a second to load: names are learnt beside all pages
    from sklearn.discriminant_analysis import LinearDiscriminantAnalysis
    from sklearn.pipeline import make_pipeline
    from sklearn.preprocessing import StandardScaler

    kinds = len(set(courses.names))  # drilled often is not thrown often in a free round
    shrunk = LinearDiscriminantAnalysis(solver="eigen", shrinkage="auto", priors=np.full(kinds, 1.0 / kinds))
    model = make_pipeline(StandardScaler(), shrunk).fit(courses.figures, courses.names)
    scaled, names = model[:-1].transform(courses.figures), np.array(courses.names)
    middles = np.array([scaled[names == n].mean(axis=0) for n in shrunk.classes_])
    within = scaled - middles[np.searchsorted(shrunk.classes_, names)]
    values, vectors = np.linalg.eigh(LedoitWolf(assume_centered=True).fit(within).covariance_)
    return _Fitted(model, middles, vectors / np.sqrt(np.maximum(values, 1e-9)))


def _left_out(courses: Courses) -> tuple[NDArray[np.str_], Floats, Floats]:
    """Names (n,), beliefs (n,) and distances (n, 2) by models that never saw the student."""
    from sklearn.model_selection import GroupKFold

    n, who = len(courses.names), np.array(courses.who)
    said, sure, far = np.full(n, UNSURE, dtype=object), np.zeros(n), np.full((n, 2), np.inf)
    folds = GroupKFold(min(MOST_FOLDS, len(set(courses.who))))
    for seen, unseen in folds.split(courses.figures, groups=who):
        part = courses.part(seen)
        if len(set(part.names)) < 2:
            continue
        names, sure[unseen], far[unseen] = _fitted(part).believed(courses.figures[unseen])
        said[unseen] = names
    return said.astype(str), sure, far


def _least(sure: Floats, right: NDArray[np.bool_]) -> float | None:
    """The least belief above which what is said is right often enough; None where no belief is."""
    order = np.argsort(-sure, kind="stable")
    share = np.cumsum(right[order]) / np.arange(1, len(order) + 1)
    good = np.flatnonzero((share >= WANTED) & (np.arange(len(order)) >= LEAST_STRIKES - 1))
    return float(sure[order[good[-1]]]) if len(good) else None
