"""Reading columns by their names: time, sensor, quantity, axis, and where a unit was worn."""

import re

import numpy as np
from numpy.typing import NDArray

from agile_strike.formats.loose_table import LooseTable
from agile_strike.formats.mapping import TIME_UNITS

Floats = NDArray[np.float64]

TIME_WORDS = {
    "ns": r"nano|\bns\b",
    "us": r"micro|µs|\bus\b|usec",
    "ms": r"milli|\bms\b|msec",
    "s": r"\[s\]|\(s\)|_s$|\bsec|\bs\b",
}
LEAST_HZ, MOST_HZ = 15.0, 10_000.0
MOST_SENSORS = 12
PLACE_WORDS = (
    ("bag", r"bag|sack|target|heavy"),
    ("wrist", r"wrist|hand|fist|glove"),
    ("forearm", r"fore ?arm|elbow"),
    ("ankle", r"ankle|shank|shin|foot|leg|tibia"),
    ("pelvis", r"pelvis|hip|belt|sacrum|waist|lumbar"),
    ("torso", r"torso|chest|trunk|stern|thorax|back|spine"),
)
AXIS = re.compile(
    r"(?:^|[^a-z])(?P<a>[xyz])(?:$|[^a-z])|(?:acc\w*?|gyr\w*?|a|g|w|omega|rate|rot)[ _.\-]?(?P<b>[xyz])(?:$|[^a-z])"
)
KIND = (
    ("skip", r"mag|quat|euler|roll|pitch|yaw|temp|press|batt"),
    ("gyro", r"gyr|omega|ang|rot|rate|(?:^|[^a-z])[gw][ _.\-]?[xyz](?:$|[^a-z])|deg/s|°/s|dps|rad/s"),
    ("accel", r"acc|(?:^|[^a-z])a[ _.\-]?[xyz](?:$|[^a-z])|m/s|\[g\]|\(g\)|\bmg\b"),
)


def time_column(table: LooseTable) -> tuple[str, str]:
    for name, values in sorted(table.numbers.items(), key=lambda kv: "time" not in kv[0].lower()):
        steps = np.diff(values)
        finite = steps[np.isfinite(steps)]
        if (
            len(finite) < 4
            or (finite < 0).mean() > 0.02
            or np.median(finite[finite > 0] if (finite > 0).any() else [0]) <= 0
        ):
            continue
        if (finite > 0).mean() < 0.3 and "time" not in name.lower():
            continue
        if values[-1] - values[0] <= 0:
            continue
        unit = _time_unit(name, values)
        if unit:
            return name, unit
    return "", "s"


def _time_unit(name: str, values: Floats) -> str:
    positive = np.diff(values)
    step = float(np.median(positive[positive > 0]))
    said = said_time(name)
    fits = [u for u, f in TIME_UNITS.items() if LEAST_HZ <= 1.0 / (step * f) <= MOST_HZ]
    epoch = next((u for u, size in (("ns", 1e17), ("us", 1e14), ("ms", 1e11), ("s", 1e8)) if values[0] > size), "")
    for unit in (epoch, said):
        if unit in fits:
            return unit
    return fits[0] if fits else ""


def said_time(name: str) -> str:
    return next((unit for unit, words in TIME_WORDS.items() if re.search(words, name.lower())), "")


def counts_samples(values: Floats) -> bool:
    steps = np.diff(values)
    return bool((np.abs(steps - 1.0) < 1e-9).mean() > 0.95)


def sensor_column(table: LooseTable, time: str) -> str:
    for name, cells in table.words.items():
        if 1 < len(cells.different) <= MOST_SENSORS and len(cells.codes) > 20 * len(cells.different):
            return name
    for name, values in table.numbers.items():
        named = re.search(r"sensor|device|node|unit|\bid\b", name.lower())
        if name != time and named and 1 < len(np.unique(values[:2000])) <= MOST_SENSORS:
            return name
    return ""


def sensor_words(table: LooseTable, column: str) -> list[str]:
    """The different words of the column that names sensors, in order of the alphabet."""
    if column in table.words:
        return sorted(table.words[column].different)
    return sorted(f"{v:g}" for v in np.unique(table.numbers[column])) if column in table.numbers else []


