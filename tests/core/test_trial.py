"""Did the change help? Cases whose answer is known."""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from agile_strike.cli import main
from agile_strike.core.children import no_trial
from agile_strike.core.errors import BadInput
from agile_strike.core.registry import MEASURES
from agile_strike.core.trial import design, words
from agile_strike.core.trial.blocks import blocks
from agile_strike.core.trial.claim import Claim, Strikes, claim
from agile_strike.core.trial.spread import USUAL, Spread, spread

MEAN = 25.0


def thrown(
    seed: int,
    sessions: int,
    gain: float,
    day: float = 0.02,
    drift: float = 0.0,
    design: str = "ABBA",
    each: int = 9,
    lost: float = 0.0,
    alternate: bool = True,
) -> Strikes:
    """Impulses of skewed strikes in blocks; `gain`, `day` and `drift` a block as shares of the mean."""
    rng = np.random.default_rng(seed)
    rows = []
    for s in range(sessions):
        mean, own = MEAN * (1 + 0.06 * rng.standard_normal()), gain + day * rng.standard_normal()
        order = design if s % 2 == 0 or not alternate else design[::-1]
        for b, level in enumerate(order):
            if rng.random() < lost:
                continue
            block = mean * (1 + (level == "B") * own + drift * b + 0.02 * rng.standard_normal())
            noise = (rng.gamma(4, 1, each + int(rng.integers(-3, 4))) - 4) / 2
            rows += [(s, b, b, int(level == "B"), block * (1 + 0.09 * e)) for e in noise]
    table = np.array(rows)
    codes = table[:, [0, 1, 3]].astype(np.int64)
    return Strikes(codes[:, 0], codes[:, 1], table[:, 2], codes[:, 2], table[:, 4], ("centred", "full shift"), {})


def test_a_true_gain_of_a_tenth_is_clear() -> None:
    told = claim(thrown(1, 6, 0.10))
    assert told.effect is not None
    assert told.verdict == "clear"
    assert told.effect.low < 0.10 * MEAN < told.effect.high


def test_nothing_is_seldom_called_a_gain() -> None:
    told = [claim(thrown(seed, 5, 0.0)) for seed in range(100)]
    assert sum(t.verdict == "clear" for t in told) <= 4
    assert sum(t.verdict in ("clear", "likely") for t in told) <= 12


@pytest.mark.parametrize("sessions", [3, 4, 6])
def test_intervals_cover(sessions: int) -> None:
    held = 0
    for seed in range(120):
        told = claim(thrown(1000 * sessions + seed, sessions, 0.05, day=0.03, drift=0.01, lost=0.05))
        assert told.effect is not None
        held += told.effect.low <= 0.05 * MEAN <= told.effect.high
    # a true 95 % shows as 90 % or more in 99 of 100 runs
    assert held >= 0.90 * 120


def test_tiredness_is_no_gain_where_blocks_alternate_and_would_be_one_where_they_do_not() -> None:
    fair = claim(thrown(3, 6, 0.0, day=0.0, drift=0.05))
    naive = claim(thrown(3, 6, 0.0, day=0.0, drift=0.05, design="AABB", alternate=False))
    assert fair.verdict not in ("clear", "likely")
    assert fair.effect is not None
    assert fair.effect.drift == pytest.approx(0.05 * MEAN, abs=0.5)
    assert naive.effect is not None
    plain = naive.means["full shift"] - naive.means["centred"]
    assert plain > 0.07 * MEAN  # what first-then-second would have said
    assert naive.effect.low < 0.0  # the drift along the evening takes it back


def test_first_then_second_with_one_block_each_is_told_to_be_unfair() -> None:
    told = claim(thrown(4, 6, 0.0, drift=0.08, design="AB", alternate=False))
    assert told.effect is not None
    assert told.effect.drift is None
    assert any(n.kind == "same_order" for n in told.notes)


def test_one_evening_is_today_only() -> None:
    assert any(n.kind == "today_only" for n in claim(thrown(5, 1, 0.10)).notes)


