"""Text tables, read some megabytes at a time: whatever parts their cells, however their rows end."""

import itertools
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any

import numpy as np
import pyarrow as pa
import pyarrow.csv as pacsv

from agile_strike.core.errors import BadFile, plain
from agile_strike.formats.foreign.figures import figures
from agile_strike.formats.foreign.layout import Layout, layout_of, split
from agile_strike.formats.foreign.letters import encoding_of, opened
from agile_strike.formats.foreign.sheet import Column, Sheet

HEAD_LINES = 3000
LONGEST_LINE = 200_000
BLOCK_BYTES = 1 << 22
FEW_STRANGE = 0.1  # of a column's cells: more, and it is one of words
MOST_TOLD = 5
NAME_LONG = 200


def read(path: Path, shown: str) -> Sheet:
    """The table. Raises BadFile where there is none."""
    encoding = encoding_of(path, shown)
    with opened(path, encoding) as text:
        head = [
            line.rstrip("\r\n") for line in itertools.islice(iter(lambda: text.readline(LONGEST_LINE), ""), HEAD_LINES)
        ]
    if not any(line.strip() for line in head):
        raise BadFile(shown, "the file is empty", "Choose the table that your logger wrote.")
    if any(len(line) >= LONGEST_LINE - 1 for line in head):
        raise BadFile(shown, f"a line is longer than {LONGEST_LINE:,} letters", "Export one row a sample.")
    layout = layout_of(head, shown)
    columns, lines, told = _body(path, encoding, layout, shown)
    sheet = Sheet(shown, columns, lines, [plain(line)[: NAME_LONG * 5] for line in layout.above], told)
    return without_words_in_the_middle(sheet, layout)


def _body(
    path: Path, encoding: str, layout: Layout, shown: str
) -> tuple[list[Column], np.ndarray[Any, Any], list[str]]:
    width = len(layout.names)
    makers = [Maker(layout.decimal) for _ in range(width)]
    with _even(path, encoding, layout, width) as (source, numbers, longer):
        options = {
            "read_options": pacsv.ReadOptions(
                column_names=[str(k) for k in range(width)], block_size=BLOCK_BYTES, use_threads=False
            ),
            "parse_options": pacsv.ParseOptions(delimiter="\t", quote_char=False, ignore_empty_lines=False),
            "convert_options": pacsv.ConvertOptions(
                column_types={str(k): pa.string() for k in range(width)}, strings_can_be_null=False
            ),
        }
        try:
            with pacsv.open_csv(source, **options) as batches:
                for batch in batches:
                    for maker, cells in zip(makers, batch.columns, strict=True):
                        maker.take(cells)
        except pa.ArrowInvalid as error:
            raise BadFile(
                shown, f"its rows can't be read ({str(error).splitlines()[0][:120]})", "Export it again as CSV."
            ) from error
        lines = np.asarray(numbers, dtype=np.int64)
    columns = []
    for k, maker in enumerate(makers):
        made = maker.column()
        made.name, made.unit, made.device = (
            plain(layout.names[k])[:NAME_LONG],
            plain(layout.units[k])[:40],
            plain(layout.devices[k])[:NAME_LONG],
        )
        columns.append(made)
    told = [f"{shown}: line {line} has more cells than the table's {width}: the rest is left out" for line in longer]
    return columns, lines, told[:MOST_TOLD]


@contextmanager
def _even(path: Path, encoding: str, layout: Layout, width: int) -> Iterator[tuple[IO[bytes], list[int], list[int]]]:
    """The rows as UTF-8 with tabs between cells, each as wide as the table; the line of each, from 1; and
    the lines that held more."""
    numbers: list[int] = []
    longer: list[int] = []
    with tempfile.TemporaryFile() as out, opened(path, encoding) as text:
        for number, line in enumerate(text, start=1):
            if number <= layout.first or not line.strip("\r\n\x00 ;,\t|"):
                continue
            cells = split(line.rstrip("\r\n"), layout.separator)
            if any(cells[width:]):
                longer.append(number)
            if len(cells) != width:
                cells = (cells + [""] * width)[:width]
            out.write("\t".join(cells).encode("utf-8", "replace") + b"\n")
            numbers.append(number)
        out.seek(0)
        yield out, numbers, longer


class Maker:
    """One column as it comes in: figures for as long as nearly all of its cells are such, words otherwise."""

    def __init__(self, decimal: str) -> None:
        self._decimal = decimal
        self._parts: list[Any] = []
        self._strange: list[tuple[int, str]] = []
        self._n = self._odd = self._filled = 0
        self._cells: list[pa.Array] | None = []

    def take(self, cells: pa.Array) -> None:
        values, strange = figures(cells, self._decimal)
        odd = np.flatnonzero(strange)
        for k in odd[: max(0, 50 - len(self._strange))].tolist():
            self._strange.append((self._n + k, str(cells[k])[:40]))
        self._odd += len(odd)
        self._filled += int(np.isfinite(values).sum())
        self._n += len(values)
        self._parts.append(values)
        if self._cells is not None:
            self._cells.append(cells)
            if self._filled > 2000 and self._odd < FEW_STRANGE * self._filled:
                self._cells = None  # figures: their text is no longer needed

    def column(self) -> Column:
        numbers = np.concatenate(self._parts) if self._parts else np.zeros(0)
        if self._cells is not None and self._odd > FEW_STRANGE * max(1, self._filled):
            words = [w for part in self._cells for w in part.to_pylist()]
            return Column("", words=[w.strip() for w in words])
        return Column("", numbers=numbers, strange=self._strange)


def without_words_in_the_middle(sheet: Sheet, layout: Layout) -> Sheet:
    """Rows of words between rows of figures, as names that are written again, hold no sample."""
    figures_ = [c for c in sheet.columns if c.numbers is not None]
    if not figures_ or not sheet.rows:
        return sheet
    counts: dict[int, int] = {}
    for column in figures_:
        for row, _ in column.strange:
            counts[row] = counts.get(row, 0) + 1
    names = {n for n in layout.names if n}
    empty = np.all([~np.isfinite(c.numbers) for c in figures_ if c.numbers is not None], axis=0)
    again = [r for r, n in counts.items() if n >= max(2, 0.5 * len(figures_)) and empty[r]]
    drop = np.zeros(sheet.rows, bool)
    drop[again] = True
    tail = np.flatnonzero(~empty)
    drop[(tail[-1] + 1 if len(tail) else 0) :] = True
    drop[: tail[0] if len(tail) else 0] = True
    if not drop.any():
        return sheet
    keep = ~drop
    places = np.cumsum(keep) - 1
    for column in sheet.columns:
        if column.numbers is not None:
            column.numbers = column.numbers[keep]
        if column.words is not None:
            column.words = [w for w, k in zip(column.words, keep.tolist(), strict=True) if k]
        column.strange = [(int(places[r]), w) for r, w in column.strange if keep[r]]
    told = [
        f"{sheet.file}: line {sheet.lines[r]} holds {'names' if names else 'words'}, no figures: left out"
        for r in sorted(again)[:MOST_TOLD]
    ]
    sheet.lines, sheet.told = sheet.lines[keep], [*sheet.told, *told]
    return sheet
