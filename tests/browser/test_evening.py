"""A coach's first evening, with mouse and keyboard."""

import csv
import io
import re
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from barriers import no_barriers
from conftest import App  # the browser folder's own
from kept import simulate_free
from makers import Played, data_set, dressed, play
from picking import choose
from playwright.sync_api import Page, expect
from processes import ended

from agile_strike.core.recording import Recording
from agile_strike.core.simulation.bagless import FreeSet


@pytest.fixture(scope="session")
def evening_file(clean: Played, tmp_path_factory: pytest.TempPathFactory) -> Path:
    recording = replace(clean.simulated[0].recording, session="77")
    return zipped(tmp_path_factory.mktemp("browser") / "evening", recording)


def zipped(folder: Path, recording: Recording) -> Path:
    data_set(folder, recording)
    target = folder.with_suffix(".zip")
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        for file in sorted(folder.rglob("*")):
            archive.write(file, file.relative_to(folder))
    return target


def open_reading(coach: Page, student: str = "Maren Aalto", view: str = "Force and table") -> None:
    coach.get_by_label("Student").select_option(student)
    coach.get_by_role("link", name="Read", exact=True).first.click()
    coach.get_by_role("button", name=view).click()
    if view == "Force and table":
        expect(coach.get_by_role("img", name="Force over time")).to_be_visible()
    else:
        expect(coach.get_by_role("img", name=re.compile("Floor-up view"))).to_be_visible()
    coach.locator("body").click(position={"x": 3, "y": 400})


def test_a_recording_comes_in_and_is_read(coach: Page, evening_file: Path) -> None:
    coach.get_by_label("Student").select_option("Sunniva Roe")
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()
    coach.get_by_role("link", name="Bring in a recording").click()
    coach.get_by_label("Choose files").set_input_files(evening_file)
    coach.get_by_role("link", name="Read it").click()
    expect(coach.get_by_text("strike 1 of 8", exact=False)).to_be_visible()
    expect(coach.get_by_role("img", name="Force over time")).to_be_visible()
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()
    coach.get_by_role("link", name="Bring in a recording").click()
    coach.get_by_label("Choose files").set_input_files(evening_file)
    known = "1 recording was here already, of Sunniva Roe: nothing added."
    expect(coach.get_by_text(known)).to_be_visible()


def test_an_evening_on_pads_is_read_without_a_bag(coach: Page, tmp_path: Path) -> None:
    sets = (FreeSet("met", strikes=6), FreeSet("air", strikes=6))
    made = simulate_free(sets, ("leftwrist", "rightwrist"), np.random.default_rng(3), at="2026-11-03T18:30:00+00:00")
    coach.get_by_label("Student").select_option("Sunniva Roe")
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()
    coach.get_by_role("link", name="Bring in a recording").click()
    coach.get_by_label("Choose files").set_input_files(zipped(tmp_path / "pads", made.recording))
    coach.get_by_role("article").filter(has_text="pads.zip").get_by_role("link", name="Read it").click()
    coach.get_by_role("button", name="From the floor up").click()
    expect(coach.get_by_role("heading", name="Rear straight, right hand, on pads")).to_be_visible()
    judged = coach.get_by_role("region", name="Judgement of the strike")
    expect(judged).to_contain_text(re.compile(r"Impulse as on the bag\s*\d+ N s"))
    expect(judged).to_contain_text(re.compile(r"Peak speed\s*[\d.]+ m/s"))
    coach.get_by_role("button", name="Force and table").click()
    figures = coach.get_by_role("region", name="Figures of the strike")
    expect(figures.get_by_role("button", name=re.compile("^Impulse as on the bag"))).to_be_visible()
    expect(figures.get_by_role("button", name=re.compile("^Peak force"))).to_have_count(0)
    no_barriers(coach)
    coach.locator("body").click(position={"x": 3, "y": 400})
    for _ in range(11):
        coach.keyboard.press("ArrowDown")
    expect(coach.get_by_text("strike 12 of 12", exact=False)).to_be_visible()
    expect(coach.get_by_role("heading", name=", in the air")).to_be_visible()


