"""Did the change help? Cases whose answer is known."""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from agile_strike.cli import main
from agile_strike.core.trial.claim import Claim, Strikes, claim

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
    table.write_text(table.read_text().replace(",full shift,", ",full shift,hard", 1))
    assert main(base) == 2
    assert "trial.csv, line" in capsys.readouterr().err
