"""A data set as a folder or as a zip of it. A zip is checked before a byte of it is unpacked."""

import stat
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from tempfile import TemporaryDirectory

from agile_strike.core.errors import BadFile

LARGEST_FILE_BYTES = 1_500_000_000
LARGEST_TOTAL_BYTES = 3_000_000_000
MOST_FILES = 20_000
ROOM_BYTES, MOST_TIMES = 100_000_000, 30  # of a whole zip: a hundred megabytes, or what its size can hold of motion
LARGEST_RATIO = 200  # motion data packs 3 to 10 times; a bomb packs a thousand times
DESCRIPTION = "dataset_description.json"


@contextmanager
def opened(path: Path) -> Iterator[Path]:
    """The data set's root folder. A zip is unpacked into a temporary folder that goes at the end."""
    if path.is_dir():
        for file in path.rglob("*"):
            if file.is_file() and file.stat().st_size > LARGEST_FILE_BYTES:
                raise _too_large(str(file.relative_to(path)), file.stat().st_size)
        yield _root(path, path.name)
        return
    if not path.exists():
        raise BadFile(path.name, "there is no such file or folder", "Check the path.")
    if not zipfile.is_zipfile(path):
        raise BadFile(
            path.name, "this is neither a folder nor a zip file", "Bring the data set as a folder or a zip of it."
        )
    with TemporaryDirectory(prefix="agile-strike-") as folder:
        _unpack(path, Path(folder))
        yield _root(Path(folder), path.name)


def is_data_set(path: Path) -> bool:
    """Whether a path is, or ought to be, a data set: a folder, nothing at all, or a zip that describes one."""
    if not path.is_file():
        return True
    if not zipfile.is_zipfile(path):
        return False
    with zipfile.ZipFile(path) as archive:
        return any(Path(name).name == DESCRIPTION for name in archive.namelist())


def _root(folder: Path, shown: str) -> Path:
    if (folder / DESCRIPTION).is_file():
        return folder
    inner = [p for p in folder.iterdir() if p.is_dir() and (p / DESCRIPTION).is_file()]
    if len(inner) == 1:
        return inner[0]
    raise BadFile(
        shown,
        f"this is not a data set: there is no {DESCRIPTION} at its top",
        "Bring the whole Motion-BIDS data set, not one file or folder of it.",
    )


def _too_large(name: str, size: int) -> BadFile:
    return BadFile(
        name,
        f"the file is {size / 1e9:.1f} GB; the most that is taken is {LARGEST_FILE_BYTES / 1e9:.1f} GB",
        "Split the recording into runs of an hour or less.",
    )


def _unpack(path: Path, folder: Path) -> None:
    try:
        with zipfile.ZipFile(path) as archive:
            entries = archive.infolist()
            _check(entries, path.name)
            for entry in entries:
                archive.extract(entry, folder)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError, ValueError) as error:
        raise BadFile(
            path.name,
            f"the zip file is damaged or uses a method that can't be read ({error})",
            "Zip the data set again with standard compression and no password.",
        ) from error


def _check(entries: list[zipfile.ZipInfo], shown: str) -> None:
    if len(entries) > MOST_FILES:
        raise BadFile(shown, f"the zip holds {len(entries)} files", f"Bring at most {MOST_FILES} at once.")
    for entry in entries:
        name = entry.filename
        place = PurePosixPath(name.replace("\\", "/"))
        outside = place.is_absolute() or ".." in place.parts or (len(name) > 1 and name[1] == ":")
        if outside or stat.S_ISLNK(entry.external_attr >> 16):
            raise BadFile(
                shown,
                f"the entry “{name[:80]}” points outside the data set",
                "Zip the data set's own folder, without links or absolute paths.",
            )
        if entry.file_size > LARGEST_FILE_BYTES:
            raise _too_large(name, entry.file_size)
        if entry.file_size > 10_000_000 and entry.file_size > LARGEST_RATIO * max(entry.compress_size, 1):
            raise BadFile(
                shown,
                f"the entry “{name[:80]}” unpacks to {entry.file_size / max(entry.compress_size, 1):.0f} "
                "times its size: that is no recording",
                "Zip the recording again.",
            )
    total, packed = sum(e.file_size for e in entries), sum(e.compress_size for e in entries)
    if total > ROOM_BYTES + MOST_TIMES * packed:
        raise BadFile(
            shown,
            f"the zip unpacks to {total / 1e6:.0f} MB, {total / max(packed, 1):.0f} times its size: no recording does",
            "Zip the recordings again.",
        )
    if total > LARGEST_TOTAL_BYTES:
        raise BadFile(shown, f"the zip unpacks to {total / 1e9:.1f} GB", "Bring fewer recordings at once.")
