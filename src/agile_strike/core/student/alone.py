"""Strikes without a bag unit: found from the worn units alone, on pads, on a target that is held, or in the air.

A strike is a stroke (see `strokes`) that begins from a pause or is braked harder than it was sped up, goes farther
than a parry, and is stopped at its end: within some hundredths of a second by what it met (`met`), or by the limb
itself at full reach, from where it comes home at once (`air`). Walking, waving and skipping go to and fro alike;
clapping hands meet after a hand's breadth; a foot that walks is set down with its shank upright.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.measured import Measured
from agile_strike.core.recording import Recording, UnitSignal, reference_of
from agile_strike.core.strikes import AIR, MET
from agile_strike.core.student import clocks as ck
from agile_strike.core.student import stamps
from agile_strike.core.student.align import one_end, running
from agile_strike.core.student.alike import alike
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.course import Course
from agile_strike.core.student.limbs import PART
from agile_strike.core.student.recoil import by_strikes
from agile_strike.core.student.strokes import Strokes, strokes
from agile_strike.core.student.tell import ALONG_M_PER_M_S, FALL_M_PER_M_S
from agile_strike.core.student.underfoot import TRUNK, soles_by_load

Floats = NDArray[np.float64]

SLOWEST_HZ = 45.0  # samples a second: fewer tell no jolt from a clap
EDGE_S = 0.8  # of a recording, in which a mean over a second says little
MET_HELD_S = 0.045  # that it was slowed at least half as hard: a pad or a target takes less, a limb's own muscles more
RESTED_S = 0.1  # in the guard, from where it began
BURST_S = 0.8  # from one strike of a limb to where its next begins, with no pause in the guard
BACK_WITHIN_S, BACK_SHARE, OPPOSED = 0.15, 0.4, -0.6  # of the reach: how soon, how far and how straight it comes home
ALONG_S, ALONG_SHARE = 0.12, 0.8  # of another limb's strike, and of its speed: a hand that is pulled back meanwhile
SAME_S = 0.08  # of two units on one limb
ONSET_BACK_S, BEND_S = 0.05, 0.025  # samples before what it met is mostly felt, which show where that began
LEAST_BEND, FINE = 7, 14  # of them, of a slow unit; below, half a sample is too coarse a step
QUICK_HZ = 350.0  # samples a second that show how a limb's own course bends
MOSTLY, CLEAR_SHARE = 0.8, 0.25  # of the hardest that it slowed: a kick's own braking is half of what clips
#: doubt of the instant: a glove, a sensor's own low-pass and a strap make it late; a limb slows smoothly to full reach
ONSET_SD_S, ONSET_SAMPLES = {MET: 0.002, AIR: 0.0015}, 0.6
SLOWED_M_S2 = 60.0  # by a limb beside its contact: its speed there is as unsure as the instant
SPEED_SHARE, SPEED_SHARE_HZ = 0.006, 1.2  # of a strike that no bag tied to its place; and of a unit that is slow
FROM_CONTACT = ("flight_ms", "hand_before_ms", "pelvis_before_ms", "torso_before_ms", "step_before_ms", "response_ms")
LEAST_MET_S, LONGEST_MET_S = 0.008, 0.045


@dataclass(frozen=True, slots=True, kw_only=True)
class Like:
    """What a strike of a limb is at least like."""

    met_m_s: float
    air_m_s: float
    met_way_m: float
    air_way_m: float
    most_way_m: float
    met_m_s2: float  #: that it is stopped with
    air_m_s2: float  #: that it brakes with
    asymmetry: float  #: braked against launched
    even_m_s: float  #: from a pause, and so fast, it need not be
    tilt_deg: float  #: of the unit at the end, from how it hangs at rest


HAND = Like(
    met_m_s=2.2, air_m_s=2.4, met_way_m=0.22, air_way_m=0.4, most_way_m=1.4,
    met_m_s2=70.0, air_m_s2=30.0, asymmetry=1.3, even_m_s=4.5, tilt_deg=0.0,
)  # fmt: skip
FOOT = Like(
    met_m_s=3.0, air_m_s=3.5, met_way_m=0.5, air_way_m=0.6, most_way_m=2.4,
    met_m_s2=70.0, air_m_s2=40.0, asymmetry=1.1, even_m_s=5.0, tilt_deg=35.0,
)  # fmt: skip
LIKE = {"wrist": HAND, "forearm": HAND, "ankle": FOOT}


@dataclass(frozen=True, slots=True, kw_only=True)
class Blow:
    """A strike of a worn limb, by its unit's clock."""

    unit: str
    kind: str  #: MET or AIR
    at_s: float
    length_s: float  #: that it was stopped by what it met; nought in the air
    top_m_s: float  #: highest speed, as far as strokes show it
    at_sd_s: float
    speed_sd_share: float


@dataclass(frozen=True, slots=True)
class Found:
    """Strikes in order of time on the reference clock, which is one unit's own, and every unit's clock."""

    blows: list[Blow]
    at_s: list[float]
    clocks: dict[str, UnitClock]
    stamps_s: Floats


