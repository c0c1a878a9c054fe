"""The log from a note to what hurts, a report handed out, and what goes with force, as a coach uses them."""

import re

from barriers import no_barriers
from conftest import App  # the browser folder's own
from playwright.sync_api import Page, expect
from weeks import leafed


def test_a_note_is_written_found_changed_and_taken_back(coach: Page) -> None:
    coach.get_by_role("link", name="Log", exact=True).click()
    expect(coach.get_by_role("heading", level=1)).to_have_text("The gym, day by day")
    coach.keyboard.press("n")
    coach.keyboard.type("Sole unit came loose twice")
    coach.keyboard.press("Enter")
    row = coach.get_by_role("listitem").filter(has_text="came loose").nth(1)  # the day, then its line
    expect(row).to_contain_text("Note")
    coach.get_by_label("Search the log").fill("loos")
    expect(coach).to_have_url(re.compile("text=loos"))
    expect(coach.get_by_role("list", name="Days").get_by_role("heading")).to_have_count(1)
    no_barriers(coach)
    row.get_by_role("button", name=re.compile("anew")).click()
    coach.get_by_label("The note").fill("Sole unit came loose twice: taped")
    coach.get_by_role("button", name="Keep").click()
    row.get_by_role("button", name="Said before").click()
    expect(row.get_by_role("list", name="Said before")).to_contain_text("wrote over it: Sole unit came loose twice")
    row.get_by_role("button", name=re.compile("away")).click()
    expect(coach.get_by_text("Nothing of the kind was noted.")).to_be_visible()
    coach.get_by_role("button", name="Undo").click()
    expect(row).to_contain_text("taped")


def next_week(coach: Page) -> None:
    coach.get_by_role("link", name="Plan", exact=True).click()
    leafed(coach)


def test_a_sore_wrist_stops_what_is_planned_for_hands_until_it_is_cleared(coach: Page) -> None:
    coach.get_by_label("Student", exact=True).select_option("Petra Vanek")
    next_week(coach)
    coach.get_by_label("One more").select_option("hands straight")
    coach.get_by_label("Straights: strikes an evening").fill("20")
    coach.get_by_label("One more").select_option("kicks round")
    coach.get_by_label("Round kicks: strikes an evening").fill("20")
    coach.get_by_label("Tue", exact=True).check()
    coach.get_by_role("button", name="Propose the week").click()
    week = coach.get_by_role("list", name="The week")
    expect(week.get_by_role("listitem").filter(has_text="Straights").nth(1)).to_contain_text("left")
    coach.get_by_role("link", name="Log", exact=True).click()
    coach.get_by_label("Whose log").select_option("Petra Vanek")
    expect(coach.get_by_role("heading", level=1)).to_have_text("Petra Vanek, day by day")
    coach.get_by_label("It hurts").check()
    coach.get_by_label("Where it hurts").fill("left wrist")
    coach.get_by_role("button", name="Write down").click()
    hurts = coach.get_by_text("What it stops rests until it is cleared.")
    expect(hurts).to_contain_text("left wrist")
    next_week(coach)
    expect(coach.get_by_text("Not over: left wrist")).to_be_visible()
    rests = week.get_by_text("Rests until it is cleared")
    expect(rests).to_have_count(1)  # kicks go on
    coach.get_by_role("link", name="log", exact=True).click()
    coach.get_by_role("button", name="Cleared today").click()
    expect(hurts).to_be_hidden()
    expect(coach.get_by_role("listitem").filter(has_text="Cleared").last).to_contain_text("left wrist")
    coach.get_by_role("button", name="Undo").click()
    expect(hurts).to_be_visible()
    coach.get_by_role("button", name="Cleared today").click()
    expect(hurts).to_be_hidden()
    coach.get_by_role("link", name="Class", exact=True).click()
    coach.get_by_role("link", name="The class’s week").click()
    coach.get_by_role("button", name="The next one").click()
    expect(coach.get_by_role("row").filter(has_text="Petra Vanek")).to_contain_text("Straights 20")
    no_barriers(coach)


def test_a_report_is_handed_out_by_a_link_and_withdrawn(coach: Page, app: App) -> None:
    coach.get_by_role("link", name="Maren Aalto").first.click()
    coach.get_by_role("link", name="A report").click()
    no_barriers(coach)
    coach.get_by_label("For the coach").check()
    expect(coach.get_by_role("region", name="Links")).to_be_hidden()
    coach.get_by_label("The season").check()
    expect(coach.get_by_label("Over")).to_have_value("52")
    coach.get_by_role("button", name="30 days").click()
    link = coach.get_by_role("link", name=re.compile("The season, "))
    expect(link).to_be_visible()
    address = link.get_attribute("href")
    assert address is not None
    answer = coach.request.get(app.url + address)
    assert (answer.status, answer.body()[:5]) == (200, b"%PDF-")
    coach.get_by_role("button", name=re.compile("Withdraw the link")).click()
    expect(link).to_be_hidden()
    assert coach.request.get(app.url + address).status == 404


def test_what_goes_with_force_is_told_from_the_floor_up(coach: Page) -> None:
    coach.get_by_role("link", name="Petra Vanek").first.click()
    coach.get_by_role("link", name="Weeks", exact=True).click()
    coach.get_by_role("link", name="What goes with force").click()
    expect(coach.get_by_role("heading", level=1)).to_contain_text("force")
    rows = coach.get_by_role("region", name="From the floor up").get_by_role("row")
    expect(rows.last).to_contain_text("Load shift")  # the floor is at the foot
    no_barriers(coach)