def test_a_bad_file_says_what_is_wrong(coach: Page, tmp_path: Path) -> None:
    bad = tmp_path / "holiday.zip"
    bad.write_text("no zip at all")
    coach.get_by_label("Student").select_option("Kofi Andrade")
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()
    coach.get_by_role("link", name="Bring in a recording").click()
    coach.get_by_label("Choose files").set_input_files(bad)
    expect(coach.get_by_role("alert")).to_contain_text("holiday.zip: this is neither a folder nor a zip file")


@pytest.fixture(scope="session")
def long_evening(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Every unit on, so that its import takes a while."""
    return zipped(tmp_path_factory.mktemp("browser") / "worn", play(dressed(), seed=41).simulated[0].recording)


def test_a_worker_killed_in_the_middle_of_an_import_loses_nothing(app: App, coach: Page, long_evening: Path) -> None:
    coach.get_by_label("Student").select_option("Idris Bellamy")
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()
    coach.get_by_role("link", name="Bring in a recording").click()
    coach.get_by_label("Choose files").set_input_files(long_evening)
    expect(coach.get_by_text(re.compile("Finding strikes|Reading recording"))).to_be_visible()
    assert app.worker is not None
    ended(app.worker, politely=False)
    app.start_worker()
    expect(coach.get_by_text("18 strikes in 1 recording.")).to_be_visible()
    coach.get_by_role("link", name="Read it").first.click()
    expect(coach.get_by_text(re.compile(r"strike 1 of 18"))).to_be_visible()


def test_the_keyboard_moves_through_the_strikes_and_the_address_follows(coach: Page) -> None:
    open_reading(coach)
    for _ in range(3):
        coach.keyboard.press("ArrowDown")
    expect(coach.get_by_text(re.compile(r"strike 4 of \d+"))).to_be_visible()
    expect(coach).to_have_url(re.compile("strike=4"))
    coach.reload()
    expect(coach.get_by_text(re.compile(r"strike 4 of \d+"))).to_be_visible()


def test_a_strike_is_thrown_out_and_the_undo_takes_it_back(coach: Page) -> None:
    open_reading(coach, "Kofi Andrade")
    coach.keyboard.press("x")
    coach.get_by_role("button", name="glancing").click()
    expect(coach.get_by_text("Thrown out: glancing", exact=True)).to_be_visible()
    coach.reload()
    expect(coach.get_by_text("Thrown out: glancing", exact=True)).to_be_visible()
    coach.get_by_role("button", name="Take back").click()
    expect(coach.get_by_text("counts again.")).to_be_visible()
    coach.get_by_role("button", name="Undo").click()
    expect(coach.get_by_text("Thrown out: glancing", exact=True)).to_be_visible()
    coach.keyboard.press("x")
    expect(coach.get_by_text("Thrown out: glancing", exact=True)).to_be_hidden()


def test_sorting_and_filtering_the_table(coach: Page) -> None:
    open_reading(coach, "Idris Bellamy")
    header = coach.get_by_role("columnheader", name="Peak force")
    header.get_by_role("button", name="Sort by Peak force").click()
    expect(header).to_have_attribute("aria-sort", "descending")
    column = coach.get_by_role("row").locator("[role=gridcell]:nth-child(4)")
    shown = [int(t.replace(",", "")) for t in column.all_inner_texts()]
    assert shown == sorted(shown, reverse=True)
    coach.get_by_label("Limb").select_option("left foot")
    limbs = coach.get_by_role("row").locator("[role=gridcell]:nth-child(2)")
    expect(limbs.filter(has_not_text="left foot")).to_have_count(0)
    expect(limbs).to_have_count(6)


def test_a_figure_opens_to_what_it_means_and_its_doubt(coach: Page) -> None:
    open_reading(coach)
    coach.get_by_role("button", name="Impulse").last.click()
    expect(coach.get_by_text("Noise and slap do not add to it.", exact=False)).to_be_visible()
    expect(coach.get_by_text("in 19 of 20 strikes", exact=False)).to_be_visible()


def test_the_exported_figures_are_those_on_the_screen(coach: Page) -> None:
    open_reading(coach)
    coach.get_by_role("button", name="Export").click()
    with coach.expect_download() as download:
        coach.get_by_role("link", name="Strikes as CSV").click()
    rows = list(csv.DictReader(io.StringIO(download.value.path().read_text())))
    first = coach.get_by_role("row").nth(1).locator("[role=gridcell]")
    assert first.nth(2).inner_text() == f"{float(rows[0]['impulse_n_s']):.1f}"
    assert first.nth(3).inner_text() == f"{round(float(rows[0]['peak_force_n']) / 10) * 10:,}"


def test_every_screen_is_open_to_all(coach: Page) -> None:
    no_barriers(coach)
    open_reading(coach)
    no_barriers(coach)
    open_reading(coach, view="From the floor up")
    no_barriers(coach)
    for link in ("Prepare", "Measure", "Bags", "Kit", "Playbook"):
        coach.get_by_role("link", name=link, exact=True).click()
        coach.wait_for_load_state("networkidle")
        no_barriers(coach)
    coach.get_by_role("link", name="Students", exact=True).click()
    coach.get_by_role("link", name="Maren Aalto").click()
    coach.get_by_role("heading", name="Body mass").wait_for()
    no_barriers(coach)
    coach.evaluate("document.documentElement.dataset.theme = 'dark'")
    no_barriers(coach)


def test_a_bag_is_changed_and_the_cost_of_its_doubt_follows(coach: Page) -> None:
    coach.get_by_role("link", name="Kit", exact=True).click()
    bag = coach.get_by_role("article").filter(has=coach.get_by_role("heading", name="Long bag by the window"))
    bag.get_by_role("button", name="Change").click()
    coach.get_by_label("Mass is good to").fill("1")
    coach.get_by_role("button", name="Save as a new version").click()
    expect(coach.get_by_text("±96 N")).to_be_visible()
    expect(bag.get_by_text("2 versions")).to_be_visible()


def test_the_floor_up_view_moves_one_cursor_by_mouse_key_and_figure(coach: Page) -> None:
    open_reading(coach, "Sunniva Roe", "From the floor up")
    figure = coach.get_by_role("img", name=re.compile("Floor-up view"))
    cursor = coach.get_by_label("Cursor, milliseconds from contact")
    box = figure.bounding_box()
    assert box is not None
    coach.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 0.5 * box["height"])
    expect(cursor).not_to_have_value("")
    first = int(cursor.input_value())
    coach.keyboard.press("Shift+ArrowRight")
    expect(cursor).to_have_value(str(first + 20))
    cursor.fill("-60")
    expect(coach).to_have_url(re.compile("at=-60"))
    expect(figure.get_by_text(re.compile(r"[\d,.]+ m/s$"))).to_have_count(1)
    expect(figure.get_by_text("gather", exact=True)).to_be_visible()


def test_strikes_are_dragged_over_labelled_and_put_back(coach: Page) -> None:
    open_reading(coach, "Kofi Andrade", "From the floor up")
    strip = coach.get_by_role("img", name=re.compile("strikes over"))
    box = strip.bounding_box()
    assert box is not None
    y = box["y"] + 60
    coach.mouse.move(box["x"] + 20, y)
    coach.mouse.down()
    coach.mouse.move(box["x"] + 130, y, steps=6)
    coach.mouse.up()
    expect(coach.get_by_role("heading", name=re.compile(r"What were these \d+ strikes"))).to_be_visible()
    choose(coach, "Strike", "uppercut", "lead uppercut")
    coach.get_by_label("School").select_option("full transfer")
    coach.get_by_role("button", name="Label", exact=True).click()
    expect(coach.get_by_role("heading", name="Lead uppercut")).to_be_visible()
    expect(coach.get_by_role("heading", name="Against the full transfer school")).to_be_visible()
    coach.get_by_role("button", name="Undo").click()
    expect(coach.get_by_role("heading", name="Lead straight")).to_be_visible()


def test_a_remark_is_one_key_and_stays(coach: Page) -> None:
    open_reading(coach, "Maren Aalto", "From the floor up")
    coach.keyboard.press("1")
    expect(coach.get_by_role("button", name="dipped")).to_have_attribute("aria-pressed", "true")
    coach.reload()
    expect(coach.get_by_role("button", name="dipped")).to_have_attribute("aria-pressed", "true")


def test_a_loggers_table_is_shown_corrected_and_brought_in(coach: Page, clean: Played, tmp_path: Path) -> None:
    unit = clean.simulated[0].recording.units["bag"]
    rows = [",".join(f"{x:.5f}" for x in (*a, *g)) for a, g in zip(unit.accel_m_s2, unit.gyro_rad_s, strict=True)]
    file = tmp_path / "tonight.csv"
    file.write_text("# rate 1000 Hz\nax,ay,az,gx,gy,gz\n" + "\n".join(rows) + "\n")
    coach.get_by_label("Student").select_option("Idris Bellamy")
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Measure", exact=True).click()
    coach.get_by_role("link", name="Bring in a recording").click()
    coach.get_by_label("Choose files").set_input_files(file)
    expect(coach.get_by_text("Please say: placement", exact=False)).to_be_visible()
    expect(coach.get_by_role("button", name="Bring it in")).to_be_disabled()
    coach.get_by_label("Worn at").select_option("bag")
    expect(coach.get_by_text("Please say", exact=False)).to_have_count(0)
    no_barriers(coach)
    coach.get_by_role("button", name="Bring it in").click()
    expect(coach.get_by_text("8 strikes in 1 recording.").first).to_be_visible()


def test_a_school_is_changed_in_the_playbook(coach: Page) -> None:
    coach.get_by_role("link", name="Playbook", exact=True).click()
    coach.get_by_role("link", name="Schools").click()
    coach.get_by_role("button", name="Change drive through").click()
    coach.get_by_label("Upper edge of check 1, °", exact=True).fill("22")
    choose(coach, "Strikes of check 1", "jab", "lead straight")
    choose(coach, "Strikes of check 1", "round kick, snapped, either side")
    coach.get_by_role("button", name="Strikes of check 1: without hook, either side").click()
    no_barriers(coach)
    coach.get_by_role("button", name="Save").click()
    row = coach.get_by_role("row", name=re.compile("Lean into it"))
    expect(row.get_by_role("cell", name="8 to 22 °")).to_be_visible()
    expect(row).to_contain_text("straight; uppercut; overhand; lead straight; round kick, snapped")


def test_the_playbook_is_changed_put_back_and_what_is_taken_off_comes_back(coach: Page) -> None:
    coach.get_by_role("link", name="Playbook", exact=True).click()
    expect(
        coach.get_by_role("img", name=re.compile("Feet from above: lead foot turns 0 degrees")).first
    ).to_be_visible()
    for part in ("What asks for which", "Changes to try", "Remarks", "Set-up check", "Calls", "Drills"):
        coach.get_by_role("link", name=part, exact=True).click()
        expect(coach.get_by_role("link", name=part, exact=True)).to_have_attribute("aria-current", "page")
        no_barriers(coach)
    coach.get_by_label("Find in these").fill("wire loop")
    gate = coach.get_by_role("article", name="Straight-path gate")
    expect(coach.get_by_role("article")).to_have_count(1)
    gate.get_by_role("button", name="Change").press("Enter")
    coach.get_by_label("How much of it").fill("20, slowly")
    no_barriers(coach)
    coach.get_by_label("How much of it").press("Enter")
    expect(gate).to_contain_text("20, slowly")
    expect(gate).to_contain_text("as this gym has it")
    gate.get_by_role("button", name="Earlier versions").click()
    gate.get_by_role("button", name="Put it back").click()
    expect(gate).to_contain_text("10, slowly")
    coach.get_by_label("Find in these").fill("")
    coach.get_by_role("button", name="Take Burst off").click()
    expect(coach.get_by_role("article", name="Burst")).to_have_count(0)
    coach.get_by_role("button", name="Put Burst back").click()
    expect(coach.get_by_role("article", name="Burst")).to_be_visible()


def test_what_only_a_coach_sees_is_ticked_and_a_drill_is_kept_with_its_evening(coach: Page) -> None:
    coach.get_by_label("Student").select_option("Maren Aalto")
    coach.get_by_role("link", name="Read", exact=True).first.click()
    coach.get_by_text("What only you see").click()
    coach.get_by_role("button", name="Breath: off").click()
    expect(coach.get_by_text("off: breath")).to_be_visible()
    coach.get_by_role("button", name="Pull-back").first.click()
    expect(coach.get_by_text("Is it drawn back first?")).to_be_visible()
    coach.keyboard.press("Escape")
    no_barriers(coach)
    coach.get_by_label("Student").select_option("Sunniva Roe")
    coach.get_by_role("link", name="What to drill after this evening").click()
    worked = coach.get_by_role("region", name="What to drill").get_by_role("checkbox").first
    expect(worked).to_be_checked()  # as the demo's coach noted
    worked.click()
    expect(worked).not_to_be_checked()
    expect(coach.get_by_role("region", name="Your eye and the units")).to_contain_text("hand dropped ×3")


def test_an_empty_gym_is_one_click_away_and_says_what_comes_next(coach: Page) -> None:
    coach.get_by_role("link", name="Students", exact=True).click()
    coach.get_by_role("button", name="Begin with an empty gym").click()
    steps = coach.get_by_role("region", name="The first hour")
    steps.get_by_role("button", name="Add a student").click()
    coach.get_by_label("Name").fill("Noor Haddad")
    coach.get_by_role("button", name="Add", exact=True).click()
    expect(steps.get_by_role("listitem").first).to_contain_text("✓")
    expect(steps.get_by_text("Force is only as sure")).to_be_visible()
    no_barriers(coach)
    coach.set_viewport_size({"width": 390, "height": 844})
    no_barriers(coach)
    coach.get_by_role("button", name="Menu").click()
    coach.get_by_role("link", name="Account").click()
    coach.get_by_role("button", name=re.compile("To the demo gym")).click()
    expect(coach.get_by_role("link", name="Maren Aalto")).to_be_visible()
    coach.set_viewport_size({"width": 1280, "height": 800})


def test_what_was_seen_leads_to_a_drill_and_to_the_strikes_that_show_it(coach: Page) -> None:
    coach.get_by_label("Student").select_option("Sunniva Roe")
    coach.get_by_role("link", name="Read", exact=True).first.click()
    coach.get_by_role("link", name="What to drill after this evening").click()
    drills = coach.get_by_role("region", name="What to drill")
    expect(drills).to_contain_text("The hand is drawn back first")
    drills.get_by_role("button", name="The steps, from the easiest").first.press("Enter")
    expect(drills).to_contain_text("Aim at your own chest in the mirror, slowly")
    no_barriers(coach)
    drills.get_by_role("link", name=re.compile("^Strike ")).first.click()
    expect(coach.get_by_role("heading", name=re.compile("Lead hook"))).to_be_visible()


def test_the_guide_to_the_units_has_no_barriers(coach: Page) -> None:
    coach.get_by_role("link", name="Kit", exact=True).click()
    coach.get_by_role("link", name="What to strap where").click()
    expect(coach.get_by_role("img", name="Where the units sit")).to_be_visible()
    no_barriers(coach)