def found(recording: Recording) -> Found:
    """All strikes of a recording without a bag unit, and the clocks of its units."""
    units = {n: u for n, u in recording.units.items() if n != "bag"}
    reference = reference_of(units)
    each = {n: _blows(u) for n, u in units.items() if u.kind in PART and u.feels_turning and u.rate_hz >= SLOWEST_HZ}
    if reference is None or not each:
        return Found([], [], {n: ck.not_aligned(n) for n in units}, np.zeros(0))
    rough = {
        n: UnitClock(n, (u.starts_s or 0.0) - (units[reference].starts_s or 0.0), 0.0, 0.0, "none", False)
        for n, u in units.items()
    }
    clocks, stamped = _clocks(recording, units, reference, rough, each)
    return _merged(each, clocks, stamped)


# --- of one limb


def _blows(unit: UnitSignal) -> list[Blow]:
    s, course = strokes(unit)
    like = LIKE[unit.kind]
    out: list[Blow] = []
    for i in range(len(s)):
        if s.begins_s[i] < EDGE_S or s.ends_s[i] > course.length_s - EDGE_S:
            continue
        again = bool(out) and s.begins_s[i] - out[-1].at_s < BURST_S
        kind = _kind(s, i, like, again)
        if not kind:
            continue
        at, length = _met_at(s, i, course) if kind == MET else (float(s.ends_s[i]), 0.0)
        if out and at - out[-1].at_s < SAME_S:
            continue
        out.append(
            Blow(
                unit=unit.unit,
                kind=kind,
                at_s=at,
                length_s=length,
                top_m_s=float(s.top_m_s[i]),
                at_sd_s=float(np.hypot(ONSET_SD_S[kind], ONSET_SAMPLES / unit.rate_hz if kind == MET else 0.0)),
                speed_sd_share=SPEED_SHARE + SPEED_SHARE_HZ / unit.rate_hz,
            )
        )
    return out


def _kind(s: Strokes, i: int, like: Like, again: bool) -> str:
    """MET, AIR, or nothing of the kind; `again` soon after another strike of this limb."""
    if s.tilt_deg[i] < like.tilt_deg or s.way_m[i] > like.most_way_m:
        return ""
    uneven = s.braked_m_s2[i] >= like.asymmetry * s.launched_m_s2[i]
    rested = s.rested_s[i] >= RESTED_S
    hard = s.stopped_m_s2[i] >= like.met_m_s2 and s.held_s[i] <= MET_HELD_S
    if hard and s.top_m_s[i] >= like.met_m_s and s.way_m[i] >= like.met_way_m and uneven:
        return MET
    far = s.top_m_s[i] >= like.air_m_s and s.way_m[i] >= like.air_way_m and s.braked_m_s2[i] >= like.air_m_s2
    begun = (rested and (uneven or s.top_m_s[i] >= like.even_m_s)) or (again and uneven)
    return AIR if far and begun and not hard and _comes_home(s, i) else ""


def _comes_home(s: Strokes, i: int) -> bool:
    """The next stroke takes the limb back at once, much of the way."""
    if i + 1 >= len(s):
        return False
    soon = s.begins_s[i + 1] - s.ends_s[i] <= BACK_WITHIN_S
    return bool(soon and s.along[i] @ s.along[i + 1] <= OPPOSED and s.way_m[i + 1] >= BACK_SHARE * s.way_m[i])


def _met_at(s: Strokes, i: int, course: Course) -> tuple[float, float]:
    """When what slowed a limb began to, and for how long."""
    rate = course.rate_hz
    first = max(int((s.top_s[i] - ONSET_BACK_S) * rate) - course.first, 0)
    last = min(int((s.ends_s[i] + ONSET_BACK_S) * rate) - course.first, len(course.samples))
    near = course.samples[first:last, 3:].astype(np.float64)
    slowed = -(near @ s.in_unit[i])
    top = int(np.argmax(slowed))
    soft = np.flatnonzero(slowed[: top + 1] < MOSTLY * slowed[top])
    high = int(soft[-1]) + 1 if len(soft) else 0
    low = max(0, high - max(round(BEND_S * rate), LEAST_BEND))
    onset = low + _bend(near[low : high + 1], 3 if rate >= QUICK_HZ else 2)
    after = np.flatnonzero(slowed[top:] < CLEAR_SHARE * slowed[top])
    ends = top + (int(after[0]) if len(after) else 0)
    length = float(np.clip((ends - onset) / rate, LEAST_MET_S, LONGEST_MET_S))
    return (course.first + first + onset) / rate, length


def _bend(felt: Floats, terms: int) -> float:
    """Where samples (n, 3) leave their own smooth course, a polynomial of some terms, for a ramp: the bend that leaves
    least (a broken line, Hinkley 1971)."""
    n = len(felt)
    if n < terms + 3:
        return float(max(n - 2, 0))
    x = np.arange(n, dtype=np.float64)
    own = np.vander(x / n, terms)
    tried = np.arange(terms, n - 1.0, 0.25 if n < FINE else 0.5)
    left = []
    for bend in tried:
        design = np.column_stack([own, np.maximum(x - bend, 0.0)])
        fit, *_ = np.linalg.lstsq(design, felt, rcond=None)
        left.append(float(((felt - design @ fit) ** 2).sum()))
    return float(tried[int(np.argmin(left))])


