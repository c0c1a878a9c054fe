"""What a line of the log says: one question to the database for each kind of line on the page."""

import datetime as dt
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db.models import Count

from agile_strike.evening.models import Drilled, Looked, Session
from agile_strike.gym.models import Gym, Member
from agile_strike.kit.models import BagVersion, Calibration
from agile_strike.logbook.lines import Found
from agile_strike.logbook.models import Note
from agile_strike.people.models import BodyMass, Earlier, Mark, StanceChange, Student
from agile_strike.playbook.strikes import known
from agile_strike.review.models import Remark, Strike
from agile_strike.trials.models import Decision, Trial

GONE = "someone who left"
DECIDED = {"keep": "Keep", "drop": "Drop", "keep_testing": "Keep testing"}
CALIBRATED = {"rests": "calibrated at rest", "swing": "measured by its swing", "ball": "measured by a swung ball"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What one line says."""

    title: str
    text: str = ""
    to: str = ""  #: page of the application that shows it whole
    by: str = ""
    version: int | None = None  #: where it can be written anew here
    open: bool = False  #: an injury that is not over
    mass_kg: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """A line as it is shown, printed and exported."""

    kind: str
    key: int
    day: dt.date
    student_id: int | None
    student: str
    said: Said
    earlier: int  #: how often it was written over


def tell(gym: Gym, found: list[Found]) -> list[Line]:
    """The lines in their order; one that went meanwhile is left out."""
    by_kind: dict[str, set[int]] = defaultdict(set)
    for f in found:
        by_kind[f.kind].add(f.key)
    said = {kind: _TELLS[kind](gym, keys) for kind, keys in by_kind.items()}
    names = dict(Student.objects.for_gym(gym).filter(pk__in={f.student for f in found}).values_list("pk", "name"))
    over = _written_over(gym, by_kind)
    return [
        Line(
            kind=f.kind,
            key=f.key,
            day=f.day,
            student_id=f.student,
            student=names.get(f.student or 0, ""),
            said=said[f.kind][f.key],
            earlier=over[f.kind, f.key],
        )
        for f in found
        if f.key in said[f.kind]
    ]


def _written_over(gym: Gym, by_kind: dict[str, set[int]]) -> Counter[tuple[str, int]]:
    keys = set().union(*(by_kind[of] for of in Earlier.Of.values))
    rows = Earlier.objects.for_gym(gym).filter(key__in=keys).exclude(said="").values_list("of", "key")
    return Counter(rows.order_by())


def names_of(users: Iterable[User | None]) -> dict[int, str]:
    """The coaches' own names."""
    keys = {u.pk for u in users if u is not None}
    return dict(Member.objects.filter(user__in=keys).values_list("user_id", "name"))


def _name(names: dict[int, str], by: User | None) -> str:
    return "" if by is None else names.get(by.pk, GONE)


def _evenings(gym: Gym, keys: set[int]) -> dict[int, Said]:
    rows = Session.objects.filter(pk__in=keys)
    counted = Strike.objects.for_gym(gym).counted().filter(recording__session__in=keys)
    strikes = dict(counted.values_list("recording__session").annotate(n=Count("pk")).order_by())
    remarks: dict[int, list[str]] = defaultdict(list)
    told = Remark.objects.filter(strike__recording__session__in=keys, strike__recording__removed_at__isnull=True)
    for session, what, n in (
        told.values_list("strike__recording__session", "what").annotate(n=Count("pk")).order_by("-n", "what")
    ):
        remarks[session].append(f"{what} {n}×" if n > 1 else what)
    looked: dict[int, list[str]] = defaultdict(list)
    for session, name in Looked.objects.filter(session__in=keys, good=False).values_list("session", "name"):
        looked[session].append(name)
    drilled: dict[int, list[str]] = defaultdict(list)
    for session, name in Drilled.objects.filter(session__in=keys).values_list("session", "name"):
        drilled[session].append(name)
    out = {}
    for row in rows:
        n = strikes.get(row.pk, 0)
        parts = (
            row.notes,
            f"Sore: {row.soreness}" if row.soreness else "",
            f"Gear: {row.gear}" if row.gear else "",
            f"Remarks: {', '.join(remarks[row.pk])}" if remarks[row.pk] else "",
            f"Not yet in the set-up: {', '.join(looked[row.pk])}" if looked[row.pk] else "",
            f"Drilled: {', '.join(drilled[row.pk])}" if drilled[row.pk] else "",
        )
        title = f"Evening, {n} {'strike' if n == 1 else 'strikes'}" if n else "Evening, nothing measured"
        out[row.pk] = Said(title=title, text=". ".join(p.rstrip(".") for p in parts if p), to=f"/evenings/{row.pk}")
    return out


def _notes(gym: Gym, keys: set[int]) -> dict[int, Said]:
    rows = list(Note.objects.filter(pk__in=keys).select_related("by"))
    names = names_of(r.by for r in rows)
    return {r.pk: Said(title="Note", text=r.text, by=_name(names, r.by), version=r.version) for r in rows}


MARKED = {"injury": "Pain or injury", "break": "Break", "other": "Mark"}


def _marks(gym: Gym, keys: set[int]) -> dict[int, Said]:
    rows = list(Mark.objects.filter(pk__in=keys).select_related("by"))
    names = names_of(r.by for r in rows)
    return {
        r.pk: Said(
            title=MARKED[r.kind],
            text=r.text if r.until is None or r.until == r.since else f"{r.text} (to {r.until:%-d %B %Y})",
            by=_name(names, r.by),
            open=r.kind == Mark.Kind.INJURY and r.until is None,
        )
        for r in rows
    }


def _over(gym: Gym, keys: set[int]) -> dict[int, Said]:
    rows = Mark.objects.filter(pk__in=keys)
    title = {"injury": "Cleared", "break": "Back from the break", "other": "Over"}
    return {r.pk: Said(title=title[r.kind], text=r.text) for r in rows}


def _decisions(gym: Gym, keys: set[int]) -> dict[int, Said]:
    rows = list(Decision.objects.filter(pk__in=keys).select_related("trial", "by"))
    names = names_of(r.by for r in rows)
    return {
        r.pk: Said(
            title=f"{DECIDED[r.what]}: {r.level}",
            text=r.reason,
            by=_name(names, r.by),
            to=f"/students/{r.student_id}/compare?trial={r.trial_id}",
        )
        for r in rows
    }


def _trials(gym: Gym, keys: set[int]) -> dict[int, Said]:
    strikes = {w.code: w.name for w in known(gym)}
    rows = Trial.objects.filter(pk__in=keys).prefetch_related("students")
    return {
        r.pk: Said(
            title=f"Trial begun: {r.factor}, {strikes.get(r.code, r.code)}",
            text=f"{' against '.join(r.levels)}: {', '.join(s.name for s in r.students.all())}",
            to=f"/trials/{r.pk}/edit",
        )
        for r in rows
    }


def _strikes(gym: Gym, keys: set[int]) -> dict[int, Said]:
    rows = Strike.objects.filter(pk__in=keys).select_related("recording").defer(None)
    return {
        r.pk: Said(
            title=f"Strike {r.number}",
            text=r.note,
            to=f"/students/{r.recording.student_id}/read?recording={r.recording_id}&strike={r.number}",
        )
        for r in rows
    }


def _masses(gym: Gym, keys: set[int]) -> dict[int, Said]:
    return {r.pk: Said(title="Body mass", mass_kg=r.mass_kg) for r in BodyMass.objects.filter(pk__in=keys)}


def _stances(gym: Gym, keys: set[int]) -> dict[int, Said]:
    return {r.pk: Said(title=f"Stands {r.stance}") for r in StanceChange.objects.filter(pk__in=keys)}


def _bags(gym: Gym, keys: set[int]) -> dict[int, Said]:
    why = {"changed": "changed", "learnt": "more is known of it", "corrected": "its figures were corrected"}
    rows = BagVersion.objects.filter(pk__in=keys).select_related("bag")
    return {r.pk: Said(title=f"{r.bag.name}: {why[r.why]}", mass_kg=r.mass_kg, to="/kit") for r in rows}


def _calibrations(gym: Gym, keys: set[int]) -> dict[int, Said]:
    rows = list(Calibration.objects.filter(pk__in=keys).select_related("bag", "unit", "by"))
    names = names_of(r.by for r in rows)
    return {
        r.pk: Said(
            title=f"{r.bag or r.unit}: {CALIBRATED[r.kind]}",
            text=f"Trusted until {r.expires_on:%-d %B %Y}",
            by=_name(names, r.by),
            to="/kit",
        )
        for r in rows
    }


_TELLS: dict[str, Callable[[Gym, set[int]], dict[int, Said]]] = {
    "evening": _evenings,
    "note": _notes,
    "strike": _strikes,
    "mark": _marks,
    "over": _over,
    "decision": _decisions,
    "trial": _trials,
    "mass": _masses,
    "stance": _stances,
    "bag": _bags,
    "calibration": _calibrations,
}


@dataclass(frozen=True, slots=True)
class Before:
    """How something stood before it was written over."""

    said: str
    by: str
    at: dt.datetime


def before(gym: Gym, of: str, key: int) -> list[Before]:
    """What a line said before, the latest first; with who wrote over it, and when."""
    rows: list[Any] = list(Earlier.objects.for_gym(gym).filter(of=of, key=key).select_related("by"))
    names = names_of(r.by for r in rows)
    return [Before(r.said, _name(names, r.by), r.at) for r in rows if r.said]
