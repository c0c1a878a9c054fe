"""What figures rest on: named with every recording, never mixed without a word, and brought to one by one click."""

import csv
import datetime as dt
import gzip
import io
import json
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow.parquet as pq
import pytest
from asking import seen, send, values_of  # the server folder's own
from django.test import Client
from makers import BAG, PERSON, Played, data_set, evening, play

from agile_strike.capture.basis import Basis, behind, kept
from agile_strike.capture.models import AnalysisRun, Chunk, Recording
from agile_strike.cli import main
from agile_strike.core.analysis import VERSION
from agile_strike.core.recording import Event, UnitSignal
from agile_strike.core.recording import Recording as CoreRecording
from agile_strike.core.target import Bag as CoreBag
from agile_strike.demo.services import WEEKS
from agile_strike.formats.chunks import checksum
from agile_strike.formats.motion_bids_read import read_all
from agile_strike.gym.models import Gym
from agile_strike.intake.again import analyse_again, raw, run_again
from agile_strike.intake.reading import import_path, import_recording
from agile_strike.intake.tables import zipped
from agile_strike.kit.models import FIELDS, Bag, BagVersion, Calibration
from agile_strike.people.models import BodyMass, StanceChange, Student
from agile_strike.review.models import Strike
from agile_strike.trials.models import Trial

pytestmark = pytest.mark.django_db
JSON = "application/json"


def thrown(played: Played, which: int, day: int, **other: Any) -> CoreRecording:
    """An evening of the trial: its sets are blocks under one level and the other."""
    made = played.simulated[which].recording
    levels = iter(("even", "rear", "rear", "even"))
    events = tuple(
        replace(e, value=f"rear-straight;right_hand;level=head,start weight={next(levels)}")
        if e.trial_type == "set"
        else e
        for e in made.events
    )
    at = dt.datetime(2026, 10, day, 17, 0, tzinfo=dt.UTC).isoformat()
    return replace(made, events=events, acquired_at=at, session=f"{day}", **other)


def basis_of(recording: Recording) -> Basis:
    """What a recording's figures rest on as it stands in the database."""
    return kept(AnalysisRun.objects.filter(recording=recording)[0])


@pytest.fixture(scope="session")
def evenings() -> Played:
    """Four blocks of five strikes on each of two evenings."""
    one = evening(strikes=10, errors=False)
    four = replace(one, sets=(*one.sets, *one.sets))
    return play(four, four, seed=12)


@pytest.fixture
def two(gym: Gym, student: Student, evenings: Played) -> list[Recording]:
    return [import_recording(gym, student, thrown(evenings, i, day)) for i, day in enumerate((6, 13))]


@pytest.fixture
def trial(gym: Gym, student: Student) -> Trial:
    made = Trial.objects.create(
        gym=gym, factor="start weight", levels=["even", "rear"], code="rear-straight", measure="impulse_n_s",
        started_on="2026-10-01",
    )  # fmt: skip
    made.students.add(student)
    return made


def new_gain(coach: Client, gain: float) -> None:
    (bag,) = coach.get("/api/bags").json()
    body = {"id": bag["id"], "version": bag["version"], "name": bag["name"]}
    assert send(coach, "post", "bags", {**body, "values": {**values_of(bag), "impulse_gain": gain}}).status_code == 200


def test_half_analysed_again_after_a_new_gain_is_said_and_mended_by_one_click(
    two: list[Recording], trial: Trial, student: Student, gym: Gym, coach: Client, evenings: Played
) -> None:
    compare, weeks = f"/api/trials/{trial.pk}/compare", f"/api/students/{student.pk}/weeks?code=rear-straight"
    assert coach.get(compare).json()["claim"]["refused"] is None
    assert coach.get(compare).json()["late"] == {"recordings": [], "late": 0, "of": 2, "about_s": 0.0}
    new_gain(coach, 1.1)
    both = coach.get(compare).json()
    assert both["claim"]["refused"] is None  # all of them on the old basis are still fair among themselves
    assert (both["late"]["late"], both["late"]["recordings"]) == (2, [r.pk for r in two])
    analyse_again(gym, two[1].pk)
    mixed = coach.get(compare).json()
    assert "another calibration in part of it" in mixed["claim"]["refused"]
    assert mixed["late"]["recordings"] == [two[0].pk]
    told = coach.get(weeks).json()
    assert [m["kind"] for m in told["marks"]] == ["calibration"]  # the step is named for what it is
    assert told["late"]["late"] == 1
    assert coach.get("/api/class").json()["late"]["recordings"] == [two[0].pk]
    work = send(coach, "post", "reanalyses", {"recordings": mixed["late"]["recordings"]}).json()
    run_again(work["id"])
    after = coach.get(compare).json()
    assert (after["claim"]["refused"], after["late"]["late"]) == (None, 0)
    assert coach.get(weeks).json()["marks"] == []
    figures = [
        list(Strike.objects.filter(recording=r).order_by("number").values_list("impulse_n_s", flat=True)) for r in two
    ]
    for recording in two:
        recording.delete()
    fresh = [import_recording(gym, student, thrown(evenings, i, day)) for i, day in enumerate((6, 13))]
    assert figures == [
        list(Strike.objects.filter(recording=r).order_by("number").values_list("impulse_n_s", flat=True)) for r in fresh
    ]  # to the last digit


