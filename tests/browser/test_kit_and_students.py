"""What a coach does around the strikes: students, units and bags, and choosing strikes without a mouse."""

import re
from pathlib import Path

import pytest
from barriers import no_barriers
from makers import SIDES, laid, logger_table, swung
from picking import choose
from playwright.sync_api import Page, expect


@pytest.fixture
def rests_file(tmp_path: Path) -> Path:
    path = tmp_path / "on its sides.csv"
    path.write_bytes(logger_table(laid(SIDES)))
    return path


@pytest.fixture
def swing_file(tmp_path: Path) -> Path:
    path = tmp_path / "free swing.csv"
    path.write_bytes(logger_table(swung(7.1), every=10))
    return path


def test_a_student_is_added_weighed_and_turned_round(coach: Page) -> None:
    coach.get_by_role("button", name="Add a student").click()
    coach.get_by_label("Name").fill("Odalys Brandt")
    coach.get_by_label("Born on").fill("2013-05-04")
    coach.get_by_label("Body mass, kg").fill("41.5")
    no_barriers(coach)
    coach.get_by_role("button", name="Add", exact=True).click()
    expect(coach.get_by_role("heading", name="Odalys Brandt")).to_be_visible()
    expect(coach.get_by_text("guardian’s consent missing")).to_be_visible()
    coach.get_by_role("button", name="Note that it is kept here, signed").click()
    expect(coach.get_by_text("guardian’s consent kept")).to_be_visible()
    coach.get_by_role("radio", name="southpaw").click()
    expect(coach.get_by_text("right side leads")).to_be_visible()
    coach.get_by_label("Mass, kg", exact=True).fill("42.3")
    coach.get_by_role("button", name="Note", exact=True).click()
    expect(coach.get_by_text("42.3", exact=True)).to_be_visible()
    coach.get_by_label("Mass, kg", exact=True).fill("4230")
    coach.get_by_role("button", name="Note", exact=True).click()
    expect(coach.get_by_role("alert")).to_contain_text("kg")
    expect(coach.get_by_text("42.3", exact=True)).to_be_visible()


def test_a_unit_is_calibrated_and_what_it_touches_is_shown_before_and_after(coach: Page, rests_file: Path) -> None:
    coach.get_by_role("link", name="Kit", exact=True).click()
    coach.get_by_role("button", name="Calibrate from a recording").click()
    coach.get_by_role("combobox", name="Unit", exact=True).select_option("KQ-102")
    expect(coach.get_by_text("Lay the unit on each of its six sides", exact=False)).to_be_visible()
    no_barriers(coach)
    coach.get_by_label("Calibration recording").set_input_files(rests_file)
    made = coach.get_by_role("article").filter(has=coach.get_by_role("heading", name=re.compile("^KQ-102: offset")))
    expect(made).to_contain_text("trusted until")
    expect(made.get_by_role("img")).to_be_visible()
    made.get_by_role("button", name="What it touches").click()
    hers = made.get_by_role("listitem").filter(has_text="Maren Aalto")
    hers.get_by_role("button", name="Analyse again").click()
    expect(hers.get_by_role("columnheader", name="after")).to_be_visible()
    expect(hers.get_by_role("row", name=re.compile("^Contact speed"))).to_be_visible()
    # of a child without consent nothing measured is there, so that nothing of it is touched
    expect(made.get_by_role("listitem").filter(has_text="Hamish Duarte")).to_have_count(0)


def test_a_free_swing_of_a_bag_is_timed_and_a_wrong_file_is_refused(
    coach: Page, swing_file: Path, rests_file: Path
) -> None:
    coach.get_by_role("link", name="Kit", exact=True).click()
    coach.get_by_role("button", name="Calibrate from a recording").click()
    coach.get_by_role("combobox", name=re.compile("^What")).select_option("swing")
    coach.get_by_role("combobox", name=re.compile("^Bag")).select_option("Heavy bag by the stairs")
    coach.get_by_label("Pivot above the top, m").fill("0.05")
    coach.get_by_label("Calibration recording").set_input_files(rests_file)
    expect(coach.get_by_role("alert")).to_contain_text("swing freely")
    coach.get_by_label("Calibration recording").set_input_files(swing_file)
    expect(coach.get_by_role("heading", name=re.compile("Heavy bag by the stairs: one swing takes"))).to_be_visible()
    name = coach.get_by_role("heading", name="Heavy bag by the stairs", exact=True)
    bag = coach.get_by_role("article").filter(has=name)
    expect(bag.get_by_text("2 versions")).to_be_visible()


