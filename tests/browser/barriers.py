"""What keeps somebody from using a page, by the accessibility rules of the web."""

from pathlib import Path

from playwright.sync_api import Page

AXE = Path(__file__).resolve().parents[2] / "web/node_modules/axe-core/axe.min.js"


def no_barriers(page: Page) -> None:
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']})")
    assert [(v["id"], v["nodes"][0]["html"][:120]) for v in found["violations"]] == []