def test_a_corrected_mass_is_taken_up_and_a_changed_bag_is_not(two: list[Recording], gym: Gym, coach: Client) -> None:
    (bag,) = coach.get("/api/bags").json()
    heavier = {**values_of(bag), "mass_kg": 1.05 * bag["current"]["mass_kg"]}
    body = {"id": bag["id"], "version": bag["version"], "name": bag["name"], "values": heavier}
    changed = send(coach, "post", "bags", {**body, "always_so": False}).json()
    assert changed["current"]["why"] == "changed"
    assert behind(gym, [r.pk for r in two]) == []
    BagVersion.objects.filter(pk=changed["current"]["id"]).delete()
    right = send(coach, "post", "bags", {**body, "version": changed["version"], "always_so": True}).json()
    assert right["current"]["why"] == "corrected"
    assert behind(gym, [r.pk for r in two]) == [r.pk for r in two]
    before = {m.measure: m for m in analyse_again(gym, two[0].pk)}["impulse_n_s"]
    assert before.before is not None
    assert before.after == pytest.approx(1.05 * before.before, rel=0.02)
    assert basis_of(two[0]).bag["mass_kg"] == pytest.approx(heavier["mass_kg"])
    assert Recording.objects.get(pk=two[0].pk).bag_version == two[0].bag_version


def test_a_units_new_calibration_makes_what_it_touches_late_all_of_it(
    two: list[Recording], gym: Gym, coach: Client
) -> None:
    row = Calibration.objects.create(
        gym=gym, kind="rests", unit=two[0].wears.get(placement="bag").unit,
        made_at=two[0].acquired_at, expires_on="2027-01-01",
        result={
            "accel_offset_m_s2": [0.1, 0, 0], "accel_scale": [1, 1, 1], "gyro_bias_rad_s": [0, 0, 0],
            "offset_sd_m_s2": 0.01, "scale_sd": 0.001, "residual_m_s2": 0.01, "before_m_s2": 0.1,
        },
    )  # fmt: skip
    assert behind(gym, [r.pk for r in two]) == [r.pk for r in two]
    touched = coach.get(f"/api/calibrations/{row.pk}/touches").json()
    assert {t["id"] for t in touched} == {r.pk for r in two}
    analyse_again(gym, two[0].pk)
    assert behind(gym, [r.pk for r in two]) == [two[1].pk]
    assert basis_of(two[0]).calibrations == {"bag": row.pk}


def test_all_that_a_calibration_touches_is_told_beyond_fifty(two: list[Recording], gym: Gym, coach: Client) -> None:
    first = two[0]
    bag = first.bag_version.bag  # type: ignore[union-attr]
    row = Calibration.objects.create(
        gym=gym, kind="ball", bag=bag, made_at=first.acquired_at, expires_on="2027-01-01", result={}
    )
    for k in range(60):
        copy = Recording.objects.get(pk=first.pk)
        copy.pk, copy.checksum, copy.analysis = None, f"copy {k}", None
        copy.save()
        Chunk.objects.create(recording=copy, unit="bag", first_sample=0, samples=1, rate_hz=1.0, sha256="", parquet=b"")
    assert len(coach.get(f"/api/calibrations/{row.pk}/touches").json()) == 62


# --- what a recording is


def wall(load: float) -> CoreRecording:
    quiet = np.zeros((3000, 3), np.float32)
    cell = np.zeros(3000, np.float32)
    cell[1000:1015] = load
    unit = UnitSignal("bag", 1000.0, quiet, quiet, load_n=cell)
    return CoreRecording(PERSON, "01", "wall", "01", CoreBag("wall", 40.0, 1.0, 0.4, 0.5), {"bag": unit})


def test_two_wall_recordings_are_two(gym: Gym, student: Student) -> None:
    assert checksum(wall(900.0)) != checksum(wall(950.0))
    import_recording(gym, student, wall(900.0))
    import_recording(gym, student, wall(950.0))
    assert Recording.objects.count() == 2


