"""What to drill after an evening, and with which strikes it was seen."""

import datetime as dt
from collections import defaultdict
from dataclasses import dataclass
from typing import Any

from django.db.models import Q

from agile_strike.core.children import is_child
from agile_strike.core.drills.advice import Advice, Figure, Seen, advise
from agile_strike.core.drills.tally import Heard, tally
from agile_strike.core.errors import NotYours
from agile_strike.core.measured import Measured
from agile_strike.core.registry import MEASURES, NUMERIC
from agile_strike.evening.models import Session
from agile_strike.gym.models import Gym
from agile_strike.people.models import Student
from agile_strike.people.services import age_of
from agile_strike.playbook import entries
from agile_strike.playbook.services import schools
from agile_strike.review.models import Remark, Strike


@dataclass(frozen=True, slots=True)
class ShownBy:
    strike_id: int
    recording_id: int
    number: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Drill:
    """A drill, why it is asked for, and the strikes that ask for it."""

    key: str
    name: str
    seen: str  #: what was seen, and what it likely comes from
    figure: Figure | None
    words: str  #: what else speaks for it
    code: str  #: of the strikes
    steps: list[str]
    dose: str
    care: str
    kit: str
    go_on: str
    moves: str  #: the measure by which it shows; empty where only a coach sees it
    strikes: list[ShownBy]


@dataclass(frozen=True, slots=True)
class SeenToDrill:
    """What to drill, two or three at most, the strongest first; and what was said against what the units say."""

    drills: list[Drill]
    heard: list[Heard]


def of_evening(gym: Gym, session_id: int) -> SeenToDrill:
    """Raises NotYours where there is no such evening."""
    session = Session.objects.for_gym(gym).select_related("student").filter(pk=session_id).first()
    if session is None:
        raise NotYours("evening")
    return _of(gym, session.student, Q(recording__session=session))


def of_weeks(gym: Gym, student: Student, days: int = 28) -> SeenToDrill:
    """Of the student's evenings up to the last one, over some weeks."""
    last = Session.objects.for_gym(gym).filter(student=student, recordings__isnull=False).order_by("-day").first()
    if last is None:
        return SeenToDrill([], [])
    since = last.day - dt.timedelta(days=days)
    own = Q(recording__session__student=student, recording__session__day__gt=since)
    return _of(gym, student, own & Q(recording__session__day__lte=last.day))


def _of(gym: Gym, student: Student, which: Q) -> SeenToDrill:
    signs, ladders = entries.signs(gym), entries.ladders(gym)
    looked_at = list(dict.fromkeys(s.measure for s in signs if s.measure in NUMERIC))
    counted = Strike.objects.for_gym(gym).counted().filter(which, set__isnull=False)
    told = ("pk", "recording_id", "number", "chain_order", "set__code", "set__levels", "set__school_id")
    doubts = [f"{n}_sd" for n in looked_at]
    rows = list(counted.order_by("recording__acquired_at", "number").values(*told, *looked_at, *doubts))
    said: dict[int, list[str]] = defaultdict(list)
    strikes = [r["pk"] for r in rows]
    for strike_id, what in Remark.objects.filter(strike_id__in=strikes).values_list("strike_id", "what"):
        said[strike_id].append(what)
    known = {s.pk: s.to_core() for s in schools(gym)}
    seen = [
        Seen(
            r["set__code"],
            {n: Measured(r[n], r[f"{n}_sd"] or 0.0) for n in looked_at if r[n] is not None},
            r["chain_order"] or None,
            tuple(said[r["pk"]]),
            known.get(r["set__school_id"]),
            tuple(r["set__levels"]),
        )
        for r in rows
    ]
    child = is_child(age_of(student.birth_date, gym.today))
    advice = advise(seen, child=child, signs=signs, ladders=ladders)
    return SeenToDrill([_drill(a, rows) for a in advice], tally(seen, signs))


def _drill(a: Advice, rows: list[dict[str, Any]]) -> Drill:
    return Drill(
        key=a.ladder.code,
        name=a.ladder.name,
        seen=a.sign.seen,
        figure=a.figure,
        words=a.words,
        code=a.code,
        steps=list(a.ladder.steps),
        dose=a.ladder.dose,
        care=a.ladder.care,
        kit=a.ladder.kit,
        go_on=a.ladder.go_on,
        moves=MEASURES[a.sign.measure].label if a.sign.measure in NUMERIC else "",
        strikes=[ShownBy(rows[i]["pk"], rows[i]["recording_id"], rows[i]["number"]) for i in a.strikes],
    )
