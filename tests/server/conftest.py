"""A gym with a coach and a student."""

import datetime as dt
import io
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from archive_makers import full  # noqa: F401  (for all tests of archives)
from django.contrib.auth import get_user_model
from django.test import Client
from live_makers import evening  # noqa: F401  (for all tests at the bag)
from makers import Played, data_set, dressed, play
from trial_makers import bag, trial  # noqa: F401  (for all tests of trials)

from agile_strike.capture.models import Recording
from agile_strike.gym.models import Gym, Member
from agile_strike.intake.reading import import_path
from agile_strike.people.models import Student


@pytest.fixture
def gym(db: None) -> Gym:
    return Gym.objects.create(name="Kestrel Quay Boathouse")


@pytest.fixture
def student(gym: Gym) -> Student:
    return Student.objects.create(
        gym=gym, name="Petra Vanek", label="petra", stance="orthodox", birth_date=dt.date(1997, 3, 3)
    )


def signed_in(gym: Gym, name: str) -> Client:
    user = get_user_model().objects.create_user(name, password="x")
    Member.objects.create(user=user, gym=gym, name=name)
    client = Client()
    client.force_login(user)
    return client


@pytest.fixture
def coach(gym: Gym) -> Client:
    return signed_in(gym, "coach")


@pytest.fixture
def stranger(db: None) -> Client:
    return signed_in(Gym.objects.create(name="Another gym"), "stranger")


@pytest.fixture(scope="session")
def evening_folder(clean: Played, tmp_path_factory: pytest.TempPathFactory) -> Path:
    return data_set(tmp_path_factory.mktemp("sets") / "evening", clean.simulated[0].recording)


@pytest.fixture(scope="session")
def evening_zip(evening_folder: Path) -> bytes:
    return zip_of(evening_folder)


@pytest.fixture(scope="session")
def broken_zip(clean: Played, tmp_path_factory: pytest.TempPathFactory) -> bytes:
    """Two recordings, the second of which has a word among its numbers."""
    folder = tmp_path_factory.mktemp("sets") / "broken"
    one = clean.simulated[0].recording
    data_set(folder, one)
    data_set(folder, replace(one, run="02"))
    bad = next(folder.rglob("*run-02_motion.tsv"))
    bad.write_text(bad.read_text().replace("\n", "\tfast\n", 1))
    return zip_of(folder)


def zip_of(folder: Path) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for file in sorted(folder.rglob("*")):
            archive.write(file, file.relative_to(folder))
    return out.getvalue()


@pytest.fixture
def recording(gym: Gym, student: Student, evening_folder: Path) -> Recording:
    import_path(gym, student, evening_folder)
    return Recording.objects.get()


@pytest.fixture(scope="session")
def worn_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Six strikes by a student with every unit on."""
    whole = dressed()
    few = replace(whole, sets=(replace(whole.sets[0], strikes=6),))
    return data_set(tmp_path_factory.mktemp("sets") / "worn", play(few, seed=21).simulated[0].recording)
