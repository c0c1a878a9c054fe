"""Loads the demo gym if it is not there."""

from typing import Any

from django.core.management.base import BaseCommand

from agile_strike.demo import services


class Command(BaseCommand):
    help = "Load the demo gym."

    def handle(self, *args: Any, **options: Any) -> None:
        if services.load():
            self.stderr.write("The demo gym is loaded.")
