"""The same services from the queue."""

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from agile_strike.intake import again, services

STALLED_AFTER_S = 30


@app.task(name="import_upload", queue="import", retry=RetryStrategy(max_attempts=3, wait=2))
def import_upload(upload_id: int) -> None:
    services.run_import(upload_id)


@app.task(name="analyse_recordings", queue="import", retry=RetryStrategy(max_attempts=3, wait=2))
def analyse_recordings(reanalysis_id: int) -> None:
    again.run_again(reanalysis_id)


@app.periodic(cron="* * * * *")
@app.task(name="retry_stalled", queue="import", pass_context=False, queueing_lock="retry_stalled")
async def retry_stalled(timestamp: int) -> None:
    """Jobs whose worker was killed go back into the queue."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER_S):
        await app.job_manager.retry_job(job)
