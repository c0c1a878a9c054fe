"""Database, migrations and demo gym in one go: three starts of Django would take three times as long."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand


class Command(BaseCommand):
    help = "Make the database, bring it up to date, load the demo gym."
    requires_system_checks: list[str] = []

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("make_database")
        call_command("migrate", verbosity=0)
        call_command("load_demo")
