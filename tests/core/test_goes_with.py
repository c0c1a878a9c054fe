"""What goes with force, where what is true is known: one cause among five that move together, or none."""

import numpy as np
import pytest
from numpy.typing import NDArray

from agile_strike.core.weeks.goes_with import GoesWith, goes_with

Floats = NDArray[np.float64]
NAMES = ("a", "b", "c", "d", "e")
MANY = 160


def student(
    rng: np.random.Generator, per_cent: float, reliable: float = 0.85, evenings: int = 12, per: int = 10
) -> GoesWith:
    """Sets of strikes: measures that share 0.6, differ by set and evening, and are told with noise; impulse follows the
    first by so many per cent, tires along a set, differs by set and evening, and now and then strays far."""
    sets = 3 * evenings
    set_of = np.repeat(np.arange(sets), per)
    evening = np.repeat(np.arange(evenings), 3 * per)
    mixed = np.linalg.cholesky(0.6 + 0.4 * np.eye(5))
    x = rng.standard_normal((len(set_of), 5)) @ mixed.T
    x += (0.8 * rng.standard_normal((sets, 5)))[set_of] + (0.8 * rng.standard_normal((evenings, 5)))[evening]
    stray = np.zeros(len(set_of))
    for i in range(1, len(stray)):
        stray[i] = 0.3 * stray[i - 1] * (set_of[i] == set_of[i - 1]) + rng.standard_t(6)
    log = 0.01 * per_cent * x[:, 0] + 0.07 * stray - 0.004 * (np.arange(len(set_of)) % per)
    log += 0.05 * rng.standard_normal(sets)[set_of] + 0.06 * rng.standard_normal(evenings)[evening]
    noise = np.sqrt((1.0 - reliable) / reliable)
    seen = x + noise * rng.standard_normal(x.shape)
    flat = np.full(len(set_of), noise)
    measures = dict(zip(NAMES, seen.T, strict=True))
    return goes_with(40.0 * np.exp(log), set_of, evening, measures, dict.fromkeys(NAMES, flat))


@pytest.mark.parametrize("per_cent", [0.0, 4.0])
def test_intervals_hold_and_nothing_is_told_where_nothing_is(per_cent: float) -> None:
    rng = np.random.default_rng(11)
    held, false, found = [], 0, 0
    for _ in range(MANY):
        told = student(rng, per_cent)
        true = (per_cent, 0.0, 0.0, 0.0, 0.0)
        held += [t.partial.low <= v * t.spread <= t.partial.high for t, v in zip(told.ties, true, strict=True)]
        first, *others = (t.goes for t in told.ties)
        false += any(others) or (first and per_cent == 0.0)
        found += first
    assert 0.93 <= np.mean(held) <= 0.98
    assert false <= 0.05 * MANY + 2.0 * np.sqrt(0.05 * 0.95 * MANY)
    if per_cent:
        assert found >= 0.8 * MANY


def test_noise_does_not_thin_a_tie_nor_lend_it_to_its_neighbours() -> None:
    rng = np.random.default_rng(3)
    told = [[t.partial.value for t in student(rng, 4.0, reliable=0.6, per=20).ties] for _ in range(40)]
    first, *others = np.mean(told, axis=0)
    assert first == pytest.approx(4.0, rel=0.15)
    assert np.abs(others).max() < 0.5


def test_heavy_and_light_thirds_lie_apart_by_what_goes_with_force_and_sets_widen_nothing() -> None:
    told = student(np.random.default_rng(5), 6.0, per=12)
    first, last = told.ties[0], told.ties[-1]
    assert first.heavy.low > first.light.high
    assert first.heavy.high - first.heavy.low < 0.5 * first.spread
    assert abs(last.heavy.value - last.light.value) < abs(first.heavy.value - first.light.value)
    assert (told.strikes, told.sets, told.evenings) == (432, 36, 12)


def test_what_is_rare_or_only_noise_is_left_out_and_too_little_is_refused() -> None:
    rng = np.random.default_rng(7)
    set_of = np.repeat(np.arange(20), 8)
    impulse = 40.0 + rng.standard_normal(160)
    rare = np.where(np.arange(160) % 2, np.nan, rng.standard_normal(160))
    measures = {"rare": rare, "noisy": rng.standard_normal(160), "good": 3.0 * rng.standard_normal(160)}
    ones = dict.fromkeys(measures, np.ones(160))
    told = goes_with(impulse, set_of, set_of // 4, measures, ones)
    assert told.left_out == {"rare": "there in 50 % of the strikes", "noisy": told.left_out["noisy"]}
    assert [t.measure for t in told.ties] == ["good"]
    few = goes_with(impulse[:40], set_of[:40], set_of[:40], {"good": measures["good"][:40]}, {"good": np.ones(40)})
    assert few.refused == "it takes 60 strikes with all of them, in 12 sets or more"
    assert goes_with(impulse, set_of, set_of, {}, {}).refused is not None
