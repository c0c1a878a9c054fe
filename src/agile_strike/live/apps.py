"""Registers the jobs with the queue."""

from django.apps import AppConfig


class LiveConfig(AppConfig):
    name = "agile_strike.live"

    def ready(self) -> None:
        from agile_strike.live import jobs  # noqa: F401
