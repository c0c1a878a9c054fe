"""A planned week keeps every hard rule, whatever is wished for, and names what a wish had to bend to."""

from itertools import pairwise

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from agile_strike.core.plan.week import RULES, SolverTime, Week, week
from agile_strike.core.plan.wishes import KINDS, MOST_A_DAY, RAMP_MINUTES, SET, BadWish, Known, Wish
from agile_strike.core.weeks.balance import KICK_DAY

FREE = {1: 60.0, 3: 60.0, 5: 60.0}
KICKS = Wish("kicks", "Round kicks", 3, 100)
TRIAL = Wish("trial", "Full shift", 2, 32, 14.0, "7")


def kicks_of(told: Week) -> dict[int, int]:
    return {d: sum(i.strikes for i in items if i.kind == "kicks") for d, items in told.evenings.items()}


wishes = st.lists(
    st.builds(
        lambda kind, evenings, tens, minutes: Wish(kind, kind, evenings, SET * tens, minutes, kind),
        st.sampled_from(KINDS), st.integers(1, 7), st.integers(1, 12),
        st.sampled_from([5.0, 12.0, 25.0]),
    ),
    min_size=1, max_size=6,
)  # fmt: skip
knowns = st.builds(
    Known, st.dictionaries(st.integers(0, 6), st.sampled_from([20.0, 45.0, 90.0]), max_size=7), st.booleans(),
    st.sampled_from([0.0, 40.0, 150.0, 400.0]), st.integers(0, 80), st.booleans(), st.booleans(),
    st.frozensets(st.sampled_from(["hands", "kicks"])), st.tuples(st.integers(-80, 80), st.integers(-80, 80)),
)  # fmt: skip


def test_a_week_that_is_not_solved_in_its_time_keeps_every_rule_and_says_so() -> None:
    asked = [Wish("kicks" if k % 2 else "hands", f"Wish {k}", 5, 70 + 10 * k) for k in range(12)]
    known = Known(dict.fromkeys(range(7), 53.0), usual_strikes=700.0)
    told = week(asked, known, SolverTime(best_s=0.05, why_s=0.0))
    assert not told.proven
    assert told.strikes <= known.most_strikes
    assert all("there is no room" in b.text for b in told.bent)
    assert week([KICKS], Known(FREE)).proven


@settings(max_examples=200, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
@given(wishes, knowns)
def test_no_week_of_200_gyms_breaks_a_hard_rule(asked: list[Wish], known: Known) -> None:
    told = week(asked, known)
    kicks = kicks_of(told)
    high = sorted(d for d, n in kicks.items() if n >= KICK_DAY)
    assert len(high) <= 3
    assert all(b - a > 1 for a, b in pairwise(high))
    assert not (known.volume_before and 0 in high)
    assert told.strikes <= known.most_strikes + 1e-6
    for day, items in told.evenings.items():
        assert day in known.free
        assert (items[0].kind, items[0].minutes) == ("ramp", RAMP_MINUTES)
        assert sum(i.minutes for i in items) <= known.free[day] + 1e-6
        assert sum(i.kind == "drill" for i in items) <= 2
        assert kicks[day] <= MOST_A_DAY
        assert all(i.kind not in known.sore for i in items)
        order = [i.kind for i in items[1:]]
        assert order == sorted(order, key=list(KINDS).index)
        assert not known.sore or not {"bursts", "rounds"} & set(order)
        assert not known.child or "bursts" not in order
        if known.child:
            assert kicks[day] < KICK_DAY
            assert sum(i.strikes for i in items) <= known.most_a_day
        if "trial" in order:
            assert day - 1 not in high
            assert day or not known.volume_before
        assert all(i.left + i.right == i.strikes for i in items if i.kind in ("hands", "kicks"))
    for one in told.bent:
        assert one.got < one.wanted
        assert one.rule in (*RULES, "together")
        assert asked[one.wish].name in one.text


@pytest.mark.parametrize(
    ("wish", "known", "rule"),
    [
        (Wish("kicks", "Kicks", 4, 100), Known(dict.fromkeys((0, 2, 4, 6), 60.0)), "volume_days"),
        (Wish("kicks", "Kicks", 2, 100), Known({1: 60.0, 2: 60.0}), "in_a_row"),
        (Wish("drill", "Mirror", 4, 0, 5.0), Known(FREE), "free"),
        (KICKS, Known(FREE, usual_strikes=100.0), "jump"),
        (KICKS, Known(FREE, sore=frozenset({"kicks"})), "sore"),
        (Wish("kicks", "Kicks", 1, 200), Known(FREE), "a_day"),
        (Wish("hands", "Straights", 3, 100), Known({1: 10.0, 3: 10.0, 5: 10.0}), "minutes"),
        (TRIAL, Known({1: 60.0, 2: 60.0}), "fresh"),
        (Wish("rounds", "Rounds", 1, 60, 12.0), Known(FREE, sore=frozenset({"kicks"})), "sore"),
        (Wish("bursts", "Bursts", 1, 40, 10.0), Known(FREE, child=True), "bursts"),
    ],
)
def test_a_wish_that_bends_names_the_rule_that_it_bent_to(wish: Wish, known: Known, rule: str) -> None:
    (told,) = week([wish], known).bent
    assert (told.rule, RULES[rule] in told.text) == (rule, True)


def test_a_week_that_fits_gives_all_that_was_wished_for_and_the_side_that_is_owed_gets_it_back() -> None:
    told = week(
        [TRIAL, Wish("drill", "Mirror", 2, 0, 5.0, "mirror"), Wish("kicks", "Kicks", 2, 50)], Known(FREE, ahead=(0, 24))
    )
    assert told.bent == []
    first, second = [i for items in told.evenings.values() for i in items if i.kind == "kicks"]
    assert (first.left, first.right) == (13, 37)
    assert (second.left, second.right) == (25, 25)
    assert told.owed == (0, 0)


def test_a_wish_that_cant_be_meant_is_refused() -> None:
    with pytest.raises(BadWish, match="one to seven"):
        week([Wish("drill", "Mirror", 8)], Known(FREE))
    with pytest.raises(BadWish, match="10 to 200"):
        week([Wish("kicks", "Kicks", 1, 5)], Known(FREE))
