"""Writes a backup of the whole database."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from agile_strike.backup.services import BackupFailed, folder, make


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            made = make()
        except BackupFailed as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{folder() / made.name}: {made.size_bytes / 1e6:.1f} MB.")