def test_a_wild_spread_is_not_settled_and_says_how_many_blocks_would() -> None:
    told = claim(thrown(8, 3, 0.03, day=0.10))
    assert told.verdict == "not_settled"
    assert told.blocks_needed is not None
    assert told.blocks_needed >= 2


def refusal(told: Claim) -> str:
    assert told.verdict is None
    assert told.effect is None
    return told.refused or ""


def test_unfair_comparisons_are_refused_with_the_reason() -> None:
    s = thrown(6, 4, 0.1)
    half = len(s.value) // 2
    assert "another bag" in refusal(claim(replace(s, held={"bag": ["a"] * half + ["b"] * (len(s.value) - half)})))
    heavier = np.where(np.arange(len(s.value)) < half, 60.0, 63.0)
    assert "per body mass" in refusal(claim(replace(s, body_mass_kg=heavier)))
    assert claim(replace(s, body_mass_kg=heavier, per_body_mass=True)).refused is None
    one = (s.session == 0) & (s.block < 2)
    few = Strikes(s.session[one], s.block[one], s.order[one], s.level[one], s.value[one], s.levels, {})
    assert "two of each level" in refusal(claim(few))


def test_a_strike_far_out_moves_little_and_is_told() -> None:
    s = thrown(9, 5, 0.06)
    wild = s.value.copy()
    wild[3] = 40 * MEAN
    plain, told = claim(s), claim(replace(s, value=wild))
    assert plain.effect is not None
    assert told.effect is not None
    assert told.effect.value == pytest.approx(plain.effect.value, abs=0.02 * MEAN)
    assert any(n.kind == "drawn_in" for n in told.notes)


def test_swapping_the_levels_turns_the_effect_round_and_scaling_scales_it() -> None:
    s = thrown(10, 4, 0.07)
    turned, scaled = replace(s, level=1 - s.level), replace(s, value=3.0 * s.value)
    plain = claim(s).effect
    assert plain is not None
    for other, factor in ((claim(turned).effect, -1.0), (claim(scaled).effect, 3.0)):
        assert other is not None
        assert other.value == pytest.approx(factor * plain.value, rel=1e-3)


def kinds(told: Claim) -> set[str]:
    return {n.kind for n in told.notes}


def test_a_gain_that_fades_is_told_as_fading() -> None:
    s = thrown(12, 8, 0.20, day=0.01)
    fades = s.value * np.where(s.level == 1, 1.0 - 0.025 * s.session, 1.0)
    told = claim(replace(s, value=fades))
    assert "fading" in kinds(told)
    assert words.outcome(told, MEASURES["impulse_n_s"]) == "faded"
    assert "fading" not in kinds(claim(s))


def test_strikes_picked_by_their_size_are_told() -> None:
    s = thrown(13, 8, 0.0, day=0.0)
    middle = float(np.median(s.value))
    picked = claim(replace(s, out=(s.level == 1) & (s.value < middle)))
    fair = claim(replace(s, out=np.arange(len(s.value)) % 17 == 0))
    assert picked.verdict in ("clear", "likely")
    assert "picked" in kinds(picked)
    assert "picked" not in kinds(fair)
    assert "left_out" in kinds(fair)


def test_a_gain_on_one_side_only_is_told_side_by_side() -> None:
    left, right = claim(thrown(14, 5, 0.0)), claim(thrown(15, 5, 0.11))
    assert left.verdict in ("no_difference", "not_settled")
    assert right.verdict == "clear"


def test_other_gloves_are_refused_in_a_coachs_words() -> None:
    s = thrown(6, 4, 0.1)
    gloves = ["12 oz" if i < 60 else "16 oz" for i in range(len(s.value))]
    said = refusal(claim(replace(s, held={"gloves": gloves})))
    assert (
        said == "other gloves, and the measure moves with the glove, in part of it. Compare within one pair of gloves"
    )


