"""Did the change help? The demo gym's eight stories as the screens tell them, and a trial from plan to decision."""

import json
import re
from pathlib import Path

import pytest
from barriers import no_barriers
from picking import choose
from playwright.sync_api import Page, expect

from agile_strike.cli import main


def look(coach: Page, student: str, part: str) -> None:
    coach.get_by_label("Student").select_option(student)
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name=part).click()
    coach.get_by_role("heading", level=1).wait_for()


@pytest.mark.parametrize(
    ("student", "said"),
    [
        (
            "Maren Aalto",
            r"^Full shift onto the lead heel gives \d+ to \d+ % more impulse than stay centred\. Clear, over six",
        ),
        ("Idris Bellamy", r"^Drive and lean through gives .* more impulse .* But it faded\.$"),
        ("Sunniva Roe", r"^Full shift onto the lead heel gives \d+ to \d+ % less impulse"),
        ("Kofi Andrade", r"makes no difference worth changing for"),
        ("Petra Vanek", r"^No fair comparison: another bag in part of it"),
        ("Lior Castellan", r"is not settled: −\d+ to \+\d+ %"),
    ],
)
def test_each_trial_is_read_rightly(coach: Page, student: str, said: str) -> None:
    look(coach, student, "Compare")
    expect(coach.get_by_role("heading", level=1)).to_have_text(re.compile(said))


def test_a_bag_changed_half_way_is_compared_within_one(coach: Page) -> None:
    look(coach, "Petra Vanek", "Compare")
    coach.get_by_role("button", name=re.compile("Long bag by the window")).click()
    expect(coach.get_by_role("heading", level=1)).to_have_text(re.compile("more impulse.*over three evenings"))
    coach.reload()
    expect(coach.get_by_role("button", name=re.compile("Only Long bag"))).to_be_visible()


def test_an_imbalance_and_a_jump_of_volume_are_told_in_the_weeks(coach: Page) -> None:
    look(coach, "Wren Okafor", "Weeks")
    expect(coach.get_by_label("Measure")).to_have_value("turn_done_pct")  # a child's technique comes first
    coach.get_by_label("Measure").select_option("Impulse")
    row = coach.get_by_role("row", name=re.compile("Left against right"))
    expect(row).to_have_text(re.compile(r"−2\d %.*weaker"))
    # a child whose guardian's consent is missing: what was measured is there once it is noted, and not before
    coach.get_by_label("Student").select_option("Hamish Duarte")
    coach.get_by_role("navigation", name="This evening").get_by_role("link", name="Weeks").click()
    expect(coach.get_by_role("note")).to_contain_text("guardian's consent is missing")
    coach.get_by_role("note").get_by_role("link", name="To Hamish Duarte’s page").click()
    coach.get_by_role("button", name="Note that it is kept here, signed").click()
    expect(coach.get_by_text("guardian’s consent kept")).to_be_visible()
    look(coach, "Hamish Duarte", "Weeks")
    expect(coach.get_by_text("106 strikes, after 39 a week before: a sudden jump", exact=False)).to_be_visible()
    coach.get_by_role("link", name="Students", exact=True).click()
    coach.get_by_role("link", name="Hamish Duarte").click()
    coach.get_by_role("button", name="It is missing").click()
    expect(coach.get_by_text("guardian’s consent missing")).to_be_visible()


def test_the_class_says_who_gained_and_what_to_settle(coach: Page) -> None:
    coach.get_by_role("link", name="Class", exact=True).click()
    expect(coach.get_by_role("region", name="Gained", exact=True)).to_contain_text("Maren Aalto")
    expect(coach.get_by_role("region", name="A gain that faded")).to_contain_text("Idris Bellamy")
    expect(coach.get_by_role("region", name="Lost by it")).to_contain_text("Sunniva Roe")
    open_ = coach.get_by_role("row", name="Lior Castellan")
    expect(open_).to_contain_text("Stop: it would take some")  # evenings that no coach would give it
    expect(coach.get_by_role("region", name="This week")).to_be_hidden()


