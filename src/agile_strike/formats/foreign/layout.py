"""How a text table is laid out: what parts its cells, which mark its decimals, and where its names stand."""

import csv
import re
from contextlib import suppress
from dataclasses import dataclass

from agile_strike.core.errors import BadFile
from agile_strike.formats.foreign.figures import is_blank, is_figure

SEPARATORS = ("\t", ";", ",", "|", " ")
FEWEST_ROWS = 4
WIDEST = 3000
ROWS_JUDGED = 120
MOST_ABOVE = 4  # rows of names: devices, names, units, and one more
INSTANT = re.compile(r"^\D{0,3}\d{1,4}[-./]\d{1,2}[-./]\d{1,4}|^\d{1,2}:\d{2}(:\d{2})?([.,:]\d+)?")
UNIT_WORD = re.compile(
    r"^[\[(]?\s*(m/s(\^?2|²)|m\.?s-2|ms-2|m/s/s|g|mg|rad/s|rads|deg/s|dps|mdps|°/s|grad/s|º/s|deg|°|rad|u?t|µt|μt|gauss|mgauss|ga|"
    r"s|ms|us|µs|μs|ns|sec|hz|n|kgf?|lbf?|°c|c|degc|hpa|pa|kpa|%|v|mv|count|counts|lsb|raw|"
    r"n[. ]?mm?|mm|cm|m|km|lux|bpm|w|-|#|a\.?u\.?|n/a|unitless|iso ?8601)\s*[\])]?$",
    re.I,
)


@dataclass(frozen=True, slots=True)
class Layout:
    separator: str  #: " " for blanks, however many
    decimal: str
    first: int  #: lines before the first row of figures
    names: tuple[str, ...]
    units: tuple[str, ...]
    devices: tuple[str, ...]
    above: tuple[str, ...]  #: lines before the names


def split(line: str, separator: str) -> list[str]:
    line = line.replace("\x00", "")
    if separator == " ":
        return line.split()
    if '"' in line:
        with suppress(csv.Error):  # a cell that is longer than any figure
            return [c.strip().replace("\t", " ") for c in next(csv.reader([line], delimiter=separator), [])]
    return [c.strip() for c in line.split(separator)]


def layout_of(lines: list[str], shown: str) -> Layout:
    """From a file's first lines. Raises BadFile where there is no table of figures."""
    best: tuple[tuple[float, ...], str, str] | None = None
    tail = lines[-ROWS_JUDGED:]
    for separator in SEPARATORS:
        if sum(separator in line for line in tail) < FEWEST_ROWS:
            continue
        rows = [split(line, separator) for line in tail]
        for decimal in (".", ","):
            if decimal == separator and not any('"' in line for line in tail):
                continue  # a comma parts cells, unless it stands in quotes
            _, count, _, figures = _block(rows, decimal)
            if count < FEWEST_ROWS or figures < 2:
                continue
            every = sum(is_figure(c, decimal) for row in rows for c in row)
            # `12,345;12,350` may be thousands: hardly, where no other mark stands for decimals
            other = "," if decimal == "." else "."
            marks = [sum(mark in c for row in rows for c in row) for mark in (decimal, other)]
            likely = 1 if marks[0] >= marks[1] else 0
            score = (float(count * min(figures, 40)), every, likely, -SEPARATORS.index(separator))
            if best is None or score > best[0]:
                best = score, separator, decimal
    if best is None:
        raise BadFile(
            shown,
            "no table of figures was found in it",
            "Bring a table with one row a sample and at least two columns of figures.",
        )
    _, separator, decimal = best
    start, _, width, _ = _block([split(line, separator) for line in lines], decimal)
    if width > WIDEST:
        raise BadFile(
            shown, f"it has {width} columns; the most that is taken is {WIDEST}", "Export fewer units at once."
        )
    return _named(lines, separator, decimal, start, width)


