"""How far an analysis is from what truly happened: matched strikes, errors, and how often the stated doubt held."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.analysis import Analysis
from agile_strike.core.simulation.body_truth import body_truth
from agile_strike.core.simulation.plan import Simulated

Floats = NDArray[np.float64]

SAME_STRIKE_S = 0.03
IN_PER_CENT = (
    "impulse_n_s",
    "peak_force_n",
    "bag_energy_j",
    "contact_speed_m_s",
    "peak_speed_m_s",
    "effective_mass_kg",
    "effective_mass_pct",
    "pelvis_peak_deg_s",
    "torso_peak_deg_s",
)


@dataclass(frozen=True, slots=True)
class Score:
    """Errors of one or more analyses."""

    true_strikes: int
    found: int
    false: int
    errors: dict[str, Floats]  #: measure less truth; per cent for force, impulse and energy, else the measure's unit
    doubts: dict[str, Floats]  #: the stated standard uncertainties, same units
    possible: dict[str, int]  #: strikes found of which there is a truth to tell

    @property
    def recall(self) -> float:
        return self.found / max(self.true_strikes, 1)

    @property
    def precision(self) -> float:
        return self.found / max(self.found + self.false, 1)

    def median(self, measure: str) -> float:
        return float(np.median(np.abs(self.errors[measure])))

    def worst(self, measure: str) -> float:
        """The 95th percentile of the error's size."""
        return float(np.percentile(np.abs(self.errors[measure]), 95))

    def covered(self, measure: str) -> float:
        """Share of strikes whose truth lies within two standard uncertainties."""
        return float(np.mean(np.abs(self.errors[measure]) <= 2.0 * self.doubts[measure]))

    def wide(self, measure: str) -> float:
        """How many times wider the usual doubt is than what 95 of 100 errors ask for: 3 tells less than is known."""
        return 1.96 * float(np.median(self.doubts[measure])) / max(self.worst(measure), 1e-12)

    def there(self, measure: str) -> float:
        """Share of strikes that have the measure, of those that have a truth of it: how right it is belongs to that."""
        return len(self.errors.get(measure, ())) / max(self.possible.get(measure, 0), 1)


def score(analysis: Analysis, simulated: Simulated) -> Score:
    """Compare with what is true of a simulated evening."""
    contacts = np.array([struck.contact_s for _, struck in simulated.truths])
    return scored(analysis, contacts, lambda i: true_measures(simulated, i))


def scored(analysis: Analysis, times: Floats, true_of: Callable[[int], dict[str, float]]) -> Score:
    """Match strikes to contacts (n,) no more than 30 ms apart, each once, and compare; `true_of` says what is true of
    contact i, by the registry's names."""
    errors: dict[str, list[float]] = {}
    doubts: dict[str, list[float]] = {}
    possible: dict[str, int] = {}
    taken: set[int] = set()
    for strike in analysis.strikes:
        i = int(np.argmin(np.abs(times - strike.contact_s)))
        if abs(times[i] - strike.contact_s) > SAME_STRIKE_S or i in taken:
            continue
        taken.add(i)
        errors.setdefault("contact_s", []).append(strike.contact_s - float(times[i]))
        doubts.setdefault("contact_s", []).append(1.0)
        for name, true in true_of(i).items():
            possible[name] = possible.get(name, 0) + 1
            if name in strike.measures:
                scale = 100.0 / true if name in IN_PER_CENT else 1.0
                error = strike.measures[name].value - true
                if name == "direction_deg":
                    error = (error + 180.0) % 360.0 - 180.0
                errors.setdefault(name, []).append(scale * error)
                doubts.setdefault(name, []).append(scale * strike.measures[name].sd)
    return Score(
        len(times),
        len(taken),
        len(analysis.strikes) - len(taken),
        {n: np.array(v) for n, v in errors.items()},
        {n: np.array(v) for n, v in doubts.items()},
        possible,
    )


def pooled(scores: list[Score]) -> Score:
    """Several evenings as one."""
    names = sorted({n for s in scores for n in s.errors})

    def joined(which: str, name: str) -> Floats:
        return np.concatenate([getattr(s, which)[name] for s in scores if name in s.errors])

    return Score(
        sum(s.true_strikes for s in scores),
        sum(s.found for s in scores),
        sum(s.false for s in scores),
        {n: joined("errors", n) for n in names},
        {n: joined("doubts", n) for n in names},
        {n: sum(s.possible.get(n, 0) for s in scores) for s_ in scores for n in s_.possible},
    )


def true_measures(simulated: Simulated, i: int) -> dict[str, float]:
    """What is true of strike i, by the registry's names."""
    strike, struck = simulated.truths[i]
    length = struck.end_s - struck.contact_s
    worn = simulated.worn
    of_body = body_truth(worn.course, worn.course.thrown[i], struck.impulse_n_s) if worn else {}
    return of_body | {
        "contact_ms": 1e3 * length,
        "impulse_n_s": struck.impulse_n_s,
        "peak_force_n": struck.peak_force_n,
        "rise_ms": struck.rise_ms,
        "push_index": struck.impulse_n_s / length / struck.peak_force_n,
        "hit_below_top_m": strike.below_top_m,
        "off_centre_m": strike.off_centre_m,
        "direction_deg": (struck.bearing_deg + 180.0) % 360.0 - 180.0,
        "bag_energy_j": struck.energy_j,
    }


def truth(simulated: Simulated) -> dict[str, object]:
    """What is true of a simulated recording, as plain data."""
    recording, bag = simulated.recording, simulated.true_bag
    return {
        "participant": recording.participant.label,
        "session": recording.session,
        "task": recording.task,
        "run": recording.run,
        "bag": {"mount": bag.mount, "mass_kg": bag.mass_kg, "inertia_cm_kg_m2": bag.inertia_across_kg_m2},
        "strikes": [
            {
                "contact_s": struck.contact_s,
                "limb": strike.limb,
                "code": strike.code,
                "measures": true_measures(simulated, i),
            }
            for i, (strike, struck) in enumerate(simulated.truths)
        ],
        "clocks": {
            n: {"offset_s": o, "drift_ppm": d}
            for n, (o, d) in (simulated.worn.clocks if simulated.worn else {}).items()
        },
        "bumps": [{"at_s": b.time_s, "kind": b.kind} for b in simulated.bumps],
    }
