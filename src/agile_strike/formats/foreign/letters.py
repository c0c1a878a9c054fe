"""A text file's letters: which encoding it is written in."""

import codecs
import io
from pathlib import Path
from typing import IO

from charset_normalizer import from_bytes

from agile_strike.core.errors import BadFile

LOOKED_BYTES = 200_000
MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF32_LE, "utf-32"),
    (codecs.BOM_UTF32_BE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)
HALF_NULL = 0.3  # of every second byte: text of two bytes a letter without a mark
USUAL = ("cp1252", "latin-1")
SIGNS = "°µ²³±·×÷«»º§\u00a0–—’‘“”…€"


def encoding_of(path: Path, shown: str) -> str:
    """The encoding by which all of a file can be read. Raises BadFile for what is no text."""
    with path.open("rb") as file:
        raw = file.read(LOOKED_BYTES)
    for mark, name in MARKS:
        if raw.startswith(mark):
            return name
    nulls = [raw[k::2].count(0) / max(1, len(raw[k::2])) for k in (0, 1)]
    if max(nulls) > HALF_NULL > min(nulls):
        return "utf-16-be" if nulls[0] > nulls[1] else "utf-16-le"
    if sum(nulls) / 2 > 0.05 or (raw and sum(b < 9 for b in raw) > 0.05 * len(raw)):
        raise BadFile(shown, "this is not a text table", "Export the recording as CSV, text, xlsx, Parquet or JSON.")
    if _decodes(raw, "utf-8"):
        return "utf-8"
    # a table has few letters beyond ASCII: the usual encoding stands, unless it makes of them what no name holds
    usual = raw.decode(USUAL[0], "replace")
    strange = [c for c in usual if ord(c) > 127 and not c.isalpha() and c not in SIGNS]
    if len(strange) <= 0.2 * sum(ord(c) > 127 for c in usual):
        return USUAL[0]
    best = from_bytes(
        raw, cp_isolation=["cp1250", "mac_roman", "cp437", "cp850", "shift_jis", "gb18030", "cp1251"]
    ).best()
    return best.encoding if best is not None else USUAL[1]


def _decodes(raw: bytes, encoding: str) -> bool:
    decoder = codecs.getincrementaldecoder(encoding)("strict")
    try:
        decoder.decode(raw)  # a letter may be cut at the end
    except UnicodeDecodeError:
        return False
    return True


def opened(path: Path, encoding: str) -> IO[str]:
    """The file's lines, whatever ends them; stray zero bytes and what is no letter are left out or replaced."""
    return io.TextIOWrapper(path.open("rb"), encoding=encoding, errors="replace", newline=None)
