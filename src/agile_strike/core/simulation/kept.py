"""Simulated evenings that were made before, by what they were made of.

An evening takes seconds to make and is the same for the same source, plan and seed. Where a folder is given it is
looked for there first. A folder is its owner's: what lies in it is believed.
"""

import hashlib
import os
import pickle
import secrets
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
import scipy

Made = TypeVar("Made")

CORE = Path(__file__).resolve().parents[1]
#: what the simulator is made of, beside its own room
SOURCES = ("simulation", "bag", "student", "recording.py", "target.py", "vocabulary.py", "measured.py", "strikes.py")
MOST_BYTES = 5_000_000_000  # of a folder: what was not asked for the longest goes


def kept(
    made_of: tuple[Any, ...],
    make: Callable[[np.random.Generator], Made],
    rng: np.random.Generator,
    folder: Path | None,
    also: tuple[Path, ...] = (),
) -> Made:
    """`make(rng)`, or the same from before; the generator stands afterwards as `make` leaves it.

    `made_of`: all that decides what it gives, beside the generator and the source; `also`: what else than the
    simulator it is made by.
    """
    if folder is None:
        return make(rng)
    whole = (made_of, rng.bit_generator.state, np.__version__, scipy.__version__)
    name = hashlib.sha256(_source(also) + pickle.dumps(whole, protocol=5)).hexdigest()[:40]
    path = folder / f"{name}.evening"
    try:
        made, state = pickle.loads(path.read_bytes())
        path.touch()
    except (OSError, pickle.UnpicklingError, EOFError, AttributeError, ImportError):
        made = make(rng)
        state = rng.bit_generator.state
        _write(path, pickle.dumps((made, state), protocol=5))
    rng.bit_generator.state = state
    return made  # type: ignore[no-any-return]


@cache
def _source(also: tuple[Path, ...]) -> bytes:
    """A sum of everything that decides what an evening is."""
    files = [p for s in (*(CORE / name for name in SOURCES), *also) for p in ([s] if s.is_file() else s.rglob("*.py"))]
    whole = hashlib.sha256()
    for path in sorted(files):
        whole.update(path.name.encode() + path.read_bytes())
    return whole.digest()


def _write(path: Path, content: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    part = path.with_suffix(f".{os.getpid()}-{secrets.token_hex(4)}")
    part.write_bytes(content)
    part.rename(path)


def let_go(folder: Path, most_bytes: int = MOST_BYTES) -> int:
    """Remove what was asked for the longest ago, and what was left half written; how many files."""
    gone = 0
    files = []
    for path in folder.iterdir() if folder.is_dir() else ():
        if path.suffix == ".evening":
            files.append((path.stat().st_mtime, path.stat().st_size, path))
        else:
            path.unlink(missing_ok=True)
            gone += 1
    whole = 0
    for _, size, path in sorted(files, reverse=True):
        whole += size
        if whole > most_bytes:
            path.unlink(missing_ok=True)
            gone += 1
    return gone
