"""A volume count over two evenings, and bursts with their best number, as screens by the bag are told of them."""

import datetime as dt

import numpy as np
import pytest
from asking import send
from django.test import Client
from django.utils import timezone
from live_makers import Evening

from agile_strike.capture.models import AnalysisRun, Recording
from agile_strike.evening import services as evenings
from agile_strike.evening.models import Session, Volume
from agile_strike.gym.models import Gym
from agile_strike.live.models import Mark, Take
from agile_strike.live.screens.pages import TakePage, take_page
from agile_strike.live.taps import sets
from agile_strike.people.models import Student
from agile_strike.review.models import Strike, StrikeSet

pytestmark = pytest.mark.django_db


def thrown_before(gym: Gym, student: Student, days_ago: int, left: int, right: int) -> None:
    day = gym.today - dt.timedelta(days=days_ago)
    session = evenings.evening_of(student, day)
    recording = Recording.objects.create(
        gym=gym, student=student, session=session, task="evening", run="01", length_s=600.0, rate_hz=1000.0,
        acquired_at=timezone.now() - dt.timedelta(days=days_ago), checksum=f"made {days_ago}",
    )  # fmt: skip
    run = AnalysisRun.objects.create(recording=recording, version="1")
    number = 0
    for side, n, code in (("left", left, "lead-round"), ("right", right, "rear-round")):
        own = StrikeSet.objects.create(recording=recording, code=code, limb=f"{side}_foot")
        for _ in range(n):
            number += 1
            Strike.objects.create(recording=recording, analysis=run, number=number, contact_s=3.0 * number, set=own,
                                  limb="unknown" if number % 2 else f"{side}_foot", impulse_n_s=30.0)  # fmt: skip


def page_of(gym: Gym, take: Take) -> TakePage:
    return take_page(gym, Take.objects.get(pk=take.pk), False)


def test_a_side_that_is_behind_is_asked_for_first_and_strikes_chip_the_total_off(
    evening: Evening, gym: Gym, coach: Client
) -> None:
    take = evening.step_up()
    thrown_before(gym, evening.student, 3, left=30, right=10)
    body = {"family": "round", "total": 100, "size": 10}
    assert send(coach, "post", f"evenings/{take.session_id}/volumes", body).status_code == 201
    (free,) = page_of(gym, take).volumes
    assert (free.wanted_left, free.wanted_right, free.owed) == (50, 50, 0)  # nothing was counted on that day

    Volume.objects.create(session=Session.objects.get(student=evening.student, day=gym.today - dt.timedelta(3)),
                          family="round", total=40, size=10)  # fmt: skip
    page = page_of(gym, take)
    (count,) = page.volumes
    assert (count.wanted_left, count.wanted_right, count.owed_side, count.owed) == (40, 60, "right", 20)
    coming = page.coming[-1]
    assert (coming.code, coming.limb, coming.strikes) == ("rear-round", "right_foot", 10)

    text = evenings.SetText(code=coming.code, limb=coming.limb, strikes=coming.strikes)
    evening.begin(take, text)
    run = take.recording.analysis
    assert run is not None
    Take.objects.filter(pk=take.pk).update(
        clock={"zero_s": 0.0, "rate": 1.0, "epoch_s": evening.began.timestamp(), "sd_s": 0.01}
    )
    for k in range(12):
        Strike.objects.create(recording=take.recording, analysis=run, number=k + 1, contact_s=evening.now_s + 1.0 + k,
                              limb="right_foot", flags=["provisional"], impulse_n_s=30.0)  # fmt: skip
    assert page_of(gym, take).volumes[0].right == 0  # a screen adds those of the set that runs
    evening.now_s += 20.0
    mark = take.marks.get(kind=Mark.Kind.SET)
    assert send(coach, "post", f"takes/{take.pk}/sets/end", {"at": evening.now.isoformat()}).status_code == 200
    after = page_of(gym, take)
    assert (after.volumes[0].left, after.volumes[0].right) == (0, 12)
    assert (after.coming[-1].code, after.coming[-1].strikes) == ("rear-round", 10)
    assert [s.mark for s in after.strikes] == [mark.key] * 12

    assert send(coach, "delete", f"volumes/{count.id}", {}).status_code == 200
    assert page_of(gym, take).volumes == []


def test_a_count_is_one_of_both_sides_and_a_childs_is_small(evening: Evening, gym: Gym, coach: Client) -> None:
    session = evenings.evening_of(evening.student, gym.today)
    at = f"evenings/{session.pk}/volumes"
    wrong = send(coach, "post", at, {"family": "rear-round", "total": 50, "size": 10})
    assert (wrong.status_code, "both sides" in wrong.json()["message"]) == (422, True)
    assert send(coach, "post", at, {"family": "round", "total": 5000, "size": 10}).status_code == 422
    assert send(coach, "post", at, {"family": "round", "total": 50, "size": 7}).status_code == 422
    evening.student.birth_date, evening.student.consent = dt.date(2013, 4, 2), "kept"
    evening.student.save()
    refused = send(coach, "post", at, {"family": "round", "total": 100, "size": 10})
    assert (refused.status_code, "child" in refused.json()["message"]) == (422, True)
    assert not Volume.objects.exists()


def test_bursts_of_a_set_are_told_with_the_number_that_keeps_the_force(evening: Evening, gym: Gym) -> None:
    take = evening.step_up()
    evening.begin(take, evenings.SetText(code="rear-straight", limb="right_hand", strikes=24))
    Take.objects.filter(pk=take.pk).update(
        clock={"zero_s": 0.0, "rate": 1.0, "epoch_s": evening.began.timestamp(), "sd_s": 0.01}
    )
    run = take.recording.analysis
    rng = np.random.default_rng(4)
    at, number = evening.now_s, 0
    for _ in range(8):
        at += 4.0
        for place, keeps in enumerate((1.0, 0.96, 0.6)):
            number += 1
            impulse = 14.0 * keeps * float(np.exp(0.05 * rng.standard_normal()))
            Strike.objects.create(recording=take.recording, analysis=run, number=number, contact_s=at + 0.3 * place,
                                  limb="right_hand", impulse_n_s=impulse)  # fmt: skip
    evening.now_s = at + 3.0
    sets.end_set(gym, take.pk, evening.when())
    told = page_of(gym, take).bursts
    assert told is not None
    assert (told.bursts, told.strikes) == (8, 3.0)
    assert abs(told.rate_hz - 1 / 0.3) < 0.01
    assert (told.best.number, told.best.falls_at) == (2, 3)
    assert told.force_kept_pct is not None
    assert 50.0 < told.force_kept_pct < 70.0
