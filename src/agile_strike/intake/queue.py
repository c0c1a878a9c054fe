"""Asking the queue for work, by name: who asks need not know what is done."""

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

IMPORT, LOOK, LIVE = "import", "look", "live"  # who looks at a table, or ends a set, waits for no import
NAMES_AFTER_S = 40.0
QUEUES = {
    "import_upload": IMPORT,
    "analyse_recordings": IMPORT,
    "look_at_table": LOOK,
    "settle_take": LIVE,
    "make_backup": IMPORT,
    "work_archive": IMPORT,
    "suggest_names": IMPORT,
}


def ask(task: str, **of: int) -> None:
    """Queue a task of `jobs`; inside a transaction it is asked for only if that is committed."""
    app.configure_task(task, queue=QUEUES[task], allow_unknown=True).defer(**of)


def ask_once(task: str, about: str, in_s: float = 0.0, **of: int) -> None:
    """The same, but one that waits already is enough, and no two about the same run at once."""
    later = {"seconds": in_s} if in_s else None
    asked = app.configure_task(
        task, queue=QUEUES[task], allow_unknown=True, queueing_lock=f"{about} {bool(later)}", lock=about,
        schedule_in=later,
    )  # fmt: skip
    try:
        with transaction.atomic():
            asked.defer(**of)
    except AlreadyEnqueued:
        pass


def ask_names(gym_id: int) -> None:
    """Have strikes that nobody named looked at: more have come, or more is known. While a class is on, once in a while
    and not after each round: those who strike need the processor."""
    ask_once("suggest_names", f"names {gym_id}", in_s=NAMES_AFTER_S, gym_id=gym_id)
