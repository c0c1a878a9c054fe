"""All that is slow about a student's worn units: with it, a window round a strike says the same as the whole evening.

Clocks, gravity, how restless each guard is, where a forearm's axis lies in its unit, what the student weighs on the
soles, which kinds of unit were swapped. Frozen, and plain to keep as JSON: a float written there reads back as itself.
"""

from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.feet import SoleState
from agile_strike.core.student.gravity import Gravity
from agile_strike.core.student.guard import Calm, Guard, Sway

Floats = NDArray[np.float64]
ARRAYS = (
    "gyro_bias_rad_s", "gyro_drift_rad_s2", "seen_s", "anchors", "piece_s", "piece_g", "piece_sd", "hole_s", "hole_var",
    "bias_sd",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class BodyState:
    clocks: dict[str, UnitClock]  #: of every worn unit, those too that could not be tied
    gravity: dict[str, Gravity]  #: of the units that are tied and move
    forearm: dict[str, Floats] = field(default_factory=dict)  #: (3,) long axis in the unit's axes, by unit
    swapped: frozenset[str] = frozenset()  #: kinds of unit of which left and right are swapped
    soles: SoleState | None = None
    stance: str | None = None
    mass_kg: float | None = None

    @property
    def slipped(self) -> list[str]:
        # A foot that only stands turns with the stance: that is no slipping strap.
        return sorted(n for n, g in self.gravity.items() if g.slipped and not n.endswith(" standing"))

    def to_json(self) -> dict[str, Any]:
        return {
            "clocks": {n: asdict(c) for n, c in self.clocks.items()},
            "gravity": {
                n: {a: getattr(g, a).tolist() for a in ARRAYS}
                | {"guard": asdict(g.guard), "calm": asdict(g.calm), "slipped": g.slipped}
                for n, g in self.gravity.items()
            },
            "forearm": {n: axis.tolist() for n, axis in self.forearm.items()},
            "swapped": sorted(self.swapped),
            "soles": asdict(self.soles) if self.soles else None,
            "stance": self.stance,
            "mass_kg": self.mass_kg,
        }

    @staticmethod
    def from_json(said: dict[str, Any]) -> "BodyState":
        return BodyState(
            {n: UnitClock(**c) for n, c in said["clocks"].items()},
            {n: _gravity(g) for n, g in said["gravity"].items()},
            {n: np.array(axis) for n, axis in said["forearm"].items()},
            frozenset(said["swapped"]),
            SoleState(**said["soles"]) if said["soles"] else None,
            said["stance"],
            said["mass_kg"],
        )


def _gravity(said: dict[str, Any]) -> Gravity:
    guard = Guard(Sway(**said["guard"]["level"]), Sway(**said["guard"]["height"]))
    none = {"anchors": (0, 4), "piece_g": (0, 3), "gyro_drift_rad_s2": (3,), "seen_s": (2,), "bias_sd": (2,)}
    # a take that was open while the server was renewed has a state that says nothing of a drift
    arrays = {a: np.array(said[a]) if said.get(a) else np.zeros(none.get(a, (0,))) for a in ARRAYS}
    return Gravity(**arrays, guard=guard, slipped=said["slipped"], calm=Calm(**said.get("calm", {})))
