"""Databases beside the tests' own; one that every migration has gone through, for others to be copied from."""

import hashlib
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import psycopg
from django.conf import settings
from psycopg import sql

ROOT = Path(__file__).resolve().parents[1]
ONE_AT_A_TIME = 20_240_917  # an advisory lock's key


def connected(name: str) -> psycopg.Connection[Any]:
    own = settings.DATABASES["default"]
    return psycopg.connect(
        host=own["HOST"], port=own["PORT"], user=own["USER"], password=own["PASSWORD"], dbname=name, autocommit=True
    )


def migrated() -> str:
    """The name of a database with all migrations in it and nothing else; whoever asks first makes it."""
    told = hashlib.sha256()
    for path in sorted(ROOT.glob("src/agile_strike/*/migrations/*.py")):
        told.update(path.read_bytes())
    name = f"migrated_{told.hexdigest()[:12]}"
    with connected("postgres") as server:
        server.execute("SELECT pg_advisory_lock(%s)", [ONE_AT_A_TIME])
        if server.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone() is None:
            half = f"{name}_half"  # one whose maker was killed is not taken for whole
            dropped(half)
            created(half)
            environment = {
                **os.environ,
                "AGILE_STRIKE_DB_NAME": half,
                "DJANGO_SETTINGS_MODULE": "agile_strike.config.settings",
                "PYTHONPATH": str(ROOT / "src"),
            }
            subprocess.run([sys.executable, ROOT / "manage.py", "migrate", "-v0"], env=environment, check=True)
            parts = map(sql.Identifier, (half, name))
            server.execute(sql.SQL("ALTER DATABASE {} RENAME TO {}").format(*parts))
    return name


def created(name: str, template: str = "template1") -> None:
    with connected("postgres") as server:
        parts = map(sql.Identifier, (name, template))
        server.execute(sql.SQL("CREATE DATABASE {} TEMPLATE {}").format(*parts))


def dropped(name: str) -> None:
    with connected("postgres") as server:
        server.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))
