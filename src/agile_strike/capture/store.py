"""Files that wait to be read, kept in the database: on its disk and in its backup, reached by any machine, read by none
but this application."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO

from django.conf import settings
from django.db import transaction
from django.db.models import Sum

from agile_strike.capture.models import PassingPart, StoredFile, StoredPart
from agile_strike.core.errors import BadInput
from agile_strike.gym.models import Gym
from agile_strike.gym.names import safe_name

PART_BYTES = 4 << 20


def room_for(gym: Gym, name: str, size: int) -> None:
    """Raises BadInput where a gym's waiting files would take more than it may have waiting at once."""
    waiting = StoredFile.objects.filter(gym=gym).aggregate(sum=Sum("size_bytes"))["sum"] or 0
    if waiting + size > settings.MOST_WAITING_BYTES:
        raise BadInput(
            f"{name}: {waiting / 1e9:.1f} GB of files wait to be read already. Let them end, or cancel some."
        )


@transaction.atomic
def keep(gym: Gym, name: str, content: IO[bytes], passing: bool = False) -> StoredFile:
    """Keep a file, in parts; all of it or nothing. One that is only passing through is in no backup."""
    kind = PassingPart if passing else StoredPart
    file = StoredFile.objects.create(gym=gym, name=name[-255:], size_bytes=0)
    size = place = 0
    while part := content.read(PART_BYTES):
        kind.objects.create(file=file, place=place, content=part)
        size, place = size + len(part), place + 1
    file.size_bytes = size
    file.save(update_fields=["size_bytes"])
    return file


def contents(file_id: int | None) -> Iterator[bytes]:
    """A file's bytes in order, some megabytes at a time."""
    for kind in (StoredPart, PassingPart):
        for key in kind.objects.filter(file=file_id).order_by("place").values_list("pk", flat=True):
            yield bytes(kind.objects.values_list("content", flat=True).get(pk=key))


@contextmanager
def as_path(file: StoredFile) -> Iterator[Path]:
    """The file on this machine's disk, under its own name as far as a disk takes it, until the end."""
    with TemporaryDirectory(prefix="agile-strike-") as folder:
        path = Path(folder) / safe_name(file.name)
        with path.open("wb") as out:
            for part in contents(file.pk):
                out.write(part)
        yield path
