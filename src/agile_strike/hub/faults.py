"""Faults that can be asked of a hub, so that what the server does about them can be seen: on the way, and of units."""

from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial.transform import Rotation

from agile_strike.core.errors import BadInput
from agile_strike.formats.packets import Part

ON_THE_WAY = ("drop", "delay", "reorder", "double")
OF_UNITS = ("flat", "jump", "slip")
SLIP = Rotation.from_euler("x", 35, degrees=True)


@dataclass(frozen=True, slots=True, kw_only=True)
class Faults:
    drop: float = 0.0  #: share of packets that are lost on the way, once each
    delay_s: float = 0.0  #: longest, each by chance
    reorder: float = 0.0  #: share of packets that wait until the next has gone
    double: float = 0.0  #: share that go twice
    flat: dict[str, float] | None = None  #: placement -> second of the stream at which its battery is flat
    jump: dict[str, tuple[float, int]] | None = None  #: placement -> second, and samples that its clock then leaps
    slip: dict[str, float] | None = None  #: placement -> second at which the strap slips

    def of_units(self, parts: dict[str, Part], at_s: float) -> dict[str, Part]:
        """What the units deliver at a second of the stream."""
        out = {}
        for place, part in parts.items():
            if at_s >= (self.flat or {}).get(place, np.inf):
                continue
            jump_s, samples = (self.jump or {}).get(place, (np.inf, 0))
            if at_s >= jump_s:
                part = replace(part, first=part.first + samples)
            if at_s >= (self.slip or {}).get(place, np.inf) and part.accel is not None and part.gyro is not None:
                accel, gyro = (SLIP.apply(x).astype(np.float32) for x in (part.accel, part.gyro))
                part = replace(part, accel=accel, gyro=gyro)
            out[place] = part
        return out


def faults_of(words: list[str]) -> Faults:
    """From words as `drop=0.05`, `delay=30`, `flat=leftwrist@120`, `jump=torso@60:2000`. Raises BadInput."""
    on_way: dict[str, float] = {}
    units: dict[str, dict[str, float]] = {}
    jumps: dict[str, tuple[float, int]] = {}
    for word in words:
        name, _, said = word.partition("=")
        try:
            if name in ON_THE_WAY:
                on_way["delay_s" if name == "delay" else name] = float(said)
            elif name == "jump":
                place, _, rest = said.partition("@")
                at, _, samples = rest.partition(":")
                jumps[place] = (float(at), int(samples))
            elif name in OF_UNITS:
                place, _, at = said.partition("@")
                units.setdefault(name, {})[place] = float(at)
            else:
                raise ValueError
        except ValueError as error:
            raise BadInput(
                f"{word[:40]} is no fault. Say drop=SHARE, delay=SECONDS, reorder=SHARE, double=SHARE, "
                "flat=UNIT@SECOND, slip=UNIT@SECOND or jump=UNIT@SECOND:SAMPLES."
            ) from error
    return Faults(**on_way, **units, jump=jumps or None)  # type: ignore[arg-type]
