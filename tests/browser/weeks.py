"""A student's plan, week by week, as a coach leafs through it."""

import re

from playwright.sync_api import Page, expect


def leafed(coach: Page, way: str = "The next one") -> None:
    """The week after (or before) the one that is shown. Until it is there, the one before stands under its address."""
    shown = coach.get_by_text(re.compile(", week of"))
    before = shown.inner_text()
    coach.get_by_role("button", name=way).click()
    expect(shown).not_to_have_text(before)
    expect(coach.get_by_label("One more")).to_be_visible()
