"""A strike is local: what is slow and a window round it say, bit for bit, what the whole evening says."""

import json
from dataclasses import replace

import numpy as np
import pytest
from kept import simulate
from makers import Played, evening, play

from agile_strike.core.analysis import Analysis, State, analyse, learn, strikes
from agile_strike.core.bag import state as bag_state
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.strikes import Strike
from agile_strike.core.window import window
from agile_strike.demo import gym_plan


@pytest.fixture(scope="module")
def worn() -> Analysis:
    """Full kit on a southpaw who kicks: clipped ankles, bursts, a clock for each unit."""
    idris = gym_plan.STUDENTS[1]
    return analyse(simulate(gym_plan.evening(idris, 11, 1.0, 0.0), np.random.default_rng(5)).recording)


def read_back(state: State) -> State:
    return State.from_json(json.loads(json.dumps(state.to_json())))


def said(strike: Strike, gap: bool) -> dict[str, object]:
    """All that is said of a strike, each figure with its doubt, each curve by its bytes."""
    measures = {n: m for n, m in strike.measures.items() if gap or n != "gap_ms"}
    curves = {n: c.tobytes() for n, c in strike.lanes.curves.items()} if strike.lanes else {}
    named = ("contact_s", "limb", "level", "chain_order", "launch_s", "planned")
    return {**{n: getattr(strike, n) for n in named}, "flags": set(strike.flags), **measures, **curves}


def differing(whole: Analysis) -> list[tuple[int, set[str]]]:
    """Strikes of which a window and the state, written down and read back, say otherwise than the whole did."""
    state = read_back(whole.state)
    out = []
    for i, strike in enumerate(whole.strikes):
        found = strikes(window(whole.recording, strike.contact_s, state.body), state)
        one = min(found, key=lambda f: abs(f.contact_s - strike.contact_s))
        gap = "gap_ms" in one.measures  # the strike before may lie outside of the window
        a, b = said(strike, gap), said(one, gap)
        if a != b:
            out.append((i, {n for n in {*a, *b} if a.get(n) != b.get(n)}))
    return out


def test_bag_and_body_are_measured_alike_in_a_window_and_in_the_whole(worn: Analysis) -> None:
    assert len(worn.strikes) > 40
    assert worn.strikes[10].lanes is not None
    assert differing(worn) == []


@pytest.mark.parametrize("which", ["messy", "clipped", "fixed"])
def test_every_kind_of_bag_is_measured_alike_in_a_window(which: str, request: pytest.FixtureRequest) -> None:
    played: Played = request.getfixturevalue(which)
    assert [differing(a) for a in played.analyses] == [[] for _ in played.analyses]


def test_a_unit_whose_rate_is_no_round_number_is_measured_alike_too(worn: Analysis) -> None:
    """Seconds are then no whole number of samples."""
    units = dict(worn.recording.units)
    wrist = units["leftwrist"]
    every = np.arange(0.0, len(wrist.accel_m_s2) - 1, 3.01)
    low, part = every.astype(int), (every % 1.0)[:, None]

    def thin(samples: np.ndarray) -> np.ndarray:  # type: ignore[type-arg]
        return (samples[low] * (1 - part) + samples[low + 1] * part).astype(np.float32)

    units["leftwrist"] = replace(
        wrist, rate_hz=wrist.rate_hz / 3.01, accel_m_s2=thin(wrist.accel_m_s2), gyro_rad_s=thin(wrist.gyro_rad_s)
    )
    slow = analyse(replace(worn.recording, units=units))
    assert any("contact_speed_m_s" in s.measures for s in slow.strikes if s.limb == "left_hand")
    assert differing(slow) == []


def test_a_state_learnt_beforehand_measures_what_the_analysis_measured(worn: Analysis) -> None:
    again = strikes(worn.recording, learn(worn.recording))
    assert [said(s, True) for s in again] == [said(s, True) for s in worn.strikes]


def halves(unit: UnitSignal) -> tuple[UnitSignal, UnitSignal]:
    middle = len(unit.accel_m_s2) // 2 // 5 * 5
    first, second = (
        replace(unit, accel_m_s2=unit.accel_m_s2[part], gyro_rad_s=unit.gyro_rad_s[part], first_sample=begin)
        for part, begin in ((slice(middle), 0), (slice(middle, None), middle))
    )
    return first, second


def test_a_bag_that_is_learnt_piece_by_piece_is_the_bag_that_is_learnt_at_once(messy: Played) -> None:
    recording: Recording = messy.simulated[0].recording
    unit, bag = recording.units["bag"], recording.bag
    assert bag is not None
    first, second = halves(unit)
    state = bag_state.learn(None, bag_state.look(first), unit.rate_hz, bag)
    assert state.seat.rotation.tolist() != messy.analyses[0].state.bag.seat.rotation.tolist()  # type: ignore[union-attr]
    state = bag_state.learn(state, bag_state.look(second), unit.rate_hz, bag)
    assert state.to_json() == messy.analyses[0].state.bag.to_json()  # type: ignore[union-attr]


def test_what_is_slow_differs_between_two_evenings_and_so_do_their_strikes() -> None:
    """Or the state would say nothing."""
    made = play(evening(strikes=6, bumps=0), evening(strikes=6, bumps=0), seed=11)
    one, other = made.analyses
    assert one.state.to_json() != other.state.to_json()
    strike = one.strikes[2]
    (wrong,) = [
        s
        for s in strikes(window(one.recording, strike.contact_s, None), read_back(other.state))
        if abs(s.contact_s - strike.contact_s) < 0.01
    ]
    assert wrong.measures["impulse_n_s"] != strike.measures["impulse_n_s"]
