"""The same services from the queue."""

import contextlib
import os

from asgiref.sync import sync_to_async
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.exceptions import ConnectorException
from procrastinate.manager import JobManager

from agile_strike.gym.models import Gym
from agile_strike.intake import again, sweep, tables, uploads
from agile_strike.intake.queue import IMPORT, LOOK, ask_names
from agile_strike.review import names

STALLED_AFTER_S = int(os.environ.get("AGILE_STRIKE_STALLED_S", "30"))  # without a heartbeat, a worker is taken for dead

_again = RetryStrategy(max_attempts=3, wait=2)  # only where the database was away: all else ends with its reason


@app.task(name="import_upload", queue=IMPORT, retry=_again)
def import_upload(upload_id: int) -> None:
    uploads.run_import(upload_id)


@app.task(name="analyse_recordings", queue=IMPORT, retry=_again)
def analyse_recordings(reanalysis_id: int) -> None:
    again.run_again(reanalysis_id)


@app.task(name="look_at_table", queue=LOOK, retry=_again)
def look_at_table(file_id: int) -> None:
    tables.look(file_id)


@app.task(name="suggest_names", queue=IMPORT, retry=_again)
def suggest_names(gym_id: int) -> None:
    """Names for strikes that nobody named, learnt anew where there is more to learn from."""
    gym = Gym.objects.filter(pk=gym_id).first()
    if gym is not None and names.late(gym):
        names.suggest(gym)


@app.periodic(cron="*/5 * * * *")
@app.task(name="suggest_all_names", queue=LOOK, queueing_lock="suggest_all_names")
def suggest_all_names(timestamp: int) -> None:
    """What coaches have labelled meanwhile is learnt from."""
    for gym in Gym.objects.all():
        if names.late(gym):
            ask_names(gym.pk)


async def put_back(jobs: JobManager) -> None:
    """Jobs whose worker was killed go back into the queue."""
    for job in await jobs.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER_S):
        with contextlib.suppress(ConnectorException):  # another worker was first
            await jobs.retry_job(job)


@app.periodic(cron="* * * * *")
@app.task(name="retry_stalled", queue=LOOK, pass_context=False, queueing_lock="retry_stalled")
async def retry_stalled(timestamp: int) -> None:
    """What has lost its job is ended; a job that no worker put back is."""
    await put_back(app.job_manager)
    await sync_to_async(sweep.end_forsaken)()
