"""What the columns of a sheet mean: which are whose acceleration, turn rate and load, in which unit of measure, when.

Names, shape and physics are weighed together. What a label says is never overruled in silence: where physics objects, it
is asked, and both are shown.
"""

import re
from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile
from agile_strike.core.target import GRAVITY_M_S2
from agile_strike.formats.bag_physics import BELIEVED, LIKELY, spin_per_speed
from agile_strike.formats.foreign import words as w
from agile_strike.formats.foreign.clock import Grid, Telling, about_rate, grid_of, tellings
from agile_strike.formats.foreign.physics import LEVER_M, Shape, Turning, is_quaternion, lever_m, shape_of, turning
from agile_strike.formats.foreign.sheet import Sheet
from agile_strike.formats.foreign.words import ACCEL_FACTORS, GYRO_FACTORS, LOAD_FACTORS, Said, place_of, said_of

Floats = NDArray[np.float64]
AXES = "xyz"
NEAR = 0.12  # of gravity: a scale that rest gives counts as the named one within so much
MOST_SENSORS = 12
FASTEST_RAD_S = 45.0  # no limb turns quicker
SLOWEST_RAD_S = 0.8  # nor does one that strikes turn slower at its quickest
GRAVITY_FREE = 0.25  # of gravity: a unit that feels less at rest had it taken off
USUAL_COUNTS = (131.072, 131.0, 65.5, 65.536, 32.8, 32.768, 16.4, 16.384, 114.2857, 57.1429, 28.5714, 14.2857)
PERSON_N = (200.0, 2200.0)
FOOT_N = (150.0, 3000.0)
RATE_RE = re.compile(
    r"(?<![a-z])(?:sampl\w*|abtast\w*|echantillon\w*|muestreo|campion\w*|amostragem|bemonster\w*|samplings?\w*|measurement|data|output|update|imu|odr|fs|freq\w*|frequenz|rate)\b[^0-9\n]{0,40}?(\d+(?:[.,]\d+)?)\s*(k?hz)?",
    re.I,
)
HZ_RE = re.compile(r"(\d+(?:[.,]\d+)?)\s*(k?)hz\b|(\d+(?:[.,]\d+)?)\s*(?:samples?|sps)\s*(?:/|per)?\s*s?", re.I)
NOT_A_RATE = re.compile(
    r"baud|bit ?rate|bps|cut ?off|filter|bandwidth|low ?pass|high ?pass|range|firmware|version|gyr\w* range|tiefpass|grenzfreq",
    re.I,
)


@dataclass(slots=True)
class Question:
    unit: int | None  #: place among the document's units
    about: str
    text: str
    choices: list[str]


@dataclass(slots=True)
class Triple:
    """Three columns, or four of a quaternion: what they are said to be, and what they look like."""

    indices: list[int]
    said: str  #: quantity by its names; "" for none
    stem: str
    unit: tuple[str, str] | None
    weak: bool
    shape: Shape
    kind: str = ""  #: what it is taken for


@dataclass(slots=True)
class Unit:
    sheet: Sheet
    placement: str | None
    only: tuple[int, str] | None
    rows: NDArray[np.int64]
    accel: Triple | None = None
    accel_factor: float = 1.0
    gravity: bool = True
    gyro: Triple | None = None
    gyro_factor: float = 1.0
    load: list[int] = field(default_factory=list)
    load_factor: float = 1.0
    telling: Telling | None = None
    grid: Grid | None = None
    begins_s: float = 0.0  #: after the earliest of all files, where clocks are shared
    serial: str | None = None
    turn: Turning | None = None
    questions: list[Question] = field(default_factory=list)
    objections: list[str] = field(default_factory=list)
    told: list[str] = field(default_factory=list)
    probability: float = 1.0

    def ask(self, about: str, text: str, choices: list[str]) -> None:
        self.questions.append(Question(None, about, text, choices))


