"""What has lost its job is ended with a word, so that no page waits for it for ever."""

import datetime as dt

from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from agile_strike.capture.models import Upload, Work
from agile_strike.intake import work
from agile_strike.intake.models import ForeignFile, Reanalysis

JOBS: dict[type[Work], tuple[str, str]] = {
    Upload: ("import_upload", "upload_id"),
    Reanalysis: ("analyse_recordings", "reanalysis_id"),
    ForeignFile: ("look_at_table", "file_id"),
}
GRACE = dt.timedelta(minutes=2)  # between a row and its job, which are committed together
SAID = "Its job was lost, perhaps with the database away for long. Nothing was saved: bring it again."


def end_forsaken() -> int:
    """How many were ended."""
    ended = 0
    for model, (task, argument) in JOBS.items():
        open_ = (Work.State.QUEUED, Work.State.RUNNING)
        rows = model._default_manager.filter(state__in=open_, created_at__lt=timezone.now() - GRACE)
        live = ProcrastinateJob.objects.filter(task_name=task, status__in=("todo", "doing"))
        alive = {args[argument] for args in live.values_list("args", flat=True)} if rows.exists() else set()
        for row in rows:
            if row.pk not in alive:
                work.end(row, Work.State.FAILED, SAID)
                ended += 1
    return ended
