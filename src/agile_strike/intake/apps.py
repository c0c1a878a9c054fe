"""Registers the jobs with the queue."""

from django.apps import AppConfig


class IntakeConfig(AppConfig):
    name = "agile_strike.intake"

    def ready(self) -> None:
        from agile_strike.intake import jobs  # noqa: F401
