"""What a coach does with strikes: throw one out with a reason, take it back, read one's force curve."""

import csv
import io
from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from agile_strike.capture.models import Chunk, Recording
from agile_strike.capture.samples import mounting_of
from agile_strike.core.analysis import Analysis
from agile_strike.core.curve import Curve, curve
from agile_strike.core.errors import BadInput
from agile_strike.core.registry import NUMERIC
from agile_strike.formats.chunks import unpack
from agile_strike.gym.models import Gym
from agile_strike.review.models import Strike

REASONS = ("glancing", "bag still swinging", "unit slipped", "not a strike", "wrong strike", "other")
CURVE_BEFORE_S, CURVE_AFTER_S = 0.6, 0.6


def save_strikes(recording: Recording, analysis: Analysis) -> None:
    """Rows for every strike of an analysis."""
    Strike.objects.bulk_create(
        [
            Strike(
                recording=recording,
                number=i + 1,
                contact_s=s.contact_s,
                limb=s.limb,
                level=s.level or "",
                planned=(s.planned or "")[:200],
                flags=list(s.flags),
                analysis_version=analysis.version,
                **{n: m.value for n, m in s.measures.items() if n in NUMERIC},
                **{f"{n}_sd": m.sd for n, m in s.measures.items() if n in NUMERIC},
            )
            for i, s in enumerate(analysis.strikes)
        ],
        batch_size=1000,
    )


@transaction.atomic
def exclude(gym: Gym, ids: list[int], reason: str, by: User) -> int:
    """Throw strikes out. A strike that is out already keeps its first reason."""
    if not reason.strip() or len(reason) > 120:
        raise BadInput("Say in a few words why the strike is thrown out.")
    rows = Strike.objects.for_gym(gym).filter(id__in=ids)
    if rows.count() != len(set(ids)):
        raise BadInput("One of these strikes is not in this gym.")
    return rows.filter(excluded_reason="").update(
        excluded_reason=reason.strip(), excluded_at=timezone.now(), excluded_by=by
    )


@transaction.atomic
def restore(gym: Gym, ids: list[int]) -> int:
    """Take strikes back."""
    rows = Strike.objects.for_gym(gym).filter(id__in=ids)
    return rows.update(excluded_reason="", excluded_at=None, excluded_by=None)


@dataclass(frozen=True, slots=True)
class ForceCurve:
    strike: Strike
    curve: Curve


def force_curves(gym: Gym, ids: list[int]) -> list[ForceCurve]:
    """Force over time of up to twelve strikes of one recording, from its raw samples."""
    strikes = list(
        Strike.objects.for_gym(gym)
        .filter(id__in=ids[:12])
        .select_related("recording", "recording__bag_version", "recording__student")
    )
    out = []
    for strike in strikes:
        recording = strike.recording
        if recording.bag_version is None or recording.mounting is None:
            continue
        drawn = _curve(strike, recording)
        if drawn is not None:
            out.append(ForceCurve(strike, drawn))
    order = {key: i for i, key in enumerate(ids)}
    return sorted(out, key=lambda f: order[f.strike.pk])


def _curve(strike: Strike, recording: Recording) -> Curve | None:
    """None where the raw samples are no longer kept."""
    assert recording.bag_version is not None
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
    before, after = _neighbours(strike)
    return curve(
        unit,
        rows[0].first_sample,
        strike.contact_s,
        mounting_of(recording),
        recording.bag_version.to_core(),
        before,
        after,
        strike.impulse_n_s,
    )


def _neighbours(strike: Strike) -> tuple[float, float]:
    near = Strike.objects.filter(recording_id=strike.recording_id, number__in=(strike.number - 1, strike.number + 1))
    times = dict(near.values_list("number", "contact_s"))
    before = strike.contact_s - times.get(strike.number - 1, -1e9)
    after = times.get(strike.number + 1, 1e9) - strike.contact_s
    return before, after


def as_csv(recording: Recording) -> str:
    """Strikes of a recording as a flat table, thrown-out ones with their reason."""
    measures = [c for n in NUMERIC for c in (n, f"{n}_sd")]
    names = ["number", "contact_s", "limb", "level", "planned", *measures, "excluded_reason"]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["participant", "session", "task", "run", *names, "flags"])
    rows = Strike.objects.filter(recording=recording).order_by("number").values_list(*names, "flags")
    head = (recording.student.label, recording.session, recording.task, recording.run)
    writer.writerows((*head, *row[:-1], " ".join(row[-1])) for row in rows)
    return out.getvalue()
