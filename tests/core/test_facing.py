"""Which unit hung on the bag, and which way round: said, never guessed in silence."""

from dataclasses import replace
from itertools import permutations, product

import numpy as np
import pytest
from makers import Played, body_worn, evening, play
from numpy.typing import NDArray

from agile_strike.core.analysis import analyse
from agile_strike.core.recording import Recording


def ways_round() -> list[NDArray[np.float32]]:
    """All 24 ways in which a box can be turned by quarter turns."""
    out = []
    for order, signs in product(permutations(range(3)), product((1.0, -1.0), repeat=3)):
        turn = np.zeros((3, 3), np.float32)
        turn[range(3), order] = signs
        if np.linalg.det(turn) > 0:
            out.append(turn)
    return out


def turned(recording: Recording, turn: NDArray[np.float32]) -> Recording:
    unit = recording.units["bag"]
    moved = replace(unit, accel_m_s2=unit.accel_m_s2 @ turn.T, gyro_rad_s=unit.gyro_rad_s @ turn.T)
    return replace(recording, units={"bag": moved})


@pytest.fixture(scope="module")
def swinging() -> Played:
    return play(evening(strikes=20, bumps=6), seed=3)


@pytest.mark.parametrize("turn", ways_round()[1:])
def test_whichever_way_round_the_unit_hangs_the_figures_stay_and_it_is_said(
    swinging: Played, turn: NDArray[np.float32]
) -> None:
    usual = swinging.analyses[0]
    found = analyse(turned(swinging.simulated[0].recording, turn))
    assert len(found.strikes) == len(usual.strikes)
    up, out = turn[2, 2], turn[0, 0]
    assert ("turned:bag" in found.flags) == (not (up == 1.0 and out == 1.0))
    for a, b in zip(usual.strikes, found.strikes, strict=True):
        for name in ("impulse_n_s", "off_centre_m", "hit_below_top_m"):
            assert b.measures[name].value == pytest.approx(a.measures[name].value, rel=1e-4, abs=1e-4), name


def test_a_unit_that_hangs_as_it_should_is_never_turned() -> None:
    played = play(*[evening(strikes=6, bumps=4) for _ in range(8)], seed=7)
    assert [a.flags for a in played.analyses] == [()] * 8


@pytest.mark.parametrize("kind", ["walking", "running", "jumping", "handling"])
@pytest.mark.parametrize("seed", [2, 5])
def test_a_worn_unit_taken_for_the_bags_gives_no_strike_and_says_why(kind: str, seed: int) -> None:
    found = analyse(body_worn(kind, 60.0, seed=seed))
    assert found.strikes == []
    assert found.flags == ("no_bag",)
    why = next(n.why for n in found.not_measured if n.measure == "impulse_n_s")
    assert "does not move as a hanging bag" in why or "did not hang upright" in why


def test_a_bag_that_is_carried_in_before_keeps_its_strikes(swinging: Played) -> None:
    """A quarter of a minute of rough handling before class."""
    real, rough = swinging.simulated[0].recording.units["bag"], body_worn("handling", 15.0, seed=4).units["bag"]
    both = replace(
        real,
        accel_m_s2=np.concatenate([rough.accel_m_s2, real.accel_m_s2]),
        gyro_rad_s=np.concatenate([rough.gyro_rad_s, real.gyro_rad_s]),
    )
    found = analyse(replace(swinging.simulated[0].recording, units={"bag": both}))
    assert "no_bag" not in found.flags
    assert len([s for s in found.strikes if s.contact_s > 15.0]) >= 19
