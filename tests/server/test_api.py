"""What the API promises a coach, and keeps from others."""

import csv
import io

import pytest
from asking import seen, values_of  # the server folder's own
from django.db import IntegrityError, transaction
from django.test import Client

from agile_strike.capture.models import Recording
from agile_strike.gym.models import Gym
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db
JSON = "application/json"


def test_signing_in_and_out(gym: Gym, coach: Client) -> None:
    fresh = Client()
    assert fresh.get("/api/session").json() == {"me": None}
    bad = fresh.post("/api/session", {"user": "coach", "password": "no"}, content_type=JSON)
    assert bad.status_code == 401
    fresh.post("/api/session", {"user": "coach", "password": "x"}, content_type=JSON)
    assert fresh.get("/api/session").json()["me"]["gym"] == gym.name
    fresh.delete("/api/session")
    assert fresh.get("/api/students").status_code == 401


def test_a_gym_sees_only_its_own(recording: Recording, student: Student, coach: Client, stranger: Client) -> None:
    strike = recording.strikes.first()
    assert strike is not None
    for path in (
        f"students/{student.pk}",
        f"recordings/{recording.pk}",
        f"recordings/{recording.pk}/strikes",
        f"recordings/{recording.pk}/strikes.csv",
    ):
        assert coach.get(f"/api/{path}").status_code == 200
        assert stranger.get(f"/api/{path}").status_code == 404
    assert stranger.get(f"/api/students/{student.pk}/recordings").json() == []
    assert stranger.get(f"/api/curves?ids={strike.pk}").json() == []
    assert stranger.get("/api/bags").json() == []
    thrown = stranger.post("/api/strikes/exclude", {**seen([strike.pk]), "reason": "mine"}, content_type=JSON)
    assert thrown.status_code == 404
    assert Strike.objects.counted().count() == 8


def test_a_strike_is_thrown_out_with_a_reason_and_taken_back(recording: Recording, coach: Client) -> None:
    ids = list(recording.strikes.values_list("id", flat=True))[:2]
    assert coach.post("/api/strikes/exclude", {**seen(ids), "reason": " "}, content_type=JSON).status_code == 422
    coach.post("/api/strikes/exclude", {**seen(ids), "reason": "glancing"}, content_type=JSON)
    assert coach.get(f"/api/recordings/{recording.pk}/strikes").json()["excluded"][:3] == ["glancing", "glancing", ""]
    assert recording.strikes.counted().count() == 6  # type: ignore[attr-defined]
    coach.post("/api/strikes/restore", seen(ids[:1]), content_type=JSON)
    assert recording.strikes.counted().count() == 7  # type: ignore[attr-defined]


def test_the_force_curve_agrees_with_the_table(recording: Recording, coach: Client) -> None:
    strike = recording.strikes.all()[3]
    (curve,) = coach.get(f"/api/curves?ids={strike.pk}").json()
    assert max(curve["force_n"]) == pytest.approx(strike.peak_force_n, rel=0.01)
    assert curve["end_ms"] == pytest.approx(strike.contact_ms, abs=0.1)
    step_s = (curve["ms"][1] - curve["ms"][0]) / 1e3
    inside = [f for ms, f in zip(curve["ms"], curve["force_n"], strict=True) if 0 <= ms <= curve["end_ms"]]
    assert sum(inside) * step_s == pytest.approx(strike.impulse_n_s, rel=0.03)


def test_the_csv_holds_the_figures_of_the_screen(recording: Recording, coach: Client) -> None:
    text = coach.get(f"/api/recordings/{recording.pk}/strikes.csv").content.decode()
    rows = list(csv.DictReader(io.StringIO(text)))
    shown = coach.get(f"/api/recordings/{recording.pk}/strikes").json()
    assert [float(r["impulse_n_s"]) for r in rows] == pytest.approx(shown["values"]["impulse_n_s"], rel=1e-6)


