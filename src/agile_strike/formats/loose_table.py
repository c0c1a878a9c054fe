"""Reading any logger's text table: separator, decimal mark, header and columns found from the file itself."""

import csv
import io
import re
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.csv as pacsv
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile

Floats = NDArray[np.float64]

LOOK_LINES = 400
MOST_HEADER = 250
SEPARATORS = ("\t", ";", ",", "|", " ")
NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")
BLANK = frozenset({"", "n/a", "na", "nan", "null", "none", "-"})
ENCODINGS = ("utf-8-sig", "utf-16", "latin-1")


@dataclass(frozen=True, slots=True)
class Layout:
    """How the text is laid out."""

    separator: str
    decimal: str
    first_row: int  #: lines before the first row of figures
    names: tuple[str, ...]
    encoding: str = "utf-8"


@dataclass(frozen=True, slots=True)
class LooseTable:
    layout: Layout
    preamble: str  #: what stands above the figures
    numbers: dict[str, Floats]  #: by column; NaN where blank
    words: dict[str, list[str]]  #: columns that hold no figures

    @property
    def rows(self) -> int:
        return len(next(iter(self.numbers.values()), ()))


def layout_of(path: Path, shown: str) -> tuple[Layout, str]:
    """The layout, and the text above the figures. Raises BadFile where there is no table of figures."""
    text, encoding = _head(path, shown)
    lines = text.splitlines()
    if path.stat().st_size > len(text.encode(encoding, "ignore")) and lines:
        lines = lines[:-1]  # the last may be cut
    best: tuple[int, int, str, str, int] | None = None
    for separator in SEPARATORS:
        for decimal in (".", ","):
            if decimal == separator:
                continue
            start, count, width = _block(lines, separator, decimal)
            if width >= 2 and count >= 5:
                score = (count * min(width, 40), width, separator, decimal, start)
                if best is None or score[:2] > best[:2]:
                    best = score
    if best is None:
        raise BadFile(shown, "no table of figures was found in it", "Bring a text table with one row a sample.")
    _, width, separator, decimal, start = best
    names = _names(lines[:start], separator, width)
    return Layout(separator, decimal, start, names, encoding), "\n".join(lines[:start])


def _head(path: Path, shown: str) -> tuple[str, str]:
    with path.open("rb") as file:
        raw = file.read(400_000)
    if b"\x00" in raw[:2000] and not raw.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise BadFile(shown, "this is not a text file", "Export the recording as CSV or text.")
    for encoding in ENCODINGS:
        if encoding == "utf-16" and not raw.startswith((b"\xff\xfe", b"\xfe\xff")):
            continue  # any even number of bytes would pass for it
        try:
            text = raw.decode(encoding, errors="strict" if len(raw) < 400_000 else "ignore")
        except UnicodeError:
            continue
        return "\n".join(text.splitlines()[: LOOK_LINES + MOST_HEADER]), encoding
    raise BadFile(shown, "its letters can't be read", "Export it again as UTF-8.")


def _split(line: str, separator: str) -> list[str]:
    if separator == " ":
        return line.split()
    cells = next(csv.reader([line], delimiter=separator), [])
    if cells and cells[-1] == "":
        cells = cells[:-1]  # a separator at the line's end
    return [c.strip() for c in cells]


def _figure(cell: str, decimal: str) -> bool:
    return bool(NUMBER.match(cell)) and not (decimal == "." and "," in cell) and not (decimal == "," and "." in cell)


def _block(lines: list[str], separator: str, decimal: str) -> tuple[int, int, int]:
    """First line, count and width of the run of rows that hold figures at the file's end."""
    widths = []
    for line in lines:
        cells = _split(line, separator)
        figures = sum(_figure(c, decimal) for c in cells)
        others = sum(not _figure(c, decimal) and c.lower() not in BLANK for c in cells)
        widths.append(len(cells) if figures >= 2 and others <= max(2, len(cells) // 3) else 0)
    if not widths:
        return 0, 0, 0
    width = max({w for w in widths if w}, key=widths.count, default=0)
    start = next(
        (i for i in range(len(widths)) if widths[i] == width and all(w == width for w in widths[i : i + 5])), 0
    )
    return start, sum(w == width for w in widths[start:]), width


def _names(above: list[str], separator: str, width: int) -> tuple[str, ...]:
    """Names from the line above the figures that has as many words as there are columns; a second line of units is
    joined to it."""
    rows = [[c.strip("# \"'") for c in _split(line.lstrip("#% "), separator)] for line in above]
    fitting = [r for r in rows[-4:] if len(r) == width]
    if not fitting:
        return tuple(f"column {i + 1}" for i in range(width))
    joined = [" ".join(dict.fromkeys(r[i] for r in fitting if r[i])) for i in range(width)]
    return tuple(name or f"column {i + 1}" for i, name in enumerate(_unique(joined)))


def _unique(names: list[str]) -> list[str]:
    seen: dict[str, int] = {}
    out = []
    for name in names:
        seen[name] = seen.get(name, 0) + 1
        out.append(name if seen[name] == 1 else f"{name} ({seen[name]})")
    return out


def read(path: Path, shown: str, layout: Layout | None = None) -> LooseTable:
    """The whole table. Raises BadFile with the line for rows of another width."""
    found, preamble = layout_of(path, shown) if layout is None else (layout, "")
    try:
        table = pacsv.read_csv(
            _spaced(path, found) if found.separator == " " else path,
            read_options=pacsv.ReadOptions(
                column_names=list(found.names), skip_rows=found.first_row, encoding=found.encoding.removesuffix("-sig")
            ),
            parse_options=pacsv.ParseOptions(
                delimiter="\t" if found.separator == " " else found.separator, ignore_empty_lines=True
            ),
            convert_options=pacsv.ConvertOptions(
                column_types=dict.fromkeys(found.names, pa.string()), strings_can_be_null=False
            ),
        )
    except pa.ArrowInvalid as error:
        raise BadFile(
            shown, f"the rows can't be read ({str(error).splitlines()[0]})", "Check its last lines."
        ) from error
    numbers: dict[str, Floats] = {}
    words: dict[str, list[str]] = {}
    for name in found.names:
        cells = [c.strip() for c in table.column(name).to_pylist()]
        values = _numbers(cells, found.decimal)
        if values is None:
            words[name] = cells
        else:
            numbers[name] = values
    return LooseTable(found, preamble, numbers, words)


def _spaced(path: Path, layout: Layout) -> io.BytesIO:
    text = path.read_text(encoding=layout.encoding)
    return io.BytesIO("\n".join("\t".join(line.split()) for line in text.splitlines()).encode())


def _numbers(cells: list[str], decimal: str) -> Floats | None:
    try:
        return np.array(
            [np.nan if c.lower() in BLANK else float(c.replace(",", ".") if decimal == "," else c) for c in cells]
        )
    except ValueError:
        return None
