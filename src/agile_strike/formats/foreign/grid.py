"""Rows of a unit on an even grid: where its clock halts, leaps, wraps or begins anew."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import minimum_filter1d

from agile_strike.core.errors import BadFile
from agile_strike.formats.foreign.clock import DAY_S, Telling, period_of
from agile_strike.formats.foreign.sheet import Sheet

Floats = NDArray[np.float64]
WRAP_ROWS = 8  # that may be lost where a clock wraps
WRAPS = (*(2.0**k for k in (8, 10, 12, 16, 24, 31, 32)), 60.0, 100.0, 1e3, 3.6e3, 1e4, 6e4, 2.56e5, 1e6)


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
    restarts: list[int] = field(default_factory=list)  #: lines at which the clock began anew


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
        late = int(sheet.lines[rows[int(np.flatnonzero(np.diff(seconds) < 0)[0]) + 1]])
        told.append(f"{sheet.file}: rows stood out of their order, as line {late}; they were put in it")
        rows, seconds, counts = rows[order], seconds[order], None if counts is None else counts[order]
    rows, seconds, counts = _once(sheet, rows, seconds, counts, told)
    if len(rows) < 8:
        return None
    out = Grid(0.0, np.zeros(0, np.int64), rows, float(seconds[0]), told=told)
    parts = np.split(np.arange(len(seconds)), np.flatnonzero(np.diff(seconds) < 0) + 1)
    period = float(np.median([period_of(seconds[p]) for p in parts if len(p) > 8] or [0.0]))
    if period <= 0:
        raise BadFile(
            sheet.file,
            "its time does not move on",
            "Choose another column of time, or none and a rate.",
            int(sheet.lines[rows[0]]),
        )
    stretches: list[NDArray[np.int64]] = []
    last = -1
    for number, part in enumerate(parts):
        own, gaps = _places(seconds[part], period, None if counts is None else counts[part])
        out.gaps += [(int(sheet.lines[rows[part[k]]]), round(float(s), 6)) for k, s in gaps]
        stretches.append(own + last + 1)
        last = int(stretches[-1][-1])
        if number:
            line = int(sheet.lines[rows[part[0]]])
            leap = f"from {seconds[part[0] - 1]:.3f} to {seconds[part[0]]:.3f} s"
            text = f"{sheet.file}: line {line}: its clock begins anew, {leap}: for how long was nothing recorded?"
            out.told.append(text)
            out.asks.append(text)
            out.restarts.append(line)
    out.places = np.concatenate(stretches).astype(np.int64)
    out.rate_hz = _rate(seconds, parts, stretches) or 1.0 / period
    out.rate_hz = _round_rate(out.rate_hz)
    return out


def _rate(seconds: Floats, parts: list[NDArray[np.int64]], places: list[NDArray[np.int64]]) -> float:
    """Places a second, by least squares over all stretches: stamps in bursts, or coarser than samples, are off
    by less than a burst at either end."""
    times = np.concatenate([seconds[p] - seconds[p].mean() for p in parts])
    steps = np.concatenate([q - q.mean() for q in places])
    power = float(steps @ steps)
    slope = float(times @ steps) / power if power > 0 else 0.0
    return 1.0 / slope if slope > 0 else 0.0


def _round_rate(rate: float) -> float:
    """A rate that is a whole one but for the stamps' own coarseness."""
    near = round(rate)
    return float(near) if near and abs(rate / near - 1.0) < 2e-5 else rate


def _places(
    seconds: Floats, period: float, counts: NDArray[np.int64] | None
) -> tuple[NDArray[np.int64], list[tuple[int, float]]]:
    """Places on the grid of one stretch, and its gaps by row and seconds."""
    n = len(seconds)
    if counts is not None and n > 1 and len(np.unique(np.diff(counts))) < 50:
        own = counts - counts[0]
        holes = np.flatnonzero(np.diff(own) > 1)
        return own, [(int(k) + 1, float((own[k + 1] - own[k] - 1) * period)) for k in holes]
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
    if zero.any():  # of a burst that is cut at either end the earliest stamp is not there
        flagged = flagged[(flagged >= burst) & (flagged < n - 1 - burst)]
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
    return index + np.cumsum(lost), gaps


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
    period = period_of(seconds) if len(down) < 0.2 * len(steps) else float(np.median(steps[steps > 0]))
    last, first = seconds[down], seconds[down + 1]
    for wrap in WRAPS:
        top = wrap * telling.factor
        # up to its end and from nought on, but for some rows: else it began anew, and nobody knows how long it was away
        if (np.abs(top - last) < WRAP_ROWS * period).all() and ((first >= 0) & (first < WRAP_ROWS * period)).all():
            carried = np.zeros(len(seconds))
            carried[down + 1] = top
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
    first = int(sheet.lines[rows[np.flatnonzero(same)[0]]])
    told.append(f"{sheet.file}: {int(same.sum())} rows stand there twice, as line {first}: they count once")
    keep = ~same
    return rows[keep], seconds[keep], None if counts is None else counts[keep]


def _without_gaps_lost(sheet: Sheet, grid: Grid, told: list[str]) -> Grid:
    holes = np.flatnonzero(np.diff(grid.places) > 1)
    grid.gaps = [
        (int(sheet.lines[grid.rows[k + 1]]), float((grid.places[k + 1] - grid.places[k] - 1) / grid.rate_hz))
        for k in holes
    ]
    grid.told = told
    return grid
