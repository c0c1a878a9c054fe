"""All of a gym out as one file, and into an empty gym again: asked for here, done by the queue, whole or not at all."""

import datetime as dt
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO

from django.conf import settings
from django.contrib.auth.models import User
from django.db import IntegrityError, connection, transaction
from django.utils import timezone

from agile_strike.archive.bring import bring, empty
from agile_strike.archive.models import Archive
from agile_strike.archive.out import Tell, write
from agile_strike.capture import store
from agile_strike.capture.models import StoredFile
from agile_strike.core.errors import BadInput, NotYours
from agile_strike.gym.models import Gym
from agile_strike.gym.names import safe_name
from agile_strike.intake import work
from agile_strike.intake.queue import ask, ask_names
from agile_strike.people.models import Student
from agile_strike.trials.compare import refresh

KEPT = dt.timedelta(days=3)  # to be fetched: all of a gym is in there
BUSY = "An archive of this gym is being written or brought in already. Let it end, or cancel it."


def ask_out(gym: Gym, by: User | None, motion_bids: bool) -> Archive:
    """Have all of a gym written. The file waits to be fetched for some days; one that was written before goes."""
    for before in Archive.objects.filter(gym=gym, way=Archive.Way.OUT, file__isnull=False):
        _drop(before)
    name = safe_name(f"{gym.name} {gym.today:%Y-%m-%d}.zip")
    return _queued(Archive(gym=gym, by=by, way=Archive.Way.OUT, file_name=name, motion_bids=motion_bids))


def ask_in(gym: Gym, by: User | None, name: str, size: int, content: IO[bytes]) -> Archive:
    """Keep an archive's file and queue its way in. Raises BadInput where the gym is not empty."""
    if size > settings.LARGEST_UPLOAD_BYTES:
        most = settings.LARGEST_UPLOAD_BYTES / 1e9
        raise BadInput(
            f"{name}: {size / 1e9:.1f} GB; {most:.1f} GB come by this page. Who keeps the server brings larger ones."
        )
    if not size:
        raise BadInput(f"{name}: the file is empty. Choose an archive's zip.")
    empty(gym)
    store.room_for(gym, name, size)
    with transaction.atomic():
        file = store.keep(gym, name, content, passing=True)
        return _queued(Archive(gym=gym, by=by, way=Archive.Way.IN, file=file, file_name=name[-255:], size_bytes=size))


def _queued(row: Archive) -> Archive:
    try:
        with transaction.atomic():
            row.save()
            ask("work_archive", archive_id=row.pk)
    except IntegrityError as error:
        raise BadInput(BUSY) from error
    return row


def cancel(gym: Gym, key: int) -> Archive:
    with transaction.atomic():
        row = Archive.objects.for_gym(gym).select_for_update().filter(pk=key).first()
        if row is None:
            raise NotYours("archive")
        if not row.ended:
            row.cancel_asked = True
            row.save(update_fields=["cancel_asked"])
            if row.state == Archive.State.QUEUED:
                work.end(row, Archive.State.CANCELLED, work.NOTHING_SAVED)
                _drop(row)
    return row


def run(key: int) -> None:
    """Write it, or bring it in. After a kill it begins anew: nothing of a run that did not end was kept."""
    work.run(Archive, key, _out_or_in)
    row = Archive.objects.filter(pk=key).first()
    if row is None or not row.ended:
        return
    if row.way == Archive.Way.IN or row.state != Archive.State.DONE:
        _drop(row)
    if row.state == Archive.State.DONE:
        Archive.objects.filter(pk=key).update(progress=1.0, stage="")


def _out_or_in(row: Archive) -> str:
    with _telling(row.pk) as tell:
        return _out(row, tell) if row.way == Archive.Way.OUT else _in(row, tell)


def _out(row: Archive, tell: Tell) -> str:
    with TemporaryDirectory(prefix="agile-strike-archive-") as folder:
        path = Path(folder) / "archive.zip"
        write(row.gym, path, row.motion_bids, tell)
        with transaction.atomic(), path.open("rb") as content:
            if Archive.objects.select_for_update().get(pk=row.pk).cancel_asked:
                raise work.Cancelled
            row.file = store.keep(row.gym, row.file_name, content, passing=True)
            row.size_bytes = row.file.size_bytes
            row.save(update_fields=["file", "size_bytes"])
    return f"All of {row.gym.name}, {row.size_bytes / 1e6:.0f} MB."


def _in(row: Archive, tell: Tell) -> str:
    if row.file is None:
        raise BadInput(f"{row.file_name}: the file is no longer here. Bring it again.")
    if row.message:  # killed after all of it was kept
        return row.message
    with store.as_path(row.file) as path:
        said = bring(row.gym, path, tell, lambda words: _kept(row, words))
    tell(0.97, "Trials")
    ask_names(row.gym_id)
    refresh(Student.objects.for_gym(row.gym).values_list("pk", flat=True))
    return said


def _kept(row: Archive, words: str) -> None:
    Archive.objects.filter(pk=row.pk).update(message=words)


@contextmanager
def _telling(key: int) -> Iterator[Tell]:
    """How far it is, by a connection of its own: pages see it while one long transaction goes on."""
    own = connection.copy()

    def tell(progress: float, stage: str) -> None:
        with own.cursor() as cursor:
            cursor.execute(
                "UPDATE archive_archive SET progress = %s, stage = %s WHERE id = %s RETURNING cancel_asked",
                [progress, stage, key],
            )
            asked = cursor.fetchone()
        if asked is not None and asked[0]:
            raise work.Cancelled

    try:
        yield tell
    finally:
        own.close()


def let_go(now: dt.datetime | None = None) -> int:
    """Files that nobody fetched in time, or more than once, go; how many."""
    old = Archive.objects.filter(file__isnull=False, ended_at__lt=(now or timezone.now()) - KEPT)
    return sum(_drop(row) for row in old)


def forget_all(gym: Gym) -> None:
    """Of a person who is erased, archives that wait to be fetched tell still; so would one that is being written."""
    Archive.objects.filter(gym=gym, way=Archive.Way.OUT).update(cancel_asked=True)
    for row in Archive.objects.filter(gym=gym, way=Archive.Way.OUT, file__isnull=False):
        _drop(row)


def _drop(row: Archive) -> bool:
    if row.file_id is None:
        return False
    StoredFile.objects.filter(pk=row.file_id).delete()
    row.file_id = None
    return True
