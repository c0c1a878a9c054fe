"""Force of strikes that no bag felt, as far as the same student's bag evenings tell it: estimated, and never pooled."""

from collections import defaultdict

import numpy as np

from agile_strike.capture.models import Recording
from agile_strike.core.measured import Measured
from agile_strike.core.strikes import BAG, MET
from agile_strike.core.student.behind import Behind, behind, estimated
from agile_strike.core.vocabulary import EFFORT
from agile_strike.review.models import Strike

FIELDS = (
    "impulse_estimated_n_s",
    "impulse_estimated_n_s_sd",
    "effective_mass_estimated_kg",
    "effective_mass_estimated_kg_sd",
)
Shares = dict[tuple[str, str, str], Behind]  #: by strike code, limb, and what is told: met, air or mass


def estimate(recording: Recording) -> int:
    """Write what bag evenings tell of this recording's strikes on pads and in the air; of how many they told it."""
    rows = list(Strike.objects.filter(recording=recording).exclude(kind=BAG).select_related("set"))
    if not rows:
        return 0
    shares = _shares(recording, {row.set.code for row in rows if row.set})
    told = 0
    for row in rows:
        told += _told(row, shares)
    Strike.objects.bulk_update(rows, list(FIELDS), batch_size=500)
    return told


def _told(row: Strike, shares: Shares) -> bool:
    for name in FIELDS:
        setattr(row, name, None)
    own = (row.set.code if row.set else "", row.limb_said)
    share, mass = shares.get((*own, row.kind)), shares.get((*own, "mass"))
    speed = "contact_speed_m_s" if row.kind == MET else "peak_speed_m_s"
    value, sd = getattr(row, speed), getattr(row, f"{speed}_sd")
    if share is not None and value is not None:
        found = estimated(Measured(value, sd), share)
        _write(row, FIELDS[:2], found.value, found.sd)
    if mass is not None:
        _write(row, FIELDS[2:], mass.mean, mass.sd)
    return share is not None and value is not None


def _write(row: Strike, fields: tuple[str, ...], *values: float) -> None:
    for name, value in zip(fields, values, strict=True):
        setattr(row, name, value)


def _shares(recording: Recording, codes: set[str]) -> Shares:
    """What the student has behind each strike on the bag, recording by recording."""
    strikes = (
        Strike.objects.counted()
        .standing()
        .filter(recording__student=recording.student_id, kind=BAG, set__code__in=codes, impulse_n_s__isnull=False)
    )
    names = ("set__code", "limb", "relabelled_limb", "recording_id", "impulse_n_s")
    speeds = ("contact_speed_m_s", "peak_speed_m_s", "effective_mass_kg")
    found: dict[tuple[str, str, str], dict[int, list[float]]] = defaultdict(lambda: defaultdict(list))
    rows = strikes.exclude(set__levels__has_key=EFFORT).order_by("pk").values_list(*names, *speeds)
    for code, limb, said, key, impulse, at_contact, at_best, mass in rows:
        own = (code, said or limb)
        for what, value in (
            ("met", at_contact and impulse / at_contact),
            ("air", at_best and impulse / at_best),
            ("mass", mass),
        ):
            if value:
                found[(*own, what)][key].append(value)
    told = {own: behind([np.array(e) for e in evenings.values()]) for own, evenings in found.items()}
    return {own: share for own, share in told.items() if share is not None}