def units_of(sheet: Sheet, alone: bool = True) -> list[Unit]:
    """Units of a sheet, with what is to be asked of each. `alone`: its file's name may tell where its unit was worn.

    Raises BadFile where nothing in it is a motion unit's or a load's."""
    said = [said_of(c.name, c.unit, c.device) for c in sheet.columns]
    timed = tellings(sheet, said)
    only = _sensor_column(sheet, said, timed)
    free = _free(sheet, said, timed, only)
    loads = _loads(sheet, said, free)
    names = _rate_in(sheet)
    about_hz = about_rate(timed) or names
    triples = _triples(sheet, said, [k for k in free if not any(k in group for group in loads.values())], about_hz)
    _kinds(triples)
    out: list[Unit] = []
    pairs = _paired(triples)
    which: list[tuple[int, str] | None] = [None]
    if only is not None:
        which = [(only, word) for word in _words_of(sheet, only)]
    for accel, gyro in pairs:
        for sensor in which:
            rows = _rows(sheet, accel.indices, sensor)
            if len(rows) < 8:
                continue
            unit = Unit(sheet, None, sensor, rows, accel=accel, gyro=gyro)
            unit.accel = Triple(
                accel.indices,
                accel.said,
                accel.stem,
                accel.unit,
                accel.weak,
                shape_of(_values(sheet, accel.indices, rows), about_hz),
                accel.kind,
            )
            if gyro is not None:
                unit.gyro = Triple(
                    gyro.indices,
                    gyro.said,
                    gyro.stem,
                    gyro.unit,
                    gyro.weak,
                    shape_of(_values(sheet, gyro.indices, rows), about_hz),
                    gyro.kind,
                )
            out.append(unit)
    for stem, columns in loads.items():
        unit = Unit(sheet, None, None, _rows(sheet, columns, None), load=columns)
        unit.told.append(stem)
        out.append(unit)
    if not out:
        what = "no column of it can be acceleration or load"
        raise BadFile(
            sheet.file,
            what,
            "Bring a table with three columns of acceleration, with gravity, or the load under a foot.",
        )
    for unit in out:
        stem = unit.told.pop() if unit.load else (unit.accel.stem if unit.accel else "")
        _place(unit, stem, said, alone and len(out) == 1)
        _time(unit, timed, names)
        if unit.load:
            _load_unit(unit, stem, said)
        else:
            _accel_unit(unit)
            _gyro_unit(unit)
        unit.serial = _serial(sheet, unit)
    _same_place(out)
    return out


# --- which columns there are


def _sensor_column(sheet: Sheet, said: list[Said], timed: list[Telling]) -> int | None:
    """The column that names the unit of each row, where rows of several stand in turn."""
    times = {t.index for t in timed}
    for k, column in enumerate(sheet.columns):
        name = w.plain(column.name)
        named = bool(
            re.search(
                r"sensor|device|node|unit|\bid\b|imu|tracker|placement|position|location|segment|body|limb|gerat|capteur|dispositivo|einheit|kanal|channel|\bmac\b|address|serial|stelle|lieu|lugar",
                name,
            )
        )
        if column.words is not None and k not in times:
            different = {c for c in column.words if c}
            if (
                1 < len(different) <= MOST_SENSORS
                and (named or (said[k].quantity != w.LABEL and any(place_of(d) for d in different)))
                and _in_turn(column.words)
            ):
                return k
        elif column.numbers is not None and named and said[k].quantity in ("", w.COUNTER, w.LABEL):
            values = column.numbers[np.isfinite(column.numbers)]
            different_n = np.unique(values[:50_000])
            if 1 < len(different_n) <= MOST_SENSORS and bool((values == np.rint(values)).all()) and k not in times:
                return k
    return None


def _in_turn(words: list[str]) -> bool:
    """Whether each word stands in many rows."""
    counts: dict[str, int] = defaultdict(int)
    for word in words:
        counts[word] += 1
    return min((n for word, n in counts.items() if word), default=0) >= 8


def _words_of(sheet: Sheet, k: int) -> list[str]:
    column = sheet.columns[k]
    if column.words is not None:
        return sorted({c for c in column.words if c})
    assert column.numbers is not None
    return [f"{v:g}" for v in np.unique(column.numbers[np.isfinite(column.numbers)])]


