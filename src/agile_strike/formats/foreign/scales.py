"""In which unit of measure a unit's acceleration, turn rate and load are, and whether gravity is in it."""

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.target import GRAVITY_M_S2
from agile_strike.formats.bag_physics import BELIEVED, LIKELY, spin_per_speed
from agile_strike.formats.foreign import words as w
from agile_strike.formats.foreign.found import Unit, values_of, who_is
from agile_strike.formats.foreign.physics import LEVER_M, Turning, lever_m, turning
from agile_strike.formats.foreign.words import ACCEL_FACTORS, GYRO_FACTORS, LOAD_FACTORS, Said

Floats = NDArray[np.float64]
AXES = "xyz"
NEAR = 0.12  # of gravity: a scale that rest gives counts as the named one within so much
FASTEST_RAD_S = 45.0  # no limb turns quicker
SLOWEST_RAD_S = 0.8  # nor does one that strikes turn slower at its quickest
GRAVITY_FREE = 0.25  # of gravity: a unit that feels less at rest had it taken off
USUAL_COUNTS = (131.072, 131.0, 65.5, 65.536, 32.8, 32.768, 16.4, 16.384, 114.2857, 57.1429, 28.5714, 14.2857)
FOOT_N = (150.0, 3000.0)


def accel_unit(unit: Unit) -> None:
    a = unit.accel
    assert a is not None
    g = unit.gyro
    who = who_is(unit)
    said = a.unit[1] if a.unit and a.unit[0] == "accel" else ""
    rest = a.shape.rest
    fits = [u for u, f in ACCEL_FACTORS.items() if abs(rest * f / GRAVITY_M_S2 - 1.0) < NEAR]
    if g is not None and a.shape.like_gravity < 0.3 and g.shape.like_gravity > 0.6 and a.kind == w.ACCEL:
        text = f"{who}: what is called turn rate shows gravity at rest, and acceleration does not: which is which?"
        unit.objections.append(text)
        unit.ask("accel.columns", text, ["as named", "the other way round"])
        unit.ask("gyro.columns", text, ["as named", "the other way round"])
        unit.accel, unit.gyro = g, a
        a, rest = g, g.shape.rest
        said = a.unit[1] if a.unit and a.unit[0] == "accel" else ""
        fits = [u for u, f in ACCEL_FACTORS.items() if abs(rest * f / GRAVITY_M_S2 - 1.0) < NEAR]
        unit.ask("accel.unit", f"{who}: in which unit is its acceleration?", list(ACCEL_FACTORS))
    if a.kind == w.LINEAR or (
        a.shape.like_gravity < 0.3 and said and rest * ACCEL_FACTORS[said] < GRAVITY_FREE * GRAVITY_M_S2
    ):
        _without_gravity(unit, said, fits)
        return
    if said and said in fits:
        unit.accel_factor = ACCEL_FACTORS[said]
        return
    if said:
        other = fits[0] if fits else ""
        unit.accel_factor = ACCEL_FACTORS[said]
        shown = f"at rest it shows {rest:.4g}"
        text = (
            f"{who}: its acceleration is labelled {said}, but {shown}"
            + (f", as if in {other}" if other else ", which is not gravity in it")
            + ": which is right?"
        )
        unit.objections.append(text)
        unit.ask("accel.unit", text, list(dict.fromkeys([said, *fits, "counts"])))
        return
    if fits:
        unit.accel_factor = ACCEL_FACTORS[fits[0]]
        if a.shape.like_gravity < 0.2:
            unit.ask("accel.unit", f"{who}: is its acceleration in {fits[0]}? It is never still", list(ACCEL_FACTORS))
        return
    if a.shape.like_gravity < 0.2:
        _without_gravity(unit, said, fits)
        return
    power = 2.0 ** round(np.log2(max(rest, 1e-9)))
    if a.shape.whole and power >= 32 and abs(rest / power - 1.0) < 0.06:
        unit.accel_factor = GRAVITY_M_S2 / power
        unit.told.append(f"{who}: at rest it shows {rest:.0f} counts: taken as {power:g} a g")
        return
    unit.accel_factor = GRAVITY_M_S2 / rest
    unit.ask(
        "accel.unit",
        f"{who}: in which unit is its acceleration? At rest it shows {rest:.4g}, taken as one g",
        [*ACCEL_FACTORS, f"{rest:.4g} a g"],
    )


