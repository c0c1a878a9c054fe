"""What of the body goes with a student's force: asked of the same table that Weeks and its export read."""

from collections import Counter

import numpy as np

from agile_strike.core.children import is_child
from agile_strike.core.errors import BadInput
from agile_strike.core.measures.doubts import shared_sd
from agile_strike.core.registry import find
from agile_strike.core.strikes import BAG
from agile_strike.core.weeks.goes_with import ASKED, GoesWith, Range, Tie, goes_with
from agile_strike.formats.tabular import figures, narrowed, words
from agile_strike.gym.models import Gym
from agile_strike.people.models import Student
from agile_strike.people.services import age_of
from agile_strike.trials.pages import GoesWithOut, RangeOut, TestedByOut, TieOut
from agile_strike.trials.rows import weeks_table

NAME = "the weeks"
IMPULSE = "impulse_n_s"


def page(gym: Gym, student: Student, code: str, limb: str) -> GoesWithOut:
    """Of one strike, by the limb that threw most of them unless another is asked for.

    Raises BadInput of a child: force is not what a child is looked at for.
    """
    if is_child(age_of(student.birth_date, gym.today)):
        raise BadInput(f"{student.name} counts as a child: look at technique, not at what brings force.")
    whole = weeks_table(gym, student, [IMPULSE, *ASKED], kinds=(BAG,))
    codes = sorted({c for c in words(whole, "code").tolist() if c}) if whole.num_rows else []
    if not codes:
        why = "no strike on a bag is labelled yet"
        return _out("", codes, "", [], GoesWith((), {}, 0, 0, 0, refused=why))
    own = words(whole, "code").tolist()
    code = code if code in codes else max(codes, key=own.count)
    part = narrowed(whole, [f"code={code}", "excluded="], NAME)
    limbs = Counter(words(part, "limb").tolist())
    limb = limb if limb in limbs else limbs.most_common(1)[0][0] if limbs else ""
    part = narrowed(part, [f"limb={limb}"], NAME) if limbs else part
    _, set_of = np.unique(words(part, "block"), return_inverse=True)
    _, evening = np.unique(words(part, "session"), return_inverse=True)
    found = goes_with(
        figures(part, IMPULSE, NAME),
        set_of.astype(np.int64),
        evening.astype(np.int64),
        {name: figures(part, name, NAME) for name in ASKED},
        {name: figures(part, f"{name}_sd", NAME) * (1.0 - shared_sd(name) ** 2) ** 0.5 for name in ASKED},
    )
    return _out(code, codes, limb, sorted(limbs), found)


def _out(code: str, codes: list[str], limb: str, limbs: list[str], found: GoesWith) -> GoesWithOut:
    return GoesWithOut(
        code=code,
        codes=codes,
        limb=limb,
        limbs=limbs,
        ties=[_tie(t) for t in found.ties],
        left_out=[f"{_label(name)}: {why}" for name, why in found.left_out.items()],
        strikes=found.strikes,
        sets=found.sets,
        evenings=found.evenings,
        refused=found.refused,
        proposal=_proposal(found),
    )


def _label(name: str) -> str:
    measure = find(name)
    assert measure is not None
    return measure.label


def _range(r: Range) -> RangeOut:
    return RangeOut(value=r.value, low=r.low, high=r.high)


def _tie(t: Tie) -> TieOut:
    return TieOut(
        measure=t.measure,
        partial=_range(t.partial),
        shrunk=t.shrunk,
        goes=t.goes,
        spread=t.spread,
        evenings=_range(t.evenings) if t.evenings else None,
        heavy=_range(t.heavy),
        light=_range(t.light),
    )


def _proposal(found: GoesWith) -> TestedByOut | None:
    """The trial that would test the strongest tie; none where nothing is beyond doubt."""
    told = [t for t in found.ties if t.goes]
    if not told:
        return None
    best = max(told, key=lambda t: abs(t.partial.value) / (t.partial.high - t.partial.low))
    factor, less, more = ASKED[best.measure]
    first, second = (less, more) if best.partial.value > 0.0 else (more, less)
    return TestedByOut(measure=best.measure, factor=factor, levels=[first, second])
