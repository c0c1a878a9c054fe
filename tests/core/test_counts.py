"""Volume counts, the best number of a burst, and how late a tablet sounds."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from makers import evening, play

from agile_strike.core.errors import BadInput
from agile_strike.core.live.audio_delay import audio_delay, taps
from agile_strike.core.sets.best_burst import best_number
from agile_strike.core.sets.volume import next_set, shared
from agile_strike.core.simulation.unit import CLEAN


@given(
    st.lists(st.tuples(st.integers(1, 200), st.floats(0.0, 1.0)), min_size=1, max_size=12), st.sampled_from([5, 10, 20])
)
def test_sides_come_even_as_far_as_a_days_total_allows(days: list[tuple[int, float]], size: int) -> None:
    ahead = 0
    for total, wilful in days:
        wanted = shared(total, ahead)
        assert wanted.left + wanted.right == total
        thrown = [0, 0]
        while (coming := next_set(wanted, (thrown[0], thrown[1]), size)) is not None:
            assert 1 <= coming[1] <= size
            thrown[("left", "right").index(coming[0])] += coming[1]
        assert thrown == [wanted.left, wanted.right]
        left_over = abs(ahead + wanted.left - wanted.right)
        assert left_over == max(abs(ahead) - total, (ahead + total) % 2)
        ahead += round(wilful * total) - round((1 - wilful) * total)  # and then the student does as he likes


def test_all_of_a_day_on_one_leg_is_the_other_legs_next_day() -> None:
    wanted = shared(100, 100)
    assert (wanted.left, wanted.right, wanted.owed_side, wanted.owed) == (0, 100, "right", 100)


def fatigued(kept: list[float], bursts: int, seed: int, limbs: str = "r") -> list[list[tuple[str, float | None]]]:
    rng = np.random.default_rng(seed)
    level = {"l": 9.0, "r": 14.0}
    return [
        [(limbs[k % len(limbs)], level[limbs[k % len(limbs)]] * keeps * float(np.exp(0.08 * rng.standard_normal())))
         for k, keeps in enumerate(kept)]
        for _ in range(bursts)
    ]  # fmt: skip


def test_the_best_number_is_the_last_that_keeps_the_force() -> None:
    found = [best_number(fatigued([1.0, 0.97, 0.93, 0.62], 12, seed)) for seed in range(20)]
    assert sum(f.number == 3 and f.falls_at == 4 for f in found) >= 18
    inside = [
        p.low_pct <= 100 * k <= p.high_pct for f in found for p, k in zip(f.places, (0.97, 0.93, 0.62), strict=True)
    ]
    assert np.mean(inside) >= 0.75  # 80 % between both bounds


def test_two_hands_are_held_each_against_its_own_first() -> None:
    found = best_number(fatigued([1.0, 1.0, 0.98, 0.98], 12, 3, "lr"))
    assert [p.place for p in found.places] == [3, 4]
    assert found.number == 4


def test_few_bursts_say_nothing_and_one_side_of_the_doubt_says_neither() -> None:
    assert best_number(fatigued([1.0, 0.5], 3, 1)).places == ()
    unsure = best_number(fatigued([1.0, 0.8], 5, 2))
    assert (unsure.number, unsure.falls_at) == (None, None)


# --- the tablet's sound


def tapped(
    delay_s: float, seed: int, early_s: float = 0.03, missed: int = 0, spread_s: float = 0.02
) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    beeps = 10.0 + 0.9 * np.arange(12)
    taps_s = beeps[2:] + delay_s - early_s + spread_s * rng.standard_normal(10)
    taps_s = np.delete(taps_s, rng.choice(10, missed, replace=False))
    stray = rng.uniform(10.0, 21.0, 2)
    return beeps, np.sort(np.concatenate([taps_s, stray]))


@pytest.mark.parametrize("delay_s", [0.02, 0.09, 0.24])
def test_taps_with_the_beeps_tell_how_late_they_sounded(delay_s: float) -> None:
    rng = np.random.default_rng(5)
    off = []
    for seed in range(60):
        early = 0.03 + 0.02 * rng.standard_normal()  # of people who differ
        beeps, felt = tapped(delay_s, seed, early, missed=int(rng.integers(0, 4)))
        found = audio_delay(beeps, felt, 0.003)
        off.append((found.delay_s - delay_s) / found.sd_s)
        assert found.sd_s < 0.03
    assert np.mean(np.abs(off) < 2.0) >= 0.9
    assert abs(np.median(off)) < 0.5


def test_taps_that_follow_no_beep_tell_nothing() -> None:
    beeps, _ = tapped(0.1, 1)
    with pytest.raises(BadInput, match="felt no tap"):
        audio_delay(beeps, np.array([2.0, 40.0]), 0.003)
    with pytest.raises(BadInput, match="fell in"):
        audio_delay(beeps, beeps[3:6] + 0.1, 0.003)


def test_a_light_tap_is_felt_when_it_was() -> None:
    played = play(evening(strikes=10, bumps=0, mess=CLEAN, errors=False, speed=1.2), seed=9)
    made = played.simulated[0]
    felt = taps(made.recording.units["bag"])
    truth = np.array([t.contact_s for _, t in made.truths])
    nearest = np.abs(felt[None, :] - truth[:, None]).min(axis=1)
    assert nearest.max() < 0.012
