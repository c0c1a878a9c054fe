"""From strikes on a bag to the student behind them: clocks, limb, trunk and feet, each only where units allow."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import partial
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.measured import Measured
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.strikes import Lanes
from agile_strike.core.student import clocks as ck
from agile_strike.core.student import feet, limbs, stamps, stretch, trunk
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.gravity import gravity_track, has_slipped
from agile_strike.core.student.grid import Neighbours
from agile_strike.core.student.integrals import integrals
from agile_strike.core.student.jolts import contact_shifts, jolts
from agile_strike.core.student.lanes import load_lane, speed_lane, turn_lane
from agile_strike.core.student.limbs import SIDES
from agile_strike.core.student.reach import Reach, long_axis, reach, turnover
from agile_strike.core.student.unclip import Clipped

Floats = NDArray[np.float64]

LIMB_KINDS = ("wrist", "forearm", "ankle")
CONTACT_JOLT_M_S2 = 45.0
MOST_JOLTS_PER_CONTACT = 4
BATCH = 48  # stretches at a time: 60 MB
TYPICAL_CONTACT_S = 0.016
SETTLING = 40
NEAR_TIED_S = 0.1  # of a clock that contacts have tied already
STAMP_WEIGHT = 0.25  # against a contact's onset, which is sharper
STAMP_SD_MS = 1.6  # of a clock that six stamps tie: a shock climbs the body faster in some than in others
CROWDED_S = 0.9  # a strike so near turns the trunk as well
QUIET_S = 0.66  # of every strike: further off, a gyro shows its bias
FOREARM = np.array([1.0, 0.0, 0.0])  # the format's long axis of wrists and forearms
SIGN = {"right": 1.0, "left": -1.0}  # of the turn into a strike, seen from above


@dataclass(frozen=True, slots=True)
class Contact:
    """What the bag knew of one strike."""

    at_s: float
    length_s: float | None
    impulse: Measured | None
    planned: str  #: limb that the running set named, or `unknown`


@dataclass(slots=True)
class OfStudent:
    """What worn units add to one strike."""

    limb: str
    measures: dict[str, Measured] = field(default_factory=dict)
    chain_order: str | None = None
    flags: list[str] = field(default_factory=list)
    launch_s: float | None = None  #: from contact
    lanes: Lanes | None = None


@dataclass(frozen=True, slots=True)
class StudentMeasures:
    """All strikes of a recording, its clocks, and flags of the whole."""

    strikes: list[OfStudent]
    clocks: dict[str, UnitClock]
    flags: tuple[str, ...]


def measure(recording: Recording, contacts: Sequence[Contact]) -> StudentMeasures:
    """Everything that the worn units of a recording add to its contacts, in order of time."""
    at = np.array([c.at_s for c in contacts])
    lengths = np.array([c.length_s or TYPICAL_CONTACT_S for c in contacts])
    tied, stamped = align(recording, at)
    worn = {n: u for n, u in recording.units.items() if n != "bag"}
    found = limbs.limbs(worn, tied, at, [c.planned for c in contacts])
    out = [OfStudent(limb) for limb in found.limb]
    for one, sure, silent in zip(out, found.sure, found.silent, strict=True):
        if worn and not sure:
            one.flags.append("limb_unsure")
        if silent:
            one.flags.append(f"gap:{silent}")
    slipped: list[str] = []
    reached = _reach_all(recording, worn, tied, contacts, at, lengths, stamped, found, out, slipped)
    _trunk_all(recording, worn, tied, at, lengths, stamped, reached, out, slipped)
    _feet_all(recording, worn, tied, at, reached, out)
    _cues(recording, at, out)
    for one in out:
        one.chain_order = trunk.chain_order(one.measures)
    swapped = ("units_swapped",) if found.swapped else ()
    return StudentMeasures(out, tied, (*swapped, *(f"slipped:{n}" for n in sorted(set(slipped)))))


def align(recording: Recording, contact_s: Floats) -> tuple[dict[str, UnitClock], Floats]:
    """Every worn unit's clock, limb units by contacts and the rest by stamps; and when the stamps were, reference
    clock (up to six)."""
    units = {n: u for n, u in recording.units.items() if n != "bag"}
    out: dict[str, UnitClock] = {}
    pairs: dict[str, ck.Pairs] = {}
    for name, unit in units.items():
        if unit.kind not in LIMB_KINDS:
            continue
        felt = jolts(unit, CONTACT_JOLT_M_S2)
        most = MOST_JOLTS_PER_CONTACT * len(contact_s) + 20
        keep = np.sort(np.argsort(felt.size)[-most:])
        tied = ck.tie(contact_s, felt.at_s[keep], unit.starts_s or 0.0)
        if tied is None:
            out[name] = ck.not_aligned(name)
            continue
        pairs[name] = ck.sharpened(tied, contact_s[tied[3]], partial(contact_shifts, unit))
        out[name] = pairs[name].clock(name, "contacts")
    bag = recording.units.get("bag")
    start, end = stamps.reference_stamps(units, out, recording.events, contact_s, bag.length_s if bag else 0.0)
    start, end = _settled(units, out, pairs, start, end)
    for name, unit in units.items():
        if name in pairs or unit.kind not in stamps.DELAY_S:
            continue
        felt_stamps = stamps.felt_by(unit, start, end, unit.starts_s or 0.0, ck.SEARCH_S)
        if felt_stamps is not None:
            out[name] = ck.Pairs(*felt_stamps, np.ones(len(felt_stamps[0]))).clock(name, "stamps")
    for name in units:
        out.setdefault(name, ck.not_aligned(name))
    return out, np.concatenate([start, end])


def _settled(
    units: dict[str, UnitSignal],
    out: dict[str, UnitClock],
    pairs: dict[str, ck.Pairs],
    start_s: Floats,
    end_s: Floats,
) -> tuple[Floats, Floats]:
    """Stamps (3,) at the start and the end, and the limb units' clocks in `out`, by least squares over contacts and
    stamps: a unit that felt contacts for a short while only learns its drift from the stamps that the others place."""
    felt = {}
    for name in pairs:
        found = stamps.felt_by(units[name], start_s, end_s, out[name].offset_s, NEAR_TIED_S)
        if found is not None and len(found[0]) == len(start_s) + len(end_s):
            felt[name] = found[0]
    if not felt:
        return start_s, end_s
    when = np.concatenate([start_s, end_s])
    for _ in range(SETTLING):  # alternating least squares: the clocks, given the stamps; the stamps, given the clocks
        for name, own in felt.items():
            wanted = when + stamps.DELAY_S[units[name].kind]
            out[name] = pairs[name].joined(own, wanted, STAMP_WEIGHT).clock(name, "contacts")
        when = np.mean([out[n].reference(own) - stamps.DELAY_S[units[n].kind] for n, own in felt.items()], axis=0)
    return when[: len(start_s)], when[len(start_s) :]


def _neighbours(own_s: Floats, own_length_s: Floats) -> Neighbours:
    """Gaps between one limb's contacts (k,), on its unit's clock."""
    inf = np.full(len(own_s), np.inf)
    last_from, last_to, older, nxt, nxt_to = -inf, -inf, -inf, inf.copy(), inf.copy()
    last_from[1:] = own_s[:-1] - own_s[1:]
    last_to[1:] = last_from[1:] + own_length_s[:-1]
    older[2:] = own_s[:-2] + own_length_s[:-2] - own_s[2:]
    nxt[:-1] = own_s[1:] - own_s[:-1]
    nxt_to[:-1] = nxt[:-1] + own_length_s[1:]
    return Neighbours(last_from, last_to, older, nxt, nxt_to)


def _part(beside: Neighbours, rows: slice | NDArray[np.int64]) -> Neighbours:
    return Neighbours(
        beside.last_from_s[rows],
        beside.last_to_s[rows],
        beside.before_last_to_s[rows],
        beside.next_from_s[rows],
        beside.next_to_s[rows],
    )


def _quiet(jolted_s: Floats, length_s: float) -> list[tuple[float, float]]:
    """Stretches of a unit's clock well away from its contacts and from stamps, which jolt it as well."""
    edges = np.concatenate([[-QUIET_S], np.sort(jolted_s), [length_s + QUIET_S]])
    return [(a + QUIET_S, b - QUIET_S) for a, b in pairwise(edges) if b - a > 2 * QUIET_S + 0.5]


