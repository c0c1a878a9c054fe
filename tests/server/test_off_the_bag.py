"""Strikes on pads and in the air, as an evening of the gym: kept by kind, told as estimated, never pooled."""

import csv
import io
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from django.db import IntegrityError, transaction
from django.test import Client
from kept import simulate_free
from trial_makers import evening as on_the_bag

from agile_strike.capture.models import Recording
from agile_strike.core.analysis import analyse
from agile_strike.core.simulation.bagless import FreeSet
from agile_strike.formats.motion_bids_read import read_all
from agile_strike.formats.motion_bids_write import write
from agile_strike.gym.models import Gym
from agile_strike.intake.reading import import_path
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db
SETS = (FreeSet("met", strikes=6), FreeSet("air", strikes=6))
JSON = "application/json"


@pytest.fixture(scope="module")
def pads_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    made = simulate_free(SETS, ("leftwrist", "rightwrist"), np.random.default_rng(3), at="2026-11-03T18:30:00+00:00")
    folder = tmp_path_factory.mktemp("sets") / "pads"
    write(folder, [made.recording])
    return folder


@pytest.fixture
def pads(gym: Gym, student: Student, pads_folder: Path) -> Recording:
    import_path(gym, student, pads_folder)
    return Recording.objects.get(task="pads")


def strikes(client: Client, recording: Recording) -> Any:
    return client.get(f"/api/recordings/{recording.pk}/strikes").json()


def bag_evenings(student: Student, bag: BagVersion, *gains: float) -> None:
    for day, gain in enumerate(gains, 1):
        own = on_the_bag(student, bag, day, gain, seed=day)
        for k, row in enumerate(Strike.objects.filter(recording=own)):
            speed = 6.0 + 0.1 * (k % 5)
            assert row.impulse_n_s is not None
            Strike.objects.filter(pk=row.pk).update(
                limb="right_hand", contact_speed_m_s=speed, contact_speed_m_s_sd=0.1, peak_speed_m_s=speed,
                peak_speed_m_s_sd=0.1, impulse_n_s=gain * 3.5 * speed, impulse_n_s_sd=0.5, effective_mass_kg=gain * 3.0,
                effective_mass_kg_sd=0.2,
            )  # fmt: skip


def test_they_come_in_and_are_told_by_what_they_landed_on(coach: Client, pads: Recording) -> None:
    told = strikes(coach, pads)
    assert told["kind"] == ["met"] * 6 + ["air"] * 6
    assert "impulse_n_s" not in told["values"]
    assert "impulse_estimated_n_s" not in told["values"]
    absent = coach.get(f"/api/strikes/{told['id'][0]}/absent").json()
    assert "bag evenings" in absent["impulse_estimated_n_s"]
    page = coach.get(f"/api/evenings/{pads.session_id}").json()
    assert [s["kinds"] for s in page["thrown"]] == [["met"], ["air"]]
    rows = list(csv.DictReader(io.StringIO(coach.get(f"/api/recordings/{pads.pk}/strikes.csv").content.decode())))
    assert [r["kind"] for r in rows] == told["kind"]


def test_force_is_estimated_from_the_students_own_bag_evenings_of_that_strike(
    coach: Client, student: Student, bag: BagVersion, pads_folder: Path, gym: Gym
) -> None:
    bag_evenings(student, bag, 1.0, 1.1, 0.9)
    import_path(gym, student, pads_folder)
    pads = Recording.objects.get(task="pads")
    told = strikes(coach, pads)
    for kind, speed in (("met", "contact_speed_m_s"), ("air", "peak_speed_m_s")):
        rows = [i for i, k in enumerate(told["kind"]) if k == kind]
        for i in rows:
            value, sd = told["values"]["impulse_estimated_n_s"][i], told["sds"]["impulse_estimated_n_s"][i]
            assert value == pytest.approx(3.5 * told["values"][speed][i], rel=0.01)
            assert 0.05 * value < sd < 0.25 * value
    assert told["values"]["effective_mass_estimated_kg"][0] == pytest.approx(3.0, rel=0.01)
    # the coach says that it was another strike, of which there are no bag evenings
    said = {"code": "rear-hook", "limb": "right_hand", "level": "", "levels": {}, "school_id": None, "gear": ""}
    body = {"ids": told["id"][:1], "versions": told["version"][:1], **said}
    assert coach.post("/api/strikes/label", body, content_type=JSON).status_code == 200
    assert strikes(coach, pads)["values"]["impulse_estimated_n_s"][:2] == [
        None,
        pytest.approx(told["values"]["impulse_estimated_n_s"][1]),
    ]


def test_what_no_bag_felt_is_in_no_comparison_and_counts_in_the_volume(
    coach: Client, student: Student, bag: BagVersion, pads: Recording
) -> None:
    bag_evenings(student, bag, 1.0)
    page = coach.get(f"/api/students/{student.pk}/weeks?code=rear-straight&measure=peak_speed_m_s").json()
    assert sum(w["strikes"] for w in page["volume"]) == Strike.objects.count()
    assert {e["strikes"] for e in page["course"]["evenings"]} == {32}


def test_its_exported_archive_gives_the_same_figures(coach: Client, pads: Recording, tmp_path: Path) -> None:
    content = b"".join(coach.get(f"/api/recordings/{pads.pk}/motion-bids.zip"))  # type: ignore[arg-type]
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        archive.extractall(tmp_path)
    (again,) = [analyse(r) for r in read_all(tmp_path)]
    rows = Strike.objects.filter(recording=pads).order_by("number")
    assert [s.kind for s in again.strikes] == [r.kind for r in rows]
    for strike, row in zip(again.strikes, rows, strict=True):
        assert strike.contact_s == pytest.approx(row.contact_s, abs=1e-9)
        assert strike.measures["peak_speed_m_s"].value == pytest.approx(row.peak_speed_m_s, rel=1e-9)


def test_the_database_holds_measured_and_estimated_apart(pads: Recording) -> None:
    one = Strike.objects.filter(recording=pads)[0]
    for wrong in ({"impulse_n_s": 20.0}, {"kind": "bag", "impulse_estimated_n_s": 20.0}, {"kind": "wall"}):
        with pytest.raises(IntegrityError), transaction.atomic():
            Strike.objects.filter(pk=one.pk).update(**wrong)