def test_students_are_added_weighed_and_change_stance(coach: Client) -> None:
    new = {"name": "Wren Okafor", "stance": "orthodox", "birth_date": "2013-04-02", "mass_kg": 47}
    made = coach.post("/api/students", new, content_type=JSON).json()
    assert (made["label"], made["consent"], made["mass_kg"]) == ("wren", "missing", 47)
    again = coach.post("/api/students", {**new, "name": "Wren Other"}, content_type=JSON).json()
    assert again["label"] == "wren2"
    page = f"/api/students/{made['id']}"
    for kg in (46.0, 46.5):
        mass = {"measured_on": "2026-11-10", "mass_kg": kg, "was_kg": None if kg == 46.0 else 46.0}
        coach.post(f"{page}/masses", mass, content_type=JSON)
    coach.post(f"{page}/stance", {"stance": "southpaw", "version": made["version"]}, content_type=JSON)
    now = coach.get(page).json()
    assert [m["mass_kg"] for m in now["masses"]] == [46.5, 47]
    assert now["stance"] == "southpaw"


@pytest.mark.parametrize(
    ("path", "body", "said"),
    [
        ("students", {"name": "  ", "stance": "orthodox"}, "A student needs a name."),
        ("students", {"name": "A", "stance": "sideways"}, "Stance is orthodox or southpaw."),
        ("students", {"name": "A", "stance": "orthodox", "mass_kg": 4000}, "4000 kg is not a person's mass"),
        ("students", {"name": "A"}, "student.stance: Field required"),
        (
            "bags",
            {
                "name": "B",
                "values": {
                    "mount": "glued",
                    "mass_kg": 40,
                    "length_m": 1,
                    "diameter_m": 0.3,
                    "sensor_below_top_m": 0.2,
                },
            },
            "mount is glued",
        ),
        (
            "bags",
            {
                "name": "B",
                "values": {
                    "mount": "swivel",
                    "mass_kg": -2,
                    "length_m": 1,
                    "diameter_m": 0.3,
                    "sensor_below_top_m": 0.2,
                },
            },
            "mass_kg is -2",
        ),
    ],
)
def test_bad_forms_get_one_clear_error(coach: Client, path: str, body: object, said: str) -> None:
    answer = coach.post(f"/api/{path}", body, content_type=JSON)
    assert answer.status_code == 422
    assert said in answer.json()["message"]
    assert not Student.objects.exists()


def test_a_changed_bag_is_a_new_version_and_recordings_keep_the_old(recording: Recording, coach: Client) -> None:
    (bag,) = coach.get("/api/bags").json()
    values = {**values_of(bag), "mass_kg": 50.0, "mass_sd_kg": 0.25}
    body = {"id": bag["id"], "version": bag["version"], "name": "Bag by the door", "values": values}
    changed = coach.post("/api/bags", body, content_type=JSON).json()
    assert [v["mass_kg"] for v in changed["versions"]] == [50.0, 48.0]
    assert Recording.objects.get().bag_version.mass_kg == 48.0  # type: ignore[union-attr]
    mass = next(c for c in changed["costs"] if c["what"] == "Mass")
    assert mass["newtons"] == pytest.approx(2500 * 0.25 / 50)


def test_inertia_from_the_timed_free_swing(coach: Client) -> None:
    # a thin uniform rod of length L about its end swings in 2 pi sqrt(2 L / 3 g)
    length, period = 1.2, 2 * 3.14159265 * (2 * 1.2 / 3 / 9.80665) ** 0.5
    body = {
        "name": "Rod",
        "swing_period_s": period,
        "values": {"mount": "swivel", "mass_kg": 30, "length_m": length, "diameter_m": 0.1, "sensor_below_top_m": 0.2},
    }
    made = coach.post("/api/bags", body, content_type=JSON).json()
    assert made["current"]["inertia_cm_kg_m2"] == pytest.approx(30 * length**2 / 12, rel=1e-3)


def test_the_database_itself_refuses_nonsense(recording: Recording, student: Student) -> None:
    strike = recording.strikes.first()
    assert strike is not None
    for rows, change in (
        (Strike.objects.filter(pk=strike.pk), {"impulse_n_s": -1}),
        (Strike.objects.filter(pk=strike.pk), {"excluded_reason": "no time noted"}),
        (BagVersion.objects.all(), {"mass_kg": 0}),
        (Student.objects.all(), {"label": "not a label"}),
    ):
        with pytest.raises(IntegrityError), transaction.atomic():
            rows.update(**change)  # type: ignore[attr-defined]


def test_every_page_address_serves_the_application_and_its_policy(client: Client) -> None:
    answer = client.get("/students/3/read")
    assert answer.status_code == 200
    assert "default-src 'self'" in answer.headers["Content-Security-Policy"]
    assert client.get("/missing.js").status_code == 404
