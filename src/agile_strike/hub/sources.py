"""Where a hub has its samples from. A source is asked for what its units have measured since it was asked last."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

import numpy as np

from agile_strike.core.errors import BadInput
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.formats import motion_bids_read as bids
from agile_strike.formats.archive import opened
from agile_strike.formats.packets import MOST_SAMPLES, Part, UnitFacts, parts_of


class Source(Protocol):
    @property
    def speed(self) -> float:
        """Seconds of samples in a second."""
        ...

    @property
    def units(self) -> dict[str, UnitFacts]: ...

    def due(self, until_s: float, sent: dict[str, int]) -> dict[str, Part]:
        """Samples that the units have by `until_s` of the stream, beginning with those after the `sent` ones."""
        ...

    def ended(self, sent: dict[str, int]) -> bool: ...

    def told(self, asked: Any) -> None:
        """What the server says is being done: see docs/gateway.md. Only a simulated student listens."""
        ...


def facts_of(unit: UnitSignal) -> UnitFacts:
    scales = [None if np.isinf(s) else s for s in (unit.accel_full_scale_m_s2, unit.gyro_full_scale_rad_s)]
    return UnitFacts(
        rate_hz=unit.rate_hz,
        serial=unit.serial,
        model_text=unit.model_text,
        accel_full_scale_m_s2=scales[0],
        gyro_full_scale_rad_s=scales[1],
    )


@dataclass(slots=True)
class Replay:
    """A recording, played as if its units were measuring it now. Each unit begins when its file says it did."""

    recording: Recording
    speed: float = 1.0

    @property
    def units(self) -> dict[str, UnitFacts]:
        return {place: facts_of(unit) for place, unit in self.recording.units.items()}

    def due(self, until_s: float, sent: dict[str, int]) -> dict[str, Part]:
        out = {}
        earliest = min(self._starts(u) for u in self.recording.units.values())
        for place, unit in self.recording.units.items():
            first = sent.get(place, 0)
            have = int((until_s - self._starts(unit) + earliest) * unit.rate_hz)
            last = min(have, len(unit.accel_m_s2), first + MOST_SAMPLES // 10)
            if last > first:
                out[place] = parts_of(unit, slice(first, last))
        return out

    def ended(self, sent: dict[str, int]) -> bool:
        return all(sent.get(p, 0) >= len(u.accel_m_s2) for p, u in self.recording.units.items())

    def told(self, asked: Any) -> None:
        pass

    @staticmethod
    def _starts(unit: UnitSignal) -> float:
        return unit.starts_s or 0.0


def replay(path: Path, speed: float) -> Replay:
    """The first recording of a data set. Raises BadInput."""
    with opened(path) as root:
        runs = bids.runs(root)
        if not runs:
            raise BadInput(f"{path.name}: there is no recording in it. Give the folder of a Motion-BIDS data set.")
        return Replay(bids.read_run(root, runs[0], bids.read_participants(root)), speed)
