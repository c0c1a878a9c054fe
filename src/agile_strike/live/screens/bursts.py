"""Bursts of the set that ended last, and the number that this student throws with the force kept."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from agile_strike.core.bag.bursts import Burst, bursts
from agile_strike.core.sets.best_burst import BestNumber, best_number
from agile_strike.live.models import Take
from agile_strike.review.models import Strike

MOST_STRIKES = 2000  # of the student's latest


@dataclass(frozen=True, slots=True)
class BurstsTold:
    """How a set's bursts went: means over them."""

    mark: str
    bursts: int
    strikes: float  #: in a burst
    rate_hz: float
    rhythm_pct: float | None  #: spread of the gaps over their mean
    force_kept_pct: float | None
    best: BestNumber


@dataclass(frozen=True, slots=True)
class Thrown:
    """A strike, as its burst sees it."""

    contact_s: float
    limb: str
    impulse_n_s: float | None


def bursts_told(take: Take, mark: str, thrown: Sequence[Thrown]) -> BurstsTold | None:
    """Of one set's strikes in order of time; None where no two of them make a burst."""
    runs = bursts([s.contact_s for s in thrown], [s.impulse_n_s for s in thrown])
    if not runs:
        return None
    rhythm = [r.rhythm_cv for r in runs if r.rhythm_cv is not None]
    own = [_limbs(thrown, r) for r in runs]
    alone = best_number(own)
    kept = [p.kept_pct for p in alone.places]
    return BurstsTold(
        mark=mark,
        bursts=len(runs),
        strikes=float(np.mean([len(r.strikes) for r in runs])),
        rate_hz=float(np.mean([r.rate_hz for r in runs])),
        rhythm_pct=100.0 * float(np.mean(rhythm)) if rhythm else None,
        force_kept_pct=kept[-1] if kept else _last_of(own),
        best=best_number([*_before(take), *own]),
    )


def _limbs(thrown: Sequence[Thrown], run: Burst) -> list[tuple[str, float | None]]:
    return [(thrown[i].limb, thrown[i].impulse_n_s) for i in run.strikes]


def _last_of(own: list[list[tuple[str, float | None]]]) -> float | None:
    """Of few bursts: last against first of the same limb, without an interval."""
    ratios = []
    for burst in own:
        first = next((f for limb, f in burst if limb == burst[-1][0] and f), None)
        if first and burst[-1][1] and len(burst) > 1 and burst[0][0] == burst[-1][0]:
            ratios.append(burst[-1][1] / first)
    return 100.0 * float(np.mean(ratios)) if ratios else None


def _before(take: Take) -> list[list[tuple[str, float | None]]]:
    """The student's bursts of other recordings, the latest first."""
    rows = (
        Strike.objects.counted()
        .filter(recording__student=take.session.student_id, recording__removed_at__isnull=True)
        .exclude(recording=take.recording_id)
        .order_by("-recording__acquired_at", "contact_s")
        .values_list("recording_id", "contact_s", "limb", "relabelled_limb", "impulse_n_s")[:MOST_STRIKES]
    )
    by_recording: dict[int, list[Thrown]] = defaultdict(list)
    for recording, contact_s, limb, said, impulse in rows:
        by_recording[recording].append(Thrown(contact_s, said or limb, impulse))
    out = []
    for thrown in by_recording.values():
        runs = bursts([s.contact_s for s in thrown], [s.impulse_n_s for s in thrown])
        out += [_limbs(thrown, r) for r in runs]
    return out
