"""Asking the queue for work, by name: who asks need not know what is done."""

from procrastinate.contrib.django import app

IMPORT, LOOK = "import", "look"  # a coach who looks at a table waits for no import
QUEUES = {"import_upload": IMPORT, "analyse_recordings": IMPORT, "look_at_table": LOOK}


def ask(task: str, **of: int) -> None:
    """Queue a task of `jobs`; inside a transaction it is asked for only if that is committed."""
    app.configure_task(task, queue=QUEUES[task], allow_unknown=True).defer(**of)
