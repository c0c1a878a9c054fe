"""Makes the application's database in the cluster if it is not there."""

from typing import Any

import psycopg
from django.conf import settings
from django.core.management.base import BaseCommand
from psycopg import sql


class Command(BaseCommand):
    help = "Make the database if it is not there."
    requires_system_checks: list[str] = []

    def handle(self, *args: Any, **options: Any) -> None:
        d: dict[str, Any] = settings.DATABASES["default"]
        with psycopg.connect(
            host=d["HOST"], port=d["PORT"], user=d["USER"], password=d["PASSWORD"], dbname="postgres", autocommit=True
        ) as server:
            if server.execute("SELECT 1 FROM pg_database WHERE datname = %s", [d["NAME"]]).fetchone() is None:
                server.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(str(d["NAME"]))))
