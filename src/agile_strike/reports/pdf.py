"""A report as PDF: tagged, its fonts inside, drawn by the server alone; nothing is fetched from anywhere."""

import logging
from base64 import b64encode
from functools import cache
from pathlib import Path
from typing import Literal

from django.conf import settings
from django.template.loader import render_to_string

from agile_strike.reports.page import Page

Paper = Literal["A4", "Letter"]
LATIN, MORE = "archivo-latin-wdth-normal", "archivo-latin-ext-wdth-normal"


def pdf(page: Page, paper: Paper) -> bytes:
    """The same page on A4 or Letter, as PDF/UA."""
    from weasyprint import HTML, URLFetcher  # takes a second to load: only who prints waits for it

    logging.getLogger("fontTools").setLevel(logging.WARNING)
    asked = {"page": page, "paper": paper, "latin": _font(LATIN)}
    text = render_to_string("reports/page.html", asked)
    if any("\u0100" <= c <= "\u02ff" or "\u1e00" <= c <= "\u1eff" for c in text):  # a font more takes its time
        text = render_to_string("reports/page.html", asked | {"more": _font(MORE)})
    html = HTML(string=text, url_fetcher=URLFetcher(allowed_protocols=("data",)))
    made: bytes = html.write_pdf(pdf_variant="pdf/ua-1")
    return made


@cache
def _font(name: str) -> str:
    """A font that ships with the web application, as an address that holds it."""
    found = sorted(Path(settings.WEB_BUILD, "assets").glob(f"{name}-*.woff2"))
    if not found:
        raise FileNotFoundError(f"{name} is not among the built files of the web application: build it first")
    return f"data:font/woff2;base64,{b64encode(found[0].read_bytes()).decode()}"
