"""Works the queue. Jobs that a killed worker left are put back at the start."""

import asyncio
from typing import Any

from django.core.management.base import BaseCommand
from procrastinate.contrib.django import app

from agile_strike.intake.jobs import STALLED_AFTER_S

POLL_S = 1.0


class Command(BaseCommand):
    help = "Work the queue until told to stop."

    def handle(self, *args: Any, **options: Any) -> None:
        asyncio.run(self._work())

    async def _work(self) -> None:
        worker_app = app.with_connector(app.connector.get_worker_connector())  # type: ignore[attr-defined]
        async with worker_app.open_async():
            for job in await worker_app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER_S):
                await worker_app.job_manager.retry_job(job)
            await worker_app.run_worker_async(
                queues=["import"],
                concurrency=1,
                fetch_job_polling_interval=POLL_S,
                update_heartbeat_interval=5.0,
                stalled_worker_timeout=STALLED_AFTER_S,
            )
