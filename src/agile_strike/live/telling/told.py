"""What screens are told as it happens, over the database's own LISTEN and NOTIFY."""

import datetime as dt
from typing import Any, Literal

from django.db import connection
from ninja import Schema
from pydantic import ConfigDict
from pydantic_core import to_json

SCREENS, PACKETS = "screens", "packets"
LARGEST = 7900  # bytes: PostgreSQL takes 8,000; a screen that is told less asks for the rest


class UnitHeard(Schema):
    """How a unit does, as the live worker last heard of it."""

    silent_s: float | None  #: none: it was never heard
    moved: float  #: the most it felt in the last second
    battery_pct: float | None


class NobodysBlows(Schema):
    """Blows on a bag while nobody was said to stand there, by the server's clock."""

    since: dt.datetime
    until: dt.datetime
    blows: int


class LiveEvent(Schema):
    """What a screen is told as it happens. Of all but its kind, an event holds what its kind needs."""

    model_config = ConfigDict(extra="forbid")

    #: `again`: something may have been missed, ask for everything
    kind: Literal["again", "strike", "set", "take", "settled", "kit", "cue", "round", "stamps"]
    station: int | None = None
    take: int | None = None
    units: dict[str, UnitHeard] | None = None  #: by placement
    nobodys: NobodysBlows | None = None
    lag_s: float | None = None  #: that measuring is behind what has come; 0 for nothing to speak of
    strike: int | None = None
    number: int | None = None
    contact_s: float | None = None
    limb: str | None = None
    flags: list[str] | None = None
    version: int | None = None
    whole: bool | None = None
    mark: str | None = None  #: key of the set it fell into; empty for none
    measures: dict[str, list[float]] | None = None  #: value and sd


def tell(gym_id: int, station_id: int, kind: Any, **more: Any) -> None:
    """Heard once the transaction is committed."""
    event = LiveEvent(kind=kind, station=station_id, **more).dict(exclude_unset=True)
    content = to_json({"gym": gym_id, **event}, inf_nan_mode="null")
    if len(content) > LARGEST:
        content = to_json({"gym": gym_id, "station": station_id, "kind": kind})
    _notify(SCREENS, content.decode())


def packets_came(station_ids: set[int]) -> None:
    for station in station_ids:
        _notify(PACKETS, str(station))


def _notify(channel: str, content: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [channel, content])
