"""A class at the bag, from who is here to what was thrown, with a simulated student at several times the speed.

These tests come last in this folder: what they record is there for all who read the demo gym after them.
"""

import os
import re
import subprocess
import sys
from collections.abc import Iterator

import pytest
from conftest import PROJECT, App
from playwright.sync_api import Page, expect
from test_evening import no_barriers

GLOVES_PX = 64


@pytest.fixture(scope="session")
def at_the_bag(app: App) -> Iterator[None]:
    """The live worker, what settles, and simulated hubs."""
    commands = (["run_live"], ["run_worker", "--queue", "live"], ["run_simulated", "--server", app.url])
    started = [
        subprocess.Popen([sys.executable, "manage.py", *c], cwd=PROJECT, env={**os.environ, **app.environment})
        for c in commands
    ]
    yield
    for process in started:
        process.terminate()
        process.wait(20)


def small_targets(page: Page) -> list[str]:
    """Buttons of the bag's page that a glove would miss."""
    found = page.evaluate(
        """(least) => [...document.querySelectorAll('[data-bagside] button')].filter((b) => b.offsetParent)
          .map((b) => [b.innerText || b.ariaLabel, b.getBoundingClientRect()])
          .filter(([, r]) => r.height < least - 0.5 || r.width < least - 0.5)
          .map(([t, r]) => `${t} ${r.width}x${r.height}`)""",
        GLOVES_PX,
    )
    return [str(f) for f in found]


def figure(page: Page) -> float:
    text = page.locator("[data-figure]").get_attribute("data-figure") or ""
    return float(text.replace(",", "")) if re.fullmatch(r"[\d.,]+", text) else 0.0


def step_up(page: Page, name: str) -> None:
    """At the simulated student's bag, at real speed."""
    page.get_by_label("Student").select_option(name)
    page.get_by_role("link", name="Measure", exact=True).click()
    page.get_by_role("button", name="At real speed").click()
    page.get_by_role("button", name=f"{name} steps up").click()
    expect(page.get_by_text("all there")).to_be_visible()


def done(page: Page, first_name: str) -> None:
    page.get_by_role("button", name="Others, and the end").click()
    page.get_by_role("button", name=f"{first_name} is done").click()
    expect(page.get_by_role("heading", name="Sets")).to_be_visible()
    page.get_by_role("link", name="Measure", exact=True).click()
    expect(page.get_by_role("heading", name="A simulated evening")).to_be_visible()  # the bag is free


@pytest.mark.usefixtures("at_the_bag")
def test_an_evening_at_the_bag_goes_from_who_is_here_to_what_was_thrown(coach: Page) -> None:
    coach.get_by_label("Student").select_option("Maren Aalto")
    coach.get_by_role("link", name="Prepare", exact=True).click()
    for name in ("Maren Aalto", "Petra Vanek"):
        coach.get_by_role("checkbox", name=f"{name} is here").click()
        expect(coach.get_by_role("checkbox", name=f"{name} is here")).to_be_checked()
    expect(coach.get_by_role("checkbox", name="Hamish Duarte is here")).to_be_disabled()
    coach.get_by_role("button", name="Add the ramp").click()
    expect(coach.get_by_text("Ramp: three-quarter")).to_be_visible()
    no_barriers(coach)

    coach.get_by_role("link", name="Measure", exact=True).click()
    coach.get_by_role("button", name="Ten times as fast").click()
    coach.get_by_role("button", name="Maren Aalto steps up").click()
    expect(coach.locator("[data-bagside=rest]")).to_be_visible()
    expect(coach.get_by_text("all there")).to_be_visible()
    assert small_targets(coach) == []
    no_barriers(coach)

    # a set of the ramp, by the space bar
    coach.keyboard.press("Space")
    expect(coach.locator("[data-bagside=set]")).to_be_visible()
    expect(coach.get_by_text("of a usual full one")).to_be_visible()
    expect(coach.get_by_text("3 of 3", exact=False)).to_be_visible()
    coach.keyboard.press("Space")

    # a set that nobody planned
    coach.get_by_role("button", name="Another set").click()
    coach.get_by_role("radio", name="5", exact=True).click()
    coach.get_by_role("dialog").get_by_role("button", name="Begin set").click()
    expect(coach.locator("[data-bagside=set]")).to_be_visible()
    expect(coach.locator("[data-figure]")).to_have_attribute("data-figure", re.compile(r"^[\d.]+$"))
    expect(coach.get_by_text("5 of 5", exact=False)).to_be_visible()
    assert 5.0 < figure(coach) < 60.0
    assert small_targets(coach) == []
    no_barriers(coach)
    coach.keyboard.press("1")
    expect(coach.get_by_role("button", name="dipped")).to_have_attribute("aria-pressed", "true")
    coach.keyboard.press("x")
    expect(coach.get_by_text("4 of 5", exact=False)).to_be_visible()
    coach.get_by_role("button", name="Undo").click()
    expect(coach.get_by_text("5 of 5", exact=False)).to_be_visible()

    # the tablet goes to sleep and comes back: all of it is there
    coach.reload()
    expect(coach.get_by_text("5 of 5", exact=False)).to_be_visible()
    coach.get_by_role("button", name="End set").click()
    expect(coach.get_by_role("timer")).to_be_visible()
    last = coach.get_by_role("region", name="The last set")
    expect(last).to_contain_text("5 of 5 strikes")
    expect(last).not_to_contain_text("settling")

    for width, height in ((1024, 768), (820, 1180)):
        coach.set_viewport_size({"width": width, "height": height})
        assert coach.evaluate("document.documentElement.scrollWidth") <= width
        assert small_targets(coach) == []
    coach.set_viewport_size({"width": 1280, "height": 800})
    done(coach, "Maren")
    coach.get_by_role("link", name="Read", exact=True).click()
    expect(coach.get_by_role("heading", name="Rear straight").first).to_be_visible()


@pytest.mark.usefixtures("at_the_bag")
def test_a_round_is_called_and_told(coach: Page) -> None:
    step_up(coach, "Sunniva Roe")
    coach.get_by_role("button", name="Round with calls").click()
    coach.get_by_role("radio", name="30 s").click()
    coach.get_by_role("button", name="Begin round").click()
    expect(coach.locator("[data-call='1 2']")).to_be_visible()
    no_barriers(coach)
    expect(coach.get_by_role("region", name="The last set")).to_contain_text("calls:")
    told = coach.locator("[data-calls]").inner_text()
    calls, landed, wanted = (int(n) for n in re.findall(r"(\d+) (?:calls|of|strikes)", told)[:3])
    assert calls >= 5
    assert landed >= 0.7 * wanted
    done(coach, "Sunniva")
