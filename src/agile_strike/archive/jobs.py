"""Archives by the queue, and an end to those that wait to be fetched."""

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from agile_strike.archive import services
from agile_strike.intake.queue import IMPORT, LOOK

_again = RetryStrategy(max_attempts=3, wait=2)  # only where the database was away: all else ends with its reason


@app.task(name="work_archive", queue=IMPORT, retry=_again)
def work_archive(archive_id: int) -> None:
    services.run(archive_id)


@app.periodic(cron="40 * * * *")
@app.task(name="let_archives_go", queue=LOOK, queueing_lock="let_archives_go")
def let_archives_go(timestamp: int) -> None:
    services.let_go()