def test_the_same_samples_are_the_same_recording_whatever_they_are_called(clean: Played) -> None:
    one = clean.simulated[0].recording
    other = replace(one, session="99", task="cross", run="07", acquired_at="2026-01-01T00:00:00+00:00", bag=None)
    assert checksum(one) == checksum(other)
    louder = replace(one.units["bag"], accel_m_s2=one.units["bag"].accel_m_s2 * 2)
    assert checksum(replace(one, units={"bag": louder})) != checksum(one)


@pytest.mark.parametrize(
    ("written", "began"),
    [
        ("2026-10-06T19:30:00", "2026-10-06T17:30:00+00:00"),  # Oslo in summer
        ("2026-11-03T19:30:00", "2026-11-03T18:30:00+00:00"),  # and in winter
        ("2026-11-03T19:30:00+00:00", "2026-11-03T19:30:00+00:00"),
        ("2026-11-03T00:10:00", "2026-11-02T23:10:00+00:00"),  # late in the gym's evening, the day before elsewhere
    ],
)
def test_a_time_without_a_zone_is_the_gyms_own(
    gym: Gym, student: Student, clean: Played, written: str, began: str
) -> None:
    gym.time_zone = "Europe/Oslo"
    gym.save()
    row = import_recording(gym, student, replace(clean.simulated[0].recording, acquired_at=written))
    assert row.acquired_at == dt.datetime.fromisoformat(began)
    assert gym.day(row.acquired_at).isoformat() == written[:10]


# --- the student on that day


def test_stance_and_body_mass_are_those_of_the_day(gym: Gym, student: Student, clean: Played) -> None:
    for day, kg in (("2026-09-01", 60.0), ("2026-10-01", 64.0), ("2026-11-20", 70.0)):
        BodyMass.objects.create(student=student, measured_on=day, mass_kg=kg)
    StanceChange.objects.create(student=student, since="2026-01-01", stance="southpaw")
    StanceChange.objects.create(student=student, since="2026-11-15", stance="orthodox")
    unsaid = replace(PERSON, mass_kg=None, stance=None)
    row = import_recording(gym, student, replace(clean.simulated[0].recording, participant=unsaid))  # of 3 November
    assert (row.analysis.body_mass_kg, row.analysis.stance) == (64.0, "southpaw")
    BodyMass.objects.create(student=student, measured_on="2026-11-02", mass_kg=65.5)
    assert behind(gym, [row.pk]) == [row.pk]
    analyse_again(gym, row.pk)
    row.refresh_from_db()
    assert (row.analysis.body_mass_kg, row.analysis.stance) == (65.5, "southpaw")
    assert behind(gym, [row.pk]) == []


def test_what_the_file_says_of_its_student_stays(gym: Gym, student: Student, clean: Played) -> None:
    row = import_recording(gym, student, clean.simulated[0].recording)
    BodyMass.objects.create(student=student, measured_on="2026-11-03", mass_kg=99.0)
    analyse_again(gym, row.pk)
    row.refresh_from_db()
    assert row.analysis.body_mass_kg == PERSON.mass_kg


# --- analysing again


def test_a_strike_found_only_again_belongs_to_its_set_and_to_its_burst(
    gym: Gym, student: Student, coach: Client
) -> None:
    played = play(evening(strikes=12, burst=3, errors=False), seed=9)
    row = import_recording(gym, student, played.simulated[0].recording)
    bursts = row.analysis.bursts
    assert bursts
    strike = row.strikes.get(number=2)
    told = (strike.contact_s, strike.set.code, strike.set.value)  # type: ignore[union-attr]
    strike.delete()
    AnalysisRun.objects.filter(recording=row).update(bursts=[])
    analyse_again(gym, row.pk)
    row.refresh_from_db()
    back = row.strikes.get(number=2)
    assert (back.contact_s, back.set.code, back.set.value) == told  # type: ignore[union-attr]
    assert row.analysis.bursts == bursts


def test_a_set_in_which_nothing_was_found_at_first_is_made_when_something_is(
    gym: Gym, student: Student, clean: Played
) -> None:
    row = import_recording(gym, student, clean.simulated[0].recording)
    first = row.sets.order_by("pk")[0]
    row.strikes.filter(set=first).delete()
    first.delete()
    analyse_again(gym, row.pk)
    assert not row.strikes.filter(set__isnull=True).exists()
    assert row.sets.count() == 2


# --- what goes out


