"""What a coach should see to, in order of weight."""

import datetime as dt

from agile_strike.core.weeks.attention import (
    ORDER,
    Notice,
    Strikes,
    away,
    battery,
    calibration,
    in_order,
    of_strikes,
    retest,
)

TODAY = dt.date(2026, 11, 24)  # a Tuesday


def days(*counts: tuple[int, str, int]) -> Strikes:
    """So many days ago, limb, how many."""
    every = [(TODAY - dt.timedelta(days=ago), limb) for ago, limb, n in counts for _ in range(n)]
    return Strikes([day for day, _ in every], [limb for _, limb in every])


def test_a_jump_is_told_while_it_is_new_and_level_weeks_are_not() -> None:
    level = days(*((ago, f"{side}_hand", 30) for ago in (1, 8, 15, 22) for side in ("left", "right")))
    assert of_strikes(1, "Maren Aalto", level, TODAY) == []
    grown = days((1, "left_hand", 90), (1, "right_hand", 90), (8, "left_hand", 30), (8, "right_hand", 30))
    (told,) = of_strikes(1, "Maren Aalto", grown, TODAY)
    assert (told.kind, told.student_id) == ("volume", 1)
    assert told.text.startswith("180 strikes, after 60 a week before")
    assert of_strikes(1, "Maren Aalto", grown, TODAY + dt.timedelta(days=21)) == []


def test_a_side_left_behind_is_told_for_hands_and_for_kicks_apart() -> None:
    hands = days((3, "left_hand", 12), (3, "right_hand", 60), (10, "left_foot", 30), (10, "right_foot", 35))
    (told,) = of_strikes(2, "Kofi Andrade", hands, TODAY)
    assert (told.kind, told.text) == ("sides", "60 of 72 hand strikes in four weeks were with the right.")
    assert (
        of_strikes(2, "Kofi Andrade", days((3, "left_hand", 5), (3, "right_hand", 40)), TODAY) == []
    )  # too few to say


def test_what_is_overdue_is_told_from_the_day_after() -> None:
    def ago(n: int) -> dt.date:
        return TODAY - dt.timedelta(days=n)

    assert retest(1, "Wren Okafor", 4, "step, lead straight", ago(14), TODAY) is None
    late = retest(1, "Wren Okafor", 4, "step, lead straight", ago(15), TODAY)
    assert late
    assert (late.text, late.trial_id) == ("step, lead straight: no blocks for 15 days.", 4)
    assert away(1, "Wren Okafor", ago(21), TODAY) is None
    gone = away(1, "Wren Okafor", ago(30), TODAY)
    assert gone
    assert gone.text == "Nothing measured for 4 weeks."
    assert battery("KQ-101", 20.0) is None
    assert battery("KQ-101", 12.0)
    assert calibration("KQ-101", TODAY + dt.timedelta(days=8), TODAY) is None
    ends, ended = calibration("KQ-101", TODAY, TODAY), calibration("KQ-101", ago(3), TODAY)
    assert ends
    assert ended
    assert (ends.text, ended.text) == ("Ends today.", "Ended 3 days ago.")


def test_consent_comes_first_and_what_is_only_forgotten_last() -> None:
    mixed = [Notice(kind, who, "") for kind in reversed(ORDER) for who in ("B", "A")]
    assert [(n.kind, n.who) for n in in_order(mixed)] == [(kind, who) for kind in ORDER for who in ("A", "B")]
