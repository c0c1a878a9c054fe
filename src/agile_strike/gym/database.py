"""What a request holds of the database, and how long it waits for it."""

from django.db import connection


def give_back_connection() -> None:
    """Let others have this request's connection while it does something else for seconds; the next query takes one.

    Inside a transaction it stays: what was written there would be lost.
    """
    if not connection.in_atomic_block:
        connection.close()