def _rows(sheet: Sheet, columns: list[int], sensor: tuple[int, str] | None) -> NDArray[np.int64]:
    """Rows that hold something of these columns, of one sensor where one is asked for."""
    filled = np.zeros(sheet.rows, bool)
    for k in columns:
        values = sheet.columns[k].numbers
        assert values is not None
        filled |= np.isfinite(values)
    spare = ~filled
    if sensor is None:
        # blank in regular turn: another unit's rows at another rate; else missing samples, which stay as gaps
        if spare.mean() < 0.25:
            filled[:] = True
        return np.flatnonzero(filled)
    column = sheet.columns[sensor[0]]
    if column.words is not None:
        own = np.array([c == sensor[1] for c in column.words])
    else:
        assert column.numbers is not None
        own = np.array([f"{v:g}" == sensor[1] for v in column.numbers])
    return np.flatnonzero(own)


def _values(sheet: Sheet, indices: list[int], rows: NDArray[np.int64]) -> Floats:
    return np.column_stack([np.asarray(sheet.columns[k].numbers)[rows] for k in indices])


def _free(sheet: Sheet, said: list[Said], timed: list[Telling], only: int | None) -> list[int]:
    """Columns of figures that may be a signal's."""
    clocks = {t.index for t in timed if said[t.index].quantity in (w.TIME, w.COUNTER) or t is timed[0]}
    out = []
    for k, column in enumerate(sheet.columns):
        if column.numbers is None or k in clocks or k == only:
            continue
        if said[k].quantity in (w.TEMP, w.PRESSURE, w.BATTERY, w.LABEL, w.DATE, w.TIME, w.COUNTER, w.POSITION):
            continue
        finite = column.numbers[np.isfinite(column.numbers)]
        if len(finite) < 8:
            continue
        out.append(k)
    return out


def _loads(sheet: Sheet, said: list[Said], free: list[int]) -> dict[str, list[int]]:
    """Load under each foot: heel and forefoot, or the whole."""
    groups: dict[str, dict[str, int]] = defaultdict(dict)
    for k in free:
        if said[k].quantity != w.LOAD:
            continue
        low = w.plain(sheet.columns[k].name)
        if said[k].axis in ("x", "y") and re.search(r"\bf ?[xy]\b|force", low):
            continue
        part = (
            "heel"
            if re.search(r"heel|hind|rear|ferse|talon|calcan|hiel|hael|hal\b|pieta", low)
            else "fore"
            if re.search(r"fore|toe|ball|metatars|front|vorfuss|avant|punta|voor", low)
            else "whole"
        )
        key = (
            f"{w.side_of(f'{sheet.columns[k].device} {sheet.columns[k].name}')} {' '.join(re.findall(r'[0-9]+', low))}".strip()
            or sheet.columns[k].device
        )
        groups[key].setdefault(part, k)
    out = {}
    for key, parts in groups.items():
        if "heel" in parts and "fore" in parts:
            out[key] = [parts["heel"], parts["fore"]]
        elif "whole" in parts:
            out[key] = [parts["whole"]]
    return out


VECTOR = (w.ACCEL, w.LINEAR, w.GRAVITY, w.GYRO, w.MAG, w.EULER)


def _triples(sheet: Sheet, said: list[Said], free: list[int], rate_hz: float | None) -> list[Triple]:
    every = np.arange(sheet.rows)
    made: list[Triple] = []
    used: set[int] = set()
    groups: dict[tuple[str, str, int], dict[str, int]] = {}
    for k in free:
        s = said[k]
        if s.quantity not in VECTOR or s.axis not in tuple(AXES):
            continue
        again = 0
        while s.axis in groups.get((s.quantity, s.stem, again), {}):
            again += 1
        groups.setdefault((s.quantity, s.stem, again), {})[s.axis] = k
    for (quantity, stem, again), axes in groups.items():
        if len(axes) == 3:
            indices = [axes[a] for a in AXES]
            unit = next((said[k].unit for k in indices if said[k].unit), None)
            made.append(
                Triple(
                    indices,
                    quantity,
                    f"{stem} {again + 1}" if again else stem,
                    unit,
                    said[indices[0]].weak,
                    shape_of(_values(sheet, indices, every), rate_hz),
                )
            )
            used |= set(indices)
    used |= {k for k in free if said[k].quantity == w.QUAT}
    left = [k for k in free if k not in used and said[k].quantity in ("", *VECTOR)]
    # four that turn with length one, then threes that stand beside each other
    k = 0
    while k < len(left):
        four = left[k : k + 4]
        if len(four) == 4 and four[-1] - four[0] == 3 and is_quaternion(_values(sheet, four, every)):
            k += 4
            continue
        three = left[k : k + 3]
        if len(three) == 3 and three[-1] - three[0] == 2 and _could(sheet, three):
            words = {said[i].quantity for i in three if said[i].quantity}
            unit = next((said[i].unit for i in three if said[i].unit), None)
            stems = [said[i].stem for i in three]
            common = stems[0] if len(set(stems)) == 1 else _shared(stems)
            made.append(
                Triple(
                    three,
                    words.pop() if len(words) == 1 else "",
                    common,
                    unit,
                    True,
                    shape_of(_values(sheet, three, every), rate_hz),
                )
            )
            k += 3
            continue
        k += 1
    return sorted(made, key=lambda t: min(t.indices))


