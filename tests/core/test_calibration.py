"""Calibration from recordings, against what is true."""

import numpy as np
import pytest
from makers import BAG, BIAS, OFFSET, SCALE, SIDES, G, laid, swung

from agile_strike.core.bag.calibration import from_ball, from_rests, from_swing
from agile_strike.core.errors import BadInput
from agile_strike.core.measured import Measured
from agile_strike.core.recording import UnitSignal


def test_rests_give_offset_scale_and_bias() -> None:
    found = from_rests(laid(SIDES))
    assert np.abs(found.accel_offset_m_s2 - OFFSET).max() < 0.02
    assert np.abs(found.accel_scale - SCALE).max() < 0.002
    assert np.abs(found.gyro_bias_rad_s - BIAS).max() < 0.001
    fixed = found.apply(laid(SIDES))
    assert np.linalg.norm(fixed.accel_m_s2[:400].mean(axis=0)) == pytest.approx(G, abs=0.01)


def test_too_few_positions_say_which_are_missing() -> None:
    with pytest.raises(BadInput, match="5 positions at rest were found, and six are needed"):
        from_rests(laid(SIDES[:5]))
    tilted = [[0, 0, 1], [0, 0.4, 1], [0, -0.5, 1], [0.5, 0, 1], [-0.5, 0, 1], [0.9, 0.9, 1]]
    with pytest.raises(BadInput, match="-z"):
        from_rests(laid(tilted))


@pytest.mark.parametrize("inertia", [4.5, 6.2, 8.0])
def test_a_free_swing_gives_the_inertia(inertia: float) -> None:
    found = from_swing(swung(inertia), BAG, 0.05).inertia_cm_kg_m2
    assert abs(found.value - inertia) < 3 * found.sd
    assert found.sd < 0.05 * inertia


def test_a_bag_that_does_not_swing_is_refused() -> None:
    still = UnitSignal("bag", 200.0, np.zeros((4000, 3), np.float32), np.zeros((4000, 3), np.float32))
    with pytest.raises(BadInput, match="No free swing"):
        from_swing(still, BAG, 0.0)


def test_a_swung_ball_gives_the_gain_and_an_absurd_one_is_refused() -> None:
    hits = [Measured(v, 0.1) for v in (8.1, 8.2, 8.15)]
    assert from_ball(hits, 2.0, [(3.1, 1.2)] * 3).gain.value == pytest.approx(8.6 / 8.15, rel=0.01)
    with pytest.raises(BadInput, match="check its mass and mount"):
        from_ball(hits, 4.0, [(3.1, 1.2)] * 3)
    with pytest.raises(BadInput, match="a pair for each"):
        from_ball(hits, 2.0, [(3.1, 1.2)])
