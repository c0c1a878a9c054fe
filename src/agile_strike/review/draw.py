"""Curves of strikes: from the floor up, as they are kept, and force over time, from raw samples."""

from dataclasses import dataclass, replace

import numpy as np

from agile_strike.capture.models import Chunk
from agile_strike.core.bag.curve import curve
from agile_strike.core.bag.state import mounting_from_json
from agile_strike.core.student.lanes import LANES, TIMES_S
from agile_strike.formats.chunks import unpack, unpack_lanes
from agile_strike.gym.bodies import LARGEST_ID
from agile_strike.gym.models import Gym
from agile_strike.people.services import stance_on
from agile_strike.review.judge import Judgement, judgement
from agile_strike.review.models import Strike, StrikeLanes
from agile_strike.review.own import own

CURVE_BEFORE_S, CURVE_AFTER_S = 0.6, 0.6
MOST_CURVES = 12
MOST_MEAN = 200  # strikes in a mean course: more do not change it


@dataclass(frozen=True, slots=True, kw_only=True)
class ForceCurve:
    """Force over time of one strike, milliseconds from contact, in as many digits as can be seen."""

    strike_id: int
    number: int
    ms: list[float]
    force_n: list[float] | None
    shape: list[float]
    end_ms: float
    peak_ms: float
    rise_from_ms: float
    rise_to_ms: float
    cut_off_hz: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LanesShown:
    """Curves from the floor up over `ms` from contact; a lane that is missing is not there."""

    ms: list[float]
    own: dict[str, list[float]]
    under: dict[str, list[float]]
    under_what: str
    lead: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StrikePage:
    lanes: LanesShown
    curve: ForceCurve | None
    judgement: Judgement


def page(gym: Gym, strike_id: int, under: str) -> StrikePage:
    """One strike, opened. `under` is empty, `set` for the mean of its set, or the id of another strike."""
    beside = ("analysis", "lanes", "recording__student", "recording__bag_version", "set__school")
    (strike,) = own(gym, [strike_id], *beside)
    below: dict[str, list[float]] = {}
    if under == "set":
        below = mean_lanes(strike)
    elif under.isascii() and under.isdigit() and int(under) <= LARGEST_ID:
        (other,) = own(gym, [int(under)], "lanes")
        below = _lanes(other)
    shown = LanesShown(
        ms=(1e3 * TIMES_S).round(3).tolist(),
        own=_lanes(strike),
        under=below,
        under_what=under if below else "",
        lead="right" if _stance(gym, strike) == "southpaw" else "left",
    )
    return StrikePage(lanes=shown, curve=_curve(strike), judgement=judgement(gym, strike))


def _stance(gym: Gym, strike: Strike) -> str:
    """How the student stood on that day."""
    return strike.analysis.stance or stance_on(strike.recording.student, gym.day(strike.recording.acquired_at))


def _lanes(strike: Strike) -> dict[str, list[float]]:
    """Curves of one strike from the floor up; none where no worn unit gave any."""
    row = getattr(strike, "lanes", None)
    if row is None:
        return {}
    return {n: c.round(3).tolist() for n, c in unpack_lanes(bytes(row.parquet)).items() if n in LANES}


def mean_lanes(strike: Strike) -> dict[str, list[float]]:
    """Mean curves of the counted strikes of this one's set, this one left out."""
    rows = StrikeLanes.objects.filter(
        strike__recording_id=strike.recording_id, strike__set_id=strike.set_id, strike__excluded_reason=""
    ).exclude(strike_id=strike.pk)[:MOST_MEAN]
    every = [unpack_lanes(bytes(r.parquet)) for r in rows]
    names = {n for one in every for n in one if n in LANES}
    return {n: np.mean([one[n] for one in every if n in one], axis=0).round(3).tolist() for n in names}


def force_curves(gym: Gym, ids: list[int]) -> list[ForceCurve]:
    """Force over time of up to twelve strikes, from their raw samples."""
    rows = Strike.objects.for_gym(gym).filter(id__in=ids[:MOST_CURVES])
    found = {s.pk: _curve(s) for s in rows.select_related("analysis", "recording__bag_version")}
    return [drawn for key in ids if (drawn := found.get(key)) is not None]


def _curve(strike: Strike) -> ForceCurve | None:
    """None where the raw samples are no longer kept, or where the bag gives none."""
    recording, state = strike.recording, strike.analysis.bag_state
    if recording.bag_version is None or state is None:
        return None
    low = int((strike.contact_s - CURVE_BEFORE_S) * recording.rate_hz)
    high = int((strike.contact_s + CURVE_AFTER_S) * recording.rate_hz)
    # twelve strikes at most: a query for each is bounded
    rows = [
        c
        for c in Chunk.objects.filter(recording=recording, unit="bag", first_sample__lte=high)
        .only("first_sample", "samples", "parquet", "rate_hz", "full_scale")
        .order_by("-first_sample")[:3]
        if c.first_sample + c.samples > low
    ]
    rows.reverse()
    if not rows:
        return None
    unit = unpack([bytes(r.parquet) for r in rows], "bag", rows[0].rate_hz, rows[0].full_scale)
    drawn = curve(
        replace(unit, first_sample=rows[0].first_sample),
        strike.contact_s,
        mounting_from_json(state),
        replace(recording.bag_version.to_core(), **strike.analysis.bag),  # as the figures beside it have it
        _neighbours(strike),
        getattr(strike, "impulse_n_s"),  # noqa: B009  (columns come from the registry)
    )
    return ForceCurve(
        strike_id=strike.pk,
        number=strike.number,
        ms=drawn.ms.round(3).tolist(),
        force_n=None if drawn.force_n is None else drawn.force_n.round(1).tolist(),
        shape=drawn.shape.round(4).tolist(),
        **{n: getattr(drawn, n) for n in ("end_ms", "peak_ms", "rise_from_ms", "rise_to_ms", "cut_off_hz")},
    )


def _neighbours(strike: Strike) -> tuple[float, float]:
    near = Strike.objects.filter(recording_id=strike.recording_id, number__in=(strike.number - 1, strike.number + 1))
    times = dict(near.values_list("number", "contact_s"))
    before = strike.contact_s - times.get(strike.number - 1, -1e9)
    after = times.get(strike.number + 1, 1e9) - strike.contact_s
    return before, after