def _could(sheet: Sheet, three: list[int]) -> bool:
    """Whether three columns can be a vector's: they move, and none is a count, a flag or a length of time."""
    for k in three:
        values = np.asarray(sheet.columns[k].numbers)
        finite = values[np.isfinite(values)]
        steps = np.diff(finite)
        if np.ptp(finite) == 0 or len(np.unique(finite[:2000])) < 6 or (steps >= 0).all():
            return False
    return True


def _shared(stems: list[str]) -> str:
    words = [s.split() for s in stems]
    return " ".join(x for x in words[0] if all(x in other for other in words[1:]))


def _kinds(triples: list[Triple]) -> None:
    """What each triple is: as it is named, else as it looks."""
    for t in triples:
        if t.said:
            t.kind = t.said
            continue
        accel, gyro, mag = t.shape.like_gravity, t.shape.like_turning, t.shape.like_field
        if t.unit is not None and t.unit[0] in ("accel", "gyro"):
            t.kind = w.ACCEL if t.unit[0] == "accel" else w.GYRO
        elif accel > 0.5 and accel > mag:
            t.kind = w.ACCEL
        elif mag > 0.6:
            t.kind = w.MAG
        elif gyro > 0.4:
            t.kind = w.GYRO


def _paired(triples: list[Triple]) -> list[tuple[Triple, Triple | None]]:
    """Acceleration with the turn rate that belongs to it."""
    accels = [t for t in triples if t.kind == w.ACCEL]
    linear = [t for t in triples if t.kind == w.LINEAR]
    gyros = [t for t in triples if t.kind == w.GYRO]
    stems = {t.stem for t in accels}
    accels += [t for t in linear if t.stem not in stems]
    if not accels and len(gyros) > 1 and any(t.shape.like_gravity > 0.6 for t in gyros):  # both are called turn rate
        first = max(gyros, key=lambda t: t.shape.like_gravity)
        accels, gyros = [first], [g for g in gyros if g is not first]
    elif not accels and any(t.shape.like_gravity > 0.6 for t in triples if not t.said or t.kind == w.GYRO):
        accels = [max(triples, key=lambda t: t.shape.like_gravity)]
        gyros = [g for g in gyros if g is not accels[0]]
    out: list[tuple[Triple, Triple | None]] = []
    free = list(gyros)
    for n, a in enumerate(accels):
        own = next((g for g in free if g.stem == a.stem), None)
        if own is None and len(accels) == len(gyros):
            own = gyros[n] if gyros[n] in free else None
        if own is None and len(accels) == 1 and free:
            own = min(free, key=lambda g: abs(g.indices[0] - a.indices[0]))
        if own is not None:
            free.remove(own)
        out.append((a, own))
    return out


# --- time


def _rate_in(sheet: Sheet) -> float | None:
    """The rate that the lines above the table tell."""
    for line in sheet.above:
        if NOT_A_RATE.search(line) and not re.search(r"sampl\w* ?(rate|freq)", line, re.I):
            continue
        text = w.plain(line.replace(".", "·")).replace("·", ".")
        found = RATE_RE.search(text)
        hz = HZ_RE.search(line)
        value = None
        if found:
            value = float(found[1].replace(",", ".")) * (1000.0 if (found[2] or "").lower() == "khz" else 1.0)
        elif hz:
            value = float((hz[1] or hz[3]).replace(",", ".")) * (1000.0 if hz[2] else 1.0)
        if value is not None and 1.0 <= value <= 50_000.0:
            return value
    return None


