"""Units and bags calibrated from recordings, through the interface: kept, dated, used, refused, and no one else's."""

import datetime as dt
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from conftest import signed_in  # the server folder's own
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from makers import BAG, OFFSET, SIDES, G, laid, logger_table, swung

from agile_strike.capture.models import Recording
from agile_strike.core.recording import Participant, UnitSignal
from agile_strike.core.recording import Recording as CoreRecording
from agile_strike.gym.models import Gym
from agile_strike.kit.calibrations import TRUSTED_DAYS, corrected, units_of
from agile_strike.kit.models import Bag, BagVersion, Calibration
from agile_strike.kit.services import costs, height_doubt_mm, save_version

pytestmark = pytest.mark.django_db
NOW = dt.datetime(2026, 11, 3, 18, 30, tzinfo=dt.UTC)


def table_of(unit: UnitSignal, every: int = 1) -> SimpleUploadedFile:
    return SimpleUploadedFile("unit.csv", logger_table(unit, every))


@pytest.fixture
def bag(gym: Gym) -> Bag:
    return save_version(gym, None, "Long bag", BAG, NOW - dt.timedelta(days=30)).bag


@pytest.fixture
def rests(coach: Client) -> dict[str, Any]:
    told = coach.post("/api/calibrations?kind=rests&placement=leftwrist", {"file": table_of(laid(SIDES))})
    assert told.status_code == 201, told.content
    return dict(told.json())


def at_rest(up: list[float]) -> CoreRecording:
    """Two seconds of the same askew unit on a table."""
    return CoreRecording(Participant("01"), "01", "other", "01", None, {"leftwrist": laid([up])})


def test_six_positions_in_a_loggers_table_calibrate_a_unit(rests: dict[str, Any], coach: Client) -> None:
    assert np.abs(np.array(rests["result"]["accel_offset_m_s2"]) - OFFSET).max() < 0.02
    assert rests["result"]["residual_m_s2"] < 0.1 * rests["result"]["before_m_s2"]
    assert max(abs(x - G) for x in rests["drawn"]["after"]) < max(abs(x - G) for x in rests["drawn"]["before"])
    (listed,) = coach.get("/api/calibrations").json()
    assert (listed["kind"], listed["unit"], listed["bag"]) == ("rests", "leftwrist", "")
    trusted = dt.date.fromisoformat(listed["expires_on"]) - dt.datetime.fromisoformat(listed["made_at"]).date()
    assert trusted.days in (TRUSTED_DAYS["rests"], TRUSTED_DAYS["rests"] + 1)


def test_a_unit_is_corrected_by_the_calibration_nearest_in_time_while_it_is_trusted(
    rests: dict[str, Any], gym: Gym
) -> None:
    raw = at_rest([-1.0, 0.0, 0.0])
    made = Calibration.objects.get().made_at

    def weight(days: float) -> float:
        unit = corrected(gym, raw, units_of(gym, raw), made + dt.timedelta(days=days))[0].units["leftwrist"]
        return float(np.linalg.norm(unit.accel_m_s2[:400].mean(axis=0)))

    untouched = float(np.linalg.norm(raw.units["leftwrist"].accel_m_s2[:400].mean(axis=0)))
    assert weight(1) == pytest.approx(G, abs=0.01)
    assert weight(-30) == pytest.approx(G, abs=0.01)  # found out later, it was so before
    assert abs(untouched - G) > 0.1
    assert weight(TRUSTED_DAYS["rests"] + 1) == pytest.approx(untouched)
    Calibration.objects.create(
        gym=gym,
        kind="rests",
        unit=Calibration.objects.get().unit,
        made_at=made + dt.timedelta(days=60),
        expires_on=made.date() + dt.timedelta(days=150),
        result={**rests["result"], "accel_scale": [2.0, 2.0, 2.0]},
    )
    assert weight(10) == pytest.approx(G, abs=0.01)
    assert weight(50) > 1.8 * G


def test_another_gyms_calibration_corrects_nothing(rests: dict[str, Any], db: None) -> None:
    raw = at_rest([0.0, 0.0, 1.0])
    other = Gym.objects.create(name="Another gym")
    np.testing.assert_array_equal(
        corrected(other, raw, units_of(other, raw), NOW)[0].units["leftwrist"].accel_m_s2,
        raw.units["leftwrist"].accel_m_s2,
    )


def test_a_free_swing_becomes_the_bags_inertia_and_its_doubt_shrinks(coach: Client, bag: Bag) -> None:
    before = height_doubt_mm(bag.versions.latest("since").to_core())
    address = f"/api/calibrations?kind=swing&bag_id={bag.pk}&pivot_above_top_m=0.05"
    told = coach.post(address, {"file": table_of(swung(6.2), every=10)})
    assert told.status_code == 201, told.content
    result = told.json()["result"]
    assert abs(result["inertia_cm_kg_m2"] - 6.2) < 3 * result["inertia_sd_kg_m2"]
    version = bag.versions.order_by("-since", "-id").first()
    assert version is not None
    assert version.inertia_cm_kg_m2 == pytest.approx(result["inertia_cm_kg_m2"])
    after = height_doubt_mm(version.to_core())
    assert before is not None
    assert after is not None
    assert after < before
    drawn = told.json()["drawn"]
    assert np.corrcoef(drawn["rate_rad_s"], drawn["fitted_rad_s"])[0, 1] > 0.99


