"""Fills an empty database from a backup."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from agile_strike.backup.services import BackupFailed, restore


class Command(BaseCommand):
    help = __doc__
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("path", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            gyms = restore(options["path"])
        except BackupFailed as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"Restored: {gyms} {'gym' if gyms == 1 else 'gyms'}.")