def rows_of(table: LooseTable, column: str, word: str) -> NDArray[np.bool_]:
    """(n,) the rows of one sensor; all of them where there is no such column, or no such word is asked for."""
    if not word or (column not in table.words and column not in table.numbers):
        return np.ones(table.rows, bool)
    if column in table.words:
        return table.words[column].are(word)
    values = table.numbers[column]
    own = [v for v in np.unique(values) if f"{v:g}" == word]
    return np.isin(values, own)


def groups_of(names: list[str]) -> dict[str, tuple[list[str], list[str]]]:
    """Columns of each unit by what is left of their names without kind and axis."""
    found: dict[str, dict[str, dict[str, str]]] = {}
    for name in names:
        low = f" {name.lower()} "
        kind = next((k for k, words in KIND if re.search(words, low)), "")
        axis = AXIS.search(low)
        if kind not in ("accel", "gyro") or axis is None:
            continue
        key = re.sub(
            r"acc\w*|gyr\w*|omega|ang\w*|rot\w*|rate|m/s\^?2|m/s²|deg/s|°/s|dps|rad/s|\[.*?\]|\(.*?\)|\b[agw]?[xyz]\b|[agw]?[xyz]$",
            " ",
            low,
        )
        key = re.sub(r"[^a-z0-9]+", " ", re.sub(r"_[agw]?[xyz]\b|[agw][xyz]\b", " ", key)).strip()
        found.setdefault(key, {}).setdefault(kind, {})[axis["a"] or axis["b"]] = name
    out = {}
    for key, kinds in found.items():
        accel, gyro = ([kinds.get(k, {}).get(a, "") for a in "xyz"] for k in ("accel", "gyro"))
        if all(accel):
            out[key] = (accel, gyro if all(gyro) else [])
    return out


LOAD_WORDS = r"load|sole|plate|board|grf|(?:^|[^a-z])fz(?:$|[^a-z])"
HEEL_WORDS, FORE_WORDS = r"heel|hind|rearfoot|calcan", r"fore|toe|ball|metatars|front"


def loads_of(names: list[str]) -> dict[str, list[str]]:
    """Columns of load under each foot, by what is left of their names: heel and forefoot, or all of it."""
    found: dict[str, dict[str, str]] = {}
    for name in names:
        low = f" {name.lower()} "
        heel, fore = re.search(HEEL_WORDS, low), re.search(FORE_WORDS, low)
        if not (re.search(LOAD_WORDS, low) or heel or fore):
            continue
        part = "heel" if heel else "fore" if fore else "whole"
        key = re.sub(
            f"{HEEL_WORDS}|{FORE_WORDS}|load|force|foot|\\bfz\\b|\\bn\\b|kgf?|lbf|\\[.*?\\]|\\(.*?\\)", " ", low
        )
        found.setdefault(re.sub(r"[^a-z0-9]+", " ", key).strip(), {})[part] = name
    return {
        key: [parts["heel"], parts["fore"]] if "heel" in parts and "fore" in parts else [parts["whole"]]
        for key, parts in found.items()
        if "whole" in parts or ("heel" in parts and "fore" in parts)
    }


def side_of(text: str) -> str:
    if re.search(r"left|(?:^|[^a-z])l(?:[^a-z]|$|wr|an|fo|hand|sole)", text):
        return "left"
    return "right" if re.search(r"right|(?:^|[^a-z])r(?:[^a-z]|$|wr|an|fo|hand|sole)", text) else ""


def place_of(words: str, file_name: str, units: int) -> str:
    for text in (words.lower(), file_name.lower() if units == 1 else ""):
        part = next((p for p, pattern in PLACE_WORDS if re.search(pattern, text)), "")
        if part in ("bag", "pelvis", "torso"):
            return part
        side = side_of(text)
        if part and side:
            return f"{side}{part}"
        short = re.search(r"(?:^|[^a-z])([lr])(w|a|f)(?:[^a-z]|$)", text)
        if short:
            return ("left" if short[1] == "l" else "right") + {"w": "wrist", "a": "ankle", "f": "forearm"}[short[2]]
    return ""


def rate_in(preamble: str) -> float | None:
    text = preamble.replace(",", ".")
    found = re.search(r"(\d+(?:\.\d+)?)\s*(?:hz|samples?\s*(?:/|per|a)\s*s)", text, re.I)
    found = found or re.search(r"(?:rate|frequency|freq|odr|fs)\D{0,20}?(\d+(?:\.\d+)?)", text, re.I)
    rate = float(found[1]) if found else 0.0
    return rate if LEAST_HZ <= rate <= MOST_HZ else None