def students(gains: list[float], sessions: int = 4) -> Strikes:
    parts = [thrown(50 + i, sessions, g) for i, g in enumerate(gains)]
    return Strikes(
        np.concatenate([p.session + 100 * i for i, p in enumerate(parts)]),
        np.concatenate([p.block for p in parts]),
        np.concatenate([p.order for p in parts]),
        np.concatenate([p.level for p in parts]),
        np.concatenate([(1 + i) * p.value for i, p in enumerate(parts)]),
        parts[0].levels,
        {},
        participant=tuple(f"s{i}" for i, p in enumerate(parts) for _ in p.value),
    )


def test_several_students_are_pooled_and_the_next_one_is_less_sure_than_the_mean() -> None:
    told = claim(students([0.06, 0.09, 0.12, 0.08, 0.10]))
    assert told.pooled is not None
    mean, following = told.pooled.mean, told.pooled.next_student
    assert mean.low < 9.0 < mean.high
    assert following.high - following.low > 1.3 * (mean.high - mean.low)
    assert list(told.students) == [f"s{i}" for i in range(5)]


def test_a_student_far_from_the_others_is_drawn_toward_them_but_not_onto_them() -> None:
    told = claim(students([0.04, 0.05, 0.04, 0.05, 0.25], sessions=3))
    assert told.pooled is not None
    alone = told.students["s4"]
    assert alone.effect is not None
    own = 100 * alone.effect.value / alone.means["centred"]
    assert told.pooled.mean.value < told.pooled.each[4].value < own


def test_a_plan_turns_about_so_that_a_straight_drift_falls_on_all_levels_alike() -> None:
    for levels in (2, 3, 4):
        for evening in range(levels):
            turn = np.array(design.order(levels, 2, evening))
            places = [float(np.flatnonzero(turn == k).mean()) for k in range(levels)]
            assert places == [places[0]] * levels
    assert design.order(2, 2, 0) == [0, 1, 1, 0]
    assert design.order(2, 2, 1) == [1, 0, 0, 1]


def test_more_evenings_and_a_steadier_student_show_smaller_changes() -> None:
    plan = design.Design(("a", "b"))
    usual = design.sights(plan, USUAL, np.random.default_rng(1))
    steady = design.sights(plan, replace(USUAL, within=0.05, block=0.01), np.random.default_rng(1))
    seen = [s.seen_pct for s in usual]
    assert seen == sorted(seen, reverse=True)
    assert seen[0] > 2 * seen[-1]
    assert steady[2].seen_pct < 0.9 * usual[2].seen_pct
    needed = design.evenings_for(10.0, usual)
    assert needed is not None
    assert 3 <= needed <= 6
    assert design.evenings_for(0.1, usual) is None


def test_what_a_plan_says_can_be_seen_is_seen_four_times_in_five() -> None:
    own = Spread(0.09, 0.02, 0.03, 100)
    sight = next(
        s for s in design.sights(design.Design(("a", "b"), 2, 9), own, np.random.default_rng(2)) if s.evenings == 4
    )
    told = [claim(thrown(900 + i, 4, sight.seen_pct / 100, day=0.03)) for i in range(100)]
    seen = sum(t.effect is not None and t.effect.low > 0.0 for t in told)
    assert 70 <= seen <= 97


def test_what_is_suggested_shows_the_change_in_fewer_minutes() -> None:
    plan, own = design.Design(("a", "b"), 2, 6), Spread(0.12, 0.02, 0.02, 100)
    told = design.sights(plan, own, np.random.default_rng(3))
    found = design.suggest(plan, own, 9.0, told)
    assert found is not None
    better, sight = found
    assert sight.seen_pct <= 9.0
    as_it_is = design.evenings_for(9.0, told)
    assert as_it_is is not None
    warm = design.WARM_UP_MINUTES
    assert sight.minutes + warm * sight.evenings <= as_it_is * (design.minutes(plan) + warm)
    true = next(t for t in design.sights(better, own, np.random.default_rng(4)) if t.evenings == sight.evenings)
    assert true.seen_pct == pytest.approx(sight.seen_pct, rel=0.12)  # what it promised is what that plan shows
    assert design.suggest(plan, own, 0.5, told) is None