def test_figures_of_compare_come_out_of_its_export_by_the_command_line(
    coach: Page, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    look(coach, "Maren Aalto", "Compare")
    with coach.expect_download() as download:
        coach.get_by_role("link", name="CSV").click()
    table = tmp_path / "trial.csv"
    download.value.save_as(table)
    levels = "stay centred,full shift onto the lead heel"
    told = {}
    for measure in ("impulse_n_s", "settle_ms"):
        assert main(["compare", str(table), "--factor", "level", "--measure", measure, "--levels", levels]) == 0
        told[measure] = json.loads(capsys.readouterr().out)
    low, high = told["impulse_n_s"]["ci95_pct"]
    expect(coach.get_by_role("heading", level=1)).to_contain_text(f"{low:.0f} to {high:.0f} % more impulse")
    expect(coach.get_by_role("img", name=re.compile("^Difference"))).to_have_attribute(
        "aria-label",
        re.compile(rf"^Difference \+{told['impulse_n_s']['effect_pct']:.0f} %, from \+{low:.0f} % to \+{high:.0f} %"),
    )
    settle = told["settle_ms"]
    row = coach.get_by_role("row", name=re.compile("^Steady again"))
    expect(row).to_contain_text(f"+{settle['effect']:.0f} ms")
    expect(row).to_contain_text(f"+{settle['ci95'][0]:.0f} to +{settle['ci95'][1]:.0f}")


def test_figures_of_the_weeks_come_out_of_their_export_by_the_command_line(
    coach: Page, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    look(coach, "Maren Aalto", "Weeks")
    with coach.expect_download() as download:
        coach.get_by_role("link", name="CSV").click()
    table = tmp_path / "weeks.csv"
    download.value.save_as(table)
    only = ["--only", "code=rear-straight", "--only", "own_way=yes", "--mark", "2026-10-28"]
    assert main(["weeks", str(table), "--measure", "impulse_n_s", *only]) == 0
    told = json.loads(capsys.readouterr().out)
    last = told["evenings"][-1]
    expect(coach.get_by_role("heading", level=1)).to_contain_text(f"{last['mean']:.1f} N s")
    expect(coach.get_by_role("heading", level=1)).to_contain_text(f"({last['ci95'][0]:.1f} to {last['ci95'][1]:.1f})")
    step = told["marks"][0]["step"]
    expect(coach.get_by_role("region", name="At each change")).to_contain_text(f"From then on +{step['value']:.1f} N s")


def test_what_is_worth_having_and_the_measure_move_the_sentence_at_once(coach: Page) -> None:
    look(coach, "Maren Aalto", "Compare")
    headline = coach.get_by_role("heading", level=1)
    coach.get_by_label("Worth having from").fill("15")
    expect(headline).to_have_text(re.compile("Likely"))
    coach.get_by_label("Worth having from").fill("")
    coach.get_by_label("Worth having from").blur()
    coach.keyboard.press("m")
    expect(headline).to_have_text(re.compile("more peak force"))
    expect(coach).to_have_url(re.compile("measure=peak_force_n"))
    coach.keyboard.press("?")
    expect(coach.get_by_role("heading", name="Keys on this page")).to_be_visible()
    coach.get_by_role("button", name="Close").click()
    coach.get_by_role("button", name="Steady again", exact=True).click()
    slower = r"\d+ to \d+ ms longer time until it is steady again than .* and for the worse"
    expect(headline).to_have_text(re.compile(slower))
    expect(coach).to_have_url(re.compile("measure=settle_ms"))
    coach.go_back()


def test_a_trial_goes_from_plan_to_sheet_to_decision_and_back(coach: Page) -> None:
    look(coach, "Kofi Andrade", "Compare")
    coach.get_by_role("link", name="New trial").click()
    choose(coach, "As now", "as ever", "Something new: “as ever”")
    choose(coach, "Against it 1", "lead and lean", "Something new")
    choose(coach, "What is changed", "hip", "hip and foot turn")
    expect(coach.get_by_label("As now", exact=True)).to_have_value("no turn")  # another change, levels of its own
    choose(coach, "As now", "thrust", "small hip thrust")
    choose(coach, "Against it 1", "no turn")
    expect(
        coach.get_by_role("heading", name=re.compile(r"Kofi Andrade: \d+ % and more can be seen in 4 evenings"))
    ).to_be_visible()
    no_barriers(coach)
    coach.get_by_role("button", name="Start the trial").click()
    expect(coach.get_by_role("heading", level=1)).to_have_text(re.compile("nothing was thrown in this trial yet"))
    coach.get_by_role("link", name="Sheet").click()
    coach.get_by_role("button", name="Start block 1").wait_for()
    coach.keyboard.press("Space")
    coach.get_by_role("button", name="Block done").click()
    expect(coach.get_by_text("Rest, then: block 2 of 4")).to_be_visible()
    no_barriers(coach)
    coach.get_by_role("button", name="Take back block 1").click()
    expect(coach.get_by_role("button", name="Start block 1")).to_be_visible()
    look(coach, "Kofi Andrade", "Compare")
    coach.get_by_role("radio", name="Drop it").click()
    coach.get_by_label("Why").fill("No time for it this season")
    coach.get_by_role("button", name="Record").click()
    decision = coach.get_by_role("region", name="Your decision")
    expect(decision).to_contain_text("No time for it this season")
    decision.get_by_role("button", name="Undo").click()
    expect(decision).to_contain_text("None yet.")


def test_an_injury_is_marked_in_the_weeks_and_taken_off(coach: Page) -> None:
    look(coach, "Sunniva Roe", "Weeks")
    coach.get_by_role("button", name="Mark an injury or a break").click()
    coach.get_by_label("What happened").fill("Sore elbow")
    coach.get_by_role("button", name="Mark", exact=True).click()
    expect(coach.get_by_role("region", name="At each change")).to_contain_text("Sore elbow")
    coach.get_by_role("button", name="Take off").click()
    expect(coach.get_by_role("region", name="At each change")).not_to_contain_text("Sore elbow")


def test_compare_weeks_and_class_are_open_to_all(coach: Page) -> None:
    for part in ("Compare", "Weeks"):
        look(coach, "Maren Aalto", part)
        no_barriers(coach)
    coach.get_by_role("link", name="Class", exact=True).click()
    coach.get_by_role("region", name="Gained", exact=True).wait_for()
    no_barriers(coach)
    coach.evaluate("document.documentElement.dataset.theme = 'dark'")
    no_barriers(coach)
