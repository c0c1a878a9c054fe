"""Names for strikes that nobody has named: learnt from what this gym's coaches said of others, suggested, never written
over a word of theirs."""

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db import transaction
from django.db.models import Count, Max, Sum

from agile_strike.core.errors import ChangedMeanwhile
from agile_strike.core.names.course import figures
from agile_strike.core.names.learnt import UNSURE, Courses, Floats, HeldOut, Learnt, learn
from agile_strike.core.registry import PROVISIONAL
from agile_strike.core.vocabulary import sided, unsided
from agile_strike.formats.chunks import unpack_lanes
from agile_strike.gym.models import Gym
from agile_strike.playbook.strikes import known as strikes_of
from agile_strike.review.estimate import estimate
from agile_strike.review.models import Guess, NamesLearnt, Strike, StrikeSet
from agile_strike.review.own import changed, own

MOST_LABELLED = 6000  # of the latest: more teach little and take long
MOST_UNNAMED = 3000


@dataclass(frozen=True, slots=True)
class _Thrown:
    """A strike with its course."""

    pk: int
    part: str  #: hand, foot, elbow or knee
    side: str
    stance: str
    student: int
    name: str  #: without its side; nothing where nobody said
    figures: Floats


def known_of(gym: Gym) -> str:
    """Changes whenever there is something to learn, or something to be named."""
    rows = Strike.objects.for_gym(gym).filter(lanes__isnull=False)
    told = rows.aggregate(n=Count("pk"), said=Sum("version"), last=Max("pk"), named=Count("set"))
    return ":".join(str(v) for v in told.values())


def late(gym: Gym) -> bool:
    """Whether there is more to learn from, or to be named, than when it was learnt last."""
    return not NamesLearnt.objects.filter(gym=gym, known=known_of(gym)).exists()


def suggest(gym: Gym) -> NamesLearnt:
    """Learn this gym's names anew and say what the strikes that nobody named look like."""
    known = known_of(gym)
    codes = [word.code for word in strikes_of(gym)]  # combinations are no names of one strike
    labelled = _thrown(gym, MOST_LABELLED, set__code__in=codes, excluded_reason="")
    unnamed = _thrown(gym, MOST_UNNAMED, set__isnull=True)
    told: dict[str, Any] = {}
    guesses = []
    for part in sorted({t.part for t in labelled}):
        own_, others = ([t for t in every if t.part == part] for every in (labelled, unnamed))
        rows = np.array([t.figures for t in own_])
        learnt = learn(Courses(rows, [t.name for t in own_], [t.student for t in own_]))
        if learnt is None:
            continue
        told[part] = said(learnt.held_out)
        guesses += list(_guesses(learnt, others))
    with transaction.atomic():
        Guess.objects.filter(strike__recording__gym=gym).delete()
        Guess.objects.bulk_create(guesses)
        row, _ = NamesLearnt.objects.update_or_create(gym=gym, defaults={"known": known, "told": told})
    return row


def _guesses(learnt: Learnt, others: list[_Thrown]) -> list[Guess]:
    if not others:
        return []
    pairs = zip(others, learnt.say(np.array([t.figures for t in others])), strict=True)
    return [
        Guess(strike_id=t.pk, code=sided(name, t.side, t.stance), sure=sure)
        for t, (name, sure) in pairs
        if name != UNSURE
    ]


def said(held_out: HeldOut) -> dict[str, Any]:
    """As pages tell it."""
    return {
        "names": list(held_out.names),
        "table": held_out.table.tolist(),
        "students": held_out.students,
        "right": held_out.right,
        "said": held_out.said,
    }


def _thrown(gym: Gym, most: int, **which: Any) -> list[_Thrown]:
    rows = Strike.objects.for_gym(gym).filter(lanes__isnull=False, **which).exclude(flags__contains=[PROVISIONAL])
    beside = ("lanes", "set", "analysis", "recording__student__gym")
    out = []
    for row in rows.select_related(*beside).order_by("-recording__acquired_at", "-pk")[:most].iterator(chunk_size=500):
        side, _, part = row.limb_said.partition("_")
        found = figures(unpack_lanes(bytes(row.lanes.parquet))) if part else None
        if found is None:
            continue
        student = row.recording.student
        stance = row.analysis.stance or student.stance
        name = unsided(row.set.code) if row.set else UNSURE
        out.append(_Thrown(row.pk, part, side, stance, student.pk, name, found))
    return out


@transaction.atomic
def take(gym: Gym, seen: dict[int, int]) -> int:
    """Name strikes as it was suggested: all of them, or none where a coach has said something meanwhile."""
    strikes = own(gym, seen, "guess", "recording", held=True)
    for row in strikes:
        if row.version != seen[row.pk] or row.set_id is not None or not hasattr(row, "guess"):
            raise ChangedMeanwhile(f"strike {row.number}", "named" if row.set_id else "without a suggestion")
    groups: dict[tuple[int, str], list[Strike]] = defaultdict(list)
    for row in strikes:
        groups[row.recording_id, row.guess.code].append(row)
    for (key, code), own_ in groups.items():
        made = StrikeSet.objects.create(recording_id=key, code=code, by_coach=True)
        for row in own_:
            row.set, row.version = made, row.version + 1
    changed(strikes)
    Strike.objects.bulk_update(strikes, ["set", "version"])
    Guess.objects.filter(strike__in=[s.pk for s in strikes]).delete()
    for recording in {s.recording_id: s.recording for s in strikes}.values():
        estimate(recording)
    return len(strikes)