def _without_gravity(unit: Unit, said: str, fits: list[str]) -> None:
    """Acceleration from which gravity was taken off: rest tells nothing of its unit of measure."""
    a = unit.accel
    assert a is not None
    who = who_is(unit)
    unit.gravity = False
    if a.kind == w.LINEAR and a.shape.like_gravity > 0.6 and fits:
        text = (
            f"{who}: it is called acceleration without gravity, but shows {a.shape.rest:.4g} at rest: is gravity in it?"
        )
        unit.objections.append(text)
        unit.gravity = True
        unit.accel_factor = ACCEL_FACTORS[said if said in fits else fits[0]]
        unit.ask("accel.gravity", text, ["in it", "taken off"])
        return
    if a.kind != w.LINEAR:
        text = f"{who}: at rest its acceleration shows {a.shape.rest:.3g}, no gravity: was it taken off?"
        unit.objections.append(text)
        unit.ask("accel.gravity", text, ["taken off", "in it"])
    if said:
        unit.accel_factor = ACCEL_FACTORS[said]
    else:
        unit.accel_factor = ACCEL_FACTORS["m/s^2"] if a.shape.high > 25.0 else ACCEL_FACTORS["g"]
        unit.ask(
            "accel.unit",
            f"{who}: in which unit is its acceleration? Without gravity nothing tells",
            ["m/s^2", "g", "mg"],
        )


def gyro_unit(unit: Unit) -> None:
    a, g = unit.accel, unit.gyro
    assert a is not None
    who = who_is(unit)
    if g is None:
        unit.told.append(f"{who}: no turn rate was found in it; what needs it will be absent")
        return
    said = g.unit[1] if g.unit and g.unit[0] == "gyro" else ""
    rate = unit.grid.rate_hz if unit.grid is not None else None
    accel = values_of(unit.sheet, a.indices, unit.rows) * unit.accel_factor
    gyro = values_of(unit.sheet, g.indices, unit.rows)
    asked = any(q.about in ("accel.unit", "accel.columns", "time", "rate") for q in unit.questions)
    turn = turning(accel, gyro, rate) if rate and unit.gravity and not asked else None
    clear = turn is not None and max(turn.explained, turn.best_explained) > 0.35 and turn.factor != 0
    named = {u: f for u, f in GYRO_FACTORS.items() if u != "mrad/s"}
    if clear and turn is not None and turn.best_explained > turn.explained + 0.25:
        text = f"{who}: gravity turns as its turn rates say only in another order or with other signs: which?"
        unit.objections.append(text)
        unit.ask("gyro.columns", text, ["as named", _order(turn)])
        factor = _factor_of(accel, gyro[:, turn.best[0]] * turn.best[1], rate)
    else:
        factor = turn.factor if clear and turn is not None and turn.explained > 0.35 else None
    if factor is not None and factor > 0:
        near = min(named, key=lambda u: abs(np.log(factor / named[u])))
        if said:
            unit.gyro_factor = GYRO_FACTORS[said]
            if not 0.55 < factor / GYRO_FACTORS[said] < 1.8:
                text = f"{who}: its turn rate is labelled {said}, but gravity turns as if in {near}: which is right?"
                unit.objections.append(text)
                unit.ask("gyro.unit", text, list(dict.fromkeys([said, near])))
            return
        if 0.7 < factor / named[near] < 1.4 and not (g.shape.whole and a.shape.rest > 20):
            unit.gyro_factor = named[near]
            return
        counts = GYRO_FACTORS["deg/s"] / factor
        usual = min(USUAL_COUNTS, key=lambda c: abs(np.log(counts / c)))
        close = abs(counts / usual - 1.0) < 0.08
        unit.gyro_factor = GYRO_FACTORS["deg/s"] / (usual if close else counts)
        unit.told.append(f"{who}: {usual if close else counts:.4g} counts a degree a second, from how gravity turns")
        if not close:
            unit.ask(
                "gyro.unit",
                f"{who}: what does one count of its turn rate mean? Gravity turns as if {counts:.4g} were a deg/s",
                [f"{counts:.4g} a deg/s", "deg/s", "rad/s"],
            )
        return
    _gyro_by_size(unit, said, accel, gyro, rate)


