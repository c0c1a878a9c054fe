"""Why a process that was to run for ever has ended: one line in the log, whatever ended it."""

import logging
import signal
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType

log = logging.getLogger(__name__)
STOPS = (signal.SIGTERM, signal.SIGINT)


def asked_to_stop(number: int, _: FrameType | None = None) -> None:
    """What a process does with a signal that asks it to end."""
    log.warning("asked to stop by %s", signal.Signals(number).name)
    sys.exit(0)


@contextmanager
def reason_logged(process: str) -> Iterator[None]:
    """Round what is to run until it is asked to stop: an error is logged whole, an end that nobody asked for is one."""
    for number in STOPS:
        signal.signal(number, asked_to_stop)
    try:
        yield
    except SystemExit as end:
        if end.code:
            log.error("%s ended with status %s", process, end.code)
        raise
    except BaseException:
        log.critical("%s ended by an error", process, exc_info=True)
        sys.exit(1)
    log.critical("%s ended, and nobody had asked it to", process)
    sys.exit(1)
