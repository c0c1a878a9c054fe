"""The whole application, running: a database of its own, the web server and a worker, and the demo gym in it."""

import os
import secrets
import subprocess
import sys
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from typing import Any

import pytest
from databases import copied, dropped, with_demo
from playwright.sync_api import Page, expect
from processes import PROJECT, begun, ended, free_port, listening, running

CHROMIUM = """--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking
--disable-component-update --disable-sync""".split()
# A machine that is shared may stand still for minutes; who waits longer loses nothing where all is well.
PATIENT_MS = 180_000
expect.set_options(timeout=PATIENT_MS)
#: what a browser complains of where it was refused on purpose
REFUSED = ("422 (Unprocessable", "409 (Conflict)", "503 (Service Unavailable)", "Service Worker registration blocked")


@dataclass
class App:
    url: str
    environment: dict[str, str]
    worker: subprocess.Popen[bytes] | None = None

    def start_worker(self) -> None:
        self.worker = begun([sys.executable, "manage.py", "run_worker"], self.environment)


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    return {**browser_type_launch_args, "executable_path": "/usr/bin/chromium", "args": CHROMIUM}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args: dict[str, Any]) -> dict[str, Any]:
    # what a page fetches goes by the test's own routes; the one that works offline has a context of its own
    size = {"width": 1280, "height": 800}
    return {**browser_context_args, "viewport": size, "service_workers": "block"}


@pytest.fixture(scope="session")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[App]:
    """As the demo runs it: two web processes."""
    name, port = f"browser_{secrets.token_hex(4)}", free_port()
    environment = {
        "AGILE_STRIKE_DB_NAME": name,
        "DJANGO_SETTINGS_MODULE": "agile_strike.config.settings",
        "AGILE_STRIKE_VAR": str(tmp_path_factory.mktemp("var")),
        "AGILE_STRIKE_SECRET": os.environ["AGILE_STRIKE_SECRET"],  # the demo's, whose sign-ins rest on it
        "AGILE_STRIKE_STALLED_S": "6",  # a worker is killed here: nothing is learnt from waiting half a minute for it
        "PYTHONPATH": str(PROJECT / "src"),
    }
    command = [sys.executable, "-m", "uvicorn", "agile_strike.config.asgi:application", "--port", str(port)]
    command += ["--workers", "2", "--log-level", "warning", "--timeout-graceful-shutdown", "2"]
    with ExitStack() as ends:
        copied(name, with_demo())
        ends.callback(dropped, name)
        server = ends.enter_context(running(command, environment))
        one = App(f"http://127.0.0.1:{port}", environment)
        one.start_worker()
        ends.callback(lambda: ended(one.worker) if one.worker else None)
        listening(port, server)
        yield one


@pytest.fixture(scope="session")
def cookies() -> list[Any]:
    """Of the demo's coach, who signs in by the form once; empty before that."""
    return []


def signed_in(app: App, page: Page, cookies: list[Any]) -> None:
    """The list of students, as the demo's coach; who was signed out by a test before signs in again."""
    page.context.add_cookies(cookies)
    page.goto(app.url)
    students, name = page.get_by_role("heading", name="Students"), page.get_by_label("Name")
    students.or_(name).first.wait_for()
    if name.is_visible():
        name.fill("ottoline")
        page.get_by_label("Password").fill("boathouse")
        page.get_by_role("button", name="Sign in").click()
        students.wait_for()
        cookies[:] = page.context.cookies()


@pytest.fixture
def coach(app: App, cookies: list[Any], page: Page) -> Iterator[Page]:
    """A page signed in as the demo coach; anything the browser complains of fails the test, but for what was refused
    on purpose: that the page tells the coach itself."""
    complaints: list[str] = []
    page.on(
        "console",
        lambda m: (
            complaints.append(m.text)
            if m.type in ("error", "warning") and not any(r in m.text for r in REFUSED)
            else None
        ),
    )
    page.on("pageerror", lambda e: complaints.append(str(e)))
    page.set_default_timeout(PATIENT_MS)
    signed_in(app, page, cookies)
    yield page
    assert complaints == []
