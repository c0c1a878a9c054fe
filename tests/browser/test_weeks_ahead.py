"""Weeks ahead as a coach plans them: a month of volume, a class of children, a trial over four weeks; and names for a
round that nobody named."""

import re
from itertools import pairwise

from barriers import no_barriers
from playwright.sync_api import Locator, Page, expect
from weeks import leafed

DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


def plan_of(coach: Page, student: str) -> None:
    coach.get_by_label("Student", exact=True).select_option(student)
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Plan").click()
    next_week(coach)


def next_week(coach: Page) -> None:
    """The week after the one that is shown, without the wishes that it begins with."""
    leafed(coach)
    off = coach.get_by_role("button", name=re.compile("^Take the wish"))
    while off.count():
        off.first.click()


def wish(coach: Page, value: str, name: str, evenings: int, strikes: int | None = None) -> None:
    coach.get_by_label("One more").select_option(value)
    coach.get_by_label(f"{name}: evenings").fill(str(evenings))
    if strikes is not None:
        coach.get_by_label(f"{name}: strikes an evening").fill(str(strikes))


def propose(coach: Page, *free: str) -> Locator:
    for day in free:
        coach.get_by_label(day, exact=True).check()
    coach.get_by_role("button", name="Propose the week").click()
    week = coach.get_by_role("list", name="The week")
    expect(week.get_by_role("listitem").filter(has_text="Ramp").first).to_be_visible()
    return week


def days_with(week: Locator, what: str) -> list[int]:
    days = week.locator("> li")
    return [k for k in range(7) if days.nth(k).get_by_role("listitem").filter(has_text=what).count()]


def heavy_days(week: Locator) -> list[int]:
    """Evenings of sixty kicks and more."""
    texts = week.locator("> li").all_inner_texts()
    return [
        k for k, text in enumerate(texts) if any(int(n) >= 60 for n in re.findall(r"Round kicks\s+(\d+): left", text))
    ]


def test_a_month_of_volume_keeps_its_rules_week_by_week(coach: Page) -> None:
    coach.get_by_role("button", name="Add a student").click()
    coach.get_by_label("Name").fill("Solveig Marsh")
    coach.get_by_label("Born on").fill("1994-05-02")
    coach.get_by_role("button", name="Add", exact=True).click()
    expect(coach.get_by_role("heading", level=1)).to_have_text("Solveig Marsh")
    plan_of(coach, "Solveig Marsh")
    wish(coach, "kicks round", "Round kicks", 5, 100)
    week = propose(coach, "Mon", "Tue", "Wed", "Fri", "Sun")
    wishes = coach.get_by_role("region", name="Wishes")
    expect(wishes).to_contain_text(re.compile("high-volume kick days"))
    heavy = heavy_days(week)
    assert len(heavy) <= 3
    assert all(b - a > 1 for a, b in pairwise(heavy))
    card = week.get_by_role("listitem").filter(has_text="Round kicks").last
    left, right = map(int, re.findall(r"left (\d+), right (\d+)", card.inner_text())[0])
    assert abs(left - right) <= 10  # in sets of ten, the other side's turn comes
    coach.get_by_label("Repeat this week").select_option("3")
    expect(coach.get_by_text("Planned 3 weeks more")).to_be_visible()
    for _ in range(3):
        before = coach.get_by_role("heading", level=1).inner_text()
        leafed(coach)
        expect(coach.get_by_role("heading", level=1)).to_contain_text("evenings")
        assert before.startswith(("Two", "Three", "Four", "Five"))
        week = coach.get_by_role("list", name="The week")
        expect(week.get_by_role("listitem").filter(has_text="Round kicks").first).to_be_visible()
        heavy = heavy_days(week)
        assert 1 <= len(heavy) <= 3
        assert all(b - a > 1 for a, b in pairwise(heavy))
    no_barriers(coach)