def test_a_students_own_spread_is_learnt_and_weighed_against_what_is_usual() -> None:
    s = thrown(16, 8, 0.0)
    b = blocks(s.session, s.block, s.order, s.level, s.value)
    own = spread(b)
    assert own.within == pytest.approx(0.09, abs=0.015)
    assert own.block == pytest.approx(0.02, abs=0.012)
    few = spread(blocks(s.session[:9], s.block[:9], s.order[:9], s.level[:9], s.value[:9]))
    assert few.block == pytest.approx(USUAL.block)


@pytest.mark.parametrize(
    ("levels", "blocks_each", "strikes", "said"),
    [
        (("a",), 2, 8, "two to 4"),
        (("a", "a"), 2, 8, "different"),
        (("a", "b"), 0, 8, "one to six"),
        (("a", "b"), 2, 90, "4 to 20"),
    ],
)
def test_a_plan_that_cant_be_thrown_is_refused(
    levels: tuple[str, ...], blocks_each: int, strikes: int, said: str
) -> None:
    with pytest.raises(BadInput, match=said):
        design.check(design.Design(levels, blocks_each, strikes))


def test_children_are_not_tested_for_power_and_nobody_without_consent() -> None:
    assert "13" in (no_trial("Wren Okafor", 13, "kept", ("impulse_n_s_per_body_mass",)) or "")
    assert no_trial("Wren Okafor", 13, "kept", ("settle_ms",)) is None
    assert "consent" in (no_trial("Hamish Duarte", 15, "missing", ("settle_ms",)) or "")
    assert no_trial("Maren Aalto", 34, "not_needed", ("impulse_n_s",)) is None
    assert "date of birth" in (no_trial("Somebody", None, "not_needed", ("settle_ms",)) or "")
    assert "withdrawn" in (no_trial("Hamish Duarte", 15, "withdrawn", ("settle_ms",)) or "")
    assert "too many" in (no_trial("Wren Okafor", 13, "kept", ("settle_ms",), strikes=60) or "")
    assert no_trial("Somebody", 17, "kept", ("peak_force_n",), strikes=60, rest_s=10.0) is None


def test_what_a_third_level_was_thrown_on_does_not_refuse_the_first_two() -> None:
    """Another bag, and a heavier body, but only under a level that is not compared."""
    s = thrown(1, 4, 0.10)
    third = replace(s, level=np.full(len(s.level), 2), value=0.5 * s.value, held={})
    both = Strikes(
        *(np.concatenate([getattr(s, n), getattr(third, n)]) for n in ("session", "block", "order", "level", "value")),
        (*s.levels, "other"),
        {"bag": ["long"] * len(s.value) + ["heavy"] * len(s.value)},
        np.concatenate([np.full(len(s.value), 63.0), np.full(len(s.value), 70.0)]),
    )
    told = claim(both)
    assert told.refused is None
    assert told.effect == claim(s).effect
    assert told.n["other"] == len(s.value)


def test_students_who_disagree_outright_are_told_so() -> None:
    told = claim(students([0.30, -0.30]))
    assert {"disagree", "few_students"} <= kinds(told)
    said = next(n.text for n in told.notes if n.kind == "disagree")
    assert "+3" in said
    assert "−3" in said
    assert "disagree" not in kinds(claim(students([0.06, 0.09, 0.12, 0.08, 0.10])))


def test_what_weakens_every_student_weakens_their_mean() -> None:
    told = claim(students([0.1, 0.1, 0.1], sessions=1))
    assert next(n.text for n in told.notes if n.kind == "today_only").startswith("Every student: Today only")


def test_both_hands_in_one_comparison_are_told() -> None:
    s = thrown(1, 4, 0.1)
    by_level = tuple("left_hand" if k else "right_hand" for k in s.level)
    assert "mixed_sides" in kinds(claim(replace(s, limb=by_level)))
    assert "mixed_sides" not in kinds(claim(replace(s, limb=("right_hand",) * len(s.level))))