def test_a_recording_goes_out_sample_by_sample_as_it_came_in(gym: Gym, student: Student, tmp_path: Path) -> None:
    made = play(evening(strikes=4), seed=31).simulated[0].recording
    unit = made.units["bag"]
    holes = unit.accel_m_s2.copy()
    holes[500:520] = np.nan
    dumb = UnitSignal("leftwrist", 400.0, holes[:4000], np.full((4000, 3), np.nan, np.float32))
    wanted = {"bag": replace(unit, accel_m_s2=holes), "leftwrist": dumb}
    row = import_recording(gym, student, replace(made, units=wanted))
    folder = tmp_path / "out"
    with zipfile.ZipFile(io.BytesIO(zipped(raw(row)))) as archive:
        archive.extractall(folder)
    (back,) = read_all(folder)
    for name, sent in wanted.items():
        got = back.units[name]
        assert got.accel_m_s2.tobytes() == sent.accel_m_s2.tobytes(), name
        assert np.array_equal(got.gyro_rad_s, sent.gyro_rad_s, equal_nan=True), name
        assert got.rate_hz == sent.rate_hz
    assert not back.units["leftwrist"].feels_turning  # a gyro that was not there is no gyro at rest
    assert len(back.events) == len(made.events)
    description = json.loads((folder / "dataset_description.json").read_text())
    assert "License" not in description
    assert "Authors" not in description


def test_the_application_and_the_command_line_write_the_same_table(
    gym: Gym, student: Student, evening_folder: Path, coach: Client, capsys: pytest.CaptureFixture[str]
) -> None:
    import_path(gym, student, evening_folder)
    row = Recording.objects.get()
    ours = list(csv.reader(io.StringIO(coach.get(f"/api/recordings/{row.pk}/strikes.csv").content.decode())))
    assert main(["analyse", str(evening_folder), "--csv"]) == 0
    theirs = list(csv.reader(io.StringIO(capsys.readouterr().out)))
    n = len(theirs[0])
    assert ours[0][:n] == theirs[0]
    assert [r[1:n] for r in ours[1:]] == [r[1:] for r in theirs[1:]]  # but for the participant: the gym's own label


def test_words_stay_words_and_no_cell_is_a_formula(gym: Gym, recording: Recording, coach: Client) -> None:
    Student.objects.filter(pk=recording.student_id).update(label="007")
    ids = list(recording.strikes.values_list("pk", flat=True))
    send(coach, "put", f"strikes/{ids[0]}/note", {"text": "=HYPERLINK(1)", "version": 1})
    send(coach, "post", "strikes/exclude", {**seen([ids[1]]), "reason": "@sum"})
    send(coach, "post", "strikes/label", {**seen([ids[2]]), "code": "-lead", "gear": "+x", "levels": {"=a": "b"}})
    table = pq.read_table(io.BytesIO(coach.get(f"/api/recordings/{recording.pk}/strikes.parquet").content))
    assert set(table.column("participant").to_pylist()) == {"007"}
    text = coach.get(f"/api/recordings/{recording.pk}/strikes.csv").content.decode()
    cells = [cell for line in csv.reader(io.StringIO(text)) for cell in line]
    risky = [c for c in cells if c[:1] in "=+@\t\r" and c] + [
        c for c in cells if c.startswith("-") and not c[1:2].isdigit()
    ]
    assert risky == []
    assert "'=HYPERLINK(1)" in cells


def test_events_of_a_recording_come_back_as_they_were(gym: Gym, student: Student, clean: Played) -> None:
    made = replace(clean.simulated[0].recording, events=(Event(1.25, 3.5, "round", "two"),))
    assert raw(import_recording(gym, student, made)).events == made.events


def test_a_bag_unit_hung_upside_down_is_told_with_its_strikes(
    gym: Gym, student: Student, clean: Played, tmp_path: Path
) -> None:
    made = clean.simulated[0].recording
    unit = made.units["bag"]
    over = np.array([1, -1, -1], np.float32)
    turned = replace(unit, accel_m_s2=unit.accel_m_s2 * over, gyro_rad_s=unit.gyro_rad_s * over)
    said = import_path(gym, student, data_set(tmp_path / "over", replace(made, units={"bag": turned})))
    assert said.startswith("8 strikes in 1 recording. This unit hung another way up")
    assert Recording.objects.get().analysis.flags == ["turned:bag"]
    assert Bag.objects.get().name == f"{BAG.mass_kg:.0f} kg swivel bag"


def test_the_demos_evenings_rest_on_all_that_a_basis_holds_today() -> None:
    """Else the demo gym opens with a warning that its figures are old."""
    rows = json.loads(gzip.decompress(WEEKS.read_bytes()))
    assert {frozenset(row["analysis"]["bag"]) for row in rows} == {frozenset(FIELDS)}
    assert {row["analysis"]["version"] for row in rows} == {VERSION}
