"""A recording as it may be looked at: this gym's, not removed, and not of a child whose guardian does not let it be."""

from typing import TYPE_CHECKING

from agile_strike.capture.models import Recording
from agile_strike.core.errors import NotYours
from agile_strike.gym.models import Gym
from agile_strike.people.services import allow

if TYPE_CHECKING:
    from django.db.models import QuerySet


def recording_of(gym: Gym, rows: "QuerySet[Recording]", key: int) -> Recording:
    """One of these rows of a gym. Raises NotAllowed where only consent is missing, else NotYours."""
    row = rows.filter(pk=key).first()
    if row is not None:
        return row
    hidden = Recording.objects.with_removed_of(gym).select_related("student")
    held_back = hidden.filter(pk=key, removed_at__isnull=True, student__removed_at__isnull=True).first()
    if held_back is not None:
        allow(held_back.student, gym.today)
    raise NotYours("recording")
