"""The whole database as one file, by PostgreSQL's own tools: made, listed, let go of, restored.

What coaches brought in lies in the database, so that is all there is to keep. A file has its own name only once it is
whole and can be read back; what a killed run left behind goes with the next.
"""

import datetime as dt
import os
import shutil
import subprocess
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.db import connection, connections
from django.db.utils import ProgrammingError
from django.utils import timezone

from agile_strike.core.errors import BadInput

KEPT = 14  # backups: who was erased is gone from all of them after as many nights
UNFINISHED = ".part"
STAMP = "%Y-%m-%dT%H%M%SZ"
LONGEST_S = 3600.0
#: archives on their way out or in: as large as all the rest, and made of it
PASSING = ("capture_passingpart", "archive_archive")
HOW = ("--format=custom", "--no-owner", "--no-privileges")


class BackupFailed(BadInput):
    pass


@dataclass(frozen=True, slots=True)
class Backup:
    name: str
    made_at: dt.datetime
    size_bytes: int


def folder() -> Path:
    """Only the server's own user reads it: all of every gym is in there."""
    path = Path(settings.BACKUPS)
    path.mkdir(parents=True, exist_ok=True, mode=0o700)
    return path


def backups() -> list[Backup]:
    """Those that are whole, the latest first."""
    out = []
    for path in folder().glob("*.dump"):
        try:
            made = dt.datetime.strptime(path.stem, STAMP).replace(tzinfo=dt.UTC)
            out.append(Backup(path.name, made, path.stat().st_size))
        except (ValueError, FileNotFoundError):
            continue  # something else, or let go of in this moment
    return sorted(out, key=lambda b: b.made_at, reverse=True)


def make() -> Backup:
    """Write one, read its table of contents back, and let the oldest beyond KEPT go. Raises BackupFailed."""
    where = folder()
    for left in where.glob(f"*{UNFINISHED}"):
        left.unlink(missing_ok=True)
    name = f"{timezone.now().strftime(STAMP)}.dump"
    part = where / f"{name}{UNFINISHED}"
    passing = [f"--exclude-table-data={table}" for table in PASSING]
    try:
        # samples are packed already
        _run(["pg_dump", *HOW, *passing, "--compress=1", f"--file={part}", str(_database()["NAME"])])
        _run(["pg_restore", "--list", str(part)])
        part.chmod(0o600)
        part.rename(where / name)
    finally:
        part.unlink(missing_ok=True)  # where it was interrupted
    for old in backups()[KEPT:]:
        (where / old.name).unlink(missing_ok=True)
    return next(b for b in backups() if b.name == name)


def restore(path: Path) -> int:
    """Fill an empty database from a backup, whole or not at all, and bring it up to this version.

    How many gyms it holds then.
    Raises BackupFailed where the database holds anything already, or the file is none of ours.
    """
    if not path.is_file():
        raise BackupFailed(f"There is no file {path}. Give the path of a backup, as {folder()}/….dump.")
    if _holds_something():
        raise BackupFailed("This database holds a gym already. Restore into an empty one.")
    _run(["pg_restore", "--list", str(path)])
    with connection.cursor() as cursor:
        cursor.execute("DROP SCHEMA public CASCADE")
        cursor.execute("CREATE SCHEMA public")
    connections.close_all()
    _run(["pg_restore", "--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error",
          f"--dbname={_database()['NAME']}", str(path)])  # fmt: skip
    call_command("migrate", verbosity=0)
    with connection.cursor() as cursor:  # of files that a backup does not hold nothing is left to fetch
        cursor.execute(
            "DELETE FROM capture_storedfile f WHERE size_bytes > 0 AND NOT EXISTS"
            " (SELECT 1 FROM capture_storedpart p WHERE p.file_id = f.id)"
        )
    from agile_strike.gym.models import Gym  # its table is there only now

    return Gym.objects.count()


def _holds_something() -> bool:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT EXISTS (SELECT 1 FROM gym_gym)")
            (found,) = cursor.fetchone()
            return bool(found)
    except ProgrammingError:
        return False  # not even a table


def _database() -> dict[str, Any]:
    return connection.settings_dict


def _run(command: list[str]) -> None:
    own = _database()
    env = os.environ | {
        "PGHOST": str(own["HOST"]), "PGPORT": str(own["PORT"]), "PGUSER": str(own["USER"]),
        "PGPASSWORD": str(own["PASSWORD"]),
    }  # fmt: skip
    try:
        subprocess.run(
            [_tool(command[0]), *command[1:]], env=env, check=True, capture_output=True, text=True, timeout=LONGEST_S
        )
    except subprocess.CalledProcessError as error:
        told = (error.stderr or "").strip().splitlines()
        raise BackupFailed(f"{command[0]} ended with: {told[-1] if told else error.returncode}") from error
    except subprocess.TimeoutExpired as error:
        raise BackupFailed(f"{command[0]} took longer than an hour.") from error
    except OSError as error:
        raise BackupFailed(
            f"{command[0]} can't be run: {error.strerror}. Debian has it in postgresql-client."
        ) from error


def _tool(name: str) -> str:
    """PostgreSQL's tool of the newest version that Debian installed, else the one on the path."""
    found = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{name}"), key=lambda p: float(p.parts[4]))
    return str(found[-1]) if found else shutil.which(name) or name