def test_what_would_take_a_season_to_settle_is_not_worth_settling() -> None:
    open_ = claim(thrown(8, 3, 0.03, day=0.10))
    near, far = replace(open_, blocks_needed=6), replace(open_, blocks_needed=28)
    assert words.still_needed(near, 8, 2, 2.0).startswith("6 more blocks of each level")
    assert words.worth_settling(near, 2)
    assert words.still_needed(far, 8, 2, 2.0).startswith("Stop: it would take some 14 evenings more")
    assert not words.worth_settling(far, 2)


def test_longer_to_settle_is_told_as_longer_and_worse() -> None:
    """Of a measure of which less is better, more of it is no merit."""
    told = claim(thrown(1, 6, 0.30))
    line = words.sentence(told, MEASURES["settle_ms"], None)
    assert line.figures.endswith("ms longer time until it is steady again")
    assert "for the worse" in line.after
    assert "worse" not in words.sentence(told, MEASURES["impulse_n_s"], (5.0, 12.0)).after


def test_the_sentence_says_what_a_coach_would() -> None:
    impulse, settle = MEASURES["impulse_n_s"], MEASURES["settle_ms"]
    told = claim(thrown(1, 6, 0.10))
    said = words.sentence(told, impulse, (6.0, 13.0)).text
    assert said.startswith("Full shift gives 6 to 13 % more impulse than centred. Clear, over six evenings and ")
    slower = claim(replace(thrown(1, 6, 0.40), value=10 * thrown(1, 6, 0.40).value))
    assert " ms " in words.sentence(slower, settle, (30.0, 50.0)).figures
    assert words.worse(slower, settle) is True
    assert words.worse(told, impulse) is False
    assert words.trade([(settle, slower)]).startswith("Worse with it: ")
    open_ = replace(claim(thrown(8, 3, 0.03, day=0.10)), blocks_needed=8)
    assert "more blocks of each level" in words.still_needed(open_, 9, 2, 1.5)


def test_the_command_prints_claims_and_groups(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    lines = ["participant,session,block,order,transfer,impulse,limb"]
    for limb, gain in (("rear", 0.1), ("lead", 0.0)):
        s = thrown(11, 5, gain)
        lines += [
            f"01,{a},{b},{c:g},{s.levels[k]},{v:.4f},{limb}"
            for a, b, c, k, v in zip(s.session, s.block, s.order, s.level, s.value, strict=True)
        ]
    table = tmp_path / "trial.csv"
    table.write_text("\n".join(lines) + "\n")
    base = ["compare", str(table), "--factor", "transfer", "--measure", "impulse", "--json"]
    assert main([*base, "--by", "limb"]) == 0
    rear, lead = json.loads(capsys.readouterr().out)
    assert (rear["group"], rear["verdict"], lead["group"]) == ("rear", "clear", "lead")
    assert rear["ci95_pct"][0] == pytest.approx(100 * rear["ci95"][0] / rear["means"]["centred"])
    assert main([*base, "--by", "limb", "--levels", "full shift,centred"]) == 0
    assert json.loads(capsys.readouterr().out)[0]["effect"] == pytest.approx(-rear["effect"], rel=1e-3)
    assert main([*base, "--by", "limb", "--also", "block"]) == 0
    assert [set(one["also"]) for one in json.loads(capsys.readouterr().out)] == [{"block"}, {"block"}]
    assert main([*base, "--only", "limb=lead"]) == 0
    narrowed = json.loads(capsys.readouterr().out)
    assert narrowed["effect"] == lead["effect"]
    assert main([*base, "--only", "limb"]) == 2
    assert "COLUMN=VALUE" in capsys.readouterr().err
    table.write_text(table.read_text().replace(",full shift,", ",full shift,hard", 1))
    assert main(base) == 2
    assert "trial.csv, line" in capsys.readouterr().err
