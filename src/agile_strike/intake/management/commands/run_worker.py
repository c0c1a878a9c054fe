"""Works the queue. Jobs that a killed worker left are put back at the start, and what it had unpacked is removed."""

import asyncio
import contextlib
import os
import shutil
import tempfile
from pathlib import Path
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from procrastinate.contrib.django import app
from procrastinate.exceptions import ConnectorException
from procrastinate.manager import JobManager

from agile_strike.gym.ending import STOPS, asked_to_stop, reason_logged
from agile_strike.intake.jobs import STALLED_AFTER_S, put_back
from agile_strike.intake.queue import IMPORT, LIVE, LOOK
from agile_strike.intake.sweep import end_forsaken

POLL_S = 1.0
GIVES_WAY = 10  # to what answers people: pages, hubs, figures at the bag


class Command(BaseCommand):
    help = "Work the queue until told to stop."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--queue", choices=(IMPORT, LOOK, LIVE), help="work this one alone (default: all)")

    def handle(self, *args: Any, **options: Any) -> None:
        os.nice(GIVES_WAY)
        tempfile.tempdir = str(own_folder(Path(settings.WORK)))
        queues = [options["queue"]] if options["queue"] else [IMPORT, LOOK, LIVE]
        try:
            with reason_logged(f"the worker of {', '.join(queues)}"):
                asyncio.run(self._work(queues))
        finally:
            shutil.rmtree(tempfile.tempdir, ignore_errors=True)

    async def _work(self, queues: list[str]) -> None:
        worker_app = app.with_connector(app.connector.get_worker_connector())  # type: ignore[attr-defined]
        async with worker_app.open_async():
            await put_back(worker_app.job_manager)
            await sync_to_async(end_forsaken)()
            mends = asyncio.create_task(_mend(worker_app.job_manager))
            works = asyncio.create_task(
                worker_app.run_worker_async(
                    queues=queues,
                    concurrency=1,
                    fetch_job_polling_interval=POLL_S,
                    update_heartbeat_interval=min(5.0, STALLED_AFTER_S / 3),
                    stalled_worker_timeout=STALLED_AFTER_S,
                    install_signal_handlers=False,
                )
            )
            asked = _stop_on_signals(works)
            try:
                await works
            except asyncio.CancelledError:
                if not asked:
                    raise
            finally:
                mends.cancel()
            if asked:
                asked_to_stop(asked[0])


def _stop_on_signals(works: "asyncio.Task[None]") -> list[int]:
    """The first signal lets the running job come to its end, the second ends the process. The list holds what came."""
    loop, came = asyncio.get_running_loop(), list[int]()

    def stop(number: int) -> None:
        came.append(number)
        loop.remove_signal_handler(number)
        works.cancel()

    for number in STOPS:
        loop.add_signal_handler(number, stop, number)
    return came


async def _mend(jobs: JobManager) -> None:
    """Jobs of workers that were killed go back into the queue, soon after they are known to be dead."""
    while True:
        with contextlib.suppress(ConnectorException):  # the database is away
            await put_back(jobs)
        await asyncio.sleep(STALLED_AFTER_S / 3)


def own_folder(root: Path) -> Path:
    """A folder for what this worker unpacks; those of workers that are no longer there are removed."""
    root.mkdir(parents=True, exist_ok=True, mode=0o700)
    for other in root.iterdir():
        if other.name.isdigit() and not _runs(int(other.name)):
            shutil.rmtree(other, ignore_errors=True)
    own = root / str(os.getpid())
    shutil.rmtree(own, ignore_errors=True)
    own.mkdir(mode=0o700)
    return own


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    with contextlib.suppress(OSError):  # another program may have got its number since
        return b"run_worker" in Path(f"/proc/{process}/cmdline").read_bytes()
    return True