def _reach_all(
    recording: Recording,
    worn: dict[str, UnitSignal],
    tied: dict[str, UnitClock],
    contacts: Sequence[Contact],
    at: Floats,
    lengths: Floats,
    stamped: Floats,
    found: limbs.Limbs,
    out: list[OfStudent],
    slipped: list[str],
) -> list[Reach]:
    reached = [Reach({}, None) for _ in contacts]
    mass = recording.participant.mass_kg
    for name, unit in worn.items():
        mine = np.array([i for i, u in enumerate(found.unit) if u == name], dtype=np.int64)
        if unit.kind not in LIMB_KINDS or not tied[name].aligned or len(mine) == 0:
            continue
        own = tied[name].own(at[mine])
        beside = _neighbours(own, lengths[mine])
        whole, clipped = integrals(unit, own)
        track = gravity_track(whole, _quiet(np.concatenate([own, tied[name].own(stamped)]), unit.length_s))
        if has_slipped(track):
            slipped.append(name)
        cut = [
            stretch.stretches(whole, track, own[rows], lengths[mine][rows], _part(beside, rows), clipped.part(rows))
            for rows in (slice(first, first + BATCH) for first in range(0, len(mine), BATCH))
        ]

        jobs = [
            (cut[k // BATCH], k % BATCH, float(lengths[i]), contacts[i].impulse, mass, float(beside.last_to_s[k]))
            for k, i in enumerate(mine)
        ]
        mine_reached = [reach(*job) for job in jobs]
        if unit.kind != "ankle":
            axis = long_axis([r.forward for r in mine_reached if r.forward is not None], FOREARM)
            for job, r, i in zip(jobs, mine_reached, mine, strict=True):
                if r.launch_s is not None:
                    out[i].measures |= turnover(job[0], job[1], r.launch_s, axis)
        for k, i in enumerate(mine):
            reached[i] = mine_reached[k]
            out[i].measures |= mine_reached[k].measures
            out[i].launch_s = mine_reached[k].launch_s
            if mine_reached[k].launch_s is not None:
                out[i].lanes = Lanes({"speed_m_s": speed_lane(cut[k // BATCH], k % BATCH)})
            if clipped.share[k] > 0.0:
                out[i].flags.append(f"clipped:{name}")
    return reached


def _trunk_all(
    recording: Recording,
    worn: dict[str, UnitSignal],
    tied: dict[str, UnitClock],
    at: Floats,
    lengths: Floats,
    stamped: Floats,
    reached: list[Reach],
    out: list[OfStudent],
    slipped: list[str],
) -> None:
    rear = "left" if recording.participant.stance == "southpaw" else "right"
    names: list[str] = [n for n in ("pelvis", "torso") if n in worn and tied[n].aligned]
    shanks: list[str] = [n for n in ("leftankle", "rightankle") if n in worn and tied[n].aligned]
    rows = np.array([i for i, r in enumerate(reached) if r.launch_s is not None], dtype=np.int64)
    none = np.zeros(0)
    wholes = {n: integrals(worn[n], none)[0] for n in names + shanks}
    jolted = np.concatenate([at, stamped])
    tracks = {n: gravity_track(wholes[n], _quiet(tied[n].own(jolted), worn[n].length_s)) for n in names + shanks}
    slipped += [n for n in names if has_slipped(tracks[n])]
    beside = _neighbours(at, lengths)
    still = Clipped(np.zeros(BATCH), np.zeros(BATCH))
    no_time = np.zeros(BATCH)
    for first in range(0, len(rows), BATCH):
        part = rows[first : first + BATCH]
        near, m = _part(beside, part), len(part)
        free = still.part(slice(m))
        cut = {
            n: stretch.stretches(wholes[n], tracks[n], tied[n].own(at[part]), no_time[:m], near, free, strikes=False)
            for n in names + shanks
        }
        for k, i in enumerate(part):
            launch = reached[i].launch_s
            assert launch is not None
            side = out[i].limb.split("_")[0]
            trunks = {n: cut[n] for n in names}
            clock_sd = {n: max(tied[n].residual_ms, STAMP_SD_MS) for n in names}
            sign = SIGN.get(side, 1.0)
            told = trunk.trunk_measures(trunks, k, launch, sign, clock_sd)
            _add_lanes(out[i], {f"{n}_deg_s": turn_lane(cut[n], k, sign) for n in names if cut[n].ok[k]})
            standing = SIDES[side] if out[i].limb.endswith(("foot", "knee")) else rear
            if f"{standing}ankle" in shanks and (turned := trunk.pivot_deg(cut[f"{standing}ankle"], k, launch)):
                told["pivot_deg"] = turned
            crowded = near.last_to_s[k] > -CROWDED_S or near.next_from_s[k] < CROWDED_S
            out[i].measures |= trunk.widened(told) if crowded else told


def _feet_all(
    recording: Recording,
    worn: dict[str, UnitSignal],
    tied: dict[str, UnitClock],
    at: Floats,
    reached: list[Reach],
    out: list[OfStudent],
) -> None:
    lead = "right" if recording.participant.stance == "southpaw" else "left"
    under = feet.soles(worn, tied, lead, recording.participant.mass_kg)
    if under is None:
        return
    for i, r in enumerate(reached):
        if r.launch_s is not None:
            later = float(at[i + 1]) if i + 1 < len(at) else np.inf
            out[i].measures |= feet.feet_measures(under, float(at[i]), float(at[i]) + r.launch_s, later)
            _add_lanes(out[i], {"lead_load_pct": load_lane(under, float(at[i]))})


def _add_lanes(one: OfStudent, more: dict[str, Floats]) -> None:
    one.lanes = Lanes((one.lanes.curves if one.lanes else {}) | more)


def _cues(recording: Recording, at: Floats, out: list[OfStudent]) -> None:
    """Reaction and response to the cue that each strike answered: the first strike after a cue, before the next."""
    cues = np.array(sorted(e.onset_s for e in recording.events if e.trial_type == "cue"))
    for k, cue in enumerate(cues):
        until = cues[k + 1] if k + 1 < len(cues) else np.inf
        i = int(np.searchsorted(at, cue))
        if i >= len(at) or at[i] >= until or at[i] - cue > 3.0:
            continue
        response = 1e3 * float(at[i] - cue)
        out[i].measures["response_ms"] = Measured(response, 1.0)
        launch = out[i].launch_s
        if launch is not None:
            sd = out[i].measures["flight_ms"].sd if "flight_ms" in out[i].measures else 2.0
            out[i].measures["reaction_ms"] = Measured(response + 1e3 * launch, sd)
