"""A strike judged by its school: met, missed, or too close to tell."""

import pytest

from agile_strike.core.measured import Measured
from agile_strike.core.playbook.schools import SHIPPED, Check, School, fits, judge, objections, order_in_words
from agile_strike.core.registry import MEASURES


def one(value: float, sd: float, low: float | None, high: float | None) -> str:
    school = School("any", "", (Check("range", "lean_deg", low, high),))
    return judge(school, "rear-straight", {"lean_deg": Measured(value, sd)}, None)[0].verdict


@pytest.mark.parametrize(
    ("value", "sd", "verdict"),
    [(10, 1, "met"), (3, 1, "missed"), (5.5, 1, "open"), (19.6, 1, "open"), (25, 1, "missed")],
)
def test_a_value_within_its_doubt_of_an_edge_is_open(value: float, sd: float, verdict: str) -> None:
    assert one(value, sd, 5.0, 20.0) == verdict


@pytest.mark.parametrize(
    ("order", "verdict"),
    [("pelvis>torso>hand", "met"), ("torso>pelvis>hand", "missed"), ("pelvis=torso>hand", "open"), (None, "absent")],
)
def test_the_order_wants_the_ground_first(order: str | None, verdict: str) -> None:
    school = School("any", "", (Check("order", "chain_order"),))
    assert judge(school, "rear-hook", {}, order)[0].verdict == verdict


def test_a_check_holds_only_for_its_strikes() -> None:
    school = School("any", "", (Check("held", "speed_held_pct", 90.0, None, ("round",)),))
    assert judge(school, "rear-straight", {}, None) == []
    assert [j.verdict for j in judge(school, "lead-round-snapped", {}, None)] == ["absent"]
    assert fits("rear-hook-palm-in", "hook")
    assert not fits("rear-hook", "hook-palm-in")
    assert fits("rear-straight", "rear-straight")
    assert not fits("lead-straight", "rear-straight")
    assert not fits("rear-rounded", "round")


def test_of_two_checks_on_one_measure_the_closer_one_holds() -> None:
    full, snap = (
        Check("half a turn", "pivot_deg", 140.0, None, ("round",)),
        Check("some", "pivot_deg", 45.0, 120.0, ("round-snapped",)),
    )
    school = School("any", "", (full, snap))
    turned = {"pivot_deg": Measured(90.0, 1.0)}
    assert [(j.check.name, j.verdict) for j in judge(school, "rear-round", turned, None)] == [("half a turn", "missed")]
    assert [(j.check.name, j.verdict) for j in judge(school, "lead-round-snapped", turned, None)] == [("some", "met")]


def test_shipped_schools_speak_of_measures_that_exist_and_do_not_agree() -> None:
    for school in SHIPPED:
        assert {c.measure for c in school.checks} | set(school.objects) <= MEASURES.keys()
    centred, transfer = SHIPPED[0], SHIPPED[1]
    shifted = {"lead_load_contact_pct": Measured(78.0, 1.0)}
    verdicts = [
        next(j.verdict for j in judge(s, "rear-straight", shifted, None) if j.check.measure == "lead_load_contact_pct")
        for s in (centred, transfer)
    ]
    assert verdicts == ["missed", "met"]


def test_the_other_school_objects_in_the_students_own_numbers() -> None:
    said = objections(SHIPPED[0], "rear-straight", {"settle_ms": (430.0, 210.0), "lean_deg": (9.0, None)})
    assert said == ["time until it is steady again 430 ms this way, 210 ms centred", "lean 9 ° this way"]


def test_a_school_has_no_quarrel_with_what_lies_inside_its_own_range() -> None:
    inside = {"settle_ms": (190.0, 210.0), "lean_deg": (2.0, None), "return_ms": (250.0, 240.0)}
    assert objections(SHIPPED[0], "rear-straight", inside) == []
    heavier = {"effective_mass_kg": (3.1, 2.9), "impulse_n_s": (24.0, 25.5)}
    assert objections(SHIPPED[1], "rear-straight", heavier) == ["impulse 24.0 N s this way, 25.5 N s full transfer"]


def test_an_order_is_told_by_the_limb_that_struck() -> None:
    assert order_in_words("pelvis>torso>hand", "right_foot") == "pelvis>torso>foot"
    assert order_in_words("torso>pelvis=hand", "left_hand") == "torso>pelvis=hand"
