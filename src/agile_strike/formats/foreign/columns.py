"""Which columns belong together: three of a vector, heel and forefoot, and the one that names the unit of each row."""

import re
from collections import defaultdict

import numpy as np
from numpy.typing import NDArray

from agile_strike.formats.foreign import words as w
from agile_strike.formats.foreign.clock import Telling
from agile_strike.formats.foreign.found import Triple, values_of
from agile_strike.formats.foreign.physics import is_quaternion, shape_of
from agile_strike.formats.foreign.sheet import Sheet
from agile_strike.formats.foreign.words import Said, place_of

AXES = "xyz"
MOST_SENSORS = 12
VECTOR = (w.ACCEL, w.LINEAR, w.GRAVITY, w.GYRO, w.MAG, w.EULER)


def sensor_column(sheet: Sheet, said: list[Said], timed: list[Telling]) -> int | None:
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


def words_of(sheet: Sheet, k: int) -> list[str]:
    column = sheet.columns[k]
    if column.words is not None:
        return sorted({c for c in column.words if c})
    assert column.numbers is not None
    return [f"{v:g}" for v in np.unique(column.numbers[np.isfinite(column.numbers)])]


def rows_of(sheet: Sheet, columns: list[int], sensor: tuple[int, str] | None) -> NDArray[np.int64]:
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


def free_columns(sheet: Sheet, said: list[Said], timed: list[Telling], only: int | None) -> list[int]:
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


def loads_of(sheet: Sheet, said: list[Said], free: list[int]) -> dict[str, list[int]]:
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
        side = w.side_of(f"{sheet.columns[k].device} {sheet.columns[k].name}")
        key = f"{side} {' '.join(re.findall(r'[0-9]+', low))}".strip() or sheet.columns[k].device
        groups[key].setdefault(part, k)
    out = {}
    for key, parts in groups.items():
        if "heel" in parts and "fore" in parts:
            out[key] = [parts["heel"], parts["fore"]]
        elif "whole" in parts:
            out[key] = [parts["whole"]]
    return out


def triples_of(sheet: Sheet, said: list[Said], free: list[int], rate_hz: float | None) -> list[Triple]:
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
                    shape_of(values_of(sheet, indices, every), rate_hz),
                )
            )
            used |= set(indices)
    used |= {k for k in free if said[k].quantity == w.QUAT}
    left = [k for k in free if k not in used and said[k].quantity in ("", *VECTOR)]
    # four that turn with length one, then threes that stand beside each other
    k = 0
    while k < len(left):
        four = left[k : k + 4]
        if len(four) == 4 and four[-1] - four[0] == 3 and is_quaternion(values_of(sheet, four, every)):
            k += 4
            continue
        three = left[k : k + 3]
        if len(three) == 3 and three[-1] - three[0] == 2 and _could(sheet, three):
            letters = [said[i].axis for i in three]
            if sorted(letters) == list(AXES):  # some write z, y, x
                three = sorted(three, key=lambda i: said[i].axis)
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
                    shape_of(values_of(sheet, three, every), rate_hz),
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


def kinds(triples: list[Triple], by_file: str) -> None:
    """What each triple is: as it is named, else as its file is where it is the only one, else as it looks."""
    if len(triples) == 1 and not triples[0].said and by_file in VECTOR:
        triples[0].said = by_file
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


def pairs_of(triples: list[Triple]) -> list[tuple[Triple, Triple | None]]:
    """Acceleration with the turn rate that belongs to it."""
    accels = [t for t in triples if t.kind == w.ACCEL]
    linear = [t for t in triples if t.kind == w.LINEAR]
    gyros = [t for t in triples if t.kind == w.GYRO]
    stems = {t.stem for t in accels}
    # without gravity it is the same unit's once more, unless it was worn elsewhere
    accels += [t for t in linear if not accels or (t.stem not in stems and place_of(t.stem))]
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
