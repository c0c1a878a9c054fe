"""Three firm stamps at the start and the end tie pelvis, torso and soles to limb units that contacts have tied.

Every worn unit feels a stamp, some milliseconds apart as the shock climbs the body: the delays are the format's.
"""

from itertools import combinations, pairwise

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import Event, UnitSignal
from agile_strike.core.student.clocks import MOST_DRIFT_PPM, SEARCH_S, UnitClock
from agile_strike.core.student.jolts import Jolts, jolts

Floats = NDArray[np.float64]

DELAY_S = {"sole": 0.0, "ankle": 0.0, "pelvis": 0.002, "torso": 0.004, "wrist": 0.005, "forearm": 0.005}
FLOOR = {"sole": 150.0, "ankle": 12.0, "pelvis": 6.0, "torso": 4.0, "wrist": 4.0, "forearm": 4.0}
EDGE_S = 25.0  # stamps come within so much of the first and last contact, or of the recording's ends
APART_S = (0.25, 2.0)  # between two stamps
SAME_S = {True: 0.012, False: 0.022}  # spacing of a triple in two units; soles at 100 Hz are coarser
SLOW_HZ = 150.0
STAMPS = 3  # at either end
MOST = 40  # jolts to look through at each end
FAINT_M_S2 = 3.0  # of a rounded stamp in a unit of which the clock is known


def reference_stamps(
    units: dict[str, UnitSignal],
    clocks: dict[str, UnitClock],
    events: tuple[Event, ...],
    contacts_s: Floats,
    length_s: float,
) -> tuple[Floats, Floats]:
    """Instants (3,) of the stamps at the start and at the end on the reference clock, as the floor felt them; empty
    where they can't be made out. Where one end shows all three, two that several units felt do at the other."""
    every = []
    for spans in _spans(events, contacts_s, length_s):
        felt = []
        for name, clock in clocks.items():
            unit = units[name]
            if not clock.aligned:
                continue
            own = [(float(clock.own(np.array(a))), float(clock.own(np.array(b)))) for a, b in spans]
            found = _largest(jolts(unit, FLOOR[unit.kind], own))
            felt.append((clock.reference(found.at_s) - DELAY_S[unit.kind], found.size / FLOOR[unit.kind]))
        every.append(felt)
    start, end = (_agreed(felt) for felt in every)
    if len(start) and not len(end):
        end = _agreed(every[1], 2)
    elif len(end) and not len(start):
        start = _agreed(every[0], 2)
    return start, end


def _spans(events: tuple[Event, ...], contacts_s: Floats, length_s: float) -> list[list[tuple[float, float]]]:
    """Where to look for the stamps at the start and at the end, reference clock."""
    first, last = (contacts_s[0], contacts_s[-1]) if len(contacts_s) else (length_s / 2, length_s / 2)
    told = [e for e in events if e.trial_type == "stamps"]
    start = [(e.onset_s - 1.5, e.onset_s + e.duration_s + 3.0) for e in told if e.onset_s < first]
    end = [(e.onset_s - 1.5, e.onset_s + e.duration_s + 3.0) for e in told if e.onset_s > last]
    return [
        start[-1:] or [(max(-SEARCH_S, first - EDGE_S), first - 0.3)],
        end[:1] or [(last + 0.4, min(last + EDGE_S, length_s + SEARCH_S))],
    ]


def _largest(found: Jolts) -> Jolts:
    keep = np.sort(np.argsort(found.size)[-MOST:])
    return Jolts(found.at_s[keep], found.size[keep])


def _runs(at_s: Floats, count: int) -> list[list[int]]:
    """Places of jolts that could be so many stamps, one after the other."""
    return [
        list(run)
        for run in combinations(range(len(at_s)), count)
        if all(APART_S[0] < at_s[b] - at_s[a] < APART_S[1] for a, b in pairwise(run))
    ]


def _agreed(felt: list[tuple[Floats, Floats]], count: int = 3) -> Floats:
    """The run of stamps that most limb units felt, strongest and most alike; the mean of their instants. Two alone are
    none unless more than one unit felt them."""
    best, chosen = 0.0, np.zeros(0)
    for at, size in felt:
        for run in _runs(at, count):
            own = at[run]
            seen, strength = [own], _evenness(size[run])
            for other, other_size in felt:
                if other is at or len(other) == 0:
                    continue
                near = np.array([int(np.argmin(np.abs(other - t))) for t in own])
                if np.abs(other[near] - own).max() < SAME_S[True]:
                    seen.append(other[near])
                    strength += _evenness(other_size[near])
            if strength > best and (count == STAMPS or len(seen) > 1):
                best, chosen = strength, np.median(seen, axis=0)
    return np.asarray(chosen)


def _evenness(sizes: Floats) -> float:
    """Three stamps are alike: their smallest counts, and less so beside a larger one."""
    return float(sizes.min() * (sizes.min() / sizes.max()))


def felt_by(
    unit: UnitSignal, start_s: Floats, end_s: Floats, guess_s: float, reach_s: float, floor: float | None = None
) -> tuple[Floats, Floats] | None:
    """When a unit felt the stamps at `start_s` and `end_s` (3,), by its own clock and by the reference; None where it
    felt none. Its offset is `guess_s`, to within `reach_s`; jolts below `floor` are none."""
    pairs: list[tuple[Floats, Floats]] = []
    offset, reach = guess_s, reach_s
    for stamps in sorted((start_s, end_s), key=len, reverse=True):
        if len(stamps) == 0 or (len(stamps) < STAMPS and not pairs):
            continue  # two could be any two, unless the clock is nearly known
        wanted = stamps + DELAY_S[unit.kind]
        within = reach + 1e-6 * MOST_DRIFT_PPM * float(wanted[-1])
        span = (float(wanted[0]) - offset - within - 0.2, float(wanted[-1]) - offset + within + 0.2)
        found = _largest(jolts(unit, FLOOR[unit.kind] if floor is None else floor, [span]))
        own = _matching(found, wanted, SAME_S[unit.rate_hz > SLOW_HZ], offset, within)
        if own is None:
            continue
        pairs.append((own, wanted))
        offset, reach = float(np.mean(wanted - own)), 0.05
    if not pairs:
        return None
    pairs.sort(key=lambda p: float(p[1][0]))
    return np.concatenate([p[0] for p in pairs]), np.concatenate([p[1] for p in pairs])


def _matching(found: Jolts, wanted: Floats, same_s: float, offset_s: float, reach_s: float) -> Floats | None:
    """The jolts of a unit that are spaced as the stamps were, strongest first."""
    best, chosen = 0.0, None
    gaps = np.diff(wanted)
    for run in _runs(found.at_s, len(wanted)):
        own = found.at_s[run]
        if np.abs(np.diff(own) - gaps).max() > same_s or abs(float(np.mean(wanted - own)) - offset_s) > reach_s:
            continue
        strength = _evenness(found.size[run])
        if strength > best:
            best, chosen = strength, own
    return chosen
