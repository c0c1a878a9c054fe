"""Tables of numbers: read fast by pyarrow; when it refuses, read again by line to say what is wrong and where."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.csv as pacsv
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile

MISSING = "n/a"
READ_BLOCK_BYTES = 1 << 22
LARGEST = 1e30  # of any sample in any unit: beyond it single precision knows only infinity


@dataclass(frozen=True, slots=True)
class Columns:
    """Columns of a headerless table by name; NaN where missing."""

    values: dict[str, NDArray[np.floating]]
    rows: int


def read_samples(path: Path, shown: str, names: list[str], exact: frozenset[str]) -> Columns:
    """Samples of `path`, tab separated, one column a name; float64 for names in `exact`, else float32.

    Raises BadFile with the line for ragged rows, words, and anything missing but `n/a`.
    """
    types = {name: pa.float64() if name in exact else pa.float32() for name in names}
    try:
        table = pacsv.read_csv(
            path,
            read_options=pacsv.ReadOptions(column_names=names, block_size=READ_BLOCK_BYTES),
            parse_options=pacsv.ParseOptions(delimiter="\t", ignore_empty_lines=False),
            convert_options=pacsv.ConvertOptions(column_types=types, null_values=[MISSING], strings_can_be_null=True),
        )
    except pa.ArrowInvalid as error:
        if "Empty CSV file" in str(error):
            raise BadFile(shown, "the file holds no samples", "Export the recording again.") from error
        explain(path, shown, names)
        raise BadFile(
            shown,
            f"the samples can't be read ({str(error).splitlines()[0]})",
            "Export the recording again as tab separated numbers.",
        ) from error
    values = {name: table.column(name).to_numpy() for name in names}
    rows = table.num_rows
    del table
    pa.default_memory_pool().release_unused()  # the pool would keep what this file took beside what the next takes
    every = values.values()
    if any((np.abs(v) > LARGEST).any() for v in every) or any(_words_for_nan(path, v) for v in every):
        explain(path, shown, names)
    return Columns(values, rows)


def _words_for_nan(path: Path, values: NDArray[np.floating]) -> bool:
    """pyarrow reads `nan` as a number; only `n/a` may stand for a missing sample."""
    if not np.isnan(values).any():
        return False
    with path.open("rb") as file:
        return any(b"nan" in block.lower() for block in iter(lambda: file.read(1 << 24), b""))


def explain(path: Path, shown: str, names: list[str]) -> None:
    """Find the first bad line and raise BadFile for it; return if every line is well formed."""
    with path.open("r", encoding="utf-8", errors="replace") as file:
        for number, line in enumerate(file, start=1):
            cells = line.rstrip("\r\n").split("\t")
            if len(cells) != len(names):
                raise BadFile(
                    shown,
                    f"{len(cells)} columns where channels.tsv names {len(names)}",
                    "Every line needs one value a channel; export the recording again.",
                    number,
                )
            for name, cell in zip(names, cells, strict=True):
                if cell == MISSING:
                    continue
                try:
                    fine = abs(float(cell)) <= LARGEST and "_" not in cell
                except ValueError:
                    fine = False
                if not fine:
                    what = "an empty cell" if not cell.strip() else f"“{cell[:40]}”"
                    raise BadFile(
                        shown,
                        f"{what} in column {name} is not a number",
                        f"Write {MISSING} where a sample is missing.",
                        number,
                    )
