"""Packets on the hub's disk until the server has them: what was gathered survives a kill of hub and server."""

import fcntl
import json
import os
import secrets
import time
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field
from pathlib import Path

from agile_strike.core.errors import BadInput

STREAM_BYTES = 8


@dataclass(slots=True)
class Place:
    """How far a stream has come."""

    stream: str = field(default_factory=lambda: secrets.token_hex(STREAM_BYTES))
    began_at: float = field(default_factory=time.time)  #: of this machine's clock, seconds
    next: int = 0  #: number of the packet that is gathered next
    sent: dict[str, int] = field(default_factory=dict)  #: samples of each unit that are in packets already
    gathered_s: float = 0.0  #: of the hub's clock, when the last packet was: it never goes back


class Spool:
    """A folder: one file a packet, and `stream.json`, which says how far the stream has come."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self._held = (folder / "held").open("w")
        except OSError as error:
            raise BadInput(f"{folder}: no spool can be there ({error.strerror}). Choose another folder.") from error
        try:
            fcntl.flock(self._held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            self.close()
            raise BadInput(f"{folder}: another hub uses this spool. End it, or choose another folder.") from error
        self.place = self._read()

    def close(self) -> None:
        self._held.close()

    def put(self, content: bytes, sent: dict[str, int], gathered_s: float = 0.0) -> int:
        """Keep a packet; its number. A kill between the two writes sends the packet again under the same number."""
        number = self.place.next
        _write(self._file(number), content)
        self.place.sent, self.place.next, self.place.gathered_s = sent, number + 1, gathered_s
        _write(self.folder / "stream.json", json.dumps(asdict(self.place)).encode())
        return number

    def get(self, number: int) -> bytes | None:
        try:
            return self._file(number).read_bytes()
        except FileNotFoundError:
            return None

    def drop(self, number: int) -> None:
        self._file(number).unlink(missing_ok=True)

    def waiting(self) -> Iterator[int]:
        """Numbers of the packets that are not known to have arrived, in order."""
        yield from sorted(int(f.stem) for f in self.folder.glob("*.cbor") if f.stem.isdigit())

    def _file(self, number: int) -> Path:
        return self.folder / f"{number:012d}.cbor"

    def _read(self) -> Place:
        file = self.folder / "stream.json"
        if not file.exists():
            place = Place()
            _write(file, json.dumps(asdict(place)).encode())
            return place
        try:
            return Place(**json.loads(file.read_text()))
        except (ValueError, TypeError) as error:
            raise BadInput(f"{file}: this is no stream of a hub. Move the folder away and start again.") from error


def _write(file: Path, content: bytes) -> None:
    """Whole or not at all."""
    part = file.with_suffix(".part")
    part.write_bytes(content)
    os.replace(part, file)