@pytest.mark.parametrize(
    ("question", "file", "said"),
    [
        ("kind=moon", "still", "moon is no calibration: choose one of rests, swing, ball"),
        ("kind=swing", "still", "Choose the bag"),
        ("kind=swing&bag_id={bag}", "still", "did not swing freely"),
        ("kind=ball&bag_id={bag}&ball_kg=3&speeds=8", "still", "pairs, in and out"),
        ("kind=ball&bag_id={bag}&ball_kg=3&speeds=8 2, 8 2, 8 2", "still", "0 hits were found for 3 pairs"),
        ("kind=rests&placement=leftwrist", "still", "1 position at rest was found, and six are needed"),
        ("kind=rests&placement=leftwrist", "shaken", "never at rest for a second"),
        ("kind=rests&placement=leftwrist", "words", "words.csv"),
        ("kind=rests&placement=leftwrist", "archive", "archive.zip"),
    ],
)
def test_what_does_not_show_the_fit_is_refused_and_nothing_is_kept(
    coach: Client, bag: Bag, question: str, file: str, said: str
) -> None:
    rng = np.random.default_rng(4)
    shaken = UnitSignal(
        "x", 200.0, rng.normal(0, 9, (2000, 3)).astype(np.float32), rng.normal(0, 3, (2000, 3)).astype(np.float32)
    )
    files = {
        "still": lambda: table_of(laid([SIDES[0]] * 15)),
        "shaken": lambda: table_of(shaken),
        "words": lambda: SimpleUploadedFile("words.csv", b"only words here\nand here\n"),
        "archive": lambda: SimpleUploadedFile("archive.zip", b"no zip at all"),
    }
    told = coach.post(f"/api/calibrations?{question.format(bag=bag.pk)}", {"file": files[file]()})
    assert told.status_code == 422, told.content
    assert said in told.json()["message"]
    assert "\n" not in told.json()["message"]
    assert not Calibration.objects.exists()
    assert bag.versions.count() == 1


def test_a_calibration_lists_the_recordings_that_it_bears_on(
    recording: Recording, coach: Client, stranger: Client
) -> None:
    told = coach.post("/api/calibrations?kind=rests&placement=bag", {"file": table_of(laid(SIDES))}).json()
    (touched,) = coach.get(f"/api/calibrations/{told['id']}/touches").json()
    assert (touched["id"], touched["student"]) == (recording.pk, recording.student.name)
    other = coach.post("/api/calibrations?kind=rests&placement=torso", {"file": table_of(laid(SIDES))}).json()
    assert coach.get(f"/api/calibrations/{other['id']}/touches").json() == []
    assert stranger.get(f"/api/calibrations/{told['id']}/touches").status_code == 404
    assert stranger.get("/api/calibrations").json() == []


def test_nobody_calibrates_another_gyms_bag(stranger: Client, bag: Bag) -> None:
    address = f"/api/calibrations?kind=swing&bag_id={bag.pk}&pivot_above_top_m=0.05"
    told = stranger.post(address, {"file": table_of(swung(6.2, 12.0), every=10)})
    assert (told.status_code, told.json()["message"]) == (422, "Choose the bag that this is about.")
    assert BagVersion.objects.count() == 1


def test_units_say_when_they_were_calibrated(recording: Recording, rests: dict[str, Any], coach: Client) -> None:
    coach.post("/api/calibrations?kind=rests&placement=bag", {"file": table_of(laid(SIDES))})
    (unit,) = [u for u in coach.get("/api/units").json() if u["place"] == "bag"]
    assert unit["recordings"] == 1
    assert unit["calibrated_on"] == dt.datetime.now(dt.UTC).date().isoformat()


@pytest.mark.parametrize("mount", ["swivel", "fixed", "standing"])
def test_what_a_bags_doubt_costs_is_told_in_newtons_with_a_remedy(mount: str) -> None:
    values = {"mount": mount, "pivot_to_top_m": 0.1 if mount == "fixed" else 0.0}
    body = replace(BAG, **values)  # type: ignore[arg-type]
    rows, sure = ({c.what: c for c in costs(b)} for b in (body, replace(body, mass_sd_kg=0.024)))
    assert rows["Mass"].newtons == pytest.approx(10 * sure["Mass"].newtons)
    assert rows["Mass"].doubt == "48 ±0.48 kg"
    assert all(c.newtons >= 0.0 and c.remedy for c in rows.values())
    assert ("Where it was hit" in rows) == (mount != "swivel")


def test_a_second_gym_may_have_a_bag_of_the_same_name(bag: Bag) -> None:
    other = signed_in(Gym.objects.create(name="A third gym"), "third")
    body = {"name": "Long bag", "values": {"mount": "swivel", "mass_kg": 40, "length_m": 1.2, "diameter_m": 0.35}}
    values = {**body["values"], "sensor_below_top_m": 0.3}  # type: ignore[dict-item]
    first = other.post("/api/bags", {**body, "values": values}, content_type="application/json")
    assert first.status_code == 200, first.content
    again = other.post("/api/bags", {**body, "values": values}, content_type="application/json")
    assert again.status_code == 422
    assert "already: choose another name" in again.json()["message"]
