"""Strikes that nobody named: what they look like is suggested, taken by one tap, and never put over a coach's word."""

import datetime as dt

import numpy as np
import pytest
from asking import seen, send
from django.test import Client
from django.utils import timezone

from agile_strike.capture.models import AnalysisRun, Recording
from agile_strike.core.strikes import Lanes
from agile_strike.core.student.lanes import COURSE, TIMES_S
from agile_strike.evening.services import evening_of
from agile_strike.formats.chunks import pack_lanes
from agile_strike.gym.models import Gym
from agile_strike.intake.jobs import suggest_names
from agile_strike.people.models import Student
from agile_strike.review import names
from agile_strike.review.models import Guess, NamesLearnt, Strike, StrikeLanes, StrikeSet

KINDS = {"straight": 0.0, "hook": 3.0}
EACH = 12


def course(rng: np.random.Generator, bow: float) -> bytes:
    """A course that goes aside by `bow` on its way."""
    bump = np.exp(-(((TIMES_S + 0.08) / 0.04) ** 2))
    curves = {n: 0.2 * rng.standard_normal() * bump for n in COURSE}
    curves["ahead_m_s"] = curves["ahead_m_s"] + 6.0 * np.exp(-(((TIMES_S) / 0.1) ** 2))
    curves["inward_m_s"] = curves["inward_m_s"] + (bow + 0.3 * rng.standard_normal()) * bump
    return pack_lanes(Lanes(curves))


@pytest.fixture
def rounds(gym: Gym) -> list[Recording]:
    """Three students, each with named straights and hooks, and a free round of both by the first."""
    rng = np.random.default_rng(8)
    out = []
    for k, stance in enumerate(("orthodox", "southpaw", "orthodox")):
        student = Student.objects.create(
            gym=gym, name=f"Student {k}", label=f"s{k}", stance=stance, birth_date=dt.date(1990, 1, 1)
        )
        recording = Recording.objects.create(
            gym=gym, student=student, session=evening_of(student, gym.today), task="round", acquired_at=timezone.now(),
            length_s=300.0, rate_hz=1000.0, checksum=f"round {k}",
        )  # fmt: skip
        run = AnalysisRun.objects.create(recording=recording, version="0", stance=stance)
        lead = "left" if stance == "orthodox" else "right"
        rows, courses = [], []
        for named in (True, False) if k == 0 else (True,):
            for kind, bow in KINDS.items():
                own = StrikeSet.objects.create(recording=recording, code=f"lead-{kind}") if named else None
                for _ in range(EACH):
                    at = 3.0 * (len(rows) + 1)
                    rows.append(
                        Strike(
                            recording=recording,
                            analysis=run,
                            number=len(rows) + 1,
                            contact_s=at,
                            set=own,
                            limb=f"{lead}_hand",
                        )
                    )
                    courses.append(course(rng, bow))
        Strike.objects.bulk_create(rows)
        StrikeLanes.objects.bulk_create(StrikeLanes(strike=s, parquet=c) for s, c in zip(rows, courses, strict=True))
        out.append(recording)
    return out


def test_a_free_round_is_named_by_one_tap_and_back(rounds: list[Recording], gym: Gym, coach: Client) -> None:
    suggest_names(gym.pk)
    page = coach.get(f"/api/recordings/{rounds[0].pk}/strikes").json()
    loose = [i for i, s in enumerate(page["set_id"]) if s is None]
    assert [page["guess"][i] for i in loose[:EACH]].count("lead-straight") >= EACH - 2
    assert [page["guess"][i] for i in loose[EACH:]].count("lead-hook") >= EACH - 2
    assert not any(page["guess"][i] for i in range(len(page["id"])) if i not in loose)
    assert all(50 <= page["guess_pct"][i] <= 100 for i in loose if page["guess"][i])
    (hand,) = coach.get("/api/names").json()["parts"]
    assert (hand["part"], hand["names"], hand["students"]) == ("hand", ["hook", "straight"], 3)
    assert hand["right"] >= 0.9
    ids = [page["id"][i] for i in loose if page["guess"][i]]
    answer = send(coach, "post", "strikes/names", seen(ids))
    assert answer.json() == {"changed": len(ids)}
    named = Strike.objects.filter(pk__in=ids)
    assert set(named.values_list("set__code", flat=True)) == {"lead-hook", "lead-straight"}
    assert set(named.values_list("set__by_coach", flat=True)) == {True}
    before = [{"id": i, "version": 2, "set_id": None, "limb": "left_hand"} for i in ids]
    assert send(coach, "post", "strikes/label/undo", {"strikes": before}).status_code == 200
    assert not Strike.objects.filter(pk__in=ids, set__isnull=False).exists()


def test_a_coachs_word_stands(rounds: list[Recording], gym: Gym, coach: Client) -> None:
    names.suggest(gym)
    ids = list(Guess.objects.order_by("pk").values_list("pk", flat=True))
    shown = seen(ids)
    said = {"ids": ids[:1], "versions": [1], "code": "lead-uppercut", "limb": "", "level": "", "levels": {}, "gear": ""}
    assert send(coach, "post", "strikes/label", said).status_code == 200
    answer = send(coach, "post", "strikes/names", shown)
    assert answer.status_code == 409
    assert "named" in answer.json()["message"]
    assert not Strike.objects.filter(pk__in=ids[1:], set__isnull=False).exists()  # all of them or none
    names.suggest(gym)
    assert Strike.objects.get(pk=ids[0]).set.code == "lead-uppercut"  # type: ignore[union-attr]
    assert not Guess.objects.filter(pk=ids[0]).exists()


def test_it_is_learnt_again_only_where_there_is_more_to_learn(
    rounds: list[Recording], gym: Gym, stranger: Client
) -> None:
    suggest_names(gym.pk)
    first = NamesLearnt.objects.get().made_at
    suggest_names(gym.pk)
    assert NamesLearnt.objects.get().made_at == first
    Strike.objects.filter(recording=rounds[1]).update(version=2)
    suggest_names(gym.pk)
    assert NamesLearnt.objects.get().made_at > first
    assert stranger.get("/api/names").json() == {"made_at": None, "parts": []}
    suggest_names(10**6)  # a gym that has gone


def test_a_gym_with_one_student_is_told_nothing(rounds: list[Recording], gym: Gym) -> None:
    Strike.objects.exclude(recording=rounds[0]).delete()
    row = names.suggest(gym)
    assert row.told == {}
    assert not Guess.objects.exists()
