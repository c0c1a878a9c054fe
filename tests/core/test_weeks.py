"""A student over weeks: cases whose answer is known."""

import datetime as dt
import json
from pathlib import Path

import numpy as np
import pytest

from agile_strike.cli import main
from agile_strike.core.weeks import balance
from agile_strike.core.weeks.course import Course, course
from agile_strike.core.weeks.evenings import Evening, bests, evenings

FIRST = dt.date(2026, 9, 8)


def weekly(values: list[float], seed: int = 1, strikes: int = 16, spread: float = 2.0) -> list[Evening]:
    """Evenings a week apart, of two sets each, about these means."""
    rng = np.random.default_rng(seed)
    on = [FIRST + dt.timedelta(days=7 * i) for i in range(len(values)) for _ in range(strikes)]
    sets = np.array([2 * i + (k >= strikes // 2) for i in range(len(values)) for k in range(strikes)])
    value = np.repeat(values, strikes) + spread * rng.standard_normal(len(on))
    return evenings(on, sets, value)


def walked(steps: float, slope: float, seed: int, n: int = 12, day: float = 0.6) -> tuple[Course, dt.date]:
    rng = np.random.default_rng(seed)
    mark = FIRST + dt.timedelta(days=7 * (n // 2) - 3)
    values = [20.0 + slope * i + (steps if i >= n // 2 else 0.0) + day * rng.standard_normal() for i in range(n)]
    return course(weekly(values, seed), [mark]), mark


def test_an_evening_is_its_mean_and_not_its_best_strike() -> None:
    day = [FIRST] * 6
    (told,) = evenings(day, np.array([0, 0, 0, 1, 1, 1]), np.array([20.0, 21.0, 22.0, 20.0, 21.0, 31.0]))
    assert told.mean < 23.0
    assert told.low < told.mean < told.high
    assert told.strikes == 6


def test_two_strikes_are_no_evening() -> None:
    assert evenings([FIRST] * 2, np.array([0, 0]), np.array([20.0, 21.0])) == []
    assert evenings([FIRST], np.array([0]), np.array([np.nan])) == []


def test_sets_that_differ_widen_an_evening() -> None:
    alike = weekly([20.0, 20.0, 20.0])
    rng = np.random.default_rng(1)
    on = [e for e in [FIRST + dt.timedelta(days=7 * i) for i in range(3)] for _ in range(16)]
    sets = np.repeat(np.arange(6), 8)
    value = 20.0 + np.tile(np.repeat([3.0, -3.0], 8), 3) + 2.0 * rng.standard_normal(48)
    apart = evenings(on, sets, value)
    assert apart[0].high - apart[0].low > 2.0 * (alike[0].high - alike[0].low)


def test_a_step_at_a_mark_is_found_and_its_interval_holds() -> None:
    held = 0
    for seed in range(60):
        told, _ = walked(3.0, 0.0, seed)
        step = told.marks[0].step
        assert step is not None
        held += step.low <= 3.0 <= step.high
    assert held >= 53  # a true 95 % shows as 53 or more of 60 in 99 of 100 runs


def test_a_steady_rise_is_a_slope_and_no_step() -> None:
    found = [walked(0.0, 0.4, seed)[0] for seed in range(40)]
    assert sum(c.slope is not None and c.slope.low <= 0.4 <= c.slope.high for c in found) >= 34
    false = sum(c.marks[0].step is not None and (c.marks[0].step.low > 0 or c.marks[0].step.high < 0) for c in found)
    assert false <= 6


def test_a_mark_with_one_evening_after_it_says_why_it_has_no_step() -> None:
    told = course(weekly([20.0] * 6), [FIRST + dt.timedelta(days=34)])
    assert told.marks[0].step is None
    assert "1 after" in (told.marks[0].why_not or "")


def test_two_evenings_on_each_side_are_not_said_to_be_too_few_on_a_side() -> None:
    told = weekly([25.0, 25.2, 27.0, 27.1])
    (mark,) = course(told, [told[2].on]).marks
    assert mark.step is None
    assert mark.why_not == "4 evenings in all: a step that can be told from chance needs 5"


def test_a_course_through_both_hands_says_what_it_hides() -> None:
    days = [dt.date(2026, 9, 1) + dt.timedelta(days=7 * (i // 8)) for i in range(32)]
    limb = ["left_hand", "right_hand"] * 16
    value = np.array([18.0, 25.0] * 16) + 0.01 * np.arange(32)
    (note,) = balance.mixed_sides(days, limb, value)
    assert "left gives 28 % less than right" in note
    assert balance.mixed_sides(days, ["left_hand"] * 32, value) == []
    assert balance.mixed_sides(days, [], value) == []


def test_chance_alone_stays_within_the_band() -> None:
    rng = np.random.default_rng(5)
    out = 0
    for seed in range(40):
        values = [20.0 + 0.8 * rng.standard_normal() for _ in range(10)]
        seen = weekly(values, seed)
        told = course(seen, [])
        assert told.band is not None
        out += sum(not told.band[0] <= e.mean <= told.band[1] for e in seen)
    assert out <= 0.08 * 400


def test_too_few_evenings_have_no_course() -> None:
    told = course(weekly([20.0, 21.0]), [])
    assert told.slope is None
    assert told.band is None


def test_a_best_must_beat_all_before_it_beyond_doubt() -> None:
    days = [FIRST, FIRST, *[FIRST + dt.timedelta(days=7)] * 3]
    value = np.array([20.0, 22.0, 22.5, 26.0, 26.4])
    assert bests(days, value, np.full(5, 0.5)) == [3]
    assert bests(days, value, np.full(5, 5.0)) == []


def test_left_is_held_against_right_evening_by_evening() -> None:
    rng = np.random.default_rng(3)
    days = [FIRST + dt.timedelta(days=7 * i) for i in range(6) for _ in range(16)]
    side = ["left", "right"] * 48
    strength = np.repeat(np.exp(0.15 * rng.standard_normal(6)), 16)  # good days and bad ones
    value = strength * np.where(np.array(side) == "left", 16.0, 20.0) * np.exp(0.08 * rng.standard_normal(96))
    told = balance.sides(days, side, value, "left", "right")
    assert told.verdict == "weaker"
    assert told.low < -20.0 < told.high
    even = balance.sides(days, side, strength * np.exp(0.08 * rng.standard_normal(96)), "left", "right")
    assert even.verdict == "level"
    assert "two evenings" in (balance.sides(days[:16], side[:16], value[:16], "left", "right").why_not or "")


def test_a_strike_has_the_body_behind_it_if_it_carries_more_than_the_limb() -> None:
    told = balance.body_behind(np.array([2.0, 4.0, 5.0, 12.0, 8.0]), [*["right_hand"] * 3, "left_foot", "left_foot"])
    assert told is not None
    assert told.share == pytest.approx(0.6)
    assert 0.15 < told.low < told.share < told.high < 0.95
    assert balance.body_behind(np.array([np.nan]), ["right_hand"]) is None


def test_a_sudden_jump_of_volume_is_flagged_and_a_slow_one_is_not() -> None:
    def thrown(counts: list[int]) -> list[bool]:
        on = [FIRST + dt.timedelta(days=7 * i) for i, n in enumerate(counts) for _ in range(n)]
        return [bool(w.flags) for w in balance.weeks(on, ["left_hand"] * len(on))]

    assert thrown([60, 60, 60, 130]) == [False, False, False, True]
    assert thrown([60, 70, 85, 100]) == [False] * 4
    assert thrown([10, 10, 10, 30]) == [False] * 4
    empty = balance.weeks([FIRST, FIRST + dt.timedelta(days=21)], ["left_hand"] * 2)
    assert [w.strikes for w in empty] == [1, 0, 0, 1]


def test_four_heavy_kick_days_in_a_week_are_one_too_many() -> None:
    on = [FIRST + dt.timedelta(days=d) for d in range(4) for _ in range(60)]
    (week,) = balance.weeks(on, ["right_foot"] * len(on))
    assert week.kick_days == 4
    assert "three at the most" in week.flags[0]


def test_the_command_draws_the_course_of_a_table(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    lines = ["session,block,impulse,limb"]
    rng = np.random.default_rng(4)
    for i in range(10):
        on = FIRST + dt.timedelta(days=7 * i)
        lines += [f"{on},{i},{20 + 4 * (i >= 5) + rng.standard_normal():.3f},left" for _ in range(12)]
    table = tmp_path / "weeks.csv"
    table.write_text("\n".join(lines) + "\n")
    base = ["weeks", str(table), "--measure", "impulse", "--json"]
    mark = FIRST + dt.timedelta(days=33)
    assert main([*base, "--mark", mark.isoformat(), "--only", "limb=left"]) == 0
    told = json.loads(capsys.readouterr().out)
    low, high = told["marks"][0]["step"]["ci95"]
    assert low < 4.0 < high
    assert len(told["evenings"]) == 10
    assert main([*base, "--mark", "last Tuesday"]) == 2
    assert "2026-11-24" in capsys.readouterr().err
    table.write_text(table.read_text().replace(str(FIRST), "first", 1))
    assert main(base) == 2
    assert "weeks.csv, line 2" in capsys.readouterr().err
