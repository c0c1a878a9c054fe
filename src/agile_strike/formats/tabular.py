"""Flat tables of strikes: read from CSV, columns as figures or words, cells that no spreadsheet takes for a formula."""

import csv
import io
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile

ABSENT = ("", "n/a")
#: also as wide letters, which spreadsheets read as the same
FORMULA = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")


def read_table(path: Path) -> pa.Table:
    """Raises BadFile where there is none, or it is no table."""
    if not path.is_file():
        raise BadFile(path.name, "there is no such file", "Check the path.")
    try:
        return pacsv.read_csv(path, convert_options=pacsv.ConvertOptions(strings_can_be_null=False))
    except (pa.ArrowInvalid, UnicodeDecodeError) as error:
        said = str(error).splitlines()[0]
        raise BadFile(path.name, f"this is not a table ({said})", "Give a CSV with a header.") from error


def need(table: pa.Table, columns: tuple[str, ...], name: str) -> None:
    for column in columns:
        if column not in table.column_names:
            raise BadFile(name, f"the column {column} is missing", f"It has {', '.join(table.column_names)}.", 1)


def narrowed(table: pa.Table, only: list[str], name: str) -> pa.Table:
    """Rows in which each `column=value` of `only` holds."""
    for pair in only:
        column, equals, value = pair.partition("=")
        if not equals:
            raise BadFile("--only", f"“{pair}” is not COLUMN=VALUE", "Write it as bag=Long bag.")
        need(table, (column,), name)
        table = table.filter(pc.equal(pc.fill_null(table.column(column).cast(pa.string()), ""), value))
    return table


def figures(table: pa.Table, column: str, name: str) -> NDArray[np.float64]:
    """A column as numbers, NaN where a cell is empty or n/a. Raises BadFile with the line of a cell that is neither."""
    try:
        return np.asarray(table.column(column).cast(pa.float64()).to_numpy(zero_copy_only=False), dtype=np.float64)
    except pa.ArrowInvalid:
        cells = [str(c).strip() for c in table.column(column).to_pylist()]
        for i, cell in enumerate(cells):
            try:
                float(cell if cell not in ABSENT else 0.0)
            except ValueError:
                raise BadFile(
                    name, f"“{cell}” in column {column} is not a number", "Correct the cell.", i + 2
                ) from None
        return np.array([np.nan if c in ABSENT else float(c) for c in cells])


def words(table: pa.Table, column: str) -> NDArray[np.str_]:
    return np.array(table.column(column).cast(pa.string()).fill_null("").to_pylist(), dtype=np.str_)


def codes(of: NDArray[np.str_]) -> NDArray[np.int64]:
    return np.asarray(np.unique(of, return_inverse=True)[1], dtype=np.int64).ravel()


def cell(text: str) -> str:
    """A person's words as they may stand in a CSV: what a spreadsheet would run as a formula gets a quote before it."""
    return "'" + text if text.lstrip(" \u00a0").startswith(FORMULA) else text


def short(x: float | None, significant: int = 9) -> float | None:
    """As many digits as any screen shows, so that the same data print the same text on any machine."""
    return None if x is None or not np.isfinite(x) else float(f"{x:.{significant}g}")


def as_csv(table: pa.Table) -> str:
    """Figures to their last digit, so that what is computed from it is what the screen shows; words by `cell`."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([cell(name) for name in table.column_names])
    columns = [
        [cell(v) if isinstance(v, str) else "" if v is None else v for v in c.to_pylist()] for c in table.columns
    ]
    writer.writerows(zip(*columns, strict=True))
    return out.getvalue()
