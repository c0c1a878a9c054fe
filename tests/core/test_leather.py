"""Leather that lets go late: what it pushes on with is no swing."""

from dataclasses import replace

import numpy as np
import pytest
from kept import simulate
from makers import Played, evening, play

from agile_strike.core.analysis import analyse, strikes
from agile_strike.core.bag.leather import AT_ONCE, PERHAPS, learnt
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


def blows(swings: float, weighed: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Moments of 24 blows about the top, the part that turning has, and the instants: a swing that goes back after each
    alike, on a bag whose mass against its inertia is off by a share."""
    since = np.arange(-0.12, 0.12, 0.005)
    rng = np.random.default_rng(2)
    step = np.where(since > 0.0, 1.0, 0.0)
    turning = 0.6 * step - swings * np.where(since > 0.0, 1.0 - np.cos(25.0 * since), 0.0)
    moment = step + weighed * (turning - 0.6 * step) + 0.004 * rng.standard_normal((24, len(since)))
    flat = np.broadcast_to(turning, moment.shape)
    return np.stack([20.0 * moment, 0.0 * moment], 2), np.stack([20.0 * flat, 0.0 * flat], 2), since


def late(since: np.ndarray) -> np.ndarray:
    tail = np.where(since > 0.0, 4.0 * np.exp(-np.maximum(since, 0.0) / 0.018), 0.0)
    return np.stack([tail, 0.0 * tail], 1)


@pytest.mark.parametrize(("swings", "weighed"), [(0.0, 0.0), (0.5, 0.05), (0.5, -0.05)])
def test_a_tail_is_told_on_a_bag_that_was_weighed_wrong_too(swings: float, weighed: float) -> None:
    moment, turning, since = blows(swings, weighed)
    assert learnt(moment, turning, since) == AT_ONCE
    found = learnt(moment - late(since), turning - 0.6 * late(since), since)
    assert found.left(np.array(0.025)) == pytest.approx(0.2 * np.exp(-0.025 / 0.018), abs=0.015)


def test_a_limb_that_stays_now_and_then_is_no_leather() -> None:
    moment, turning, since = blows(0.0, 0.0)
    moment[::6] -= 1.5 * late(since)
    assert learnt(moment, turning, since) == AT_ONCE


def test_a_tail_that_blows_hint_at_and_do_not_show_is_not_told_but_doubted() -> None:
    moment, turning, since = blows(0.0, 0.0)
    rng = np.random.default_rng(3)
    wild = rng.uniform(0.0, 0.4, (24, 1, 1)) * late(since)  # another one after each blow
    found = learnt(moment - wild, turning - 0.6 * wild, since)
    assert (found.share, found.perhaps > 0.0) == (0.0, True)


def test_what_perhaps_comes_late_widens_the_doubt_and_moves_no_figure() -> None:
    unit = simulate(evening(strikes=12), np.random.default_rng(5)).recording
    sure = analyse(unit)
    assert sure.state.bag is not None
    seat = replace(sure.state.bag.seat, tail=PERHAPS)
    unsure = strikes(unit, replace(sure.state, bag=replace(sure.state.bag, seat=seat)))
    for one, other in zip(sure.strikes, unsure, strict=True):
        for measure, least in (("contact_ms", 1.5), ("impulse_n_s", 1.2)):
            a, b = one.measures[measure], other.measures[measure]
            assert a.value == b.value
            assert b.sd > least * a.sd, measure


def test_water_in_a_bag_is_in_the_doubt_of_its_impulse_and_leaves_the_rest() -> None:
    held = evening(strikes=24)
    played = play(replace(held, bag=replace(held.bag, filling="water"), water_share=0.1), seed=6).score
    assert (played.recall, played.precision) == (1.0, 1.0)
    assert np.median(played.errors["impulse_n_s"]) > 6.0  # a tenth of what was weighed does not come along
    for measure in ("impulse_n_s", "peak_force_n", "bag_energy_j", "contact_ms", "hit_below_top_m"):
        assert played.covered(measure) > 0.9, measure
