"""What to drill after an evening, and with which strikes it was seen."""

from collections import defaultdict
from dataclasses import dataclass

from agile_strike.core.children import is_child
from agile_strike.core.drills.advice import Figure, Seen, advise
from agile_strike.core.drills.signs import SIGNS
from agile_strike.core.errors import NotYours
from agile_strike.core.measured import Measured
from agile_strike.core.registry import MEASURES, NUMERIC
from agile_strike.evening.models import Session
from agile_strike.gym.models import Gym
from agile_strike.people.services import age_of
from agile_strike.playbook.services import schools
from agile_strike.review.models import Remark, Strike

LOOKED_AT = tuple(dict.fromkeys(s.measure for s in SIGNS if s.measure in NUMERIC))


@dataclass(frozen=True, slots=True)
class ShownBy:
    strike_id: int
    recording_id: int
    number: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Drill:
    """A drill, why it is asked for, and the strikes that ask for it."""

    name: str
    seen: str  #: what was seen, and what it likely comes from
    figure: Figure | None
    words: str  #: what else speaks for it
    code: str  #: of the strikes
    steps: list[str]
    dose: str
    care: str
    moves: str  #: the measure by which it shows; empty where only a coach sees it
    strikes: list[ShownBy]


def of_evening(gym: Gym, session_id: int) -> list[Drill]:
    """Two or three at most, the strongest first. Raises NotYours where there is no such evening."""
    session = Session.objects.for_gym(gym).select_related("student").filter(pk=session_id).first()
    if session is None:
        raise NotYours("evening")
    counted = Strike.objects.for_gym(gym).counted().filter(recording__session=session, set__isnull=False)
    doubts = [f"{n}_sd" for n in LOOKED_AT]
    rows = list(
        counted.order_by("recording__acquired_at", "number").values(
            "pk",
            "recording_id",
            "number",
            "chain_order",
            "set__code",
            "set__levels",
            "set__school_id",
            *LOOKED_AT,
            *doubts,
        )
    )
    said: dict[int, list[str]] = defaultdict(list)
    for strike_id, what in Remark.objects.filter(strike_id__in=[r["pk"] for r in rows]).values_list(
        "strike_id", "what"
    ):
        said[strike_id].append(what)
    known = {s.pk: s.to_core() for s in schools(gym)}
    seen = [
        Seen(
            r["set__code"],
            {n: Measured(r[n], r[f"{n}_sd"] or 0.0) for n in LOOKED_AT if r[n] is not None},
            r["chain_order"] or None,
            tuple(said[r["pk"]]),
            known.get(r["set__school_id"]),
            tuple(r["set__levels"]),
        )
        for r in rows
    ]
    child = is_child(age_of(session.student.birth_date, gym.today))
    return [
        Drill(
            name=a.ladder.name,
            seen=a.sign.seen,
            figure=a.figure,
            words=a.words,
            code=a.code,
            steps=list(a.ladder.steps),
            dose=a.ladder.dose,
            care=a.ladder.care,
            moves=MEASURES[a.sign.measure].label if a.sign.measure in NUMERIC else "",
            strikes=[ShownBy(rows[i]["pk"], rows[i]["recording_id"], rows[i]["number"]) for i in a.strikes],
        )
        for a in advise(seen, child=child)
    ]
