"""Choosing from the pickers, as a coach does: type a name for it, take what is offered."""

from playwright.sync_api import Page


def choose(page: Page, label: str, said: str, name: str | None = None) -> None:
    """Type `said` and take what is called `name`, or just that."""
    page.get_by_label(label, exact=True).fill(said)
    page.get_by_role("option", name=name or said, exact=name is None).first.click()
