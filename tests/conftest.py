"""Worlds shared by the tests."""

import signal
import threading
from typing import Any

import pytest
from databases import migrated
from django.conf import settings
from makers import Played, evening, play
from xdist.scheduler import LoadScopeScheduling

from agile_strike.core.simulation.unit import CLEAN

BROWSER = "browser"
#: what shares one running application; the other browser tests share another
FIRST_APPLICATION = ("did_it_help", "kit_and_students", "on_paper", "planned_evening")
#: the longest files begin first, so that none is left alone at the end
LONGEST = ("browser/", "test_live", "test_killed", "test_any_request", "test_other_worlds", "test_rig", "test_upgrade")


def pytest_configure(config: pytest.Config) -> None:
    if threading.current_thread() is threading.main_thread():
        signal.signal(signal.SIGTERM, signal.default_int_handler)  # ended from outside, a run ends what it has started


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    def rank(item: pytest.Item) -> int:
        return next((k for k, name in enumerate(LONGEST) if name in item.nodeid), len(LONGEST))

    items.sort(key=rank)  # stable: else they stay as they were collected


class ByFile(LoadScopeScheduling):
    """Where tests run side by side, a file stays together, and so do all that share a running application.

    Whoever ran those runs nothing after: the browser's driver leaves its event loop in the process.
    """

    def _split_scope(self, nodeid: str) -> str:
        file = nodeid.partition("::")[0]
        if f"{BROWSER}/" not in file:
            return file
        return f"{BROWSER} 1" if any(name in file for name in FIRST_APPLICATION) else f"{BROWSER} 2"

    def _reschedule(self, node: Any) -> None:
        browses = any(scope.startswith(BROWSER) for scope in self.assigned_work[node])
        if not browses or len(self.nodes) == 1:
            super()._reschedule(node)
        elif not node.shutting_down:
            node.shutdown()  # once it has done what it has


def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> ByFile:
    return ByFile(config, log)


@pytest.fixture(scope="session")
def django_db_modify_db_settings(django_db_modify_db_settings_parallel_suffix: None) -> None:
    """The tests' databases are copies of one: going through all migrations takes each of them half a minute."""
    settings.DATABASES["default"].setdefault("TEST", {})["TEMPLATE"] = migrated()


@pytest.fixture(scope="session")
def messy() -> Played:
    """A swinging bag, singles and bursts, every kind of bump, and a unit as bad as real ones."""
    return play(evening(strikes=30, bumps=10), evening(strikes=30, burst=3, bumps=10, kg=42.0, length=1.05), seed=3)


@pytest.fixture(scope="session")
def clean() -> Played:
    """A quiet bag and a perfect unit."""
    return play(evening(strikes=8, bumps=0, mess=CLEAN, errors=False), seed=5)


@pytest.fixture(scope="session")
def clipped() -> Played:
    """A unit that ends at 8 g on hits of 10 g and more."""
    return play(evening(strikes=30, bumps=2, full_scale_g=8.0, speed=8.0), seed=4)


@pytest.fixture(scope="session")
def fixed() -> Played:
    return play(evening(strikes=16, bumps=2, mount="fixed"), seed=6)
