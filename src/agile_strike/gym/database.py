"""How long a request waits for the database, and what it holds of it meanwhile.

A server that is stopped, or a machine that swaps, keeps its sockets open and says nothing: no keep-alive and no
server's own limit ends that wait, so the client's own does. Only web processes are held to it; workers have long
statements.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any

import psycopg
from django.db import OperationalError, connection
from psycopg.abc import PQGen
from psycopg.errors import _WaitTimeout


@dataclass(slots=True)
class Patience:
    """Of one request with the database. Once it is over, nothing of that request waits again."""

    silent_s: float  #: that it may say nothing
    over: bool = False


_patience: ContextVar[Patience | None] = ContextVar("patience", default=None)
AT_ONCE_S = 0.02


class HeldToTime(psycopg.Connection[Any]):
    """A connection on which no request waits longer than its patience."""

    def wait(self, gen: PQGen[Any], interval: float = 0.1, timeout: float | None = None) -> Any:
        patience = _patience.get()
        if patience is None or timeout is not None:
            return super().wait(gen, interval, timeout)
        try:
            return super().wait(gen, interval, AT_ONCE_S if patience.over else patience.silent_s)
        except _WaitTimeout as error:
            patience.over = True
            self.pgconn.finish()  # whatever was asked may still be answered: nobody asks anything else on it
            raise psycopg.OperationalError(f"the database said nothing for {patience.silent_s:g} s") from error


def refuse_if_over() -> None:
    """Raises OperationalError where this request has waited in vain already."""
    patience = _patience.get()
    if patience is not None and patience.over:
        raise OperationalError("the database is away")


def note_over() -> None:
    patience = _patience.get()
    if patience is not None:
        patience.over = True


@contextmanager
def patience_of(seconds: float) -> Iterator[None]:
    """For one request: no wait for the database is longer."""
    token = _patience.set(Patience(seconds))
    try:
        yield
    finally:
        _patience.reset(token)


def take_time(seconds: float) -> None:
    """For a request that has to touch much at once, as erasing a person does; within its transaction."""
    patience = _patience.get()
    if patience is not None:
        patience.silent_s = seconds
        with connection.cursor() as cursor:
            cursor.execute("SELECT set_config('statement_timeout', %s, true)", [str(round(seconds * 1000))])


def give_back_connection() -> None:
    """Let others have this request's connection while it does something else for seconds; the next query takes one.

    Inside a transaction it stays: what was written there would be lost.
    """
    if not connection.in_atomic_block:
        connection.close()
