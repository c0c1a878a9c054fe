"""What screens are told as it happens, over the database's own LISTEN and NOTIFY."""

from typing import Any

from django.db import connection
from pydantic_core import to_json

SCREENS, PACKETS = "screens", "packets"
LARGEST = 7900  # bytes: PostgreSQL takes 8,000; a screen that is told less asks for the rest


def tell(gym_id: int, station_id: int, kind: str, **more: Any) -> None:
    """Heard once the transaction is committed."""
    said = {"gym": gym_id, "station": station_id, "kind": kind, **more}
    content = to_json(said, inf_nan_mode="null")
    if len(content) > LARGEST:
        content = to_json({"gym": gym_id, "station": station_id, "kind": kind})
    _notify(SCREENS, content.decode())


def packets_came(station_ids: set[int]) -> None:
    for station in station_ids:
        _notify(PACKETS, str(station))


def _notify(channel: str, content: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [channel, content])
