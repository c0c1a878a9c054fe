"""What a coach takes away and takes back, tables that come through the queue, and figures brought to one basis."""

import re
from pathlib import Path

import pytest
from barriers import no_barriers
from conftest import App  # the browser folder's own
from makers import Played, logger_table
from playwright.sync_api import Browser, Page, expect


@pytest.fixture(scope="session")
def counts_file(clean: Played, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A logger's table without a word of time, of a unit that hung upside down."""
    path = tmp_path_factory.mktemp("tables") / "bag night.csv"
    rows = logger_table(clean.simulated[0].recording.units["bag"]).decode().splitlines()
    turned = []
    for row in rows[1:]:
        _, ax, ay, az, gx, gy, gz = (float(c) for c in row.split(","))
        turned.append(f"{ax:.5f},{-ay:.5f},{-az:.5f},{gx:.5f},{-gy:.5f},{-gz:.5f}")
    head = "ax (m/s^2),ay (m/s^2),az (m/s^2),gx (rad/s),gy (rad/s),gz (rad/s)"
    path.write_text("\n".join([head, *turned]))
    return path


def open_measure(coach: Page, student: str) -> None:
    coach.get_by_label("Student", exact=True).select_option(student)
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()
    coach.get_by_role("link", name="Bring in a recording").click()


def test_a_table_is_read_asked_about_and_brought_in(coach: Page, counts_file: Path) -> None:
    open_measure(coach, "Lior Castellan")
    coach.get_by_label("Choose files").set_input_files(counts_file)
    expect(coach.get_by_text("does not say its rate")).to_be_visible()
    expect(coach.get_by_text("its z axis points down: it is turned")).to_be_visible()
    expect(coach.get_by_text("the rate is not said yet")).to_be_visible()
    bring = coach.get_by_role("button", name="Bring it in")
    expect(bring).to_be_disabled()
    no_barriers(coach)
    coach.reload()  # nothing of it is lost
    rate = coach.get_by_label("Samples a second")
    rate.fill("1000")
    rate.blur()
    expect(coach.get_by_text("does not say its rate")).to_be_hidden()
    expect(bring).to_be_enabled()
    bring.click()
    expect(coach.get_by_text("8 strikes in 1 recording.")).to_be_visible()
    expect(coach.get_by_text("hung another way up than it should")).to_be_visible()
    expect(bring).to_be_hidden()


def test_the_mapping_stays_open_while_it_is_corrected(coach: Page, tmp_path: Path) -> None:
    path = tmp_path / "odd.csv"
    path.write_text("t,p,q,r,s\n" + "\n".join(f"{k / 50},{k % 3},{k % 5},{k % 7},{k % 2}" for k in range(500)))
    open_measure(coach, "Lior Castellan")
    coach.get_by_label("Choose files").set_input_files(path)
    coach.get_by_role("button", name="Add a unit").click()
    axes = coach.get_by_text("Acceleration x, y, z").last
    axes.click()
    coach.get_by_label("Acceleration x, y, z: y").last.select_option("s")
    expect(coach.get_by_label("Acceleration x, y, z: y").last).to_have_value("s")
    expect(coach.get_by_label("Acceleration x, y, z: y").last).to_be_visible()  # the list did not close
    while coach.get_by_role("button", name="It is no unit").count():
        before = coach.get_by_role("button", name="It is no unit").count()
        coach.get_by_role("button", name="It is no unit").first.click()
        expect(coach.get_by_role("button", name="It is no unit")).to_have_count(before - 1)
    coach.get_by_role("button", name="Leave it").click()
    expect(coach.get_by_role("heading", name="Is this what the table holds?")).to_be_hidden()


def test_a_recording_a_bag_and_a_student_are_removed_and_taken_back(coach: Page) -> None:
    coach.get_by_label("Student", exact=True).select_option("Kofi Andrade")
    coach.get_by_role("link", name="Read", exact=True).first.click()
    recordings = coach.locator('select:has(option:has-text("strikes"))').locator("option")
    expect(recordings.first).to_be_attached()
    n = recordings.count()
    coach.get_by_role("button", name="Remove", exact=True).click()
    expect(coach.get_by_text("was removed, with all that goes with it.")).to_be_visible()
    expect(recordings).to_have_count(n - 1)
    coach.get_by_role("button", name="Undo").click()
    expect(coach.get_by_text("is back.")).to_be_visible()
    expect(recordings).to_have_count(n)
    coach.get_by_role("link", name="Kit", exact=True).click()
    coach.get_by_role("button", name="Remove Heavy bag by the stairs").click()
    expect(coach.get_by_role("heading", name="Heavy bag by the stairs", exact=True)).to_be_hidden()
    coach.get_by_role("link", name="Students", exact=True).click()
    coach.get_by_role("link", name="What was removed").click()
    no_barriers(coach)
    coach.get_by_role("listitem").filter(has_text="Heavy bag by the stairs").get_by_role("button").click()
    expect(coach.get_by_role("heading", name="Nothing was removed")).to_be_visible()


def test_a_problem_stands_beside_the_undo_and_goes_with_the_next_deed(coach: Page) -> None:
    coach.get_by_label("Student", exact=True).select_option("Sunniva Roe")
    coach.get_by_role("link", name="Read", exact=True).first.click()
    expect(coach.get_by_text(re.compile(r"strike 1 of \d+"))).to_be_visible()
    note = coach.get_by_label("Note on this strike")
    coach.evaluate("""async () => {
      const id = Number(new URLSearchParams(location.search).get('recording')) || (await (await fetch('/api/students'))
        .json()).find(s => s.name === 'Sunniva Roe').id;
      const rec = (await (await fetch(`/api/students/${id}/recordings`)).json())[0].id;
      const s = await (await fetch(`/api/recordings/${rec}/strikes`)).json();
      const token = /csrftoken=([^;]+)/.exec(document.cookie)[1];
      await fetch(`/api/strikes/${s.id[0]}/note`, {method: 'PUT', headers: {'Content-Type': 'application/json',
        'X-CSRFToken': token}, body: JSON.stringify({text: 'what Rafe saw', version: s.version[0]})});
    }""")
    note.fill("what Ottoline saw")
    note.blur()
    problem = coach.get_by_role("alert").filter(has_text="Somebody changed strike 1 meanwhile")
    expect(problem).to_contain_text("what Rafe saw")
    expect(note).to_have_value("what Ottoline saw")  # what was typed is not lost
    coach.locator("body").click(position={"x": 3, "y": 400})
    coach.keyboard.press("1")
    expect(problem).to_be_hidden()


def test_wrens_sides_are_two_courses(coach: Page) -> None:
    coach.get_by_label("Student", exact=True).select_option("Wren Okafor")
    coach.get_by_role("link", name="Weeks", exact=True).click()
    limb = coach.get_by_label("Limb")
    expect(limb).to_have_value("right_hand")
    headline = coach.get_by_role("heading", level=1)
    right = headline.inner_text()
    limb.select_option("left_hand")
    expect(headline).not_to_have_text(right)
    limb.select_option("both")
    expect(coach.get_by_text(re.compile(r"left gives \d+ % less than right"))).to_be_visible()


def test_what_was_seen_last_is_there_without_a_network_and_says_so(app: App, browser: Browser) -> None:
    context = browser.new_context(viewport={"width": 820, "height": 1180})
    page = context.new_page()
    page.set_default_timeout(60_000)
    page.goto(app.url)
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.reload()  # from here on the worker hands the pages out
    page.get_by_label("Name").fill("ottoline")
    page.get_by_label("Password").fill("boathouse")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("link", name="Maren Aalto").click()
    page.get_by_role("link", name=re.compile("24 Nov")).first.click()
    figures = page.get_by_role("region", name="What to drill")
    expect(figures).not_to_contain_text("Looking through")
    fetched = """async () => {
        const files = ["students/1/plan.ics?monday=2026-11-23", "students/1/report.pdf?kind=coach", "log.csv"];
        for (const path of [...files, "students/1"])
          await (await fetch(`/api/${path}`)).blob();
        await new Promise((done) => setTimeout(done, 0));
        const cache = await caches.open("seen-2");
        return (await cache.keys()).map((asked) => new URL(asked.url).pathname);
    }"""
    kept = page.evaluate(fetched)
    assert "/api/students/1" in kept  # pages are kept, files and what says no-store never
    assert not [path for path in kept if "." in path]
    context.set_offline(True)
    page.reload()
    expect(page.get_by_text("Offline: what was seen here last is shown.", exact=False)).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("Maren Aalto, Tuesday 24 November"))).to_be_visible()
    page.goto(f"{app.url}/students")
    expect(page.get_by_role("link", name="Petra Vanek")).to_be_visible()
    context.set_offline(False)
    expect(page.get_by_text("Offline:", exact=False)).to_have_count(0)
    context.close()
