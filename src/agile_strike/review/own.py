"""The strikes of a gym that somebody asks for."""

from collections.abc import Iterable

from django.db.models import F

from agile_strike.capture.models import Recording
from agile_strike.core.errors import NotYours
from agile_strike.gym.models import Gym
from agile_strike.review.models import Strike, Strikes


def own(gym: Gym, ids: Iterable[int]) -> Strikes:
    """Raises NotYours where one of them is not this gym's."""
    wanted = set(ids)
    rows = Strike.objects.for_gym(gym).filter(id__in=wanted)
    if not wanted or rows.count() != len(wanted):
        raise NotYours("strike")
    return rows


def changed(strikes: Iterable[Strike]) -> None:
    """What rests on these strikes has to be made anew."""
    Recording.objects.filter(pk__in={s.recording_id for s in strikes}).update(revision=F("revision") + 1)
