"""Files that coaches bring: kept at once, read in the queue, imported whole or refused whole."""

from typing import IO

from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction

from agile_strike.capture import store
from agile_strike.capture.models import StoredFile, Upload
from agile_strike.core.errors import BadInput
from agile_strike.gym.models import Gym
from agile_strike.intake import tables, work
from agile_strike.intake.queue import ask
from agile_strike.intake.reading import import_made, import_path, tell
from agile_strike.people.models import Student
from agile_strike.people.services import allow


def receive(
    gym: Gym,
    student: Student | None,
    by: User,
    file_name: str,
    size: int,
    content: IO[bytes],
) -> Upload:
    """Keep an uploaded file and queue its import. What this returns survives a kill of any process."""
    if size > settings.LARGEST_UPLOAD_BYTES:
        raise BadInput(
            f"{file_name}: the file is {size / 1e9:.1f} GB; the most that is taken is "
            f"{settings.LARGEST_UPLOAD_BYTES / 1e9:.1f} GB. Bring fewer recordings at once."
        )
    if not size:
        raise BadInput(f"{file_name}: the file is empty. Choose the zip of a Motion-BIDS data set.")
    if student is not None:
        allow(student, gym.today)
    store.room_for(gym, file_name, size)
    with transaction.atomic():
        file = store.keep(gym, file_name, content)
        upload = Upload.objects.create(
            gym=gym, student=student, by=by, file=file, file_name=file_name[-255:], size_bytes=size
        )
        ask("import_upload", upload_id=upload.pk)
    return upload


def cancel(upload: Upload) -> Upload:
    """Ask for a stop; an import that has not begun stops at once."""
    with transaction.atomic():
        upload = Upload.objects.select_for_update().get(pk=upload.pk)
        if not upload.ended:
            upload.cancel_asked = True
            upload.save(update_fields=["cancel_asked"])
            if upload.state == Upload.State.QUEUED:
                work.end(upload, Upload.State.CANCELLED, "Cancelled. Nothing was saved.")
                _drop_file(upload)
    return upload


def run_import(upload_id: int) -> None:
    """Import one upload. Safe to run again after a kill: a recording that is there already is left as it is."""
    work.run(Upload, upload_id, _import, done=tables.imported)
    upload = Upload.objects.select_related("file").filter(pk=upload_id).first()
    if upload is not None and upload.ended:
        _drop_file(upload)
        Upload.objects.filter(pk=upload.pk, state=Upload.State.DONE).update(progress=1.0, stage="")


def _import(upload: Upload) -> str:
    """What was imported, in a coach's words."""
    if upload.student is not None:
        allow(upload.student, upload.gym.today)
    if upload.tables is not None:
        tell(upload, 0.05, "Putting the tables together")
        assert upload.student is not None
        return import_made(upload.gym, upload.student, tables.recording_of(upload), upload)
    if upload.file is None:
        raise BadInput(f"{upload.file_name}: the file is no longer here. Bring it again.")
    tell(upload, 0.02, "Unpacking")
    with store.as_path(upload.file) as path:
        return import_path(upload.gym, upload.student, path, upload)


def _drop_file(upload: Upload) -> None:
    if upload.file_id is not None:
        StoredFile.objects.filter(pk=upload.file_id).delete()
