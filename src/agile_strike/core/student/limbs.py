"""Which limb made each contact: the one whose unit jolted at that instant after moving fast."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.recording import UnitSignal
from agile_strike.core.student.clocks import UnitClock

Floats = NDArray[np.float64]

PART = {"wrist": "hand", "forearm": "elbow", "ankle": "foot"}
NEAR_S = 0.012
SWING_S = 0.12
CLEAR = 1.6  # one unit's sign of contact over the next best
LEAST_SIGN = 40.0  # m/s2 of step; a limb that hits a bag feels hundreds
LIGHT, ALONE = 22.0, 3.0  # of a child's light hand; and so many times what any other limb feels
SWAPPED_SHARE, SWAPPED_LEAST = 0.8, 4
SIDES = {"left": "right", "right": "left"}


@dataclass(frozen=True, slots=True)
class Limbs:
    """Per contact: the limb, whether that is sure, and the unit that felt it (empty: none)."""

    limb: list[str]
    sure: list[bool]
    unit: list[str]
    silent: list[str]  #: the planned limb's unit, where it delivered nothing then
    swapped: frozenset[str]  #: kinds of unit of which left and right are swapped


def limbs(
    units: dict[str, UnitSignal],
    clocks: dict[str, UnitClock],
    contact_s: Floats,
    planned: list[str],
    known: frozenset[str] | None = None,
) -> Limbs:
    """From units that are aligned; `planned` (s,) is what the running set named, `unknown` where it did not.
    Which kinds are swapped is found from all contacts, unless it is `known`."""
    names = [n for n, c in clocks.items() if c.aligned and units[n].kind in PART]
    signs = {n: _signs(units[n], clocks[n].own(contact_s)) for n in names}
    felt = [_felt(names, signs, i) for i in range(len(contact_s))]
    swapped = _swapped_kinds(units, felt, planned) if known is None else known
    out = Limbs([], [], [], [], swapped)
    for i, ((unit, sure), plan) in enumerate(zip(felt, planned, strict=True)):
        silent = [n for n in names if _limb_of(units[n]) == plan and _missing(units[n], clocks[n], float(contact_s[i]))]
        limb = (
            plan if silent and not unit else _name(units, names, unit, plan, unit != "" and units[unit].kind in swapped)
        )
        out.silent.append(silent[0] if silent else "")
        out.limb.append(limb)
        out.sure.append(sure and limb != "unknown")
        out.unit.append(unit)
    return out


def of_units(units: dict[str, UnitSignal], felt: list[str], planned: list[str]) -> Limbs:
    """Where the units themselves found the strikes: which limb made each, `felt` (s,) being the unit that did."""
    pairs = [(unit, True) for unit in felt]
    swapped = _swapped_kinds(units, pairs, planned)
    names = sorted({*felt})
    limb = [_name(units, names, u, plan, units[u].kind in swapped) for u, plan in zip(felt, planned, strict=True)]
    return Limbs(limb, [True] * len(felt), felt, [""] * len(felt), swapped)


def _swapped_kinds(units: dict[str, UnitSignal], felt: list[tuple[str, bool]], planned: list[str]) -> frozenset[str]:
    """Kinds of unit, as wrist, of which nearly every sure contact came from the side that was not planned."""
    out = set()
    for kind in PART:
        against = [
            units[unit].side != plan.split("_")[0]
            for (unit, sure), plan in zip(felt, planned, strict=True)
            if unit and sure and plan != "unknown" and units[unit].kind == kind
        ]
        if len(against) >= SWAPPED_LEAST and sum(against) >= SWAPPED_SHARE * len(against):
            out.add(kind)
    return frozenset(out)


def _limb_of(unit: UnitSignal) -> str:
    return f"{unit.side}_{PART[unit.kind]}"


def _missing(unit: UnitSignal, clock: UnitClock, contact_s: float) -> bool:
    """The unit delivered little or nothing round a contact."""
    at = float(clock.own(np.array(contact_s))) * unit.rate_hz - unit.first_sample
    reach = NEAR_S * unit.rate_hz
    part = unit.accel_m_s2[max(0, int(at - reach)) : max(0, int(at + reach))]
    return len(part) < reach or float(np.isnan(part).any(axis=1).mean()) > 0.3


def _signs(unit: UnitSignal, at_s: Floats) -> Floats:
    """How much like a striking limb the unit moved at each instant (s,): its step of force, and turn or jerk before."""
    reach = max(2, round(NEAR_S * unit.rate_hz))
    centre = np.rint(at_s * unit.rate_hz).astype(np.int64) - unit.first_sample
    n = len(unit.accel_m_s2)
    if n < 2 * reach:  # it had fallen silent before
        return np.zeros(len(centre))
    inside = (centre > reach + 2) & (centre < n - reach - 2)
    at = np.clip(centre[:, None] + np.arange(-reach, reach + 1), 1, n - 1)
    near = unit.accel_m_s2[at]
    lag = max(1, round(0.003 * unit.rate_hz))
    step = np.linalg.norm(near[:, lag:] - near[:, :-lag], axis=2)
    step = np.where(np.isfinite(step), step, 0.0)
    swing = max(1, round(SWING_S * unit.rate_hz))
    before = unit.accel_m_s2[np.clip(centre[:, None] - np.arange(2, swing), 0, n - 1)]
    moved = np.nanmax(np.abs(np.linalg.norm(np.nan_to_num(before), axis=2) - 9.81), axis=1)
    return np.where(inside, np.sqrt(step.max(axis=1) * np.maximum(moved, 1.0)), 0.0)


def _felt(names: list[str], signs: dict[str, Floats], i: int) -> tuple[str, bool]:
    order = sorted(names, key=lambda n: -signs[n][i])
    most, next_most = (signs[order[k]][i] if k < len(order) else 0.0 for k in (0, 1))
    alone = next_most > 0.0 and most >= max(LIGHT, ALONE * next_most)
    if most < LEAST_SIGN and not alone:
        return "", False
    return order[0], bool(most >= CLEAR * next_most)


def _name(units: dict[str, UnitSignal], names: list[str], unit: str, plan: str, swapped: bool) -> str:
    if not unit:
        watched = {_limb_of(units[n]) for n in names}
        return plan if plan not in watched else "unknown"
    side = SIDES[units[unit].side] if swapped else units[unit].side
    limb = f"{side}_{PART[units[unit].kind]}"
    # one arm feels its fist and its elbow, one leg its foot and its knee: the plan tells which
    kin = {"hand": "elbow", "elbow": "hand", "foot": "knee", "knee": "foot"}
    other = f"{side}_{kin[PART[units[unit].kind]]}"
    return other if plan == other else limb
