"""How each unit of a station does: when it was last heard, how much it moved, and how far behind its measuring is."""

import datetime as dt
from dataclasses import dataclass, field
from typing import Any

from agile_strike.formats.packets import Packet, UnitFacts
from agile_strike.live.models import Station, Stream
from agile_strike.live.telling.told import tell
from agile_strike.live.watch.nobodys import Nobodys

EVERY_S = 1.0
LONGEST_SILENT_S = 9999.0
LAGS_S = 2.0  # between a packet's coming and its being looked at: less is a busy machine's ordinary second


@dataclass(slots=True)
class Heard:
    at_s: float | None = None  #: by the worker's own clock
    moved: float = 0.0  #: the most since that was last told


@dataclass(slots=True)
class Kit:
    """Of the stations that this worker watches."""

    units: dict[int, dict[str, Heard]] = field(default_factory=dict)  #: by station and placement
    lag: dict[int, float] = field(default_factory=dict)  #: seconds, by station
    told_at: float = -1e9

    def keep(self, stations: set[int]) -> None:
        """Others are watched by another worker now."""
        self.units = {k: u for k, u in self.units.items() if k in stations}
        self.lag = {k: s for k, s in self.lag.items() if k in stations}

    def note(self, station_id: int, packet: Packet, facts: dict[str, UnitFacts], now: float) -> None:
        kit = self.units.setdefault(station_id, {})
        for name in facts:
            kit.setdefault(name, Heard())
        for name, part in packet.units.items():
            values = part.gyro if part.gyro is not None else part.sole
            moved = float(abs(values).max()) if values is not None and len(values) else 0.0
            heard = kit.setdefault(name, Heard())
            heard.at_s, heard.moved = now, max(moved, heard.moved)

    def note_lag(self, station_id: int, came: dt.datetime, now: dt.datetime) -> None:
        """`came`: when the latest packet that was looked at had come."""
        self.lag[station_id] = (now - came).total_seconds()

    def tell(self, now: float, at: dt.datetime, nobodys: Nobodys) -> None:
        """Once a second, for each station whose hub was ever heard: what each unit does."""
        if now - self.told_at < EVERY_S or not self.units:
            return
        self.told_at = now
        gyms = dict(Station.objects.filter(pk__in=list(self.units)).values_list("pk", "gym_id"))
        batteries = dict(
            Stream.objects.filter(station__in=list(gyms)).order_by("id").values_list("station_id", "battery")
        )
        for station_id, gym_id in gyms.items():
            units = {
                name: self._unit(heard, batteries.get(station_id, {}).get(name), now)
                for name, heard in self.units[station_id].items()
            }
            lag = self.lag.get(station_id, 0.0)
            tell(
                gym_id,
                station_id,
                "kit",
                units=units,
                lag_s=round(lag, 1) if lag >= LAGS_S else 0.0,
                nobodys=nobodys.told(station_id, at),
            )

    @staticmethod
    def _unit(heard: Heard, battery_pct: float | None, now: float) -> dict[str, Any]:
        silent = None if heard.at_s is None else round(min(now - heard.at_s, LONGEST_SILENT_S), 1)
        said = {"silent_s": silent, "moved": round(heard.moved, 2), "battery_pct": battery_pct}
        heard.moved = 0.0
        return said
