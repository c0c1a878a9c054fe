"""A class at the bag, from who is here to what was thrown, with a simulated student at several times the speed.

These tests come last in this folder: what they record is there for all who read the demo gym after them.
"""

import re
import subprocess
import sys
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path

import pytest
from conftest import App
from playwright.sync_api import Page, expect
from processes import running, until
from test_evening import no_barriers

GLOVES_PX = 64


@pytest.fixture(scope="session")
def at_the_bag(app: App) -> Iterator[None]:
    """The live worker, what settles, and simulated hubs."""
    commands = (["run_live"], ["run_worker", "--queue", "live"], ["run_simulated", "--server", app.url])
    with ExitStack() as ends:
        for c in commands:
            ends.enter_context(running([sys.executable, "manage.py", *c], app.environment))
        yield


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


def measure(page: Page) -> None:
    """The chosen student's own: the list of students has links of that name too."""
    page.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()


def step_up(page: Page, name: str) -> None:
    """At the simulated student's bag, at real speed."""
    page.get_by_label("Student").select_option(name)
    measure(page)
    page.get_by_role("button", name="At real speed").click()
    page.get_by_role("button", name=f"{name} steps up").click()
    expect(page.get_by_text("all there")).to_be_visible()


def done(page: Page, first_name: str) -> None:
    page.get_by_role("button", name="Others, and the end").click()
    page.get_by_role("button", name=f"{first_name} is done").click()
    expect(page.get_by_role("heading", name="Sets")).to_be_visible()
    measure(page)
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

    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()
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

    # the server takes no taps: they wait, also for a page that is loaded anew, and count from when they were made
    for path in ("sets", "sets/end"):
        coach.route(f"**/api/takes/*/{path}", lambda route: route.fulfill(status=503, json={"message": "away"}))
    coach.get_by_role("button", name="Begin set").click()
    coach.get_by_role("button", name="End set").click()
    expect(coach.get_by_role("button", name="Begin set")).to_be_visible()
    expect(coach.get_by_role("status").filter(has_text="Taps wait here")).to_be_visible()
    coach.reload()
    expect(coach.get_by_role("status").filter(has_text="Taps wait here")).to_be_visible()
    coach.unroute_all()
    expect(coach.get_by_role("img", name=re.compile("strikes in 3 sets so far"))).to_be_visible()
    expect(coach.get_by_role("status").filter(has_text="Taps wait here")).not_to_be_visible()

    for width, height in ((1024, 768), (820, 1180)):
        coach.set_viewport_size({"width": width, "height": height})
        assert coach.evaluate("document.documentElement.scrollWidth") <= width
        assert small_targets(coach) == []
    coach.set_viewport_size({"width": 1280, "height": 800})
    done(coach, "Maren")
    coach.get_by_role("link", name="Read", exact=True).click()
    expect(coach.get_by_role("heading", name="Rear straight").first).to_be_visible()


@pytest.mark.usefixtures("at_the_bag")
def test_a_round_is_called_and_told(coach: Page, app: App) -> None:
    step_up(coach, "Sunniva Roe")
    coach.get_by_role("button", name="Round with calls").click()
    coach.get_by_role("radio", name="30 s").click()
    coach.get_by_role("button", name="Begin round").click()
    expect(coach.locator("[data-call='1 2']")).to_be_visible()
    no_barriers(coach)
    expect(coach.get_by_role("region", name="The last set")).to_contain_text("calls:")
    told = coach.locator("[data-calls]")
    stations = coach.request.get(f"{app.url}/api/stations").json()
    number = next(s["take_id"] for s in stations if s["student"] == "Sunniva Roe")

    def as_counted() -> bool:
        """How many a student at a simulated bag answers in time hangs on the machine; what is told of it does not."""
        shown = [int(n) for n in re.findall(r"(\d+) (?:calls|of|strikes)", told.inner_text())[:3]]
        heard = [c for c in coach.request.get(f"{app.url}/api/takes/{number}").json()["calls"] if c["sounded"]]
        counted = [len(heard), sum(c["landed"] for c in heard), sum(c["wanted"] for c in heard)]
        return shown == counted and counted[0] >= 5 and counted[1] >= 1

    until(as_counted)
    done(coach, "Sunniva")


