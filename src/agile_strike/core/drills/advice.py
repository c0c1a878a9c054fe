"""From what was measured and remarked to what to drill, each piece of advice with why and with which strikes.

A sign is a measure beyond an edge; the edge is the school's own where it has one for that strike, since what one school
calls a fault another one teaches. A sign speaks where the mean of an evening's strikes lies beyond its edge by
more than chance and doubt would have it: the part of the doubt that a recording shares is not averaged away (Student
1908, with a Type B part added as in the Guide to the Expression of Uncertainty in Measurement). A coach's remark on a
third of the strikes speaks as well. The strongest two or three are told, one for each drill.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtr

from agile_strike.core.children import MAXIMAL
from agile_strike.core.drills.ladders import LADDERS, Ladder
from agile_strike.core.drills.signs import ASKED, SIGNS, Sign
from agile_strike.core.measured import Measured
from agile_strike.core.measures.doubts import shared_sd
from agile_strike.core.playbook.schools import CHAIN, School, ground_up, range_of

Floats = NDArray[np.float64]

FEWEST = 4  # strikes
SURE = 0.98  # that the mean lies beyond its edge
MOST = 3
REMARKED = 1.0 / 3.0  # of the strikes
WILD = 3.0  # spreads
ORDERED = 0.5  # of the strikes, whose trunk turns in the wrong order


@dataclass(frozen=True, slots=True)
class Seen:
    """One strike, as far as advice looks at it."""

    code: str
    measures: Mapping[str, Measured]
    order: str | None = None
    remarks: tuple[str, ...] = ()
    school: School | None = None
    factors: tuple[str, ...] = ()  #: of a trial, that were asked for


@dataclass(frozen=True, slots=True)
class Figure:
    """The mean of a measure beyond its edge, in the measure's own unit: screens say it in the units that are set."""

    measure: str
    mean: float
    strikes: int
    edge: float
    low: bool  #: the edge is a lower one
    school: str  #: whose edge it is; empty: as a rule


@dataclass(frozen=True, slots=True)
class Advice:
    sign: Sign
    ladder: Ladder
    code: str  #: of the strikes
    figure: Figure | None
    words: str  #: what else speaks for it: an order, remarks
    strikes: tuple[int, ...]  #: places of those that show it, among those that were given
    weight: float  #: how much it says: beyond its edge, in what the edge allows


def advise(
    strikes: Sequence[Seen],
    *,
    child: bool = False,
    signs: Sequence[Sign] = SIGNS,
    ladders: Mapping[str, Ladder] = LADDERS,
) -> list[Advice]:
    """What to drill after strikes of one student, the strongest first, three at most and each drill once, by a gym's
    own signs and ladders. A child is asked for nothing that only full effort shows."""
    found: list[Advice] = []
    groups: dict[tuple[str, str], list[int]] = {}
    for i, one in enumerate(strikes):
        groups.setdefault((one.code, one.school.name if one.school else ""), []).append(i)
    for (code, _), places in groups.items():
        for sign in signs:
            ladder = ladders.get(sign.drill)
            if ladder is None or not sign.fits(code):
                continue
            if child and not (ladder.children and sign.measure not in MAXIMAL):
                continue
            free = [i for i in places if not any(sign.measure in ASKED.get(f, ()) for f in strikes[i].factors)]
            told = _shown(sign, ladder, code, free, strikes)
            if told:
                found.append(told)
    found.sort(key=lambda a: -a.weight)
    out: list[Advice] = []
    for advice in found:
        if all(advice.sign.drill != other.sign.drill for other in out):
            out.append(advice)
    return out[:MOST]


def _shown(sign: Sign, ladder: Ladder, code: str, places: list[int], strikes: Sequence[Seen]) -> Advice | None:
    if not places:
        return None
    said = [i for i in places if set(sign.remarks) & set(strikes[i].remarks)]
    share = len(said) / len(places)
    remarked = ""
    if said:
        heard = " or ".join(f"“{r}”" for r in sign.remarks if any(r in strikes[i].remarks for i in said))
        remarked = f"{len(said)} of {len(places)} were remarked on: {heard}."
    seen: _Shown | None = None
    if sign.measure == CHAIN:
        seen = _ordered(places, strikes)
    elif sign.measure:
        seen = _beyond(sign, sign.measure, places, strikes)
    if seen:
        words = " ".join(w for w in (seen.words, remarked) if w)
        return Advice(sign, ladder, code, seen.figure, words, seen.strikes, seen.weight + share)
    if len(said) >= max(2.0, REMARKED * len(places)):
        return Advice(sign, ladder, code, None, remarked, tuple(said), share)
    return None


@dataclass(frozen=True, slots=True)
class _Shown:
    figure: Figure | None
    words: str
    strikes: tuple[int, ...]
    weight: float


def edge_of(sign: Sign, one: Seen) -> float | None:
    """Beyond which the sign shows in a strike: its school's own edge where that has a range, else the sign's."""
    own = range_of(one.school, one.code, sign.measure) if one.school and sign.measure else None
    return (own.low if sign.low else own.high) if own else sign.edge


def _beyond(sign: Sign, measure: str, places: list[int], strikes: Sequence[Seen]) -> _Shown | None:
    first = strikes[places[0]]  # they are of one strike and one school
    edge = edge_of(sign, first)
    have = [i for i in places if measure in strikes[i].measures]
    if edge is None or len(have) < FEWEST or len(have) < 0.5 * len(places):
        return None
    told = [strikes[i].measures[measure] for i in have]
    value = _tamed(np.array([m.value for m in told]))
    past = edge - value if sign.low else value - edge
    mean, n = float(past.mean()), len(past)
    of_all = shared_sd(measure) * float(np.median([m.sd for m in told]))
    sd = float(np.hypot(past.std(ddof=1) / n**0.5, of_all))
    if mean <= 0.0 or stdtr(n - 1, mean / max(sd, 1e-9)) < SURE:
        return None
    own = first.school is not None and range_of(first.school, first.code, measure) is not None
    whose = first.school.name if own and first.school else ""
    figure = Figure(measure, float(value.mean()), n, edge, sign.low, whose)
    which = tuple(i for i, beyond in zip(have, past, strict=True) if beyond > 0.0)
    return _Shown(figure, "", which, mean / sign.step)


def _tamed(value: Floats) -> Floats:
    """Values (n,) with those far from the rest brought in (winsorised; Dixon 1960): one slip is no fault."""
    middle = float(np.median(value))
    reach = WILD * 1.4826 * float(np.median(np.abs(value - middle)))
    return np.clip(value, middle - reach, middle + reach) if reach > 0.0 else value


def _ordered(places: list[int], strikes: Sequence[Seen]) -> _Shown | None:
    have = [i for i in places if strikes[i].order]
    late = tuple(i for i in have if ground_up(strikes[i].order or "") == "missed")
    if len(have) < FEWEST or len(late) < ORDERED * len(have):
        return None
    words = f"In {len(late)} of {len(have)} the shoulders turn before the hips do."
    return _Shown(None, words, late, 2.0 * len(late) / len(have))
