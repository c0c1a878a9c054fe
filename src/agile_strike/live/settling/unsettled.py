"""Takes that have ended and are not settled: they wait, or could not be settled, which is told with a way on."""

import logging
import secrets
from dataclasses import dataclass

from django.db import transaction

from agile_strike.gym.models import Gym
from agile_strike.live.models import Take
from agile_strike.live.taps.own import own_take
from agile_strike.live.telling.queue import settle_soon
from agile_strike.live.telling.told import tell

log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Unsettled:
    """A turn whose figures are still the first ones."""

    take_id: int
    failed: str  #: the log's reference of why it could not be settled; empty while it waits for its turn


def unsettled(gym: Gym, evening_id: int) -> list[Unsettled]:
    rows = Take.objects.for_gym(gym).filter(session=evening_id, ended_at__isnull=False, settled_at__isnull=True)
    return [Unsettled(key, failed) for key, failed in rows.order_by("pk").values_list("pk", "failed")]


@transaction.atomic
def give_up(take_id: int, error: BaseException) -> None:
    """Its samples and first figures stay as they are, and the coach is told."""
    take = Take.objects.select_for_update(of=("self",)).select_related("station").get(pk=take_id)
    take.failed = secrets.token_hex(4)
    log.error("take %s could not be settled, reference %s", take.pk, take.failed, exc_info=error)
    take.save(update_fields=["failed"])
    tell(take.station.gym_id, take.station_id, "settled", take=take.pk)


@transaction.atomic
def try_again(gym: Gym, take_id: int) -> None:
    take = own_take(gym, take_id)
    take.failed = ""
    take.save(update_fields=["failed"])
    settle_soon(take)
