"""A table's time: which column tells it, of what kind, at what rate, and where it halts, leaps or begins anew."""

import datetime as dt
import re
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import minimum_filter1d

from agile_strike.core.errors import BadFile
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
WRAPS = (*(2.0**k for k in (8, 10, 12, 16, 24, 31, 32)), 60.0, 100.0, 1e3, 3.6e3, 1e4, 6e4, 2.56e5, 1e6)
INSTANT = re.compile(
    r"^\s*(?:(?P<y>\d{4})[-./](?P<m>\d{1,2})[-./](?P<d>\d{1,2})|(?P<d2>\d{1,2})[-./](?P<m2>\d{1,2})[-./](?P<y2>\d{4}))[T ,;_]+"
    r"(?P<H>\d{1,2})[:.](?P<M>\d{2})(?:[:.](?P<S>\d{2})(?:[.,:](?P<f>\d+))?)?\s*(?P<ap>[AaPp][Mm])?\s*(?P<z>Z|[+-]\d{2}:?\d{2}|UTC)?\s*$"
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


@dataclass(slots=True)
class Grid:
    """Rows of one unit on an even grid."""

    rate_hz: float
    places: NDArray[np.int64]  #: (n,) of each kept row
    rows: NDArray[np.int64]  #: (n,) which rows of the sheet
    begins: float  #: seconds as told, of the first
    gaps: list[tuple[int, float]] = field(default_factory=list)  #: line, seconds
    told: list[str] = field(default_factory=list)
    asks: list[str] = field(default_factory=list)


def tellings(sheet: Sheet, said: list[Said]) -> list[Telling]:
    """Columns that may tell time, the likeliest first; then counters."""
    found: list[tuple[float, Telling]] = []
    dates = next((k for k, s in enumerate(said) if s.quantity == DATE and sheet.columns[k].words is not None), None)
    for k, column in enumerate(sheet.columns):
        if column.words is not None:
            one = _of_words(k, column, sheet.columns[dates] if dates is not None and dates != k else None)
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
    period = _period(finite)
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
            period = _period(one.seconds[np.isfinite(one.seconds)])
            return 1.0 / period if period > 0 else None
    return None


def _period(values: Floats) -> float:
    """A row's usual step, whether stamps come one by one, in bursts, or coarser than rows: robust to gaps."""
    n = len(values)
    span = max(1, min(400, n // 8))
    steps = (values[span:] - values[:-span]) / span
    steps = steps[steps > 0]
    return float(np.median(steps)) if len(steps) else 0.0


def _of_words(k: int, column: Column, date: Column | None) -> Telling | None:
    words = column.words or []
    looked = [w for w in words[:400] if w]
    if len(looked) < 4:
        return None
    for pattern, kind in ((INSTANT, "iso"), (CLOCK, "clock")):
        if sum(bool(pattern.match(w)) for w in looked) > 0.95 * len(looked):
            return _instants(k, words, pattern, kind)
    del date
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


# --- an even grid


def grid_of(
    sheet: Sheet, telling: Telling | None, counter: Telling | None, rows: NDArray[np.int64], rate_said: float | None
) -> Grid | None:
    """Where the rows of one unit lie; None where nothing tells their rate."""
    told: list[str] = []
    counts = _counted(counter.seconds[rows]) if counter is not None else None
    if telling is None or telling.kind == "counter":
        places = counts if counts is not None else np.arange(len(rows))
        if rate_said is None:
            return None
        return _without_gaps_lost(sheet, Grid(rate_said, places, rows, 0.0), told)
    seconds = telling.seconds[rows]
    finite = np.isfinite(seconds)
    if not finite.all():
        if finite.sum() < 0.5 * len(rows):
            return None
        seconds = np.interp(np.arange(len(seconds)), np.flatnonzero(finite), seconds[finite])
    if telling.kind == "clock":
        seconds = seconds + DAY_S * np.cumsum(np.concatenate([[0.0], np.diff(seconds) < -DAY_S / 2]))
    seconds, wrapped = _unwrapped(seconds, telling)
    if wrapped:
        told.append(f"{sheet.file}: its clock wraps {wrapped} {'time' if wrapped == 1 else 'times'}; it was carried on")
    order = _late_rows(seconds)
    if order is not None:
        told.append(
            f"{sheet.file}: {int((np.diff(order) != 1).sum())} rows stood out of their order, as line {sheet.lines[rows[int(np.flatnonzero(np.diff(seconds) < 0)[0]) + 1]]}; they were put in it"
        )
        rows, seconds, counts = rows[order], seconds[order], None if counts is None else counts[order]
    rows, seconds, counts = _once(sheet, rows, seconds, counts, told)
    if len(rows) < 8:
        return None
    out = Grid(0.0, np.zeros(0, np.int64), rows, float(seconds[0]), told=told)
    parts = np.split(np.arange(len(seconds)), _restarts(seconds) + 1)
    period = (
        _period(np.concatenate([seconds[p] - seconds[p[0]] + i * 1e9 for i, p in enumerate(parts)]))
        if len(parts) == 1
        else float(np.median([_period(seconds[p]) for p in parts if len(p) > 8] or [0.0]))
    )
    if period <= 0:
        raise BadFile(
            sheet.file,
            "its time does not move on",
            "Choose another column of time, or none and a rate.",
            int(sheet.lines[rows[0]]),
        )
    places, last = [], -1
    gone = 0.0
    for number, part in enumerate(parts):
        own, gaps, gap_s = _places(seconds[part], period, None if counts is None else counts[part])
        gone += gap_s
        out.gaps += [(int(sheet.lines[rows[part[k]]]), round(float(s), 6)) for k, s in gaps]
        places.append(own + last + 1)
        last = int(places[-1][-1])
        if number:
            line = int(sheet.lines[rows[part[0]]])
            text = f"{sheet.file}: line {line}: its clock begins anew, from {seconds[part[0] - 1]:.3f} to {seconds[part[0]]:.3f} s: how long nothing was recorded, the file does not tell"
            out.told.append(text)
            out.asks.append(text)
    out.places = np.concatenate(places).astype(np.int64)
    lasts = sum(float(seconds[p[-1]] - seconds[p[0]]) for p in parts if len(p) > 1)
    steps = sum(int(q[-1] - q[0]) for q in places if len(q) > 1)
    out.rate_hz = steps / lasts if lasts > 0 else 1.0 / period
    out.rate_hz = _round_rate(out.rate_hz)
    return out


def _round_rate(rate: float) -> float:
    """A rate that is a whole one but for the stamps' own coarseness."""
    near = round(rate)
    return float(near) if near and abs(rate / near - 1.0) < 2e-5 else rate


def _places(
    seconds: Floats, period: float, counts: NDArray[np.int64] | None
) -> tuple[NDArray[np.int64], list[tuple[int, float]], float]:
    """Places on the grid of one stretch, its gaps by row and seconds, and how long they are together."""
    n = len(seconds)
    if counts is not None and n > 1 and len(np.unique(np.diff(counts))) < 50:
        own = counts - counts[0]
        holes = np.flatnonzero(np.diff(own) > 1)
        return (
            own,
            [(int(k) + 1, float((own[k + 1] - own[k] - 1) * period)) for k in holes],
            float((own[-1] - n + 1) * period),
        )
    index = np.arange(n)
    steps = np.diff(seconds)
    zero = steps <= 1e-9
    burst = int(min(200, max(4, 2 * _longest_run(zero) + 2)))
    off = seconds - index * period
    # where stamps come in bursts, or late, only the earliest of them tell: the lower envelope before and after
    after = minimum_filter1d(off, burst, mode="nearest", origin=-(burst // 2))
    before = minimum_filter1d(off, burst, mode="nearest", origin=(burst - 1) // 2)
    shift = after[1:] - before[:-1]
    usual = float(np.median(np.abs(shift))) * 1.4826
    jitter = float(np.percentile(np.abs(steps - np.median(steps)), 75))
    least = max(0.6 * period + 1e-9, 6.0 * usual, 2.5 * min(jitter, 3 * period) if jitter > 0.2 * period else 0.0)
    flagged = np.flatnonzero((shift > least) & (steps > least))
    lost = np.zeros(n, np.int64)
    gaps = []
    # rows near a leap have it in one of their windows: the longest step among them is the leap
    for part in np.split(flagged, np.flatnonzero(np.diff(flagged) > burst) + 1):
        if not len(part):
            continue
        k = int(part[np.argmax(steps[part])])
        missing = round(float(shift[k]) / period)
        if missing >= 1:
            lost[k + 1] = missing
            gaps.append((k + 1, missing * period))
    return index + np.cumsum(lost), gaps, float(lost.sum() * period)


def _longest_run(flags: NDArray[np.bool_]) -> int:
    if not flags.any():
        return 0
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(np.int8), [0]])))
    return int((edges[1::2] - edges[::2]).max())


def _counted(values: Floats) -> NDArray[np.int64] | None:
    """Places by a counter that wraps and loses some; None where it is none."""
    if not np.isfinite(values).all() or len(values) < 8:
        return None
    steps = np.diff(values)
    up = steps[steps > 0]
    if not len(up):
        return None
    usual = float(np.median(up))
    if usual < 1 or (np.abs(steps - usual) < 1e-9).mean() < 0.7:
        return None
    down = steps < 0
    if down.any():
        top = float(values.max()) + usual
        wrap = next((w for w in WRAPS if w >= top and w <= 2 * top), top)
        steps = np.where(down, steps + wrap, steps)
        if (steps < 0).any():
            return None
    places = np.rint(np.concatenate([[0.0], np.cumsum(steps)]) / usual).astype(np.int64)
    return places if (np.diff(places) >= 1).all() else None


def _unwrapped(seconds: Floats, telling: Telling) -> tuple[Floats, int]:
    """A clock of so many bits, or of the second's part only, carried on where it begins at nought again."""
    steps = np.diff(seconds)
    down = np.flatnonzero(steps < 0)
    if not len(down) or telling.factor <= 0:
        return seconds, 0
    period = _period(seconds) if len(down) < 0.2 * len(steps) else float(np.median(steps[steps > 0]))
    drops = -steps[down] / telling.factor
    for wrap in WRAPS:
        near = np.abs(drops - wrap) * telling.factor < max(8 * period, 0.004 * wrap * telling.factor)
        if near.all() and float(np.nanmax(seconds)) / telling.factor <= wrap * 1.001 and float(np.nanmin(seconds)) >= 0:
            carried = np.zeros(len(seconds))
            carried[down + 1] = wrap * telling.factor
            return seconds + np.cumsum(carried), len(down)
    return seconds, 0


def _late_rows(seconds: Floats) -> NDArray[np.int64] | None:
    """The order of rows of which a few came late; None where they stand in order, or the clock began anew."""
    down = np.flatnonzero(np.diff(seconds) < 0)
    if not len(down) or len(down) > 0.2 * len(seconds):
        return None
    high = np.maximum.accumulate(seconds)
    behind = seconds < high
    if behind.mean() > 0.2 or _longest_run(behind) > max(20, len(seconds) // 50):
        return None
    return np.argsort(seconds, kind="stable")


def _once(
    sheet: Sheet, rows: NDArray[np.int64], seconds: Floats, counts: NDArray[np.int64] | None, told: list[str]
) -> tuple[NDArray[np.int64], Floats, NDArray[np.int64] | None]:
    """Rows that stand there twice, stamp and figures, count once."""
    same = np.concatenate([[False], np.diff(seconds) == 0])
    if not same.any() or same.mean() > 0.3:
        return rows, seconds, counts
    for column in sheet.columns:
        if column.numbers is not None:
            own = column.numbers[rows]
            same[1:] &= (own[1:] == own[:-1]) | (np.isnan(own[1:]) & np.isnan(own[:-1]))
    if not same.any():
        return rows, seconds, counts
    told.append(
        f"{sheet.file}: {int(same.sum())} rows stand there twice, as line {sheet.lines[rows[np.flatnonzero(same)[0]]]}: they count once"
    )
    keep = ~same
    return rows[keep], seconds[keep], None if counts is None else counts[keep]


def _restarts(seconds: Floats) -> NDArray[np.int64]:
    return np.flatnonzero(np.diff(seconds) < 0)


def _without_gaps_lost(sheet: Sheet, grid: Grid, told: list[str]) -> Grid:
    holes = np.flatnonzero(np.diff(grid.places) > 1)
    grid.gaps = [
        (int(sheet.lines[grid.rows[k + 1]]), float((grid.places[k + 1] - grid.places[k] - 1) / grid.rate_hz))
        for k in holes
    ]
    grid.told = told
    return grid
