"""What a recording's figures rest on: the bag as it was known, the units' calibrations, the student on that day, the
analysis. Figures on different bases differ for reasons that are none of the student's."""

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.contrib.postgres.aggregates import StringAgg
from django.db.models import CharField, Count, F, Max, Model, QuerySet, Sum, TextField, Value
from django.db.models.functions import Cast, Concat

from agile_strike.capture.models import AnalysisRun, Recording
from agile_strike.core import analysis
from agile_strike.core.target import Bag
from agile_strike.gym.models import Gym
from agile_strike.kit.calibrations import nearest, rests_of
from agile_strike.kit.models import FIELDS, BagVersion, Calibration, Unit
from agile_strike.kit.services import learnt
from agile_strike.people.models import BodyMass, StanceChange
from agile_strike.people.services import mass_on, stance_on

SAME_SHARE = 1e-9
USUAL_SHARE = 0.01  # of its length that a recording's analysis takes, where it was never timed


@dataclass(frozen=True, slots=True, kw_only=True)
class Basis:
    bag: dict[str, Any]  #: its figures, by name; empty without a bag
    calibrations: dict[str, int]  #: of units from six positions, by placement
    body_mass_kg: float | None
    stance: str
    version: str  #: of the analysis


def bag_figures(bag: Bag | BagVersion | None) -> dict[str, Any]:
    return {} if bag is None else {f: getattr(bag, f) for f in FIELDS}


def kept(run: AnalysisRun) -> Basis:
    """What an analysis's figures rest on."""
    return Basis(
        bag=run.bag,
        calibrations=run.calibrations,
        body_mass_kg=run.body_mass_kg,
        stance=run.stance,
        version=run.version,
    )


def of_today(gym: Gym, rows: Iterable[Recording]) -> dict[int, Basis]:
    """What the figures of recordings would rest on if they were analysed now, by recording. See `fetched`."""
    rests = rests_of(gym)
    out = {}
    for row in rows:
        near = {w.placement: nearest(rests, w.unit_id, row.acquired_at) for w in row.wears.all()}
        day = gym.day(row.acquired_at)
        mass = row.stated["mass_kg"] if row.stated.get("mass_kg") else mass_on(row.student, day)
        if not row.stated and row.analysis is not None and row.analysis.body_mass_kg is not None:
            mass = row.analysis.body_mass_kg  # kept before it was noted who had said it
        out[row.pk] = Basis(
            bag=bag_figures(None if row.bag_version is None else learnt(row.bag_version)),
            calibrations={place: c.pk for place, c in near.items() if c is not None},
            body_mass_kg=mass,
            stance=row.stated.get("stance") or stance_on(row.student, day),
            version=analysis.VERSION,
        )
    return out


def fetched(rows: "QuerySet[Recording]") -> "QuerySet[Recording]":
    """Recordings with all that `of_today` reads."""
    along = ("bag_version__bag__versions", "student__masses", "student__stances", "wears")
    heavy = ("events", *(f"analysis__{n}" for n in ("flags", "not_measured", "clocks", "bursts", "bag_state")))
    return rows.defer(*heavy).select_related("analysis", "bag_version__bag", "student").prefetch_related(*along)


def behind(gym: Gym, recordings: Iterable[int]) -> list[int]:
    """Which of these recordings would give other figures if they were analysed now: more is known by now of the bag, of
    a unit or of the student, or the analysis is newer. In order of time.

    What was found is kept with what was known then, so that it is asked anew only when more is known.
    """
    known = known_of(gym.pk)
    own = Recording.objects.for_gym(gym).filter(pk__in=set(recordings)).order_by("acquired_at", "pk")
    found = {key: late for key, asked, late in own.values_list("pk", "analysis__asked_by", "analysis__late")
             if asked == known}  # fmt: skip
    asked_anew = list(fetched(own.exclude(pk__in=found)).filter(analysis__isnull=False))
    now = of_today(gym, asked_anew)
    for row in asked_anew:
        assert row.analysis is not None
        row.analysis.asked_by = known
        row.analysis.late = found[row.pk] = differ(kept(row.analysis), now[row.pk])
    AnalysisRun.objects.bulk_update([r.analysis for r in asked_anew if r.analysis], ["asked_by", "late"], 500)
    return [key for key in own.values_list("pk", flat=True) if found.get(key)]


def about_s(recordings: Iterable[int]) -> float:
    """How long it should take to analyse recordings again: as long as it did the last time, else as others do."""
    rows = Recording.objects.filter(pk__in=set(recordings)).values_list("length_s", "analysis__took_s")
    return sum(length * USUAL_SHARE if took is None else took for length, took in rows)


def known_of(gym_id: int) -> str:
    """A sum that changes whenever more is known of a gym's kit and people: figures may then be behind it."""
    bags = BagVersion.objects.filter(bag__gym=gym_id).aggregate(n=Count("pk"), last=Max("pk"))
    units = Calibration.objects.filter(gym=gym_id).aggregate(n=Count("pk"), last=Max("pk"))
    things = Unit.objects.filter(gym=gym_id).aggregate(n=Count("pk"), version=Sum("version"))
    masses = _told(BodyMass, gym_id, "mass_kg")
    stances = _told(StanceChange, gym_id, "stance")
    told = (*bags.values(), *units.values(), *things.values(), masses, stances, analysis.VERSION)
    return hashlib.sha256(repr(told).encode()).hexdigest()


def _told(model: type[Model], gym_id: int, name: str) -> str:
    one = Concat(Cast("pk", CharField()), Value(":"), Cast(F(name), CharField()), output_field=TextField())
    rows = model._default_manager.filter(student__gym=gym_id)
    return str(rows.aggregate(all=StringAgg(one, ",", order_by="pk"))["all"])


def differ(a: Basis, b: Basis) -> bool:
    """Whether figures on one basis may differ from those on the other."""
    if a.calibrations != b.calibrations or a.version != b.version or (a.stance and a.stance != b.stance):
        return True
    pairs = [(a.body_mass_kg, b.body_mass_kg), *((a.bag.get(f), b.bag.get(f)) for f in {*a.bag, *b.bag})]
    return any(not _same(x, y) for x, y in pairs)


def _same(x: Any, y: Any) -> bool:
    if isinstance(x, float | int) and isinstance(y, float | int):
        return abs(x - y) <= SAME_SHARE * max(abs(x), abs(y))
    return bool(x == y)
