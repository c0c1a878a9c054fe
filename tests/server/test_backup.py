"""The whole database written away and restored into an empty one, table for table."""

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from databases import connected, created, dropped
from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client

from agile_strike.archive.models import Archive
from agile_strike.backup import services
from agile_strike.capture.models import PassingPart, StoredFile, StoredPart
from agile_strike.gym.models import Gym, Member
from agile_strike.people.models import Student

NO_ROWS = "d41d8cd98f00b204e9800998ecf8427e"  # the sum of no text
TABLES = "SELECT tablename FROM pg_tables WHERE schemaname = 'public'"


def sums(name: str) -> dict[str, str]:
    """A checksum of every table."""
    with connected(name) as db:
        tables = [t for (t,) in db.execute(TABLES)]
        query = "SELECT md5(coalesce(string_agg(t::text, '|' ORDER BY t::text), '')) FROM \"{}\" t"
        return {t: db.execute(query.format(t)).fetchone()[0] for t in tables}  # type: ignore[arg-type, index]


@pytest.fixture
def empty(db: None) -> Iterator[str]:
    name = f"{connection.settings_dict['NAME']}_restored"
    created(name)
    yield name
    dropped(name)


def restored(path: Path, into: str) -> "subprocess.CompletedProcess[str]":
    d = connection.settings_dict
    env = os.environ | {"AGILE_STRIKE_DB_NAME": into, "AGILE_STRIKE_DB_PORT": str(d["PORT"])}
    command = [sys.executable, str(Path(__file__).parents[2] / "manage.py"), "restore", str(path)]
    return subprocess.run(command, env=env, capture_output=True, text=True, timeout=120)


@pytest.mark.django_db(transaction=True)
def test_all_of_it_comes_back_and_a_database_in_use_is_left_alone(empty: str, tmp_path: Path, settings: Any) -> None:
    settings.BACKUPS = tmp_path
    gym = Gym.objects.create(name="Kestrel Quay “Boathouse”", time_zone="Europe/Oslo")
    Student.objects.create(gym=gym, name="Petra Vanek", label="petra", stance="orthodox")
    file = StoredFile.objects.create(gym=gym, name="evening.zip", size_bytes=256)
    StoredPart.objects.create(file=file, place=0, content=bytes(range(256)))
    passing = StoredFile.objects.create(gym=gym, name="all.zip", size_bytes=9)  # an archive that waits to be fetched
    PassingPart.objects.create(file=passing, place=0, content=b"whole gym")
    Archive.objects.create(gym=gym, way="out", file=passing, file_name="all.zip", state="done")
    left = tmp_path / "2026-01-01T000000Z.dump.part"  # of a run that was killed
    left.write_bytes(b"half")
    made = services.make()
    assert [p.name for p in tmp_path.iterdir()] == [made.name]
    assert (tmp_path / made.name).stat().st_mode & 0o077 == 0
    told = restored(tmp_path / made.name, empty)
    assert told.stdout.strip() == "Restored: 1 gym.", told.stderr
    there = sums(empty)
    assert (there["archive_archive"], there["capture_passingpart"]) == (NO_ROWS, NO_ROWS)
    Archive.objects.all().delete()
    passing.delete()
    assert there == sums(connection.settings_dict["NAME"])
    again = restored(tmp_path / made.name, empty)
    assert "holds a gym already" in again.stderr
    assert sums(empty)["gym_gym"] == sums(connection.settings_dict["NAME"])["gym_gym"]


@pytest.mark.django_db
def test_an_interrupted_backup_leaves_nothing_half(
    tmp_path: Path, settings: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    settings.BACKUPS, run = tmp_path, services._run

    def interrupted(command: list[str]) -> None:
        run(command)
        raise KeyboardInterrupt

    monkeypatch.setattr(services, "_run", interrupted)
    with pytest.raises(KeyboardInterrupt):
        services.make()
    assert list(tmp_path.iterdir()) == []


@pytest.mark.django_db
def test_what_is_no_backup_is_refused_and_the_oldest_go(tmp_path: Path, settings: Any) -> None:
    settings.BACKUPS = tmp_path
    torn = tmp_path / "torn.dump"
    torn.write_bytes(b"PGDMP and then nothing")
    with pytest.raises(services.BackupFailed, match="pg_restore ended with"):
        services.restore(torn)
    with pytest.raises(services.BackupFailed, match="no file"):
        services.restore(tmp_path / "none.dump")
    for k in range(services.KEPT + 2):
        (tmp_path / f"2026-01-{k + 1:02d}T000000Z.dump").write_bytes(b"x")
    made = services.make()
    names = [b.name for b in services.backups()]
    assert (len(names), names[0]) == (services.KEPT, made.name)
    assert "2026-01-01T000000Z.dump" not in names
    assert torn.exists()  # what is none of ours stays
    gym = Gym.objects.create(name="Kestrel Quay Boathouse")
    user = get_user_model().objects.create_user("b", password="x")
    Member.objects.create(user=user, gym=gym, name="b")
    client = Client()
    assert client.get("/api/backups").status_code == 401
    client.force_login(user)
    assert [b["size_bytes"] for b in client.get("/api/backups").json()][1:] == [1] * (services.KEPT - 1)
    assert client.post("/api/backups").status_code == 202