# --- all limbs on one clock


def _clocks(
    recording: Recording,
    units: dict[str, UnitSignal],
    reference: str,
    rough: dict[str, UnitClock],
    each: dict[str, list[Blow]],
) -> tuple[dict[str, UnitClock], Floats]:
    """Every unit's clock against the reference's: by stamps that both ends show, else by what jolts all of a body; and
    when the stamps were."""
    near_s = np.sort([float(rough[n].reference(np.array(b.at_s))) for n, blows in each.items() for b in blows])
    exact_s = np.array([b.at_s for b in each.get(reference, [])])  # the others' are as rough as the files' own times
    own = UnitClock(reference, 0.0, 0.0, 0.0, "reference", True)
    length_s = units[reference].length_s
    start, end = stamps.reference_stamps(units, {reference: own}, recording.events, near_s, length_s)
    told = any(e.trial_type == "stamps" for e in recording.events)
    out = {reference: own}
    stamped = False
    for name, unit in units.items():
        if name == reference or unit.kind not in stamps.DELAY_S:
            continue
        felt = stamps.felt_by(unit, start, end, rough[name].offset_s, ck.SEARCH_S)
        both = felt is not None and not one_end(felt[1])
        if felt is not None and (both or told):
            clock = ck.Pairs(*felt, np.ones(len(felt[0]))).clock(name, "stamps")
            out[name] = clock if both else running(clock, felt[1], length_s)
            stamped = True
        elif unit.sole_n is None:
            unit_after = replace(unit, starts_s=rough[name].offset_s)
            tied_so = alike(unit_after, [(units[reference], own)], near_s, length_s)
            if tied_so is None and unit.kind in TRUNK:
                tied_so = by_strikes(unit_after, exact_s, length_s)
            if tied_so is not None:
                out[name] = tied_so
    soles = [n for n in units if units[n].kind == "sole" and n not in out]
    after = {n: replace(units[n], starts_s=rough[n].offset_s) for n in soles}
    out |= soles_by_load(units | after, soles, out, recording.events, near_s, length_s)
    out |= {n: rough[n] for n in units if n not in out}
    return out, np.concatenate([start, end]) if stamped else np.zeros(0)


def _merged(each: dict[str, list[Blow]], clocks: dict[str, UnitClock], stamped: Floats) -> Found:
    """One strike for the two units of one arm: the wrist's, where both felt it. None for the hand that is pulled back
    as the other one strikes."""
    told = [(float(clocks[b.unit].reference(np.array(b.at_s))), b) for blows in each.values() for b in blows]
    told.sort(key=lambda one: (one[0], one[1].unit))
    kept: list[tuple[float, Blow]] = []
    for at, blow in told:
        twin = next((k for k, (t, b) in enumerate(kept) if at - t < SAME_S and _one_arm(b.unit, blow.unit)), None)
        if twin is None:
            kept.append((at, blow))
        elif kept[twin][1].unit.endswith("forearm"):
            kept[twin] = (at, blow)
    kept = [(at, b) for at, b in kept if not _goes_along(at, b, kept)]
    return Found([b for _, b in kept], [at for at, _ in kept], clocks, stamped)


def _one_arm(a: str, b: str) -> bool:
    return {a, b} in ({"leftwrist", "leftforearm"}, {"rightwrist", "rightforearm"})


def _goes_along(at: float, blow: Blow, all_of_them: list[tuple[float, Blow]]) -> bool:
    """A hand in the air, slower than another limb that strikes at the same moment."""
    return blow.kind == AIR and any(
        abs(at - t) < ALONG_S and blow.top_m_s < ALONG_SHARE * b.top_m_s and b.unit != blow.unit for t, b in all_of_them
    )


def doubted(measures: dict[str, Measured], at_sd_s: float, speed_share: float) -> dict[str, Measured]:
    """The same, where the instant of contact that all is told from and the limb's speed are as unsure as that."""
    if "peak_speed_m_s" not in measures:
        return measures
    top = measures["peak_speed_m_s"].value
    later_ms, slower, off = 1e3 * at_sd_s, SLOWED_M_S2 * at_sd_s, speed_share * top
    more = dict.fromkeys(FROM_CONTACT, later_ms) | {
        "peak_speed_m_s": off,
        "contact_speed_m_s": float(np.hypot(slower, off)),
        "speed_held_pct": 100.0 * slower / top,
        "pullback_mm": 1e3 * ALONG_M_PER_M_S * off,
        "drop_mm": 1e3 * FALL_M_PER_M_S * off,
    }
    return {n: Measured(m.value, float(np.hypot(m.sd, more.get(n, 0.0)))) for n, m in measures.items()}