def _row(cells: list[str], decimal: str) -> tuple[int, int]:
    """How many cells are figures or instants, and how many are other words."""
    like = sum(is_figure(c, decimal) for c in cells)
    instants = sum(bool(INSTANT.match(c)) and not is_figure(c, decimal) for c in cells)
    words = sum(not is_blank(c) for c in cells) - like - instants
    return like, words


def _block(rows: list[list[str]], decimal: str) -> tuple[int, int, int, int]:
    """First row, count, width and figures a row of the run of rows that hold figures."""
    judged = [_row(cells, decimal) for cells in rows]
    good = [f >= 2 and w <= max(2, len(c) // 3) for (f, w), c in zip(judged, rows, strict=True)]
    widths = [len(c) for c, g in zip(rows, good, strict=True) if g]
    if len(widths) < FEWEST_ROWS:
        return 0, 0, 0, 0
    width = max(set(widths), key=lambda w: (widths.count(w), w))
    near = [g and abs(len(c) - width) <= 1 for g, c in zip(good, rows, strict=True)]
    for start in range(len(rows)):
        ahead = near[start : start + 5]
        if near[start] and sum(ahead) >= min(FEWEST_ROWS, len(ahead)):
            break
    else:
        return 0, 0, 0, 0
    inside = [f for (f, _), n in zip(judged[start:], near[start:], strict=True) if n]
    typical = sorted(inside)[len(inside) // 2]
    return start, len(inside), width, typical


def _named(lines: list[str], separator: str, decimal: str, start: int, width: int) -> Layout:
    """Names from the rows above the figures that have about as many cells as there are columns."""
    over: list[list[str]] = []
    k = start - 1
    blank = 0
    while k >= 0 and len(over) < MOST_ABOVE:
        text = lines[k].strip(f" \t\x00{separator}").lstrip("#%").lstrip("/ ").strip()
        if not text:
            blank += 1
            if blank > 2 or len(over) > 1 or (over and not _are_units(over[0])):
                break
            k -= 1
            continue
        line = text if separator == " " else lines[k].lstrip("#%/ ")
        cells = [c.strip("\"' ") for c in split(line, separator)]
        filled = [c for c in cells if c]
        words = sum(not is_figure(c, decimal) for c in filled)
        only_units = not over and len(cells) > 1 and all(UNIT_WORD.match(c) for c in filled) and k > 0
        like_names = abs(len(cells) - width) <= 1 and len(filled) >= max(2, 0.5 * width) and words >= 0.5 * len(filled)
        like_devices = len(filled) >= 2 and words == len(filled) and 0.6 * width <= len(cells) <= width + 1
        named = any(not _are_units(row) for row in over)
        if not (only_units or (like_names if not named else like_devices)):
            break
        over.insert(0, _padded(cells, width))
        k -= 1
    above = tuple(line for line in lines[: max(k + 1, 0)])
    none = ("",) * width
    if not over:
        return Layout(separator, decimal, start, none, none, none, above)
    units = none
    if len(over) > 1 and _are_units(over[-1]):
        units = tuple(over.pop())
    names = tuple(over.pop())
    devices = none
    if over and (
        blank_share(over[-1]) > 0.2 or len(set(over[-1])) < 0.7 * len(over[-1]) or len(set(names)) < len(names)
    ):
        devices = tuple(_carried(over.pop()))
    elif over:
        names = tuple(" ".join(p for p in (a, b) if p) for a, b in zip(over.pop(), names, strict=True))
    above = (*above, *(separator.join(row) for row in over))
    return Layout(separator, decimal, start, names, units, devices, above)


def blank_share(cells: list[str]) -> float:
    return sum(not c for c in cells) / max(1, len(cells))


def _padded(cells: list[str], width: int) -> list[str]:
    return (cells + [""] * width)[:width]


def _are_units(cells: list[str]) -> bool:
    filled = [c for c in cells if c]
    return bool(filled) and sum(bool(UNIT_WORD.match(c)) for c in filled) > 0.5 * len(filled)


def _carried(cells: list[str]) -> list[str]:
    """A device's name stands over its first column; the blanks after it are its own."""
    out, last = [], ""
    for cell in cells:
        last = cell or last
        out.append(last)
    return out
