"""One unit's samples as they come, in any order and more than once, on the even grid of its own clock."""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal
from agile_strike.formats.packets import Part, UnitFacts

Samples = NDArray[np.float32]

ROOM_S = 16.0  # made at a time


class Gathered:
    """Samples from `base` on; NaN where none came. What lies before `base` is no longer held."""

    def __init__(self, place: str, facts: UnitFacts, base: int) -> None:
        self.place, self.facts, self.base = place, facts, base
        self.upto = base  #: one past the last sample that came
        self._room = int(ROOM_S * facts.rate_hz)
        self._columns: dict[str, Samples] = {}
        self._come = np.zeros(self._room, bool)

    def put(self, part: Part) -> None:
        """Samples that were here already are left as they first came."""
        skip = max(0, self.base - part.first)
        n = part.count - skip
        if n <= 0:
            return
        at = part.first + skip - self.base
        self._grow(at + n)
        new: NDArray[np.bool_] | slice = slice(None)
        if self._come[at : at + n].any():  # most come once
            new = ~self._come[at : at + n]
        for name, values in (("a", part.accel), ("g", part.gyro), ("s", part.sole), ("l", part.load)):
            if values is not None:
                if name not in self._columns:
                    self._columns[name] = _empty(len(self._come), values.shape[1])
                column = self._columns[name]
                column[at : at + n][new] = values[skip:][new]
        self._come[at : at + n] = True
        self.upto = max(self.upto, self.base + at + n)

    def forget_before(self, sample: int) -> None:
        """Let go of what lies before a sample; in large steps, since what is left is moved."""
        drop = sample - self.base
        if drop < self._room:
            return
        self._columns = {n: c[drop:].copy() for n, c in self._columns.items()}
        self._come = self._come[drop:].copy()
        self.base = sample

    def whole_upto(self) -> int:
        """The first sample that has not come yet."""
        missing = np.flatnonzero(~self._come[: self.upto - self.base])
        return self.base + int(missing[0]) if len(missing) else self.upto

    def has(self, first: int, last: int) -> bool:
        """Whether all samples from `first` to before `last` have come, of those that are held."""
        return bool(self._come[max(0, first - self.base) : max(0, last - self.base)].all())

    def signal(self, first: int, last: int, starts_s: float | None = None, zero: int = 0) -> UnitSignal | None:
        """Samples `first` to before `last` that came, numbered from `zero`; None where there are none."""
        first, last = max(first, self.base), min(last, self.upto)
        if last <= first or not self._columns:
            return None
        rows = slice(first - self.base, last - self.base)
        n = last - first
        still = np.zeros((n, 3), np.float32)
        accel, gyro = (self._columns[k][rows].copy() if k in self._columns else still for k in "ag")
        return UnitSignal(
            self.place,
            self.facts.rate_hz,
            accel,
            gyro,
            self.facts.accel_full_scale_m_s2 or np.inf,
            self.facts.gyro_full_scale_rad_s or np.inf,
            self._columns["l"][rows, 0].copy() if "l" in self._columns else None,
            self._columns["s"][rows].copy() if "s" in self._columns else None,
            starts_s=starts_s,
            first_sample=first - zero,
            serial=self.facts.serial,
            model_text=self.facts.model_text,
        )

    def _grow(self, wanted: int) -> None:
        if wanted <= len(self._come):
            return
        more = -(-(wanted - len(self._come)) // self._room) * self._room
        self._come = np.concatenate([self._come, np.zeros(more, bool)])
        self._columns = {n: np.concatenate([c, _empty(more, c.shape[1])]) for n, c in self._columns.items()}


def _empty(n: int, width: int) -> Samples:
    return np.full((n, width), np.nan, np.float32)
