"""What a coach says of strikes: what they were, what was seen, a note; thrown out with a reason, and taken back."""

from collections.abc import Callable
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from agile_strike.core.errors import BadInput, ChangedMeanwhile
from agile_strike.core.strikes import LIMBS
from agile_strike.evening.services import SetText, checked, said
from agile_strike.gym.models import Gym
from agile_strike.playbook import entries
from agile_strike.review.estimate import estimate
from agile_strike.review.models import Remark, Strike, StrikeSet
from agile_strike.review.own import changed, own

REASONS = ("glancing", "bag still swinging", "unit slipped", "not a strike", "wrong strike", "other")

#: strikes that a coach chose, and the version of each that the coach saw
Seen = dict[int, int]
LONGEST_NOTE = 2000


@transaction.atomic
def label(gym: Gym, seen: Seen, text: SetText) -> StrikeSet:
    """Say what strikes were: they leave the set they were in. Nothing that was measured changes."""
    strikes = _as_seen(gym, seen)
    if len({s.recording_id for s in strikes}) != 1:
        raise BadInput("Label strikes of one recording at a time.")
    text = checked(gym, said(gym, text))
    made = StrikeSet.objects.create(
        recording_id=strikes[0].recording_id,
        code=text.code,
        limb=text.limb,
        level=text.level,
        levels=text.levels,
        school_id=text.school_id,
        gear=text.gear,
        by_coach=True,
    )
    _said(strikes, set=made, relabelled_limb=text.limb)
    estimate(strikes[0].recording)
    return made


@transaction.atomic
def put_back(gym: Gym, seen: Seen, before: dict[int, tuple[int | None, str]]) -> int:
    """Undo a labelling: each strike goes back to the set and limb that it had."""
    strikes = _as_seen(gym, seen)
    wanted = [s for s, _ in before.values() if s]
    known = dict(StrikeSet.objects.for_gym(gym).filter(pk__in=wanted).values_list("pk", "recording_id"))
    for strike in strikes:
        set_id, limb = before[strike.pk]
        if set_id is not None and known.get(set_id) != strike.recording_id:
            raise BadInput("The set to go back to is gone. Reload the page.")
        strike.set_id = set_id
        strike.relabelled_limb = limb if limb in LIMBS and limb != strike.limb else ""  # no word against the units
        strike.version += 1
    changed(strikes)
    count = Strike.objects.bulk_update(strikes, ["set", "relabelled_limb", "version"])
    for recording in {s.recording_id: s.recording for s in strikes}.values():
        estimate(recording)
    return count


def _as_seen(gym: Gym, seen: Seen, as_wanted: Callable[[Strike], bool] = lambda _: False) -> list[Strike]:
    """The strikes, locked, in order of their numbers. Raises ChangedMeanwhile where one is no longer what was seen, nor
    what was wanted: a tablet whose answer was lost says it again."""
    rows = own(gym, seen, "set", "recording", held=True)
    for row in rows:
        if row.version != seen[row.pk] and not as_wanted(row):
            raise ChangedMeanwhile(f"strike {row.number}", _now(row))
    return sorted(rows, key=lambda r: r.number)


def _now(row: Strike) -> str:
    """What coaches have said of a strike, in a line."""
    parts = [row.set.code if row.set else "no label"]
    parts += [f"thrown out: {row.excluded_reason}"] if row.excluded_reason else ["it counts"]
    parts += [f"note “{row.note[:80]}”"] if row.note else []
    return ", ".join(parts)


def _said(strikes: list[Strike], **what: Any) -> int:
    """Write what a coach says of strikes, and only that."""
    changed(strikes)
    return Strike.objects.filter(pk__in=[s.pk for s in strikes]).update(**what, version=F("version") + 1)


@transaction.atomic
def remark(gym: Gym, strike_id: int, what: str, on: bool, by: User) -> bool:
    """Note what was seen, or take it back; True if that changed anything. Said twice it stands once."""
    (strike,) = own(gym, [strike_id], held=True)
    if not on:  # also one that the gym says no longer
        return bool(Remark.objects.filter(strike=strike, what=what).delete()[0])
    words = [word for family in entries.remarks(gym).values() for word in family]
    if what not in words:
        raise BadInput(f"{what[:40]} is no remark. Choose one of {', '.join(words)}.")
    return Remark.objects.get_or_create(strike=strike, what=what, defaults={"by": by})[1]


@transaction.atomic
def write_note(gym: Gym, strike_id: int, text: str, version: int) -> None:
    """A coach's own words on one strike; empty takes them away."""
    if len(text) > LONGEST_NOTE:
        raise BadInput("A note holds at most 2,000 letters.")
    strikes = _as_seen(gym, {strike_id: version})
    _said(strikes, note=text.strip())


@transaction.atomic
def exclude(gym: Gym, seen: Seen, reason: str, by: User) -> int:
    """Throw strikes out. A strike that is out already keeps its first reason."""
    if not reason.strip() or len(reason) > 120:
        raise BadInput("Say in a few words why the strike is thrown out.")
    own = reason.strip()
    strikes = [s for s in _as_seen(gym, seen, lambda s: s.excluded_reason == own) if not s.excluded_reason]
    return _said(strikes, excluded_reason=own, excluded_at=timezone.now(), excluded_by=by)


@transaction.atomic
def restore(gym: Gym, seen: Seen) -> int:
    """Take strikes back."""
    strikes = [s for s in _as_seen(gym, seen, lambda s: not s.excluded_reason) if s.excluded_reason]
    return _said(strikes, excluded_reason="", excluded_at=None, excluded_by=None)
