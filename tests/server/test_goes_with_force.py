"""What goes with force, as a coach asks for it: one student, one strike; no child."""

import numpy as np
import pytest
from django.test import Client

from agile_strike.people.models import Student
from agile_strike.review.models import Strike
from agile_strike.trials.models import Trial

pytestmark = pytest.mark.django_db


def test_a_tie_is_told_from_the_students_own_strikes_and_ends_in_a_trial(
    student: Student, trial: Trial, coach: Client, stranger: Client
) -> None:
    path = f"/api/students/{student.pk}/goes-with"
    told = coach.get(path).json()
    assert (told["code"], told["ties"], told["proposal"]) == ("rear-straight", [], None)
    assert told["refused"] == "no measure of the body is there in most strikes"
    assert len(told["left_out"]) == 9
    rng = np.random.default_rng(2)
    strikes = list(Strike.objects.all())
    for s in strikes:
        assert s.impulse_n_s is not None
        s.load_shift_pct = 100.0 * float(np.log(s.impulse_n_s)) + 4.0 * rng.standard_normal()
        s.load_shift_pct_sd = 0.5
    Strike.objects.bulk_update(strikes, ["load_shift_pct", "load_shift_pct_sd"])
    told = coach.get(path).json()
    (tie,) = told["ties"]
    assert (tie["measure"], tie["goes"], told["sets"]) == ("load_shift_pct", True, 20)
    assert tie["partial"]["low"] > 0.0
    assert told["proposal"]["levels"] == ["stay centred", "full shift onto the lead heel"]
    assert stranger.get(path).status_code == 404
    Student.objects.filter(pk=student.pk).update(birth_date=student.gym.today, consent="kept")
    assert "counts as a child" in coach.get(path).json()["message"]


def test_without_a_labelled_strike_it_says_so(student: Student, coach: Client) -> None:
    told = coach.get(f"/api/students/{student.pk}/goes-with").json()
    assert told["refused"] == "no strike on a bag is labelled yet"
