"""Volume counts of an evening: what was thrown of each, by side, and which set is next."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from agile_strike.core.sets.calls import limb_of
from agile_strike.core.sets.volume import SIDES, Shared, next_set, shared
from agile_strike.evening.models import Session, Volume
from agile_strike.review.models import Strike


@dataclass(frozen=True, slots=True)
class NextOf:
    """The set that a count asks for next."""

    code: str
    limb: str
    strikes: int


@dataclass(frozen=True, slots=True)
class VolumeCount:
    """How a count stands: thrown and wanted by side, and who owed what before the evening."""

    id: int
    family: str
    total: int
    size: int
    left: int
    right: int
    wanted_left: int
    wanted_right: int
    owed_side: str
    owed: int
    next: NextOf | None


def volumes_of(session: Session, open_recording: int | None, live: Iterable[tuple[str, str]]) -> list[VolumeCount]:
    """`live` are (code, limb) of the strikes of the take that is open, whose recording's own are left out."""
    rows = list(Volume.objects.filter(session=session))
    if not rows:
        return []
    thrown = Counter((code, limb.split("_")[0]) for code, limb in live)
    thrown.update(_earlier_tonight(session, open_recording, rows))
    ahead = _ahead(session, rows)
    out = []
    for row in rows:
        left, right = (sum(thrown[c, side] for c in _codes(row.family)) for side in SIDES)
        out.append(_count(row, session.student.stance, (left, right), shared(row.total, ahead[row.family])))
    return out


def _count(row: Volume, stance: str, thrown: tuple[int, int], wanted: Shared) -> VolumeCount:
    coming = next_set(wanted, thrown, row.size)
    to_come = None
    if coming is not None:
        lead = limb_of(f"lead-{row.family}", stance)
        code = f"lead-{row.family}" if lead.startswith(coming[0]) else f"rear-{row.family}"
        to_come = NextOf(code, limb_of(code, stance), coming[1])
    return VolumeCount(
        id=row.pk,
        family=row.family,
        total=row.total,
        size=row.size,
        left=thrown[0],
        right=thrown[1],
        wanted_left=wanted.left,
        wanted_right=wanted.right,
        owed_side=wanted.owed_side,
        owed=wanted.owed,
        next=to_come,
    )


def _codes(family: str) -> tuple[str, str]:
    return f"lead-{family}", f"rear-{family}"


def _earlier_tonight(session: Session, open_recording: int | None, rows: list[Volume]) -> "Counter[tuple[str, str]]":
    codes = [c for row in rows for c in _codes(row.family)]
    strikes = Strike.objects.counted().filter(
        recording__session=session, recording__removed_at__isnull=True, set__code__in=codes
    ).exclude(recording=open_recording).select_related("set")  # fmt: skip
    return Counter((s.set.code, side_of(s.limb_said, s.set.limb)) for s in strikes if s.set)


def _ahead(session: Session, rows: list[Volume]) -> "Counter[str]":
    """Left minus right over the days before on which the same was counted."""
    out: Counter[str] = Counter()
    families = {c: row.family for row in rows for c in _codes(row.family)}
    strikes = Strike.objects.counted().filter(
        recording__session__student=session.student_id,
        recording__session__day__lt=session.day,
        recording__removed_at__isnull=True,
        set__code__in=families,
    )  # fmt: skip
    counted = set(
        Volume.objects.filter(session__student=session.student_id, session__day__lt=session.day).values_list(
            "session_id", "family"
        )
    )
    found = strikes.values_list("recording__session_id", "set__code", "set__limb", "limb", "relabelled_limb")
    for session_id, code, planned, limb, said in found.iterator(2000):
        family = families[code]
        if (session_id, family) in counted:
            out[family] += {"left": 1, "right": -1}.get(side_of(said or limb, planned), 0)
    return out


def side_of(limb: str, planned: str) -> str:
    """Of a strike that no limb unit saw it is the planned one."""
    known = limb if limb.startswith(SIDES) else planned
    return known.split("_")[0]
