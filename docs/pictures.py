"""Takes the pictures of docs/screenshots from a running demo: `scripts/pictures`."""

import re
import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

TARGET = Path(__file__).parent / "screenshots"
CHROMIUM = "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking".split()


def student(page: Page, name: str, part: str) -> None:
    page.get_by_label("Student").select_option(name)
    page.get_by_role("link", name=part, exact=True).first.click()
    page.wait_for_load_state("networkidle")


def take(page: Page, name: str) -> None:
    page.wait_for_timeout(600)
    page.screenshot(path=TARGET / f"{name}.png")


def floor_up(page: Page) -> None:
    student(page, "Sunniva Roe", "Read")
    page.get_by_role("img", name=re.compile("Floor-up")).wait_for()
    page.locator("body").click(position={"x": 3, "y": 400})
    for _ in range(8):
        page.keyboard.press("ArrowDown")
    page.get_by_label("Draw under it").select_option("set")
    take(page, "read-floor-up")


def a_week(page: Page) -> None:
    """Next week, proposed from four wishes of which one has to bend."""
    student(page, "Petra Vanek", "Plan")
    page.get_by_role("button", name="The next one").click()
    page.wait_for_load_state("networkidle")
    page.get_by_label("One more").get_by_role("option", name="Straights", exact=True).wait_for(state="attached")
    for wish in ("Trial of weight transfer", "Straight-path gate", "Straights", "Round kicks"):
        one = page.get_by_label("One more").get_by_role("option", name=wish, exact=True)
        if one.count():
            page.get_by_label("One more").select_option(label=wish)
    page.get_by_label("Straights: strikes an evening").fill("20")
    for day in ("Tue", "Thu", "Sat"):
        page.get_by_label(day, exact=True).check()
    page.get_by_role("button", name="Propose the week").click()
    page.get_by_role("button", name="Take Ramp off").first.wait_for()
    page.locator("main").evaluate("(m) => m.scrollTo(0, 0)")
    take(page, "plan")


def at_the_bag(page: Page) -> None:
    """A set, the rest after it and a round, by a simulated student at real speed."""
    student(page, "Maren Aalto", "Prepare")
    for name in ("Maren Aalto", "Petra Vanek", "Sunniva Roe", "Wren Okafor"):
        box = page.get_by_role("checkbox", name=f"{name} is here")
        if not box.is_checked():
            box.click()
            page.wait_for_timeout(400)
    if page.get_by_role("button", name="Add the ramp").count():
        page.get_by_role("button", name="Add the ramp").click()
    page.get_by_role("button", name="Count a volume").click()
    page.get_by_role("radio", name="50", exact=True).click()
    page.get_by_role("button", name="Count them").click()
    page.locator("[data-volume]").wait_for()
    student(page, "Maren Aalto", "Measure")
    page.get_by_role("button", name="At real speed").click()
    page.wait_for_timeout(6000)
    student(page, "Maren Aalto", "Prepare")
    page.wait_for_timeout(4000)
    take(page, "prepare")
    page.get_by_role("button", name="Begin at the bag").click()
    page.get_by_role("button", name="Another set").click()
    page.get_by_role("radio", name="8", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Begin set").click()
    page.get_by_text("5 of 8").wait_for(timeout=60_000)
    take(page, "bagside")
    page.get_by_text("6 of 8").wait_for(timeout=60_000)
    page.set_viewport_size({"width": 820, "height": 1180})
    page.evaluate("document.documentElement.dataset.theme = 'dark'")
    take(page, "bagside-portrait-dark")
    page.evaluate("document.documentElement.dataset.theme = 'light'")
    page.set_viewport_size({"width": 1280, "height": 800})
    page.get_by_text("8 of 8").wait_for(timeout=60_000)
    page.wait_for_timeout(3000)
    page.keyboard.press("Space")
    page.wait_for_timeout(9000)
    take(page, "bagside-rest")
    page.get_by_role("button", name="Others, and the end").click()
    page.get_by_role("button", name="Maren is done").click()
    page.wait_for_timeout(2000)


def evening(page: Page) -> None:
    page.get_by_role("link", name="Sunniva Roe").click()
    page.get_by_role("link", name=re.compile("24 Nov")).first.click()
    page.get_by_role("region", name="Sets").wait_for()
    take(page, "evening")
    page.get_by_role("link", name="Students", exact=True).click()


def force(page: Page) -> None:
    student(page, "Maren Aalto", "Read")
    page.get_by_role("button", name="Force and table").click()
    page.get_by_role("img", name="Force over time").wait_for()
    page.locator("body").click(position={"x": 3, "y": 400})
    for _ in range(9):
        page.keyboard.press("ArrowDown")
    page.get_by_role("button", name="Sort by Impulse", exact=True).click()
    page.get_by_text("Drawing the force curve").wait_for(state="hidden")
    take(page, "read-force")


def trials(page: Page) -> None:
    student(page, "Maren Aalto", "Compare")
    page.get_by_role("img", name=re.compile("strikes of")).wait_for()
    take(page, "compare")
    student(page, "Maren Aalto", "Weeks")
    take(page, "weeks")
    a_week(page)
    page.get_by_role("link", name="Class", exact=True).click()
    page.get_by_role("region", name="Gained", exact=True).wait_for()
    take(page, "class")
    student(page, "Lior Castellan", "Compare")
    page.get_by_role("link", name="New trial").click()
    for label, level in (("As now", "stay centred"), ("Against it 1", "full shift onto the lead heel")):
        page.get_by_label(label).fill(level)
        page.get_by_role("option", name=level).first.click()
    page.get_by_text("can be seen in").wait_for()
    page.locator("body").click(position={"x": 3, "y": 400})
    take(page, "trial-plan")


def days(page: Page) -> None:
    """What hurts, what was written, what goes with force, a report."""
    student(page, "Petra Vanek", "Weeks")
    page.get_by_role("link", name="What goes with force").click()
    page.get_by_role("region", name="From the floor up").wait_for()
    take(page, "force")
    student(page, "Petra Vanek", "Weeks")
    page.get_by_role("link", name="Report", exact=True).click()
    page.get_by_role("button", name="30 days").click()
    page.get_by_text("opens until").wait_for()
    take(page, "report")
    page.get_by_role("link", name="Log", exact=True).click()
    page.get_by_role("list", name="Days").wait_for()
    take(page, "log")


def rest(page: Page) -> None:
    student(page, "Kofi Andrade", "Measure")
    page.get_by_role("link", name="Bring in a recording").click()
    take(page, "measure")
    for link, name in (("Kit", "kit"), ("Playbook", "playbook")):
        page.get_by_role("link", name=link, exact=True).click()
        page.wait_for_load_state("networkidle")
        take(page, name)
    page.get_by_role("link", name="Students", exact=True).click()
    page.get_by_role("link", name="Kofi Andrade").click()
    page.get_by_role("heading", name="Body mass").wait_for()
    take(page, "student")


def main(address: str) -> None:
    TARGET.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        page.get_by_label("Name").fill("ottoline")
        page.get_by_label("Password").fill("boathouse")
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("heading", name="Students").wait_for()
        for part in (evening, floor_up, force, trials, days, at_the_bag, rest):
            part(page)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
