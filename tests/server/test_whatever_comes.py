"""Files mangled at random: each ends with a word, and leaves nothing half."""

import io
import os
import random
import zipfile
from pathlib import Path
from typing import Any

import pytest
from asking import sent  # the server folder's own
from conftest import zip_of  # the server folder's own
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from agile_strike.capture.models import Recording, StoredFile, Upload
from agile_strike.core.errors import BadInput
from agile_strike.gym.models import Gym
from agile_strike.intake import tables, uploads
from agile_strike.intake.models import ForeignFile
from agile_strike.people.models import Student

pytestmark = pytest.mark.django_db
MANGLED = int(os.environ.get("AGILE_STRIKE_MANGLED", "60"))


def mangled(rng: random.Random, content: bytes) -> bytes:
    """Some bytes, lines or figures of a file otherwise than they were."""
    kind = rng.randrange(9)
    if kind == 0:
        at = rng.randrange(len(content) + 1)
        return content[:at] + rng.randbytes(rng.randrange(1, 40)) + content[at + rng.randrange(3) :]
    if kind == 1:
        return content[: rng.randrange(len(content) + 1)]
    lines = content.split(b"\n")
    at = rng.randrange(len(lines))
    if kind == 2:
        lines[at] = (
            lines[at] + b"\t" + rng.choice((b"x", b"1e999", b"nan", b"\xff", b"")) if rng.random() < 0.8 else b""
        )
    elif kind == 3:
        lines = lines[:at] + lines[at + 1 :]
    elif kind == 4:
        lines.insert(at, lines[rng.randrange(len(lines))])
    elif kind == 5:
        cells = lines[at].split(rng.choice((b"\t", b",", b" ")))
        worst = (b"nan", b"inf", b"-1e308", b"n/a", b"", b"9" * 400, "²".encode(), b"0x1", b"1_0", b"\0", b"true")
        cells[rng.randrange(len(cells))] = rng.choice(worst)
        lines[at] = b"\t".join(cells)
    elif kind == 6:
        rng.shuffle(lines)
    elif kind == 7:
        digits = [i for i, c in enumerate(content[:4000]) if chr(c).isdigit()]
        if digits:
            at = rng.choice(digits)
            return content[:at] + rng.choice((b"-", b"e9", b"9999999999", b"", b"NaN")) + content[at + 1 :]
    else:
        return content.replace(
            rng.choice((b"\t", b"\n", b",", b'"', b".", b"1")),
            rng.choice((b"", b"\r", b";", b"\0")),
            rng.randrange(1, 5),
        )
    return b"\n".join(lines)


@pytest.fixture(scope="module")
def small(clean: Any) -> dict[str, bytes]:
    """The files of a short data set."""
    from dataclasses import replace
    from tempfile import TemporaryDirectory

    from agile_strike.formats.motion_bids_write import write

    made = clean.simulated[0].recording
    unit = made.units["bag"]
    short = replace(unit, accel_m_s2=unit.accel_m_s2[:9000], gyro_rad_s=unit.gyro_rad_s[:9000])
    with TemporaryDirectory() as folder:
        root = Path(folder) / "set"
        write(root, [replace(made, units={"bag": short})])
        return {str(p.relative_to(root)): p.read_bytes() for p in sorted(root.rglob("*")) if p.is_file()}


def ended_well(row: Upload | ForeignFile, where: object) -> None:
    assert row.ended, where
    assert "nobody foresaw" not in row.message, (where, row.message)
    assert "\n" not in row.message, where


def test_mangled_data_sets_end_with_a_word_and_leave_nothing_half(
    coach: Client, student: Student, gym: Gym, small: dict[str, bytes]
) -> None:
    states: dict[str, int] = {}
    for seed in range(MANGLED):
        rng = random.Random(f"data set {seed}")
        files = dict(small)
        for _ in range(rng.choice((1, 1, 2))):
            victim = rng.choice(sorted(files))
            files[victim] = mangled(rng, files[victim])
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for name, content in files.items():
                archive.writestr(name, content)
        whole = mangled(rng, out.getvalue()) if rng.random() < 0.1 else out.getvalue()
        key = sent(coach, student, whole or b"x")
        uploads.run_import(key)
        upload = Upload.objects.get(pk=key)
        ended_well(upload, ("data set", seed))
        states[upload.state] = states.get(upload.state, 0) + 1
        found = Recording.objects.filter(upload=upload).first()
        if upload.state == "failed":
            assert found is None, seed
        elif found is not None:
            for path in (
                f"recordings/{found.pk}",
                f"recordings/{found.pk}/strikes",
                f"recordings/{found.pk}/strikes.csv",
            ):
                assert coach.get(f"/api/{path}").status_code == 200, (seed, path)
            found.delete()
    assert not StoredFile.objects.exists()
    assert min(states.get("failed", 0), states.get("done", 0)) > MANGLED // 10, states


def test_mangled_tables_end_with_a_word(coach: Client, clean: Any) -> None:
    unit = clean.simulated[0].recording.units["bag"]
    from makers import logger_table

    table = logger_table(unit, 20)
    for seed in range(MANGLED // 2):
        rng = random.Random(f"table {seed}")
        name = rng.choice(("bag.csv", "left wrist.txt", "x.c3d", "class.tsv"))
        file = SimpleUploadedFile(name, mangled(rng, mangled(rng, table)) or b"x")
        key = coach.post("/api/tables", {"file": file}).json()["id"]
        tables.look(key)
        row = ForeignFile.objects.get(pk=key)
        ended_well(row, ("table", seed, row.message))
        assert coach.get(f"/api/tables/{key}").status_code == 200
        try:
            tables.leave(row.gym, key)
        except BadInput:
            pytest.fail(f"table {seed} can't be left")
    assert not StoredFile.objects.exists()


def test_a_zip_of_a_folder_comes_in_as_ever(coach: Client, student: Student, evening_folder: Path) -> None:
    key = sent(coach, student, zip_of(evening_folder))
    uploads.run_import(key)
    assert Upload.objects.get(pk=key).message == "8 strikes in 1 recording."
