"""What a recording's figures rest on: the bag as it was known, the units' calibrations, the student on that day, the
analysis. Figures on different bases differ for reasons that are none of the student's."""

from collections.abc import Iterable
from dataclasses import asdict, dataclass
from typing import Any

from agile_strike.capture.models import Recording
from agile_strike.core import analysis
from agile_strike.core.target import Bag
from agile_strike.gym.models import Gym
from agile_strike.kit.calibrations import nearest, rests_of
from agile_strike.kit.models import FIELDS, BagVersion
from agile_strike.kit.services import learnt
from agile_strike.people.services import mass_on, stance_on

SAME_SHARE = 1e-9


@dataclass(frozen=True, slots=True)
class Basis:
    bag: dict[str, Any]  #: its figures, by name; empty without a bag
    calibrations: dict[str, int]  #: of units from six positions, by unit
    body_mass_kg: float | None
    stance: str
    analysis: str  #: version

    def to_json(self) -> dict[str, Any]:
        return asdict(self)


def bag_figures(bag: Bag | BagVersion | None) -> dict[str, Any]:
    return {} if bag is None else {f: getattr(bag, f) for f in FIELDS}


def kept(row: Recording) -> Basis:
    """What the figures of a recording rest on. Of one that was kept before bases were, as far as is known."""
    if row.basis:
        return Basis(**row.basis)
    return Basis(bag_figures(row.bag_version), {}, row.body_mass_kg, row.stance, row.analysis_version)


def of_today(gym: Gym, rows: Iterable[Recording]) -> dict[int, Basis]:
    """What the figures of recordings would rest on if they were analysed now, by recording.

    Bags with their versions and students with their masses and stances must have been fetched along.
    """
    rests = rests_of(gym)
    out = {}
    for row in rows:
        found = {u: c.pk for u in row.units if (c := nearest(rests, u, row.acquired_at)) is not None}
        day = gym.day(row.acquired_at)
        mass = row.stated["mass_kg"] if row.stated.get("mass_kg") else mass_on(row.student, day)
        if not row.stated and row.body_mass_kg is not None:
            mass = row.body_mass_kg  # kept before it was noted who had said it
        stance = row.stated.get("stance") or stance_on(row.student, day)
        bag = None if row.bag_version is None else learnt(row.bag_version)
        out[row.pk] = Basis(bag_figures(bag), found, mass, stance, analysis.VERSION)
    return out


def fetched(rows: Any) -> Any:
    """A query of recordings with all that `of_today` reads."""
    along = ("bag_version__bag__versions", "student__masses", "student__stances")
    heavy = ("flags", "not_measured", "events", "clocks", "bursts", "mounting")
    return rows.defer(*heavy).select_related("bag_version__bag", "student").prefetch_related(*along)


def behind(gym: Gym, recordings: Iterable[int]) -> list[int]:
    """Which of these recordings would give other figures if they were analysed now: more is known by now of the bag, of
    a unit or of the student, or the analysis is newer. In order."""
    rows = list(fetched(Recording.objects.for_gym(gym).filter(pk__in=set(recordings))).order_by("acquired_at", "pk"))
    now = of_today(gym, rows)
    return [row.pk for row in rows if differ(kept(row), now[row.pk])]


def differ(a: Basis, b: Basis) -> bool:
    """Whether figures on one basis may differ from those on the other."""
    if a.calibrations != b.calibrations or a.analysis != b.analysis or (a.stance and a.stance != b.stance):
        return True
    pairs = [(a.body_mass_kg, b.body_mass_kg), *((a.bag.get(f), b.bag.get(f)) for f in {*a.bag, *b.bag})]
    return any(not _same(x, y) for x, y in pairs)


def _same(x: Any, y: Any) -> bool:
    if isinstance(x, float | int) and isinstance(y, float | int):
        return abs(x - y) <= SAME_SHARE * max(abs(x), abs(y))
    return bool(x == y)
