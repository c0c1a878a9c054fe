"""An evening before and after it is recorded, and units by their own names, as a coach uses them."""

import re

from barriers import no_barriers
from picking import choose
from playwright.sync_api import Page, expect
from weeks import leafed


def test_an_evening_is_started_planned_noted_and_a_slip_taken_back(coach: Page) -> None:
    coach.get_by_role("button", name="Add a student").click()
    coach.get_by_label("Name").fill("Noor Haddad")
    coach.get_by_label("Born on").fill("1995-02-11")
    coach.get_by_role("button", name="Add", exact=True).click()
    coach.get_by_role("button", name="Start tonight’s").click()
    expect(coach.get_by_text("Nothing planned and nothing thrown yet.")).to_be_visible()
    coach.get_by_role("button", name="Plan a set").click()
    choose(coach, "Strike", "hook rear", "rear hook")
    coach.get_by_label("Height").select_option("body")
    coach.get_by_role("button", name="Plan it").click()
    row = coach.get_by_role("row").filter(has_text="Rear hook")
    expect(row).to_contain_text("not yet")
    coach.get_by_role("button", name="Write").click()
    coach.get_by_label("Sore where").fill("left wrist")
    coach.get_by_role("button", name="Save").click()
    expect(coach.get_by_text("left wrist", exact=True)).to_be_visible()
    no_barriers(coach)
    row.get_by_role("button", name="Take off").click()
    expect(row).to_have_count(0)
    coach.get_by_role("button", name="Undo").click()
    expect(row).to_contain_text("not yet")
    coach.reload()
    expect(row).to_contain_text("10")
    expect(coach.get_by_text("left wrist", exact=True)).to_be_visible()


def test_an_evening_shows_what_was_planned_thrown_and_said_and_leads_to_the_strike(coach: Page) -> None:
    coach.get_by_role("link", name="Sunniva Roe").click()
    coach.get_by_role("link", name=re.compile("24 Nov")).first.click()
    sets = coach.get_by_role("region", name="Sets")
    expect(sets.get_by_role("row").filter(has_text="Lead straight")).to_contain_text("10")
    expect(coach.get_by_text("hand dropped", exact=False).first).to_be_visible()
    expect(coach.get_by_role("region", name="Units", exact=True)).to_contain_text("KQ-100")
    no_barriers(coach)
    coach.get_by_role("link", name="Strike 4").click()
    expect(coach.get_by_text(re.compile(r"strike 4 of \d+"))).to_be_visible()
    coach.get_by_role("link", name="Evening", exact=True).click()
    coach.get_by_role("link", name="← The evening before").click()
    expect(coach.get_by_role("heading", level=1)).to_contain_text("Tuesday 17 November 2026")


def test_a_unit_gets_a_name_of_the_gyms_own_and_keeps_it_everywhere(coach: Page) -> None:
    coach.get_by_role("link", name="Kit", exact=True).click()
    coach.get_by_role("button", name="Name KQ-107").click()
    coach.get_by_label("What you call it").fill("Belt unit")
    coach.get_by_role("button", name="Save").click()
    expect(coach.get_by_role("row").filter(has_text="Belt unit")).to_contain_text("KQ-107")
    coach.get_by_role("link", name="Students", exact=True).click()
    coach.get_by_role("link", name="Sunniva Roe").click()
    coach.get_by_role("link", name=re.compile("24 Nov")).first.click()
    expect(coach.get_by_role("region", name="Units", exact=True)).to_contain_text("Belt unit")


def test_keys_pressed_faster_than_the_address_changes_lose_no_step(coach: Page) -> None:
    coach.get_by_role("link", name="Sunniva Roe").click()
    expect(coach.get_by_role("heading", level=1)).to_have_text("Sunniva Roe")  # the list before has many a Read
    coach.get_by_role("link", name="Read", exact=True).click()
    expect(coach.get_by_role("img", name=re.compile("Floor-up"))).to_be_visible()
    coach.evaluate(
        """() => {
            const press = (key) => window.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
            for (let i = 0; i < 12; i++) press("ArrowDown");
            for (let i = 0; i < 150; i++) press("ArrowRight");
            press("u");
        }"""
    )
    expect(coach.get_by_label("Cursor, milliseconds from contact")).to_have_value("300")
    expect(coach).to_have_url(re.compile(r"strike=13.*at=300|at=300.*strike=13"))
    expect(coach).to_have_url(re.compile(r"under=\d+"))


def test_a_week_is_proposed_says_what_bent_and_is_changed_by_key(coach: Page) -> None:
    coach.get_by_role("link", name="Kofi Andrade").click()
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Plan").click()
    expect(coach.get_by_role("heading", level=1)).to_have_text("Nothing is planned yet.")
    leafed(coach)
    for wish in ("Mirror", "Round kicks"):
        coach.get_by_label("One more").select_option(label=wish)
    coach.get_by_label("Round kicks: evenings").fill("3")
    coach.get_by_label("Round kicks: strikes an evening").fill("100")
    for day in ("Mon", "Wed", "Fri"):
        coach.get_by_label(day, exact=True).check()
    coach.get_by_role("button", name="Propose the week").click()
    expect(coach.get_by_role("region", name="Wishes")).to_contain_text("more would be a sudden jump")
    monday = coach.get_by_role("listitem").filter(has=coach.get_by_role("heading", name=re.compile("^Mon")))
    tuesday = coach.get_by_role("listitem").filter(has=coach.get_by_role("heading", name=re.compile("^Tue")))
    expect(monday).to_contain_text("Mirror")
    no_barriers(coach)
    monday.get_by_role("button", name="Mirror: a day later").press("Enter")
    expect(tuesday).to_contain_text("Mirror")
    expect(tuesday).to_contain_text("not a free evening")
    coach.reload()
    tuesday.get_by_role("button", name="Take Mirror off").press("Enter")
    expect(tuesday.get_by_role("button")).to_have_count(0)
