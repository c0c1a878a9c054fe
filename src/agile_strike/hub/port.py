"""Units on a serial port, by the lines of docs/gateway.md, which a maker of a small hub prints.

`unit,PLACE,RATE_HZ[,SERIAL[,ACCEL_FULL_SCALE,GYRO_FULL_SCALE]]` once for each unit, then
`PLACE,NUMBER,ax,ay,az,gx,gy,gz` for each sample, or `PLACE,NUMBER,heel,forefoot` of a sole; `end` where no more comes.
"""

import contextlib
import threading
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import serial

from agile_strike.core.errors import BadInput
from agile_strike.core.recording import UNITS
from agile_strike.formats.packets import MOST_RATE_HZ, Part, UnitFacts

BAUD = 2_000_000
WAIT_S = 5.0  # for the lines that name the units
GAP_S = 1.0  # that a packet bridges with samples that never came
BELIEVED = 20  # samples one after the other: a number that jumps is meant
MOVED = {6: "motion", 2: "sole"}  # numbers in a sample


_Row = tuple[int, list[float]]


@dataclass(slots=True)
class Port:
    """A source for a hub. Lines that can't be read are counted and left out."""

    speed: float = 1.0
    units: dict[str, UnitFacts] = field(default_factory=dict)
    bad_lines: int = 0
    _next: dict[str, int] = field(default_factory=dict)  #: number of the sample that comes next, by place
    _rows: dict[str, list[_Row]] = field(default_factory=lambda: defaultdict(list))
    _lock: threading.Lock = field(default_factory=threading.Lock)
    _named: threading.Event = field(default_factory=threading.Event)
    _closed: bool = False

    @staticmethod
    def opened(name: str) -> "Port":
        """Raises BadInput where there is no such port, or nothing names its units."""
        try:
            line = serial.serial_for_url(name, baudrate=BAUD, timeout=1.0)
        except (serial.SerialException, ValueError) as error:
            raise BadInput(f"{name}: this port can't be opened. Give one as /dev/ttyACM0.") from error
        port = Port()
        threading.Thread(target=port.read, args=(_lines(line, port),), daemon=True).start()
        if not port._named.wait(WAIT_S):
            raise BadInput(f"{name}: no line has named a unit in {WAIT_S:g} s. See docs/gateway.md for what is read.")
        return port

    def read(self, lines: Iterable[str]) -> None:
        for line in lines:
            if line.strip() == "end":
                break
            if line.strip() and not self._one(line.strip().split(",")):
                self.bad_lines += 1
        self._closed = True
        self._named.set()

    def due(self, until_s: float, sent: dict[str, int]) -> dict[str, Part]:
        with self._lock:
            rows, self._rows = self._rows, defaultdict(list)
        out = {}
        for place, samples in rows.items():
            taken, rest = self._in_one_piece(place, samples)
            if rest:
                with self._lock:
                    self._rows[place] = rest + self._rows[place]
            if not taken:
                continue
            first, last = min(n for n, _ in taken), max(n for n, _ in taken)
            values = np.full((last - first + 1, len(taken[0][1])), np.nan, np.float32)
            for n, numbers in taken:
                values[n - first] = numbers
            sole = values.shape[1] == 2
            out[place] = (
                Part(first=first, sole=values) if sole else Part(first=first, accel=values[:, :3], gyro=values[:, 3:])
            )
        return out

    def _in_one_piece(self, place: str, samples: list[_Row]) -> tuple[list[_Row], list[_Row]]:
        """Those that follow each other without a long gap, and what comes after one, for the next packet. A number out
        of line is a garbled one, and dropped, unless as many follow on it as no noise would make."""
        most = int(GAP_S * self.units[place].rate_hz)
        taken: list[_Row] = []
        odd: list[_Row] = []
        for k, row in enumerate(samples):
            number, expected = row[0], self._next.get(place)
            if expected is not None and 0 <= number - expected <= most:
                taken.append(row)
                self._next[place] = number + 1
                self.bad_lines += len(odd)
                odd = []
                continue
            if odd and number != odd[-1][0] + 1:
                self.bad_lines += len(odd)
                odd = []
            odd.append(row)
            if len(odd) >= BELIEVED:  # the unit was away for long, or it was the one before that was garbled
                self._next[place] = odd[0][0]
                return taken, odd + samples[k + 1 :]
        if self._closed and odd:  # nothing more comes that would tell
            known = place in self._next
            self.bad_lines += len(odd) if known else 0
            return taken or ([] if known else odd), []
        return taken, odd

    def ended(self, sent: dict[str, int]) -> bool:
        return self._closed and not self._rows

    def told(self, asked: Any) -> None:
        pass

    def _one(self, words: list[str]) -> bool:
        with contextlib.suppress(ValueError, IndexError):
            if words[0] == "unit":
                place, rate = words[1], float(words[2])
                if place not in UNITS or not 1.0 <= rate <= MOST_RATE_HZ:
                    return False
                scales = [float(w) for w in words[4:6]]
                accel, gyro = scales if len(scales) == 2 else (None, None)
                serial_text = words[3] if len(words) > 3 else ""
                self.units[place] = UnitFacts(
                    rate_hz=rate, serial=serial_text, accel_full_scale_m_s2=accel, gyro_full_scale_rad_s=gyro
                )
                return True
            place, number, numbers = words[0], int(words[1]), [float(w) for w in words[2:]]
            if place not in self.units or number < 0 or len(numbers) not in MOVED or not np.isfinite(numbers).all():
                return False
            self._named.set()
            with self._lock:
                have = self._rows[place]
                if have and len(have[0][1]) != len(numbers):
                    return False
                have.append((number, numbers))
            return True
        return False


def _lines(line: Any, port: Port) -> Iterable[str]:
    while True:
        try:
            said = line.readline()
        except serial.SerialException:
            return
        if said:
            yield said.decode("ascii", "replace")
        elif port._closed:
            return