def test_a_class_of_children_is_planned_with_their_limits_and_changed_on_its_board(coach: Page) -> None:
    plan_of(coach, "Wren Okafor")
    offered = coach.get_by_label("One more")
    expect(offered.locator("option", has_text="Bursts")).to_have_count(0)
    expect(offered.locator("option", has_text="Rounds")).to_have_count(1)
    wish(coach, "kicks round", "Round kicks", 2, 100)
    wish(coach, "hands straight", "Straights", 2, 20)
    week = propose(coach, "Mon", "Wed")
    expect(coach.get_by_role("region", name="Wishes")).to_contain_text(
        re.compile("Round kicks: 200 strikes wished for, .* since")
    )
    for kicks in re.findall(r"Round kicks\s+(\d+): left", week.inner_text()):
        assert int(kicks) < 60
    coach.get_by_role("link", name="The class", exact=True).click()
    row = coach.get_by_role("row").filter(has_text="Wren Okafor")
    part = row.get_by_role("button", name=re.compile("^Straights"))
    cells = row.get_by_role("cell")
    expect(cells.nth(0)).to_contain_text("Straights")
    expect(cells.nth(2)).to_contain_text("Straights")
    part.first.press("ArrowRight")
    expect(cells.nth(1)).to_contain_text("Straights")
    expect(cells.nth(0)).not_to_contain_text("Straights")
    part.last.press("Control+ArrowRight")
    expect(cells.nth(3)).to_contain_text("Straights")
    expect(cells.nth(2)).to_contain_text("Straights")
    part.last.drag_to(cells.nth(5))
    expect(cells.nth(5)).to_contain_text("Straights")
    expect(cells.nth(3)).not_to_contain_text("Straights")
    no_barriers(coach)
    coach.reload()
    expect(cells.nth(5)).to_contain_text("Straights")


def test_a_trial_is_planned_over_four_weeks_fresh_and_goes_to_the_calendar(coach: Page) -> None:
    plan_of(coach, "Petra Vanek")
    leafed(coach, "The week before")
    coach.get_by_label("With hands").fill("900")  # on pads, without units: it counts into what is usual
    coach.get_by_role("button", name="Count them").click()
    expect(coach.get_by_text("as you said")).to_be_visible()
    next_week(coach)
    offered = coach.get_by_label("One more").locator("option", has_text="Trial of").first
    value = offered.get_attribute("value")
    name = offered.inner_text()
    assert value is not None
    wish(coach, value, name, 2)
    wish(coach, "kicks round", "Round kicks", 1, 60)
    week = propose(coach, "Tue", "Wed", "Fri", "Sat")
    coach.get_by_label("Repeat this week").select_option("3")
    expect(coach.get_by_text("Planned 3 weeks more")).to_be_visible()
    for k in range(4):
        if k:
            leafed(coach)
        week = coach.get_by_role("list", name="The week")
        expect(week.get_by_role("listitem").filter(has_text=name).first).to_be_visible()
        tested, heavy = days_with(week, name), heavy_days(week)
        assert 1 <= len(tested) <= 2
        assert all(b - a > 1 for a, b in pairwise(tested))
        assert not any(day - 1 in heavy for day in tested)  # fresh
        for day in tested:
            parts = week.locator("> li").nth(day).get_by_role("listitem")
            assert [name in text for text in parts.all_inner_texts()].index(
                True
            ) <= 1  # after the ramp, before all else
    with coach.expect_download() as saved:
        coach.get_by_role("link", name="To a calendar").click()
    calendar = saved.value.path().read_text()
    assert calendar.count("BEGIN:VEVENT") == len(set(days_with(week, "Ramp")))
    assert name.split()[-1] in calendar


def test_a_round_that_nobody_named_is_named_by_one_tap(coach: Page) -> None:
    coach.get_by_label("Student", exact=True).select_option("Kofi Andrade")
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Read").click()
    names = coach.get_by_role("region", name="Names")
    expect(names).to_contain_text("unnamed strikes look like")
    names.get_by_role("button", name=re.compile("Right in")).click()
    told = coach.get_by_role("dialog")
    expect(told.get_by_role("columnheader", name="unsure").first).to_be_visible()
    no_barriers(coach)
    told.get_by_role("button", name="Close").click()
    names.get_by_role("button", name="Call them so").click()
    expect(names).to_be_hidden()
    coach.get_by_role("button", name="Undo").click()
    expect(coach.get_by_text(re.compile("named"))).to_be_hidden()
