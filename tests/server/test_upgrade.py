"""A database of the version before, with data, is brought up to date and says the same of every figure.

`landed/database.sql.gz` is a dump of it: a student's six evenings with a trial, blocks called from its sheet, unit
calibrations and what a coach said; `landed/told.json.gz` is what its pages told.
"""

import gzip
import json
import os
import secrets
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from databases import connected, created, dropped

HERE = Path(__file__).parent / "landed"
ROOT = Path(__file__).parents[2]
ASK = """
import json, sys
import django
django.setup()
from django.contrib.auth import get_user_model
from django.test import Client
from django.test.utils import setup_test_environment
setup_test_environment()
client = Client()
client.force_login(get_user_model().objects.get(username="ottoline"))
print(json.dumps({path: json.loads(client.get(path).content) for path in json.load(sys.stdin)}))
"""


@pytest.fixture(scope="module")
def upgraded() -> Iterator[dict[str, str]]:
    """The environment of processes that work on the old database, brought up to date."""
    name = f"upgrade_{secrets.token_hex(4)}"
    created(name)
    try:
        with connected(name) as old:
            old.execute(gzip.decompress((HERE / "database.sql.gz").read_bytes()))
        environment = {
            **os.environ,
            "AGILE_STRIKE_DB_NAME": name,
            "DJANGO_SETTINGS_MODULE": "agile_strike.config.settings",
            "PYTHONPATH": str(ROOT / "src"),
            "PYTHONWARNINGS": "ignore",
        }
        subprocess.run([sys.executable, ROOT / "manage.py", "migrate", "-v0"], env=environment, check=True)
        yield environment
    finally:
        dropped(name)


@pytest.fixture(scope="module")
def told() -> Any:
    return json.loads(gzip.decompress((HERE / "told.json.gz").read_bytes()))


@pytest.fixture(scope="module")
def now(upgraded: dict[str, str], told: Any) -> Any:
    """What the pages tell by now."""
    student, trial = told["student"], told["trial"]
    paths = [
        f"/api/students/{student}/weeks?code=rear-straight",
        f"/api/trials/{trial}/compare?student_id={student}",
        "/api/class",
        "/api/units",
        "/api/calibrations",
        f"/api/students/{student}/evenings",
        *(f"/api/recordings/{key}/strikes" for key in told["strikes"]),
        *(f"/api/recordings/{key}" for key in told["recordings"]),
    ]
    done = subprocess.run(
        [sys.executable, "-c", ASK], env=upgraded, input=json.dumps(paths), capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr[-2000:]
    found = json.loads(done.stdout)
    evenings = found[f"/api/students/{student}/evenings"]
    pages = [f"/api/evenings/{e['id']}" for e in evenings]
    done = subprocess.run(
        [sys.executable, "-c", ASK], env=upgraded, input=json.dumps(pages), capture_output=True, text=True, check=True
    )
    return found | json.loads(done.stdout)


def test_every_figure_of_every_strike_is_what_it_was_with_all_that_was_said(now: Any, told: Any) -> None:
    for key, was in told["strikes"].items():
        found = now[f"/api/recordings/{key}/strikes"]
        assert {name: found[name] for name in was} == was
        assert set(found["kind"]) == {"bag"}  # which all strikes were before there were others
    for key, was in told["recordings"].items():
        found = now[f"/api/recordings/{key}"]
        for name in (
            "strikes",
            "flags",
            "body_mass_kg",
            "analysis_version",
            "not_measured",
            "bursts",
            "clocks",
            "session",
        ):
            assert found[name] == was[name]
        assert sorted(found["units"]) == sorted(was["units"])


def test_claims_and_weeks_are_what_they_were(now: Any, told: Any) -> None:
    student, trial = told["student"], told["trial"]
    weeks = now[f"/api/students/{student}/weeks?code=rear-straight"]
    was = told["weeks"]
    apart = {"late", "course"}
    for side in (*weeks["sides"], *was["sides"]):
        side.pop("why_not")  # a sentence, which may be said otherwise
    assert {n: weeks[n] for n in was if n not in apart} == {n: v for n, v in was.items() if n not in apart}
    evenings = list(zip(weeks["course"]["evenings"], was["course"]["evenings"], strict=True))
    assert all(
        {n: e[n] for n in ("on", "mean", "strikes")} == {n: w[n] for n in ("on", "mean", "strikes")}
        for e, w in evenings
    )
    # an interval now has what a whole recording may be off by beside what its strikes scatter
    assert all(e["ci95"][0] <= w["ci95"][0] and e["ci95"][1] >= w["ci95"][1] for e, w in evenings)
    compared = now[f"/api/trials/{trial}/compare?student_id={student}"]
    assert compared["claim"] == told["compare"]["claim"]
    assert compared["sentence"] == told["compare"]["sentence"]
    assert [r["told"]["claim"] for r in now["/api/class"]["rows"]] == [
        r["told"]["claim"] for r in told["class"]["rows"]
    ]


def test_recordings_hang_on_evenings_blocks_on_planned_sets_and_calibrations_on_units(now: Any, told: Any) -> None:
    evenings = now[f"/api/students/{told['student']}/evenings"]
    assert len(evenings) == len(told["recordings"])  # one recording each
    last = now[f"/api/evenings/{evenings[0]['id']}"]
    assert [(p["place"], p["trial"], p["strikes"]) for p in last["planned"]] == [
        (0, told["trial"], 8),
        (1, told["trial"], 8),
    ]
    assert [r["what"] for r in last["remarks"]] == ["good"]
    assert [n["note"] for n in last["noted"]] == ["A note that stays"]
    calibrated = {u["place"]: u["calibrated_on"] for u in now["/api/units"] if u["calibrated_on"]}
    assert set(calibrated) == {"leftwrist", "forearm that never came"}
    assert {u["placement"] for u in told["units"]} <= {u["place"] for u in now["/api/units"]}
