"""What the screens of a year's gym wait for, beside the plain query for the same strikes."""

import os
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.test import Client
from year import make_year

from agile_strike.gym.models import Gym
from agile_strike.people.models import Student
from agile_strike.review.models import Strike
from agile_strike.trials.models import Trial

pytestmark = pytest.mark.django_db
STUDENTS = int(os.environ.get("AGILE_STRIKE_YEAR_STUDENTS", "2"))  # 40 makes 200,000 strikes


SCREENS = (
    "plain query",
    "weeks",
    "compare",
    "compare, another worth",
    "class again",
    "season as PDF",
    "goes with force",
)


@pytest.fixture
def year(db: None) -> Gym:
    return make_year(STUDENTS)


@pytest.fixture
def client(year: Gym) -> Client:
    client = Client()
    client.force_login(get_user_model().objects.get(username="year"))
    return client


def plain(gym: Gym) -> int:
    """The baseline: one measure of a student's year, as the database gives it."""
    student = Student.objects.filter(gym=gym).first()
    rows = Strike.objects.filter(recording__student=student).values_list("set_id", "contact_s", "impulse_n_s")
    return len(list(rows))


@pytest.mark.benchmark(group="a year of a gym")
@pytest.mark.parametrize("what", SCREENS)
def test_a_years_screens(benchmark: Any, year: Gym, client: Client, what: str) -> None:
    trial = Trial.objects.filter(gym=year).first()
    assert trial is not None
    student = trial.students.get()
    addresses = {
        "weeks": f"/api/students/{student.pk}/weeks?code=rear-straight",
        "compare": f"/api/trials/{trial.pk}/compare?student_id={student.pk}",
        "compare, another worth": f"/api/trials/{trial.pk}/compare?student_id={student.pk}&worth_pct=7",
        "class again": "/api/class",
        "season as PDF": f"/api/students/{student.pk}/report.pdf?kind=season&weeks=52",
        "goes with force": f"/api/students/{student.pk}/goes-with",
    }
    if what == "plain query":
        assert benchmark(plain, year) == 5000
        return
    client.get(addresses[what])  # the first class view makes every claim; later ones find them
    answer = benchmark(client.get, addresses[what])
    assert answer.status_code == 200
    if what.startswith("compare"):
        assert sum(answer.json()["claim"]["n"].values()) == 4000
