"""When samples were taken: a column of time, the rate that the file tells, and what is asked where the two differ."""

import re

import numpy as np

from agile_strike.core.errors import BadFile
from agile_strike.formats.foreign import words as w
from agile_strike.formats.foreign.clock import Telling
from agile_strike.formats.foreign.found import Unit
from agile_strike.formats.foreign.grid import grid_of
from agile_strike.formats.foreign.sheet import Sheet

RATE_RE = re.compile(
    r"(?<![a-z])(?:sampl\w*|abtast\w*|echantillon\w*|muestreo|campion\w*|amostragem|bemonster\w*|samplings?\w*|measurement|data|output|update|imu|odr|fs|freq\w*|frequenz|rate)\b[^0-9\n]{0,40}?(\d+(?:[.,]\d+)?)\s*(k?hz)?",
    re.I,
)
HZ_RE = re.compile(r"(\d+(?:[.,]\d+)?)\s*(k?)hz\b|(\d+(?:[.,]\d+)?)\s*(?:samples?|sps)\s*(?:/|per)?\s*s?", re.I)
NOT_A_RATE = re.compile(
    r"baud|bit ?rate|bps|cut ?off|filter|bandwidth|low ?pass|high ?pass|range|"
    r"firmware|version|gyr\w* range|tiefpass|grenzfreq",
    re.I,
)


def rate_in(sheet: Sheet) -> float | None:
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


def timed_by(unit: Unit, timed: list[Telling], rate_said: float | None) -> None:
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
        by_time = f"its column of time {unit.grid.rate_hz:.4g} Hz"
        text = f"{who}: the lines above the table say {rate_said:g} Hz, {by_time}: which is right?"
        unit.objections.append(text)
        unit.ask("rate", text, [f"{rate_said:g}", f"{unit.grid.rate_hz:.6g}"])
    elif rate_said is not None and abs(unit.grid.rate_hz / rate_said - 1.0) < 2e-5:
        unit.grid.rate_hz = rate_said


def retimed(unit: Unit, rate_hz: float | None, kind: str | None) -> None:
    """With the rate, or the kind of time, that somebody said. Raises BadFile where that can't be."""
    telling = unit.telling
    if kind is not None and telling is not None:
        factor = {**w.TIME_FACTORS, "epoch_s": 1.0, "epoch_ms": 1e-3}.get(kind, 0.0)
        raw = np.asarray(unit.sheet.columns[telling.index].numbers)
        unit.telling = telling = Telling(telling.index, kind, factor, raw * factor if factor else raw)
    counter = telling if telling is not None and telling.kind == "counter" else None
    said = rate_hz
    if rate_hz is not None and telling is not None and telling.kind != "counter" and unit.grid is not None:
        if abs(unit.grid.rate_hz / rate_hz - 1.0) < 0.01:
            return
        telling = None  # the rate is right, and the column of time is not
    unit.grid = grid_of(unit.sheet, telling, counter, unit.rows, said)
    if unit.grid is None:
        raise BadFile(
            unit.sheet.file, "nothing tells how many samples a second it holds", "Answer with a rate, as 200."
        )


def _as_rate(rate_hz: float, telling: Telling, kind: str) -> str:
    if kind not in w.TIME_FACTORS:
        return "a count of samples"
    return f"{rate_hz * telling.factor / w.TIME_FACTORS[kind]:.4g} Hz" if telling.factor else "?"
