"""The whole application, running: a database of its own, the web server and a worker, and the demo gym in it."""

import os
import secrets
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from databases import created, dropped, migrated
from playwright.sync_api import Page, expect

PROJECT = Path(__file__).resolve().parents[2]
CHROMIUM = """--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking
--disable-component-update --disable-sync""".split()
READY_S = 120
# A machine that is shared may stand still for seconds; who waits longer loses nothing where all is well.
expect.set_options(timeout=60_000)
#: what a browser complains of where it was refused on purpose
REFUSED = ("422 (Unprocessable", "409 (Conflict)", "503 (Service Unavailable)", "Service Worker registration blocked")


@dataclass
class App:
    url: str
    environment: dict[str, str]
    worker: subprocess.Popen[bytes]

    def start_worker(self) -> None:
        self.worker = subprocess.Popen([sys.executable, "manage.py", "run_worker"], cwd=PROJECT, env=self.environment)


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
    name = f"browser_{secrets.token_hex(4)}"
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    environment = {
        **os.environ,
        "AGILE_STRIKE_DB_NAME": name,
        "DJANGO_SETTINGS_MODULE": "agile_strike.config.settings",
        "AGILE_STRIKE_VAR": str(tmp_path_factory.mktemp("var")),
        "AGILE_STRIKE_SECRET": secrets.token_hex(20),
        "AGILE_STRIKE_STALLED_S": "6",
        "AGILE_STRIKE_DB_WAIT_S": "30",
        "PYTHONPATH": str(PROJECT / "src"),
    }
    created(name, template=migrated())
    load = [sys.executable, "manage.py", "load_demo"]
    subprocess.run(load, cwd=PROJECT, env=environment, check=True, capture_output=True)
    server = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "uvicorn",
            "agile_strike.config.asgi:application",
            "--port",
            str(port),
            "--log-level",
            "warning",
            "--timeout-graceful-shutdown",
            "2",
        ],
        cwd=PROJECT,
        env=environment,
    )
    running = App(f"http://127.0.0.1:{port}", environment, server)
    running.start_worker()
    try:
        _wait_for(port)
        yield running
    finally:
        for process in (server, running.worker):
            process.terminate()
            process.wait(20)
        dropped(name)


def _wait_for(port: int) -> None:
    until = time.monotonic() + READY_S
    while time.monotonic() < until:
        with socket.socket() as s:
            if s.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.05)
    raise TimeoutError("the web server did not start")


@pytest.fixture
def coach(app: App, page: Page) -> Iterator[Page]:
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
    page.set_default_timeout(60_000)
    page.goto(app.url)
    page.get_by_label("Name").fill("ottoline")
    page.get_by_label("Password").fill("boathouse")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Students").wait_for()
    yield page
    assert complaints == []
