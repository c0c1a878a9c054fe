"""Registers the jobs with the queue."""

from django.apps import AppConfig


class BackupConfig(AppConfig):
    name = "agile_strike.backup"

    def ready(self) -> None:
        from agile_strike.backup import jobs  # noqa: F401
