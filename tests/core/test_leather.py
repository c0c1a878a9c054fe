"""Leather that lets go late: what it pushes on with is no swing."""

from dataclasses import replace

import numpy as np
import pytest
from makers import Played, evening, play

from agile_strike.core.bag.leather import AT_ONCE, learnt
from agile_strike.core.simulation import evening as simulated


@pytest.fixture(scope="module", params=[0.012, 0.025])
def tailing(request: pytest.FixtureRequest) -> Played:
    """A fifth of each push comes back late."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(simulated, "TAIL_S", request.param)
        return play(*(replace(evening(strikes=30, kg=kg), tail_share=0.2) for kg in (36.0, 52.0)), seed=8)


def test_what_comes_late_is_part_of_the_impulse(tailing: Played) -> None:
    errors, doubts = tailing.score.errors, tailing.score.doubts
    for measure, most in (("impulse_n_s", 1.5), ("peak_force_n", 2.0)):
        assert abs(np.median(errors[measure])) < most, measure
        assert np.mean(np.abs(errors[measure]) <= 2 * doubts[measure]) > 0.9, measure


def test_an_end_that_nobody_can_see_is_in_the_doubt(tailing: Played) -> None:
    errors, doubts = tailing.score.errors["contact_ms"], tailing.score.doubts["contact_ms"]
    assert np.mean(np.abs(errors) <= 2 * doubts) > 0.85
    assert np.median(doubts) > 1.5


def test_leather_that_springs_back_has_no_tail(messy: Played, clean: Played) -> None:
    for analysis in (*messy.analyses, *clean.analyses):
        assert analysis.mounting is not None
        assert analysis.mounting.tail == AT_ONCE


def test_a_limb_that_stays_now_and_then_is_no_leather() -> None:
    since = np.arange(-0.12, 0.12, 0.005)
    rng = np.random.default_rng(2)
    blows = np.where(since > 0.0, 1.0, 0.0) + 0.004 * rng.standard_normal((24, len(since)))
    blows[::6] -= np.where(since > 0.0, 0.3 * np.exp(-np.maximum(since, 0.0) / 0.02), 0.0)
    moment = np.stack([20.0 * blows, 0.0 * blows], axis=2)
    assert learnt(moment, since) == AT_ONCE
    late = moment - np.stack(
        [np.where(since > 0.0, 4.0 * np.exp(-np.maximum(since, 0) / 0.018), 0.0) + 0 * blows, 0 * blows], 2
    )
    found = learnt(late, since)
    assert found.left(np.array(0.025)) == pytest.approx(0.2 * np.exp(-0.025 / 0.018), abs=0.015)
