"""Every view as it goes to paper: nothing to press or to type into, nothing cut, nothing wider than the page."""

import pytest
from conftest import App  # the browser folder's own
from playwright.sync_api import Page, expect

PAPER_PX = 718  # A4 between its margins
VIEWS = ("/students", "/students/1", "/students/1/plan", "/students/1/force", "/log", "/kit", "/playbook", "/class",
         "/class/plan", "/bags")  # fmt: skip
OF_AN_EVENING = ("Prepare", "Read", "Compare", "Weeks")

CUT = """() => {
  const inside = e => e.scrollHeight > e.clientHeight + 2 && getComputedStyle(e).overflowY !== 'visible';
  const all = [...document.querySelectorAll('main, main *')];
  return all.filter(e => e.clientHeight > 40 && inside(e)).map(e => e.className);
}"""


def on_paper(page: Page, what: str) -> None:
    page.wait_for_load_state("networkidle")
    expect(page.locator("main")).not_to_be_empty()
    expect(page.locator("main").get_by_text("Fetching")).to_have_count(0)
    page.emulate_media(media="print")
    page.set_viewport_size({"width": PAPER_PX, "height": 1000})
    page.evaluate("window.dispatchEvent(new Event('beforeprint'))")
    controls = page.locator("main").locator("input:visible, select:visible, textarea:visible, .action:visible")
    assert controls.count() == 0, (what, controls.first.evaluate("e => e.outerHTML"))
    assert page.evaluate("document.documentElement.scrollWidth") <= PAPER_PX + 1, what
    assert page.evaluate(CUT) == [], what
    page.evaluate("window.dispatchEvent(new Event('afterprint'))")
    page.set_viewport_size({"width": 1280, "height": 800})
    page.emulate_media(media="screen")


@pytest.mark.parametrize("views", [VIEWS[:5], VIEWS[5:]])
def test_a_view_of_the_gym_goes_to_paper_whole(coach: Page, app: App, views: tuple[str, ...]) -> None:
    for view in views:
        coach.goto(f"{app.url}{view}")
        on_paper(coach, view)


def test_so_does_a_students_evening(coach: Page) -> None:
    coach.get_by_label("Student", exact=True).select_option("Maren Aalto")
    for part in OF_AN_EVENING:
        coach.get_by_role("navigation", name="This evening").get_by_role("link", name=part).click()
        on_paper(coach, part)
