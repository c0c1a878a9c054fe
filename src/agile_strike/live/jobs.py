"""Settling, from the queue."""

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from agile_strike.intake.queue import LIVE
from agile_strike.live.settling.settle import settle

_again = RetryStrategy(max_attempts=8, wait=2)  # where the database was away


@app.task(name="settle_take", queue=LIVE, retry=_again)
def settle_take(take_id: int) -> None:
    settle(take_id)
