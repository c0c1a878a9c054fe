"""Cells that are figures: decimal commas, thousands apart, words for nothing."""

import re

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

Floats = NDArray[np.float64]

NOTHING = frozenset(
    "|n/a|na|#n/a|nan|-nan|nan(ind)|-nan(ind)|1.#qnan|null|none|nil|-|--|---|.|..|?|missing|err|error|invalid|"
    "inf|-inf|infinity|void|empty|overrange|ovr|n.a.|k.a.|manquant|fehlt|falta|mancante".split("|")
)
BLANKS = pa.array(sorted(NOTHING))
APART = "'’\u00a0\u202f "  # between thousands, beside the mark that is not the decimal one
PLAIN = r"^[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?$"
GROUPED = {
    ".": rf"^[+-]?[1-9]\d{{0,2}}([,{APART}]\d{{3}})+(\.\d+)?$",
    ",": rf"^[+-]?[1-9]\d{{0,2}}([.{APART}]\d{{3}})+(,\d+)?$",
}
PLAIN_RE = {".": re.compile(PLAIN), ",": re.compile(r"^[+-]?(\d+(,\d*)?|,\d+)([eE][+-]?\d+)?$")}
GROUPED_RE = {mark: re.compile(pattern) for mark, pattern in GROUPED.items()}
LARGEST = 1e30  # of any column, a clock in nanoseconds too: more is how some loggers write that they have no figure


def is_figure(cell: str, decimal: str) -> bool:
    cell = cell.replace("\u2212", "-")
    return bool(PLAIN_RE[decimal].match(cell) or GROUPED_RE[decimal].match(cell))


def is_blank(cell: str) -> bool:
    return cell.lower() in NOTHING


def figures(cells: pa.Array, decimal: str) -> tuple[Floats, NDArray[np.bool_]]:
    """(n,) figures, NaN where there is none; and (n,) where a cell holds something that is neither figure nor blank."""
    cells = pc.utf8_trim_whitespace(cells)
    cells = pc.if_else(pc.is_in(pc.utf8_lower(cells), BLANKS), None, cells)
    if decimal == ".":
        try:
            return _finite(cells.cast(pa.float64())), np.zeros(len(cells), bool)
        except pa.ArrowInvalid:
            pass  # thousands apart, a printer's minus, or words
    cells = pc.replace_substring(cells, "\u2212", "-")
    grouped = pc.fill_null(pc.match_substring_regex(cells, GROUPED[decimal]), False)
    marks = "," if decimal == "." else "."
    cells = pc.if_else(grouped, pc.replace_substring_regex(cells, f"[{marks}{APART}]", ""), cells)
    if decimal == ",":
        cells = pc.if_else(
            pc.fill_null(pc.match_substring(cells, "."), False), "?", pc.replace_substring(cells, ",", ".")
        )
    plain = pc.fill_null(pc.match_substring_regex(cells, PLAIN), False)
    strange = pc.and_(pc.invert(plain), pc.is_valid(cells))
    values = pc.if_else(plain, cells, None).cast(pa.float64())
    return _finite(values), np.asarray(strange.to_numpy(zero_copy_only=False), bool)


def _finite(values: pa.Array) -> Floats:
    out = np.array(values.to_numpy(zero_copy_only=False), dtype=np.float64)
    out[~(np.abs(out) <= LARGEST)] = np.nan
    return out
