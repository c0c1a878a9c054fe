"""Rebuilds the compact file of the demo gym's earlier evenings: simulates and analyses each (some minutes)."""

from typing import Any

from django.core.management.base import BaseCommand

from agile_strike.demo import services


class Command(BaseCommand):
    help = "Simulate and analyse the demo gym's earlier evenings anew."

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(f"{services.build_weeks()} evenings written to {services.WEEKS.name}.")
