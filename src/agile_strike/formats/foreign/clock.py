"""A table's time: which column tells it, of what kind, at what rate, and where it halts, leaps or begins anew."""

import datetime as dt
import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.formats.foreign.sheet import Column, Sheet
from agile_strike.formats.foreign.words import COUNTER, DATE, TIME, TIME_FACTORS, Said

Floats = NDArray[np.float64]

SLOWEST_HZ, FASTEST_HZ = 15.0, 8200.0  # of a unit, where no word says in which unit its time is
ANY_HZ = (0.5, 60_000.0)  # where one says so
DAY_S = 86_400.0
EPOCHS = (
    ("ns", 1e-9, 6e17, 4e18),
    ("us", 1e-6, 6e14, 4e15),
    ("epoch_ms", 1e-3, 6e11, 4e12),
    ("epoch_s", 1.0, 6e8, 4e9),
)
INSTANT = re.compile(
    r"^\s*(?:(?P<y>\d{4})[-./](?P<m>\d{1,2})[-./](?P<d>\d{1,2})|(?P<d2>\d{1,2})[-./](?P<m2>\d{1,2})[-./](?P<y2>\d{4}))"
    r"[T ,;_]+"
    r"(?P<H>\d{1,2})[:.](?P<M>\d{2})(?:[:.](?P<S>\d{2})(?:[.,:](?P<f>\d+))?)?\s*(?P<ap>[AaPp][Mm])?\s*(?P<z>Z|[+-]\d{2}:?\d{2}|UTC)?\s*$"
)
DAY = re.compile(
    r"^\s*(?:(?P<y>\d{4})[-./](?P<m>\d{1,2})[-./](?P<d>\d{1,2})|(?P<d2>\d{1,2})[-./](?P<m2>\d{1,2})[-./](?P<y2>\d{4}))\s*$"
)
CLOCK = re.compile(r"^\s*(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2})(?:[.,:](?P<f>\d+))?)?\s*(?P<ap>[AaPp][Mm])?\s*$")


@dataclass(slots=True)
class Telling:
    """A column that tells time, and how."""

    index: int
    kind: str  #: as RECORDING.md names them
    factor: float  #: seconds a count; of a counter 0
    seconds: Floats  #: (n,) of each row, as told; of a counter its counts
    sure: bool = True
    choices: tuple[str, ...] = ()  #: kinds that fit as well
    epoch_s: float | None = None  #: seconds since 1970 of its zero, where it counts from then
    zone: str = ""  #: "Z" where the file says that it is UTC


def tellings(sheet: Sheet, said: list[Said]) -> list[Telling]:
    """Columns that may tell time, the likeliest first; then counters."""
    found: list[tuple[float, Telling]] = []
    dates = next((k for k, s in enumerate(said) if s.quantity == DATE and sheet.columns[k].words is not None), None)
    for k, column in enumerate(sheet.columns):
        if column.words is not None:
            one = _of_words(k, column)
            if one is not None and one.kind == "clock" and dates is not None:
                one.epoch_s = _midnight(sheet.columns[dates].words or [])
            if one is not None:
                found.append((5.0 if one.kind == "iso" else 4.0, one))
            continue
        if said[k].quantity not in (TIME, COUNTER, "", "label", "date"):
            continue
        found += _of_figures(k, column, said[k])
    return [t for _, t in sorted(found, key=lambda f: (-f[0], f[1].index))]


def _of_figures(k: int, column: Column, said: Said) -> list[tuple[float, Telling]]:
    values = column.numbers
    assert values is not None
    finite = values[np.isfinite(values)]
    if len(finite) < 8 or len(finite) < 0.5 * len(values):
        return []
    steps = np.diff(finite)
    up = steps[steps > 0]
    if len(up) < 0.02 * len(steps) or (steps < 0).mean() > 0.25:
        return []
    named = said.quantity == TIME
    wraps = (steps < 0).mean()
    whole = bool((finite == np.rint(finite)).all())
    modal = float(np.median(up))
    if not named and said.quantity != COUNTER and (wraps > 0.01 or (not whole and (steps == 0).mean() > 0.5)):
        return []
    if not named and said.quantity == "" and wraps > 0.002 and not whole:
        return []
    monotone = 1.0 - wraps
    counts = (
        whole and float((np.abs(up - modal) < 1e-9).mean()) > 0.9 and (steps == 0).mean() < 0.02 and 1 <= modal <= 64
    )
    score = 2.0 * monotone + (3.0 if named else 0.0) + (1.0 if said.unit and said.unit[0] == "time" else 0.0)
    if said.quantity == COUNTER and not (said.unit and said.unit[0] == "time"):
        return [(1.0 + monotone, Telling(k, "counter", 0.0, values))] if whole else []
    period = period_of(finite)
    for kind, factor, low, high in EPOCHS:
        if low < np.median(finite) < high and ANY_HZ[0] < 1.0 / max(period * factor, 1e-12) < ANY_HZ[1]:
            if (
                said.unit
                and said.unit[0] == "time"
                and said.unit[1] in TIME_FACTORS
                and TIME_FACTORS[said.unit[1]] != factor
            ):
                return [(score, Telling(k, kind, factor, values * factor, False, (kind, said.unit[1]), 0.0))]
            return [(score + 1.0, Telling(k, kind, factor, values * factor, epoch_s=0.0, zone="Z"))]
    if period <= 0:
        return []
    if said.unit and said.unit[0] == "time" and said.unit[1] in TIME_FACTORS:
        factor = TIME_FACTORS[said.unit[1]]
        rate = 1.0 / (period * factor)
        fits = [u for u, f in TIME_FACTORS.items() if 5.0 <= 1.0 / (period * f) <= FASTEST_HZ]
        if 5.0 <= rate <= FASTEST_HZ:
            return [(score, Telling(k, said.unit[1], factor, values * factor))]
        other = fits[0] if fits else said.unit[1]
        return [
            (
                score,
                Telling(
                    k,
                    other,
                    TIME_FACTORS[other],
                    values * TIME_FACTORS[other],
                    False,
                    tuple(dict.fromkeys((*fits, said.unit[1], "counter"))),
                ),
            )
        ]
    if counts and modal == 1.0:
        # a clock in milliseconds at 1000 Hz, or a count of samples: nothing in the column tells
        return (
            [(score - 1.0, Telling(k, "ms", 1e-3, values * 1e-3, False, ("ms", "counter")))]
            if named
            else [(0.5, Telling(k, "counter", 0.0, values))]
        )
    fits = [u for u, f in TIME_FACTORS.items() if SLOWEST_HZ <= 1.0 / (period * f) <= FASTEST_HZ]
    if counts and not named:
        return [(0.5, Telling(k, "counter", 0.0, values))]
    if not fits:
        return [(score - 2.0, Telling(k, "s", 1.0, values, False, ("s", "ms", "counter")))] if named else []
    factor = TIME_FACTORS[fits[0]]
    sure = len(fits) == 1 and (named or not whole)
    return [
        (
            score - (0.0 if named else 1.5),
            Telling(k, fits[0], factor, values * factor, sure, tuple(dict.fromkeys((*fits, "counter")))),
        )
    ]


