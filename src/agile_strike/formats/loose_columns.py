"""The columns of a table that was read once, kept so that its text need not be read again, as Parquet."""

from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from agile_strike.formats.loose_table import Layout, LooseTable, Words

DIFFERENT = b"different words"


def write_columns(table: LooseTable, path: Path) -> None:
    """Write a table's columns into a file."""
    fields, columns = [], []
    for i, name in enumerate(table.layout.names):
        if name in table.words:
            words = table.words[name]
            fields.append(pa.field(str(i), pa.int32(), metadata={DIFFERENT: "\n".join(words.different).encode()}))
            columns.append(pa.array(words.codes))
        else:
            fields.append(pa.field(str(i), pa.float64()))
            columns.append(pa.array(table.numbers[name]))
    pq.write_table(pa.table(columns, schema=pa.schema(fields)), path, compression="zstd", use_dictionary=False)


def read_columns(path: Path, layout: Layout, preamble: str) -> LooseTable:
    """The table as it was written."""
    table = pq.read_table(path)
    numbers, words = {}, {}
    for i, name in enumerate(layout.names):
        column, metadata = table.column(str(i)), table.schema.field(str(i)).metadata
        if metadata and DIFFERENT in metadata:
            words[name] = Words(column.to_numpy(), tuple(metadata[DIFFERENT].decode().split("\n")))
        else:
            numbers[name] = np.asarray(column.to_numpy(), dtype=np.float64)
    return LooseTable(layout, preamble, numbers, words)
