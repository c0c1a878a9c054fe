"""Rows of a gym's own, locked while a tap is told: station, then take."""

from agile_strike.core.errors import NotYours
from agile_strike.gym.models import Gym
from agile_strike.live.models import Station, Take


def own_station(gym: Gym, station_id: int) -> Station:
    """The station's row, locked."""
    row = (
        Station.objects.for_gym(gym)
        .select_for_update(of=("self",))
        .select_related("gym", "bag")
        .filter(pk=station_id)
        .first()
    )
    if row is None:
        raise NotYours("station")
    return row


def own_take(gym: Gym, take_id: int) -> Take:
    """The take's row, locked."""
    rows = Take.objects.for_gym(gym).select_for_update(of=("self",)).select_related("station", "session__student")
    row = rows.filter(pk=take_id).first()
    if row is None:
        raise NotYours("take")
    return row