@pytest.fixture
def hub_by_the_door(coach: Page, app: App, tmp_path: Path) -> Iterator[None]:
    """A station made under Kit, and its hub, whose right wrist's battery is flat after some minutes of the evening."""
    coach.get_by_role("link", name="Kit", exact=True).click()
    coach.get_by_role("button", name="Make a station").click()
    coach.get_by_label("Called").fill("By the door")
    coach.get_by_role("button", name="Make it").click()
    token = coach.get_by_role("region", name="Stations").locator("code").first.inner_text()
    command = ["-m", "agile_strike.cli", "hub", "simulate", "--server", app.url, "--token", token, "--speed", "8"]
    command += ["--fault", "flat=rightwrist@300", "--spool", str(tmp_path / "spool"), "--seed", "5"]
    with running([sys.executable, *command], app.environment, stdout=subprocess.DEVNULL):
        yield


@pytest.mark.usefixtures("at_the_bag", "hub_by_the_door")
def test_two_in_turn_throw_a_trials_blocks_and_a_unit_dies(coach: Page) -> None:
    for name in ("Petra Vanek", "Lior Castellan"):
        coach.get_by_label("Student").select_option(name)
        coach.get_by_role("link", name="Prepare", exact=True).click()
        mark = coach.get_by_role("checkbox", name=f"{name} is here")
        mark.wait_for()
        if mark.get_attribute("aria-checked") == "false":
            mark.click()
        expect(mark).to_be_checked()
    coach.get_by_label("Student").select_option("Petra Vanek")
    expect(coach.get_by_role("heading", name="Tonight for Petra Vanek")).to_be_visible()
    coach.get_by_role("button", name="Gear, soreness, mass").click()
    coach.get_by_role("button", name="gloves 10 oz").click()
    coach.get_by_label("Body mass today").fill("61.5")
    coach.get_by_role("button", name="Note it").click()
    expect(coach.get_by_text("gloves 10 oz · 61.5 kg")).to_be_visible()
    coach.get_by_role("button", name="Count a volume").click()
    coach.get_by_role("radio", name="20", exact=True).first.click()
    coach.get_by_role("button", name="Count them").click()
    expect(coach.locator("[data-volume='20']")).to_be_visible()
    no_barriers(coach)

    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()
    expect(coach.get_by_role("heading", name="Measure Petra Vanek")).to_be_visible()
    coach.get_by_role("radio", name="By the door").click()
    coach.get_by_role("button", name="Petra Vanek steps up").click()
    coming = coach.get_by_role("region", name="Next")
    for block in range(1, 5):
        expect(coming).to_contain_text(f"block {block} of")
        wanted = int(re.findall(r"(\d+) strikes", coming.inner_text())[0])
        coach.keyboard.press("Space")
        expect(coach.locator("[data-bagside=set]")).to_be_visible()
        expect(coach.get_by_text(f"{wanted} of {wanted}", exact=False)).to_be_visible()
        coach.keyboard.press("Space")
        expect(coach.get_by_role("timer")).to_be_visible()
    expect(coming).not_to_contain_text("block 4 of")
    expect(coach.get_by_text("right wrist silent: wake it. Force goes on", exact=False)).to_be_visible()

    # the count: ten of the side that is next, and the total goes down
    if not re.search("(Lead|Rear) round", coming.locator("p").nth(1).inner_text()):
        coming.get_by_role("button", name=re.compile("(Lead|Rear) round")).click()
    coach.keyboard.press("Space")
    expect(coach.locator("[data-volume='10']")).to_be_visible()
    coach.keyboard.press("Space")
    expect(coach.get_by_role("region", name="The last set").locator("[data-volume='10']")).to_be_visible()

    # the other one's turn, out of all who are here; then, who takes turns with him is one tap away
    coach.get_by_role("button", name="Others, and the end").click()
    coach.get_by_role("dialog").get_by_role("button", name="Lior Castellan").click()
    expect(coach.get_by_role("heading", name="Lior Castellan at")).to_be_attached()
    expect(coach.locator("[data-bagside] header").get_by_role("button").first).to_have_text("Petra Vanek")

    # and the coach walks round
    coach.keyboard.press("Space")
    expect(coach.locator("[data-figure]")).to_have_attribute("data-figure", re.compile(r"^[\d.]+$"))
    coach.get_by_role("button", name="Others, and the end").click()
    coach.get_by_role("link", name="All bags").click()
    bag = coach.get_by_role("link", name=re.compile("Lior Castellan.*By the door", re.S))
    expect(bag).to_contain_text("right wrist: silent")
    no_barriers(coach)
    bag.click()
    coach.keyboard.press("Space")
    done(coach, "Lior")

    coach.get_by_label("Student").select_option("Petra Vanek")
    coach.get_by_role("link", name="Read", exact=True).click()
    expect(
        coach.get_by_role("heading", name="Lead round").or_(coach.get_by_role("heading", name="Rear straight")).first
    ).to_be_visible()
