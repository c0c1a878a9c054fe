"""A job always ends: done, failed with a reason and a reference, or cancelled, whatever happens to it."""

import errno
import logging
import secrets
from collections.abc import Callable
from typing import TypeVar

from django.db import InterfaceError, OperationalError, transaction
from django.utils import timezone

from agile_strike.capture.models import Work
from agile_strike.core.errors import BadInput

NOTHING_SAVED = "Cancelled. Nothing was saved."
MOST_STARTS = 3  # of a job: one that ended its worker so often will end the next one too
DISK_FULL = (errno.ENOSPC, errno.EDQUOT)
Row = TypeVar("Row", bound=Work)

log = logging.getLogger(__name__)


class Cancelled(Exception):
    """The coach called it off."""


def nothing_more(row: Work) -> None:
    """What is to be done of most rows when they are done."""


def run(
    model: type[Row],
    key: int,
    work: Callable[[Row], str],
    cancelled: str = NOTHING_SAVED,
    done: Callable[[Row], None] = nothing_more,
) -> None:
    """Do `work` of a row and note how it ended; what `work` returns is told when it is done, and what `done` does is
    seen by nobody before or after that. Safe to run again.

    Where the database itself is away nothing can be noted: the error goes to the queue, which tries again.
    """
    row = _begin(model, key)
    if row is None:
        return
    try:
        message = work(row)
        with transaction.atomic():
            end(row, Work.State.DONE, message)
            done(row)
    except Cancelled:
        end(row, Work.State.CANCELLED, cancelled)
    except BadInput as error:
        end(row, Work.State.FAILED, str(error))
    except (OperationalError, InterfaceError):
        raise
    except OSError as error:
        full = error.errno in DISK_FULL
        _end_unforeseen(row, error, "the disk is full. Make room, then bring it again" if full else "the disk failed")
    except MemoryError as error:
        _end_unforeseen(row, error, "it needs more memory than this machine has. Bring it in smaller parts")
    except Exception as error:
        _end_unforeseen(row, error, "something went wrong here that nobody foresaw")


def _begin(model: type[Row], key: int) -> Row | None:
    """The row, counted as taken up once more; None where it has ended, or now ends since it ended too many workers."""
    manager = model._default_manager
    with transaction.atomic():
        row = manager.select_for_update().filter(pk=key).first()
        if row is None or row.ended:
            return None
        row.starts += 1
        if row.starts > MOST_STARTS:
            end(row, Work.State.FAILED, f"It stopped the program that reads it {MOST_STARTS} times, and was given up.")
            return None
        row.state = Work.State.RUNNING
        row.save(update_fields=["starts", "state"])
    return row


def _end_unforeseen(row: Work, error: BaseException, why: str) -> None:
    row.reference = secrets.token_hex(4)
    log.error("job of %s %s failed, reference %s", row._meta.label, row.pk, row.reference, exc_info=error)
    row.save(update_fields=["reference"])
    end(row, Work.State.FAILED, f"It could not be done: {why}. Reference {row.reference}.")


def end(row: Work, state: str, message: str) -> None:
    """Note how it ended, and only that."""
    row.state, row.message, row.ended_at = state, message, timezone.now()
    row.save(update_fields=["state", "message", "ended_at"])
