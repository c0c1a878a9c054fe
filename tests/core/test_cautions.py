"""Cautions come where something asks for them, and no others."""

from agile_strike.core.playbook import cautions

CARE = {"rear-straight": "Turn the foot with the hip.", "hammer-fist": "Never lock the elbow."}


def test_soreness_comes_first_a_childs_rule_before_the_strikes_and_a_ramp_needs_no_reminder() -> None:
    told = cautions.tonight(["rear-straight"], CARE, 13, "left wrist.", ramp=False)
    assert told == [
        cautions.PAIN.format(where="left wrist"), cautions.BUILD_UP, cautions.CHILD, "Turn the foot with the hip.",
    ]  # fmt: skip
    assert cautions.tonight(["rear-straight"], CARE, 34, "", ramp=True) == ["Turn the foot with the hip."]
    assert cautions.tonight(["lead-uppercut"], CARE, 34, " ", ramp=True) == []


def test_a_strike_for_leaving_says_so_once_and_its_card_serves_both_sides() -> None:
    told = cautions.tonight(["lead-hammer-fist", "rear-hammer-fist", "rear-elbow-across"], CARE, 34, "", ramp=True)
    assert told == ["Never lock the elbow.", cautions.LEAVE_FIRST]
