"""Raw samples as Parquet bytes: float32, byte-stream-split and zstd, some seconds a chunk."""

import hashlib
import io
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.strikes import Lanes

CHUNK_S = 20.0
COLUMNS = ("acc_x", "acc_y", "acc_z", "gyr_x", "gyr_y", "gyr_z")
LOAD = "force"
SOLE = ("heel", "forefoot")


@dataclass(frozen=True, slots=True)
class ChunkBytes:
    unit: str
    first_sample: int
    samples: int
    sha256: str
    parquet: bytes


def pack(unit: UnitSignal) -> Iterator[ChunkBytes]:
    """A unit's samples in chunks of 20 s, numbered from the evening's first."""
    step = max(1, int(CHUNK_S * unit.rate_hz))
    for first in range(0, len(unit.accel_m_s2), step):
        rows = slice(first, first + step)
        columns = {
            n: np.ascontiguousarray((unit.accel_m_s2 if i < 3 else unit.gyro_rad_s)[rows, i % 3])
            for i, n in enumerate(COLUMNS)
        }
        if unit.load_n is not None:
            columns[LOAD] = unit.load_n[rows]
        if unit.sole_n is not None:
            columns = {n: np.ascontiguousarray(unit.sole_n[rows, i]) for i, n in enumerate(SOLE)}
        table = pa.table(columns)
        out = io.BytesIO()
        pq.write_table(table, out, compression="zstd", use_dictionary=False, use_byte_stream_split=True)
        content = out.getvalue()
        yield ChunkBytes(
            unit.unit, unit.first_sample + first, table.num_rows, hashlib.sha256(content).hexdigest(), content
        )


def unpack(parts: list[bytes], unit: str, rate_hz: float, full_scale: dict[str, float]) -> UnitSignal:
    """Neighbouring chunks, in order, as one signal."""
    tables = [pq.read_table(io.BytesIO(part)) for part in parts]
    table = pa.concat_tables(tables)

    def columns(names: tuple[str, ...]) -> np.ndarray[tuple[int, ...], np.dtype[np.float32]]:
        return np.column_stack([table.column(n).to_numpy() for n in names]).astype(np.float32)

    sole = columns(SOLE) if SOLE[0] in table.column_names else None
    still = np.zeros((table.num_rows, 3), np.float32)
    load = table.column(LOAD).to_numpy() if LOAD in table.column_names else None
    return UnitSignal(
        unit,
        rate_hz,
        columns(COLUMNS[:3]) if sole is None else still,
        columns(COLUMNS[3:]) if sole is None else still,
        full_scale.get("accel", float("inf")),
        full_scale.get("gyro", float("inf")),
        load,
        sole,
    )


def checksum(recording: Recording) -> str:
    """SHA-256 of every sample and whose they are: the same recording again has the same, whatever its file, its task or
    the day of its import was called, and whichever bag it is said to be of."""
    digest = hashlib.sha256()
    digest.update(recording.participant.label.encode())
    for name in sorted(recording.units):
        unit = recording.units[name]
        digest.update(f"{name} {unit.rate_hz!r} {len(unit.accel_m_s2)}".encode())
        parts = (unit.accel_m_s2, unit.gyro_rad_s, unit.load_n, unit.sole_n)
        for letter, samples in zip("agls", parts, strict=True):
            if samples is not None:
                digest.update(letter.encode())
                digest.update(np.ascontiguousarray(samples).tobytes())
    return digest.hexdigest()


def pack_lanes(lanes: Lanes) -> bytes:
    """One strike's curves as Parquet."""
    out = io.BytesIO()
    table = pa.table({name: curve.astype(np.float32) for name, curve in lanes.curves.items()})
    pq.write_table(table, out, compression="zstd", use_dictionary=False)
    return out.getvalue()


def unpack_lanes(content: bytes) -> dict[str, np.ndarray[tuple[int], np.dtype[np.float32]]]:
    table = pq.read_table(io.BytesIO(content))
    return {name: table.column(name).to_numpy() for name in table.column_names}
