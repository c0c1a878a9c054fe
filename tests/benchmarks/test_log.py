"""Searching ten years of a gym's log, beside the plain query for one of its kinds."""

import datetime as dt
import os
import random
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client

from agile_strike.evening.models import Session
from agile_strike.gym.models import Gym, Member
from agile_strike.logbook.models import Note
from agile_strike.people.models import BodyMass, Mark, Student

pytestmark = pytest.mark.django_db
STUDENTS = int(os.environ.get("AGILE_STRIKE_LOG_STUDENTS", "4"))  # 40 is a whole gym's ten years
DAYS = 3650
WORDS = (
    "hip shoulder wrist elbow guard late early shift step pivot heel breath relaxed stiff fast slow heavy clean cross "
    "jab hook round knee bag mirror ladder partner tired fresh sharp loose tall low wide narrow left right head body"
).split()
ASKED = ["wrist", "hip late", "left elbow stiff", "pi", "zzz", "sharp fresh bag"]


@pytest.fixture
def decade(db: None) -> Client:
    gym = Gym.objects.create(name="Ten years")
    rng = random.Random(1)
    first = gym.today - dt.timedelta(days=DAYS)

    def text(n: int) -> str:
        return " ".join(rng.choice(WORDS) for _ in range(n))

    students = Student.objects.bulk_create(
        Student(gym=gym, name=f"Student {k}", label=f"s{k}", stance="orthodox") for k in range(STUDENTS)
    )
    for s in students:
        days = [first + dt.timedelta(days=d) for d in range(0, DAYS, 3)]
        Session.objects.bulk_create(Session(student=s, day=d, gear="gloves 12 oz", notes=text(12)) for d in days)
        Note.objects.bulk_create(Note(gym=gym, student=s, day=d, text=text(8)) for d in days[::3])
        BodyMass.objects.bulk_create(BodyMass(student=s, measured_on=d, mass_kg=70.0) for d in days[::5])
        Mark.objects.bulk_create(Mark(student=s, kind="injury", since=d, until=d, text=text(3)) for d in days[::60])
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE")
    user = get_user_model().objects.create_user("decade", password="x")
    Member.objects.create(user=user, gym=gym, name="decade")
    client = Client()
    client.force_login(user)
    return client


@pytest.mark.benchmark(group="ten years of a log")
@pytest.mark.parametrize("what", ["plain query", "newest", *ASKED])
def test_a_log_of_ten_years(benchmark: Any, decade: Client, what: str) -> None:
    if what == "plain query":
        assert len(benchmark(lambda: list(Note.objects.order_by("-day")[:60]))) == 60
        return
    asked = {} if what == "newest" else {"text": what}
    answer = benchmark(decade.get, "/api/log", asked)
    assert answer.status_code == 200
    assert (len(answer.json()["lines"]) == 0) == (what == "zzz")
