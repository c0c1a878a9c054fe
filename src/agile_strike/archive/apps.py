"""Registers the jobs with the queue, and with what looks after lost ones."""

from django.apps import AppConfig


class ArchiveConfig(AppConfig):
    name = "agile_strike.archive"

    def ready(self) -> None:
        from agile_strike.archive import jobs  # noqa: F401
        from agile_strike.archive.models import Archive
        from agile_strike.intake.sweep import JOBS

        JOBS[Archive] = ("work_archive", "archive_id")
