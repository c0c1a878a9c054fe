"""A trial of five evenings with a true gain, and the requests that make one."""

import datetime as dt
from typing import Any

import numpy as np
import pytest
from asking import send  # the server folder's own
from django.test import Client

from agile_strike.capture.basis import bag_figures
from agile_strike.capture.models import AnalysisRun, Recording
from agile_strike.core.analysis import VERSION
from agile_strike.core.target import Bag
from agile_strike.evening.services import evening_of
from agile_strike.gym.models import Gym
from agile_strike.kit.models import BagVersion
from agile_strike.kit.services import save_version
from agile_strike.people.models import Student
from agile_strike.review.models import Strike, StrikeSet
from agile_strike.trials.models import Trial

JSON = "application/json"
FACTOR, CENTRED, SHIFT = "weight transfer", "stay centred", "full shift"
START = dt.date(2026, 10, 6)
BODY = Bag("swivel", 52.0, 1.25, 0.36, 0.28, mass_sd_kg=0.25, inertia_cm_kg_m2=7.3, inertia_sd_kg_m2=0.15)


def plan(student: Student, **other: Any) -> dict[str, Any]:
    return {
        "factor": FACTOR,
        "levels": [CENTRED, SHIFT],
        "code": "rear-straight",
        "height": "head",
        "measure": "impulse_n_s",
        "watch": ["settle_ms", "peak_force_n"],
        "students": [student.pk],
        "gear": "12 oz",
    } | other


@pytest.fixture
def bag(gym: Gym) -> BagVersion:
    return save_version(gym, None, "Long bag", BODY, dt.datetime(2026, 10, 1, tzinfo=dt.UTC))


def evening(student: Student, bag: BagVersion, day: int, gain: float, seed: int, mass_kg: float = 70.0) -> Recording:
    """Four blocks of eight rear straights, taking turns; the second level gains and settles later."""
    rng = np.random.default_rng(seed)
    at = dt.datetime.combine(START + dt.timedelta(days=day), dt.time(17), dt.UTC)
    recording = Recording.objects.create(
        gym=student.gym,
        student=student,
        bag_version=bag,
        session=evening_of(student, student.gym.day(at)),
        session_label=f"{day}",
        task="mixed",
        acquired_at=at,
        length_s=400.0,
        rate_hz=1000.0,
        checksum=f"{student.pk}-{day}-{seed}",
    )
    run = AnalysisRun.objects.create(
        recording=recording, version=VERSION, bag=bag_figures(bag), body_mass_kg=mass_kg, strike_count=32
    )
    Recording.objects.filter(pk=recording.pk).update(analysis=run)
    good = 1.0 + 0.04 * rng.standard_normal()
    rows = []
    for place, level in enumerate("ABBA" if day % 14 == 0 else "BAAB"):
        b = level == "B"
        block = StrikeSet.objects.create(
            recording=recording,
            code="rear-straight",
            limb="right_hand",
            level="head",
            levels={FACTOR: SHIFT if b else CENTRED},
            gear="12 oz",
        )
        rows += [
            Strike(
                recording=recording,
                number=8 * place + k + 1,
                contact_s=90.0 * place + 4.0 * k + 5.0,
                limb="right_hand",
                set=block,
                analysis=run,
                impulse_n_s=good * 24.0 * (1.0 + gain * b) * (1.0 + 0.08 * rng.standard_normal()),
                impulse_n_s_sd=0.4,
                peak_force_n=2100.0 * (1.0 + gain * b) * (1.0 + 0.1 * rng.standard_normal()),
                settle_ms=250.0 + 180.0 * b + 40.0 * rng.standard_normal(),
                effective_mass_pct=4.0 + 0.5 * rng.standard_normal(),
            )
            for k in range(8)
        ]
    Strike.objects.bulk_create(rows)
    return recording


@pytest.fixture
def trial(gym: Gym, student: Student, bag: BagVersion, coach: Client) -> Trial:
    """Five evenings, a gain of an eighth."""
    made = send(coach, "post", "trials", plan(student)).json()
    Trial.objects.filter(pk=made["id"]).update(started_on=START)
    for i in range(5):
        evening(student, bag, 7 * i, 0.125, seed=i)
    return Trial.objects.get(pk=made["id"])


def compared(coach: Client, trial: Trial, **asked: Any) -> Any:
    student = trial.students.get()
    return coach.get(f"/api/trials/{trial.pk}/compare", {"student_id": student.pk} | asked).json()
