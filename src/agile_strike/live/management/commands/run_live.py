"""Measures strikes while they are thrown, until told to stop."""

from typing import Any

from django.core.management.base import BaseCommand

from agile_strike.core.student import filters
from agile_strike.gym.ending import reason_logged
from agile_strike.live.watch.worker import Worker


class Command(BaseCommand):
    help = "Work what hubs send, as it comes."

    def handle(self, *args: Any, **options: Any) -> None:
        filters.load()
        with reason_logged("the live worker"):
            Worker().run_for_ever()
