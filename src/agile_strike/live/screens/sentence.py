"""After a set: the one thing that stood out against this student's usual, in a coach's words, or nothing."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from agile_strike.core.registry import MEASURES, NUMERIC
from agile_strike.core.vocabulary import EFFORT
from agile_strike.core.weeks.stands_out import StoodOut, stood_out
from agile_strike.gym.models import Gym
from agile_strike.live.models import Mark, Take
from agile_strike.review.models import Strike

MOST_STRIKES = 600  # of the student's latest of one code: some months of it
LOW, HIGH = 10.0, 90.0  # per cent of the usual range
FEWEST_USUAL = 12
#: what it looks like: measure -> below the usual, above it
LOOKS = {
    "load_shift_pct": ("weight stays back", "more weight comes over"),
    "lead_heel_pct": ("on the toes", "down onto the heel"),
    "turn_done_pct": ("the fist is early", "the turn is done"),
    "drop_mm": ("straighter off", "dips first"),
    "pullback_mm": ("no wind-up", "drawn back"),
    "return_drop_mm": ("comes back level", "sinks on the way home"),
    "lean_deg": ("stays upright", "reaches"),
    "effective_mass_kg": ("arm alone", "more behind it"),
    "step_before_ms": ("fist and foot together", "foot lands early"),
    "pivot_deg": ("the foot sticks", "the foot turns"),
    "settle_ms": ("settles sooner", "off balance after"),
    "speed_held_pct": ("fades", "keeps its speed"),
}
#: that a coach may be told of; times and places in the recording are none of these
LOOKED_AT = ("impulse_n_s", "peak_force_n", "peak_speed_m_s", "effective_mass_kg", "load_shift_pct", "lead_heel_pct",
             "turn_done_pct", "drop_mm", "pullback_mm", "return_drop_mm", "lean_deg", "pivot_deg", "settle_ms",
             "speed_held_pct")  # fmt: skip


class Measured(Protocol):
    @property
    def mark(self) -> str: ...
    @property
    def excluded(self) -> str: ...
    @property
    def flags(self) -> list[str]: ...
    @property
    def measures(self) -> dict[str, list[float]]: ...


@dataclass(frozen=True, slots=True)
class SetSaid:
    """What is said of one set of a take."""

    mark: str
    sentence: str
    measure: str
    mean: float
    usual: float
    by: float
    by_sd: float
    sets: int


@dataclass(frozen=True, slots=True)
class Usual:
    """The range in which most of a student's strikes of one code lie."""

    measure: str
    low: float
    high: float
    strikes: int
    evenings: int


def said_of(gym: Gym, take: Take, strikes: Sequence[Measured], marks: Iterable[Mark]) -> list[SetSaid]:
    """Of each set that has ended and is settled; sets of which there is nothing to say are not there."""
    ended = [m for m in marks if m.until and m.planned and EFFORT not in m.planned.levels]
    before: dict[str, dict[str, list[list[float]]]] = {}
    out = []
    for number, mark in enumerate(ended, 1):
        own = [s for s in strikes if s.mark == mark.key and not s.excluded and "provisional" not in s.flags]
        if not own or mark.planned is None:
            continue
        code = mark.planned.code
        if code not in before:
            before[code] = earlier_sets(take, code)
        now = {m: [s.measures[m][0] for s in own if m in s.measures] for m in LOOKED_AT}
        found = stood_out(now, before[code])
        if found is not None:
            out.append(_said(mark, number, found))
    return out


def earlier_sets(take: Take, code: str) -> dict[str, list[list[float]]]:
    """Values of the student's earlier sets of a strike, on other evenings, by measure."""
    rows = (
        Strike.objects.counted()
        .filter(recording__student=take.session.student_id, set__code=code, recording__removed_at__isnull=True)
        .exclude(recording__session=take.session_id)
        .exclude(set__levels__has_key=EFFORT)
        .order_by("-recording__acquired_at")
        .values("set_id", *LOOKED_AT)[:MOST_STRIKES]
    )
    sets: dict[str, dict[int, list[float]]] = {m: defaultdict(list) for m in LOOKED_AT}
    for row in rows:
        for measure in LOOKED_AT:
            if row[measure] is not None:
                sets[measure][row["set_id"]].append(row[measure])
    return {m: list(by_set.values()) for m, by_set in sets.items()}


def usual_of(take: Take, code: str) -> list[Usual]:
    """The student's own usual ranges for a strike, of other evenings; measures with too few are not there."""
    rows = list(
        Strike.objects.counted()
        .filter(recording__student=take.session.student_id, set__code=code, recording__removed_at__isnull=True)
        .exclude(recording__session=take.session_id)
        .exclude(set__levels__has_key=EFFORT)
        .order_by("-recording__acquired_at")
        .values_list("recording__session_id", *NUMERIC)[:MOST_STRIKES]
    )
    out = []
    for k, name in enumerate(NUMERIC, 1):
        values = [r[k] for r in rows if r[k] is not None]
        if len(values) >= FEWEST_USUAL:
            low, high = np.percentile(values, [LOW, HIGH])
            evenings = len({r[0] for r in rows if r[k] is not None})
            out.append(Usual(name, float(low), float(high), len(values), evenings))
    return out


def _said(mark: Mark, number: int, found: StoodOut) -> SetSaid:
    measure = MEASURES[found.measure]
    size = f"{abs(found.by):.{measure.decimals}f}"
    unit = {"%": " points", "": ""}.get(measure.unit, f" {measure.spoken_unit}")
    way = "under" if found.by < 0 else "over"
    looks = LOOKS.get(found.measure)
    seen = f"{looks[0] if found.by < 0 else looks[1]}, " if looks else ""
    label = measure.label[:1].lower() + measure.label[1:]
    doubt = f"{2 * found.by_sd:.{measure.decimals}f}"
    sentence = f"Set {number}: {seen}{label} {size}{unit} {way} the usual (±{doubt}, {found.sets} sets before)."
    return SetSaid(
        mark.key, sentence, found.measure, found.mean, found.usual, found.by, found.by_sd, found.sets
    )  # fmt: skip
