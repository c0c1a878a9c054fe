"""Settling, from the queue: it ends settled, or given up and told."""

from django.db import InterfaceError, OperationalError
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app

from agile_strike.intake.queue import LIVE
from agile_strike.live.settling.settle import settle
from agile_strike.live.settling.unsettled import give_up

TRIES = 3  # of what nobody foresaw
_again = RetryStrategy(max_attempts=8, wait=2)  # where the database was away


@app.task(name="settle_take", queue=LIVE, retry=_again, pass_context=True)
def settle_take(context: JobContext, take_id: int) -> None:
    try:
        settle(take_id)
    except (OperationalError, InterfaceError):
        raise
    except Exception as error:
        if context.job.attempts + 1 < TRIES:
            raise
        give_up(take_id, error)
