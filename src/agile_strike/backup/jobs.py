"""A backup each night, and when one is asked for."""

import logging

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from agile_strike.backup import services
from agile_strike.intake.queue import IMPORT

_again = RetryStrategy(max_attempts=3, wait=60)
log = logging.getLogger(__name__)


@app.periodic(cron="20 2 * * *")
@app.task(name="nightly_backup", queue=IMPORT, retry=_again, queueing_lock="nightly_backup", lock="backup")
def nightly_backup(timestamp: int) -> None:
    make_backup()


@app.task(name="make_backup", queue=IMPORT, retry=_again)
def make_backup() -> None:
    made = services.make()
    log.info("backup %s, %d bytes", made.name, made.size_bytes)