def test_strikes_are_chosen_by_keys_labelled_and_put_back(coach: Page) -> None:
    coach.get_by_label("Student").select_option("Petra Vanek")
    coach.get_by_role("link", name="Read", exact=True).first.click()
    coach.get_by_role("button", name="Force and table").click()
    expect(coach.get_by_role("img", name="Force over time")).to_be_visible()
    coach.locator("body").click(position={"x": 3, "y": 400})
    for _ in range(2):
        coach.keyboard.press("Shift+ArrowDown")
    coach.get_by_role("button", name="Label 3 strikes").click()
    expect(coach.get_by_role("heading", name="What were these 3 strikes")).to_be_visible()
    choose(coach, "Strike", "jab knuckle", "to our gym")
    coach.get_by_role("button", name="Label", exact=True).click()
    expect(coach.get_by_role("heading", name="Jab knuckle")).to_be_visible()
    coach.get_by_role("button", name="Undo").click()
    expect(coach.get_by_role("heading", name="Lead straight")).to_be_visible()
    expect(coach.get_by_role("button", name="Label 3 strikes")).to_be_visible()
    coach.keyboard.press("ArrowDown")
    expect(coach.get_by_role("button", name="Label 3 strikes")).to_have_count(0)


def test_a_figure_that_is_not_there_says_why(coach: Page) -> None:
    coach.get_by_label("Student").select_option("Petra Vanek")
    coach.get_by_role("link", name="Read", exact=True).first.click()
    coach.get_by_role("button", name="Force and table").click()
    expect(coach.get_by_role("img", name="Force over time")).to_be_visible()
    figures = coach.get_by_role("region", name="Figures of the strike")
    figures.get_by_role("button", name=re.compile("^All .* figures")).click()
    figures.get_by_role("button", name=re.compile("^Reaction")).click()
    expect(figures.get_by_text(re.compile("Not measured: no call-outs in this recording"))).to_be_visible()


def test_figures_are_read_in_pounds_and_feet_and_the_choice_stays(coach: Page) -> None:
    coach.get_by_role("link", name="Maren Aalto").click()
    kilograms = float(coach.locator(".figure").first.inner_text())
    coach.get_by_role("button", name="SI units").click()
    pounds = coach.locator(".figure").first
    expect(pounds).not_to_have_text(f"{kilograms:.1f}")
    assert float(pounds.inner_text()) == pytest.approx(2.20462 * kilograms, abs=0.12)
    coach.reload()
    expect(coach.get_by_role("spinbutton", name="Mass, lb", exact=True)).to_be_visible()
    coach.get_by_role("button", name="US units").click()
    expect(coach.get_by_role("spinbutton", name="Mass, kg", exact=True)).to_be_visible()


@pytest.mark.parametrize(("wide", "high"), [(820, 1180), (1024, 768), (1280, 800)])
def test_no_page_runs_off_a_tablet(coach: Page, wide: int, high: int) -> None:
    coach.set_viewport_size({"width": wide, "height": high})
    coach.get_by_label("Student").select_option("Maren Aalto")
    expect(coach.get_by_role("heading", name="Maren Aalto")).to_be_visible()
    parts = ("Prepare", "Measure", "Bags", "Read", "Compare", "Weeks", "Plan", "Class", "Students", "Kit", "Playbook")
    for part in ("the student's own page", *parts):
        if part in parts:
            coach.get_by_role("link", name=part, exact=True).first.click()
        coach.wait_for_load_state("networkidle")
        expect(coach.get_by_role("button", name="Sign out")).to_be_in_viewport()
        over = coach.evaluate(
            """() => {
              const main = document.querySelector('main'), edge = document.documentElement.clientWidth;
              if (![document.documentElement, main].some((e) => e.scrollWidth > e.clientWidth)) return [];
              const beyond = [...main.querySelectorAll('*')].filter((e) => e.getBoundingClientRect().right > edge);
              return ['too wide', ...beyond.map((e) => e.outerHTML.slice(0, 120))];
            }"""
        )
        assert over == [], part
