"""Databases beside the tests' own; one that every migration has gone through, for others to be copied from."""

import hashlib
import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import psycopg
from django.conf import settings
from psycopg import sql

ROOT = Path(__file__).resolve().parents[1]
ONE_AT_A_TIME = 20_240_917  # the first of an advisory lock's keys


def connected(name: str) -> psycopg.Connection[Any]:
    own = settings.DATABASES["default"]
    return psycopg.connect(
        host=own["HOST"], port=own["PORT"], user=own["USER"], password=own["PASSWORD"], dbname=name, autocommit=True
    )


def migrated() -> str:
    """The name of a database with all migrations in it and nothing else; whoever asks first makes it."""
    return _made_once("migrated", "src/agile_strike/*/migrations/*.py", lambda half: created(half), "migrate", "-v0")


def with_demo() -> str:
    """The name of a database with the demo gym in it, as it is loaded at the first start."""
    return _made_once("demo", "src/agile_strike/**/*", lambda half: created(half, template=migrated()), "load_demo")


def dumped(name: str) -> str:
    """Statements that make an empty database of another server the same as this one."""
    own = settings.DATABASES["default"]
    line = {"PGHOST": own["HOST"], "PGPORT": str(own["PORT"]), "PGUSER": own["USER"], "PGPASSWORD": own["PASSWORD"]}
    command = ["pg_dump", "--no-owner", "--inserts", name]
    whole = subprocess.run(command, env=os.environ | line, check=True, capture_output=True, text=True).stdout
    return "".join(part for part in whole.splitlines(keepends=True) if not part.startswith("\\"))  # psql's own


def _made_once(kind: str, source: str, begin: Callable[[str], None], *command: str) -> str:
    """Databases live as long as their server: what is made of the same source is made once, whoever asks."""
    told = hashlib.sha256()
    for path in sorted(p for p in ROOT.glob(source) if p.is_file() and p.suffix != ".pyc"):
        told.update(path.read_bytes())
    name = f"{kind}_{told.hexdigest()[:12]}"
    if kind != "migrated":
        migrated()  # before the lock, which is one for all
    with connected("postgres") as server:
        server.execute("SELECT pg_advisory_lock(%s, hashtext(%s))", [ONE_AT_A_TIME, kind])
        if server.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone() is None:
            half = f"{name}_half"  # one whose maker was killed is not taken for whole
            dropped(half)
            begin(half)
            environment = {
                **os.environ,
                "AGILE_STRIKE_DB_NAME": half,
                "DJANGO_SETTINGS_MODULE": "agile_strike.config.settings",
                "PYTHONPATH": str(ROOT / "src"),
            }
            subprocess.run([sys.executable, ROOT / "manage.py", *command], env=environment, check=True)
            parts = map(sql.Identifier, (half, name))
            server.execute(sql.SQL("ALTER DATABASE {} RENAME TO {}").format(*parts))
    return name


def copied(name: str, template: str) -> None:
    """A database that is a copy of another, which nobody else copies in this moment."""
    with connected("postgres") as server:
        server.execute("SELECT pg_advisory_lock(%s, hashtext(%s))", [ONE_AT_A_TIME, "copy"])
        created(name, template)


def created(name: str, template: str = "template1") -> None:
    with connected("postgres") as server:
        parts = map(sql.Identifier, (name, template))
        server.execute(sql.SQL("CREATE DATABASE {} TEMPLATE {}").format(*parts))


def dropped(name: str) -> None:
    with connected("postgres") as server:
        server.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))
