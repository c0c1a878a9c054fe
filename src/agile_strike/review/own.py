"""The strikes of a gym that somebody asks for."""

from collections.abc import Iterable

from django.db.models import F

from agile_strike.capture.models import Recording
from agile_strike.core.errors import NotYours
from agile_strike.gym.models import Gym
from agile_strike.review.models import Strike


def own(gym: Gym, ids: Iterable[int], *beside: str, held: bool = False) -> list[Strike]:
    """In order of id, with what is named in `beside`; `held`: locked until the transaction ends. Raises NotYours where
    one of them is not this gym's. Asked in one query: what another coach removes meanwhile is there, or it is not."""
    wanted = set(ids)
    rows = Strike.objects.for_gym(gym).filter(id__in=wanted).order_by("pk")
    if beside:
        rows = rows.select_related(*beside)
    found = list(rows.select_for_update(of=("self",)) if held else rows)
    if not wanted or len(found) != len(wanted):
        raise NotYours("strike")
    return found


def changed(strikes: Iterable[Strike]) -> None:
    """What rests on these strikes has to be made anew."""
    Recording.objects.filter(pk__in={s.recording_id for s in strikes}).update(revision=F("revision") + 1)