def _factor_of(accel: Floats, gyro: Floats, rate: float | None) -> float | None:
    turn = turning(accel, gyro, rate) if rate else None
    return turn.factor if turn is not None else None


def _gyro_by_size(unit: Unit, said: str, accel: Floats, gyro: Floats, rate: float | None) -> None:
    """Where gravity hardly turns in a unit: how fast limbs and bags can turn at all."""
    g = unit.gyro
    assert g is not None
    who = who_is(unit)
    fast = g.shape.high
    bag = unit.placement == "bag"
    spin = spin_per_speed(accel, gyro, rate) if rate and unit.gravity and bag else None
    lever = lever_m(accel, gyro, rate) if rate and unit.gravity else None
    possible = [
        u
        for u in ("rad/s", "deg/s", "mdeg/s")
        if SLOWEST_RAD_S <= fast * GYRO_FACTORS[u] <= FASTEST_RAD_S and _reaches(lever, GYRO_FACTORS[u])
    ]
    if said:
        unit.gyro_factor = GYRO_FACTORS[said]
        impossible = (
            fast * GYRO_FACTORS[said] > FASTEST_RAD_S
            or (spin is not None and not BELIEVED[0] <= spin * GYRO_FACTORS[said] <= BELIEVED[1])
            or (lever is not None and not _reaches(lever, GYRO_FACTORS[said]) and bool(possible))
        )
        if impossible:
            others = [u for u in possible if u != said]
            text = (
                f"{who}: its turn rate is labelled {said}, but reaches {fast:.4g}"
                + (f": as {others[0]} it could be" if others else "")
                + ". Which is right?"
            )
            unit.objections.append(text)
            unit.ask("gyro.unit", text, list(dict.fromkeys([said, *others])))
        return
    if unit.gravity and g.shape.whole and fast > 200:
        unit.gyro_factor = GYRO_FACTORS["deg/s"] / 16.4
        unit.ask(
            "gyro.unit",
            f"{who}: what does one count of its turn rate mean?",
            ["16.4 a deg/s", "32.8 a deg/s", "65.5 a deg/s", "131 a deg/s", "deg/s"],
        )
        return
    fits = [u for u in possible if spin is None or LIKELY[0] <= spin * GYRO_FACTORS[u] <= LIKELY[1]]
    if len(fits) == 1 and lever is not None:
        unit.gyro_factor = GYRO_FACTORS[fits[0]]
        unit.told.append(f"{who}: its turn rate is taken as {fits[0]}: limbs and bags turn so")
        return
    unit.gyro_factor = GYRO_FACTORS[possible[0] if possible else "rad/s"]
    unit.ask("gyro.unit", f"{who}: in which unit is its turn rate? It reaches {fast:.4g}", ["deg/s", "rad/s"])


def _reaches(lever: float | None, factor: float) -> bool:
    return lever is None or LEVER_M[0] <= lever / factor <= LEVER_M[1]


def _order(turn: Turning) -> str:
    return ", ".join(("-" if s < 0 else "") + AXES[k] for k, s in zip(turn.best[0], turn.best[1], strict=True))


def load_unit(unit: Unit, said: list[Said]) -> None:
    sheet = unit.sheet
    values = values_of(sheet, unit.load, unit.rows).sum(axis=1)
    size = abs(float(np.nanpercentile(np.abs(values), 95)))
    named = next((said[k].unit[1] for k in unit.load if said[k].unit and said[k].unit[0] == "load"), "")  # type: ignore[index]
    fits = [u for u, f in LOAD_FACTORS.items() if FOOT_N[0] <= size * f <= FOOT_N[1]]
    if named and (named in fits or not fits):
        unit.load_factor = LOAD_FACTORS[named]
        return
    unit.load_factor = LOAD_FACTORS[named or (fits[0] if fits else "N")]
    if named:
        text = f"{sheet.file}: the load {unit.stem} is labelled {named}, but it reaches {size:.4g}: which is right?"
        unit.objections.append(text)
    else:
        text = f"{sheet.file}: in which unit is the load {unit.stem}? It reaches {size:.4g}"
    unit.ask("load", text, list(dict.fromkeys([x for x in (named, *fits, *LOAD_FACTORS) if x])))
