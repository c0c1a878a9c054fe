"""Reading any logger's text table: separator, decimal mark, header and columns found from the file itself."""

import csv
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryFile
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile, plain

Floats = NDArray[np.float64]

LOOK_LINES = 400
MOST_HEADER = 250
SEPARATORS = ("\t", ";", ",", "|", " ")
NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")
BLANK = frozenset({"", "n/a", "na", "nan", "null", "none", "-"})
BLANK_CELLS = pa.array(sorted(BLANK))
READ_BLOCK_BYTES = 1 << 22
BYTES_AS_ARROW = 1.3  # of a table's text, once its cells have been parted
MOST_WORDS = 1000  # different ones in a column: what has more names no sensor, and is kept for the eye alone
OTHER = -1
LARGEST = 1e30  # of any column, a clock in nanoseconds too: more is how some loggers write that they have no figure
LONGEST_NAME = 200
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
class Words:
    """A column of words: each row's place among the different ones, `OTHER` where there were too many to keep."""

    codes: NDArray[np.int32]
    different: tuple[str, ...]

    def at(self, row: int) -> str:
        code = int(self.codes[row])
        return "…" if code == OTHER else self.different[code]

    def are(self, word: str) -> NDArray[np.bool_]:
        """(n,) which rows hold this word."""
        return np.asarray(self.codes == (self.different.index(word) if word in self.different else OTHER - 1))


@dataclass(frozen=True, slots=True)
class LooseTable:
    layout: Layout
    preamble: str  #: what stands above the figures
    numbers: dict[str, Floats]  #: by column; NaN where blank
    words: dict[str, Words]  #: columns that hold no figures

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
    return tuple(name or f"column {i + 1}" for i, name in enumerate(_unique([plain(n)[:LONGEST_NAME] for n in joined])))


def _unique(names: list[str]) -> list[str]:
    seen: dict[str, int] = {}
    out = []
    for name in names:
        seen[name] = seen.get(name, 0) + 1
        out.append(name if seen[name] == 1 else f"{name} ({seen[name]})")
    return out


def read(
    path: Path, shown: str, layout: Layout | None = None, told: Callable[[float], None] | None = None
) -> LooseTable:
    """The whole table, some megabytes at a time: what is held is its figures, eight bytes each.

    `told` hears how much of it is read, 0 to 1. Raises BadFile with the line for rows of another width.
    """
    found, preamble = layout_of(path, shown) if layout is None else (layout, "")
    columns = [_Column() for _ in found.names]
    size, done = max(path.stat().st_size, 1), 0
    try:
        with (
            _opened(path, found) as source,
            pacsv.open_csv(
                source,
                read_options=pacsv.ReadOptions(
                    column_names=list(found.names),
                    skip_rows=found.first_row,
                    encoding="utf-8",
                    block_size=READ_BLOCK_BYTES,
                ),
                parse_options=pacsv.ParseOptions(
                    delimiter="\t" if found.separator == " " else found.separator, ignore_empty_lines=True
                ),
                convert_options=pacsv.ConvertOptions(
                    column_types=dict.fromkeys(found.names, pa.string()), strings_can_be_null=False
                ),
            ) as batches,
        ):
            for batch in batches:
                for column, cells in zip(columns, batch.columns, strict=True):
                    column.take(cells, found.decimal)
                done += batch.nbytes
                if told is not None:
                    told(min(1.0, done / (BYTES_AS_ARROW * size)))
    except (pa.ArrowInvalid, UnicodeError) as error:
        raise BadFile(
            shown, f"the rows can't be read ({str(error).splitlines()[0]})", "Check its last lines."
        ) from error
    numbers = {n: c.figures() for n, c in zip(found.names, columns, strict=True) if not c.holds_words}
    words = {n: c.words() for n, c in zip(found.names, columns, strict=True) if c.holds_words}
    return LooseTable(found, plain(preamble), numbers, words)


class _Column:
    """One column as it comes in: figures for as long as its cells are such, words from then on."""

    def __init__(self) -> None:
        self.holds_words = False
        self._parts: list[Floats] = []
        self._codes: list[NDArray[np.int32]] = []
        self._known: dict[str, int] = {}

    def take(self, cells: pa.Array, decimal: str) -> None:
        cells = pc.utf8_trim_whitespace(cells)
        if not self.holds_words:
            values = _figures(cells, decimal)
            if values is not None:
                self._parts.append(values)
                return
            self.holds_words = True  # what came as figures until here is told as such
            for part in self._parts:
                self._keep([f"{v:.15g}" if np.isfinite(v) else "" for v in part.tolist()])
            self._parts = []
        self._keep(cells.to_pylist())

    def _keep(self, cells: list[str]) -> None:
        known = self._known
        for cell in cells:
            if cell not in known and len(known) < MOST_WORDS:
                known[cell] = len(known)
        self._codes.append(np.array([known.get(cell, OTHER) for cell in cells], dtype=np.int32))

    def figures(self) -> Floats:
        return np.concatenate(self._parts) if self._parts else np.zeros(0)

    def words(self) -> Words:
        return Words(np.concatenate(self._codes), tuple(plain(word)[:LONGEST_NAME] for word in self._known))


def _figures(cells: pa.Array, decimal: str) -> Floats | None:
    """(n,) with NaN where blank or beyond any instrument; None where a cell is neither a figure nor blank."""
    blank = pc.is_in(pc.utf8_lower(cells), BLANK_CELLS)
    cells = pc.if_else(blank, None, cells)
    if decimal == ",":
        cells = pc.replace_substring(cells, ",", ".")
    try:
        values = cells.cast(pa.float64())
    except pa.ArrowInvalid:
        return None
    figures = np.array(values.to_numpy(zero_copy_only=False), dtype=np.float64)
    figures[~(np.abs(figures) <= LARGEST)] = np.nan
    return figures


@contextmanager
def _opened(path: Path, layout: Layout) -> Iterator[Any]:
    """The file as UTF-8 with one separator between cells, as the reader of tables wants it."""
    if layout.separator != " " and layout.encoding in ("utf-8", "utf-8-sig"):
        yield path
        return
    with TemporaryFile(dir=path.parent) as plain, path.open("r", encoding=layout.encoding, newline=None) as text:
        while part := text.readlines(READ_BLOCK_BYTES):
            if layout.separator == " ":
                part = ["\t".join(line.split()) + "\n" for line in part]
            plain.write("".join(part).encode())
        plain.seek(0)
        yield plain
