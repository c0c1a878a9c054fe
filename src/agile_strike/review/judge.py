"""One strike against its school; and why a measure of it is not there."""

from dataclasses import dataclass
from typing import Any

from django.db.models import Avg

from agile_strike.core.measured import Measured
from agile_strike.core.playbook import schools as core_schools
from agile_strike.core.registry import NUMERIC
from agile_strike.core.student.joined import HAPPENS
from agile_strike.gym.models import Gym
from agile_strike.playbook.models import School
from agile_strike.playbook.services import schools
from agile_strike.review.models import Strike
from agile_strike.review.own import own


def absent_of(gym: Gym, strike_id: int) -> dict[str, str]:
    """Why each measure that this strike lacks is not there. Raises BadInput for another gym's."""
    (strike,) = own(gym, [strike_id], "analysis")
    why: dict[str, str] = {n["measure"]: n["why"] for n in strike.analysis.not_measured} | strike.absent
    missing = {name for name in NUMERIC if getattr(strike, name) is None} - set(why)
    if strike.number == 1 and "gap_ms" in missing:
        why["gap_ms"] = "the first strike has none before it"
    if strike.launch_ms is not None:
        why |= dict.fromkeys(missing & HAPPENS, "nothing of the kind happened in this strike")
    return why


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedCheck:
    """One check of a school on one strike."""

    name: str
    measure: str
    low: float | None
    high: float | None
    verdict: str
    value: float | None
    sd: float | None
    order: str | None  #: of pelvis, torso and limb, in words


@dataclass(frozen=True, slots=True)
class Objection:
    school: str
    words: list[str]  #: in this student's numbers


@dataclass(frozen=True, slots=True)
class Judgement:
    """One strike against its school, and what other schools would hold against it."""

    school: str | None
    checks: list[JudgedCheck]
    objections: list[Objection]


def judgement(gym: Gym, strike: Strike) -> Judgement:
    """Judge a strike by the school that its set was thrown under."""
    own = strike.set.school if strike.set else None
    if strike.set is None or own is None:
        return Judgement(None, [], [])
    every = schools(gym)
    mine = next((s for s in every if s.pk == own.pk), None)
    if mine is None:  # removed meanwhile
        return Judgement(None, [], [])
    found = {
        n: Measured(v, getattr(strike, f"{n}_sd") or 0.0) for n in NUMERIC if (v := getattr(strike, n)) is not None
    }
    told = []
    others = [s for s in every if s.pk != own.pk and s.objects_to]
    usual = _usual(strike, {n for s in others for n in s.objects_to if n in NUMERIC}) if others else {}
    for other in others:
        means = _against(usual.get(own.pk, {}), usual.get(other.pk, {}), other)
        words = core_schools.objections(other.to_core(), strike.set.code, means)
        if words:
            told.append(Objection(other.name, words))
    judged = core_schools.judge(mine.to_core(), strike.set.code, found, strike.chain_order or None)
    return Judgement(mine.name, [_told(j, strike.limb_said) for j in judged], told)


def _told(j: core_schools.Judged, limb: str) -> JudgedCheck:
    return JudgedCheck(
        name=j.check.name,
        measure=j.check.measure,
        low=j.check.low,
        high=j.check.high,
        verdict=j.verdict,
        value=j.value.value if j.value else None,
        sd=j.value.sd if j.value else None,
        order=core_schools.order_in_words(j.order, limb) if j.order else None,
    )


def _usual(strike: Strike, names: set[str]) -> dict[int, dict[str, float | None]]:
    """Means of this student's strikes of the same code by school, of these measures."""
    assert strike.set is not None
    alike = (
        Strike.objects.standing()
        .counted()
        .filter(recording__student_id=strike.recording.student_id, set__code=strike.set.code, set__school__isnull=False)
    )
    rows: Any = alike.order_by().values("set__school_id").annotate(**{f"mean_{n}": Avg(n) for n in names})
    return {row["set__school_id"]: {n: row[f"mean_{n}"] for n in names} for row in rows}


def _against(
    own: dict[str, float | None], theirs: dict[str, float | None], school: School
) -> dict[str, tuple[float, float | None]]:
    """Means under either school, by the measures that the other objects to."""
    named = [n for n in school.objects_to if n in NUMERIC]
    return {n: (mean, theirs.get(n)) for n in named if (mean := own.get(n)) is not None}