def _time(unit: Unit, timed: list[Telling], rate_said: float | None) -> None:
    sheet = unit.sheet
    clocks = [t for t in timed if t.kind != "counter"]
    counter = next((t for t in timed if t.kind == "counter"), None)
    unit.telling = clocks[0] if clocks else counter
    unit.grid = grid_of(sheet, unit.telling, counter, unit.rows, rate_said)
    who = sheet.file
    if unit.grid is None:
        unit.ask(
            "rate",
            f"{who}: it has no column of time, and does not say its rate: how many samples a second?",
            ["50", "100", "200", "500", "1000"],
        )
        return
    unit.told += unit.grid.told
    for text in unit.grid.asks:
        unit.ask("clock", text, ["seconds that are missing"])
    telling = unit.telling
    if telling is None or telling.kind == "counter":
        return
    if not telling.sure:
        name = sheet.columns[telling.index].name or f"column {telling.index + 1}"
        rates = ", ".join(f"{c}: {_as_rate(unit.grid.rate_hz, telling, c)}" for c in telling.choices)
        unit.ask("time", f"{who}: in what does “{name}” tell time? ({rates})", list(telling.choices))
        return
    if rate_said is not None and not 0.96 < unit.grid.rate_hz / rate_said < 1.04:
        text = f"{who}: the lines above the table say {rate_said:g} Hz, its column of time {unit.grid.rate_hz:.4g} Hz: which is right?"
        unit.objections.append(text)
        unit.ask("rate", text, [f"{rate_said:g}", f"{unit.grid.rate_hz:.6g}"])
    elif rate_said is not None and abs(unit.grid.rate_hz / rate_said - 1.0) < 2e-5:
        unit.grid.rate_hz = rate_said


def _as_rate(rate_hz: float, telling: Telling, kind: str) -> str:
    if kind not in w.TIME_FACTORS:
        return "a count of samples"
    return f"{rate_hz * telling.factor / w.TIME_FACTORS[kind]:.4g} Hz" if telling.factor else "?"


# --- acceleration


def _accel_unit(unit: Unit) -> None:
    a = unit.accel
    assert a is not None
    g = unit.gyro
    who = _who(unit)
    said = a.unit[1] if a.unit and a.unit[0] == "accel" else ""
    rest = a.shape.rest
    fits = [u for u, f in ACCEL_FACTORS.items() if abs(rest * f / GRAVITY_M_S2 - 1.0) < NEAR]
    if g is not None and a.shape.like_gravity < 0.3 and g.shape.like_gravity > 0.6 and a.kind == w.ACCEL:
        text = f"{who}: what is called turn rate shows gravity at rest, and what is called acceleration does not: are they the other way round?"
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
        if a.weak and not a.said:
            unit.probability *= 0.97
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
    who = _who(unit)
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


# --- turn rate


def _gyro_unit(unit: Unit) -> None:
    a, g = unit.accel, unit.gyro
    assert a is not None
    who = _who(unit)
    if g is None:
        unit.told.append(f"{who}: no turn rate was found in it; what needs it will be absent")
        return
    said = g.unit[1] if g.unit and g.unit[0] == "gyro" else ""
    rate = unit.grid.rate_hz if unit.grid is not None else None
    accel = _values(unit.sheet, a.indices, unit.rows) * unit.accel_factor
    gyro = _values(unit.sheet, g.indices, unit.rows)
    asked = any(q.about in ("accel.unit", "accel.columns", "time", "rate") for q in unit.questions)
    turn = turning(accel, gyro, rate) if rate and unit.gravity and not asked else None
    unit.turn = turn
    clear = turn is not None and max(turn.explained, turn.best_explained) > 0.35 and turn.factor != 0
    named = {u: f for u, f in GYRO_FACTORS.items() if u != "mrad/s"}
    if clear and turn is not None and turn.best_explained > turn.explained + 0.25:
        text = f"{who}: gravity does not turn as its turn rates say by their axes; in another order or with other signs they do: are the columns right?"
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
                text = f"{who}: its turn rate is labelled {said}, but gravity turns in it as if it were in {near}: which is right?"
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
                f"{who}: what does one count of its turn rate mean? Gravity turns as if {counts:.4g} were a degree a second",
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
    who = _who(unit)
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