def about_rate(timed: list[Telling]) -> float | None:
    """Rows a second, by about, where a clock tells."""
    for one in timed:
        if one.factor > 0:
            period = period_of(one.seconds[np.isfinite(one.seconds)])
            return 1.0 / period if period > 0 else None
    return None


def period_of(values: Floats) -> float:
    """A row's usual step, whether stamps come one by one, in bursts, or coarser than rows: robust to gaps."""
    n = len(values)
    span = max(1, min(400, n // 8))
    steps = (values[span:] - values[:-span]) / span
    steps = steps[steps > 0]
    return float(np.median(steps)) if len(steps) else 0.0


def _midnight(words: list[str]) -> float | None:
    """Seconds since 1970 at the beginning of the first day that a column of dates names."""
    found = next((m for m in map(DAY.match, words) if m), None)
    if found is None:
        return None
    month_first = any(m and m["d2"] and int(m["m2"]) > 12 for m in map(DAY.match, words[:: max(1, len(words) // 50)]))
    month, day = int(found["m"] or found["m2"]), int(found["d"] or found["d2"])
    if month_first and found["m2"]:
        month, day = day, month
    try:
        return dt.datetime(int(found["y"] or found["y2"]), month, day, tzinfo=dt.UTC).timestamp()
    except ValueError:
        return None


def _of_words(k: int, column: Column) -> Telling | None:
    words = column.words or []
    looked = [w for w in words[:400] if w]
    if len(looked) < 4:
        return None
    for pattern, kind in ((INSTANT, "iso"), (CLOCK, "clock")):
        if sum(bool(pattern.match(w)) for w in looked) > 0.95 * len(looked):
            return _instants(k, words, pattern, kind)
    return None


def _instants(k: int, words: list[str], pattern: re.Pattern[str], kind: str) -> Telling:
    seconds = np.full(len(words), np.nan)
    zone = ""
    days: dict[tuple[int, int, int], float] = {}
    american = kind == "iso" and _month_first(words, pattern)
    for i, word in enumerate(words):
        m = pattern.match(word)
        if m is None:
            continue
        hour = int(m["H"])
        if m["ap"]:
            hour = hour % 12 + (12 if m["ap"].lower() == "pm" else 0)
        within = 3600 * hour + 60 * int(m["M"]) + int(m["S"] or 0) + (float(f"0.{m['f']}") if m["f"] else 0.0)
        if kind == "iso":
            a, b = (int(m["m"] or m["m2"]), int(m["d"] or m["d2"]))
            day = (int(m["y"] or m["y2"]), b if american and m["m2"] else a, a if american and m["m2"] else b)
            if day not in days:
                try:
                    days[day] = dt.datetime(*day, tzinfo=dt.UTC).timestamp()
                except ValueError:
                    continue
            within += days[day]
            if m["z"]:
                zone = "Z"
                if m["z"][0] in "+-":
                    sign = -1.0 if m["z"][0] == "+" else 1.0
                    within += sign * (3600 * int(m["z"][1:3]) + 60 * int(m["z"][-2:]))
        seconds[i] = within
    return Telling(k, kind, 1.0, seconds, epoch_s=0.0 if kind == "iso" else None, zone=zone)


def _month_first(words: list[str], pattern: re.Pattern[str]) -> bool:
    """Whether dates as 11/24/2026 stand there: a month above twelve can't be."""
    firsts = [int(m["d2"]) for w in words[:: max(1, len(words) // 200)] if (m := pattern.match(w)) and m["d2"]]
    seconds = [int(m["m2"]) for w in words[:: max(1, len(words) // 200)] if (m := pattern.match(w)) and m["m2"]]
    return bool(seconds) and max(seconds) > 12 >= max(firsts)