# --- load


def _load_unit(unit: Unit, stem: str, said: list[Said]) -> None:
    sheet = unit.sheet
    values = _values(sheet, unit.load, unit.rows).sum(axis=1)
    size = abs(float(np.nanpercentile(np.abs(values), 95)))
    named = next((said[k].unit[1] for k in unit.load if said[k].unit and said[k].unit[0] == "load"), "")  # type: ignore[index]
    fits = [u for u, f in LOAD_FACTORS.items() if FOOT_N[0] <= size * f <= FOOT_N[1]]
    if named and (named in fits or not fits):
        unit.load_factor = LOAD_FACTORS[named]
        return
    unit.load_factor = LOAD_FACTORS[named or (fits[0] if fits else "N")]
    if named:
        text = f"{sheet.file}: the load {stem} is labelled {named}, but it reaches {size:.4g}: which is right?"
        unit.objections.append(text)
    else:
        text = f"{sheet.file}: in which unit is the load {stem}? It reaches {size:.4g}"
    unit.ask("load", text, list(dict.fromkeys([x for x in (named, *fits, *LOAD_FACTORS) if x])))


# --- where it was worn


def _place(unit: Unit, stem: str, said: list[Said], by_file: bool) -> None:
    sheet = unit.sheet
    texts = []
    if unit.only is not None:
        texts.append(unit.only[1])
    columns = unit.load or (unit.accel.indices if unit.accel else [])
    texts += [f"{sheet.columns[columns[0]].device} {stem}"]
    texts += [sheet.columns[k].device for k in columns[:1]]
    if by_file:
        texts.append(re.sub(r"\.[A-Za-z0-9]{1,8}$", "", sheet.file.split("/")[-1]))
        texts += [
            line
            for line in sheet.above
            if re.search(
                r"locat|placement|position|place|worn|mounted|segment|site|body|limb|stelle|ort\b|sensor ?name|device ?name|lieu|lugar|emplacement|ubicacion|posizione|label|name",
                w.plain(line),
            )
            and len(line) < 200
        ]
    for text in texts:
        if unit.load:
            side = w.side_of(text)
            if side:
                unit.placement = f"{side}sole"
                return
        else:
            place = place_of(text)
            if place:
                unit.placement = place
                return
    which = (unit.only[1] if unit.only else "") or stem
    what = f"the unit “{which}”" if which else ("this load" if unit.load else "this unit")
    where = (
        ["leftsole", "rightsole"]
        if unit.load
        else [
            "bag",
            "leftwrist",
            "rightwrist",
            "leftforearm",
            "rightforearm",
            "leftankle",
            "rightankle",
            "pelvis",
            "torso",
        ]
    )
    unit.ask("placement", f"{sheet.file}: where was {what} worn?", where)


def _same_place(units: list[Unit]) -> None:
    """Two units at one place: the names can't both be right."""
    by: dict[str, list[Unit]] = defaultdict(list)
    for unit in units:
        if unit.placement:
            by[unit.placement].append(unit)
    for place, several in by.items():
        if len(several) > 1:
            for unit in several:
                unit.ask(
                    "placement", f"{unit.sheet.file}: several units are called {place}: where was each worn?", [place]
                )


def _serial(sheet: Sheet, unit: Unit) -> str | None:
    for line in sheet.above:
        found = re.search(
            r"(?:serial(?:\s*(?:no|nr|number|num))?|s/n|seriennummer|numero de serie|device ?id|mac)\b[\s.:=,;\"#]*([A-Za-z0-9][A-Za-z0-9\-:_]{2,30})",
            line,
            re.I,
        )
        if found:
            return found[1]
    return None


def _who(unit: Unit) -> str:
    part = (unit.only[1] if unit.only else "") or (unit.accel.stem if unit.accel else "")
    return f"{unit.sheet.file}: {part}" if part else unit.sheet.file
