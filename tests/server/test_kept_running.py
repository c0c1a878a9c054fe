"""What an installation runs is started again whenever it ends, and the log says which it was and why."""

import logging
import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from agile_strike.gym.ending import reason_logged

PROJECT = Path(__file__).resolve().parents[2]
#: a program that ends at once the first time it is started with some words, and then stays
ONCE = """#!/bin/sh
echo "$0 $*" >> {log}
[ "$(grep -cxF "$0 $*" {log})" -gt 1 ] && exec sleep 600
case "$*" in *run_live*) kill -KILL $$ ;; *) exit 7 ;; esac
"""


@pytest.fixture
def installation(tmp_path: Path) -> Iterator["subprocess.Popen[str]"]:
    (tmp_path / "bin").mkdir()
    for name in ("python", "uvicorn"):
        program = tmp_path / "bin" / name
        program.write_text(ONCE.format(log=tmp_path / "started"))
        program.chmod(0o755)
    stops = "trap 'kill -TERM ${kept[@]}; wait; exit 0' TERM"
    script = f"source scripts/lib.sh; VENV={tmp_path}; {stops}; keep_all 1; wait"
    env = {**os.environ, "AGILE_STRIKE_LIVE_WORKERS": "1"}  # two programs of the same words could not be told apart
    with subprocess.Popen(["bash", "-c", script], cwd=PROJECT, env=env, stderr=subprocess.PIPE, text=True) as running:
        yield running
        running.terminate()
        running.wait(20)


def test_each_process_is_started_again_and_the_log_says_why_it_ended(
    installation: "subprocess.Popen[str]", tmp_path: Path
) -> None:
    wanted = {"imports", "tables", "evenings", "live worker", "simulated", "web server"}
    assert installation.stderr is not None
    lines: list[str] = []
    while len(lines) < len(wanted):
        lines += [line for line in (installation.stderr.readline(),) if "is started again" in line]
    assert {next(w for w in wanted if w in line) for line in lines} == wanted
    assert all(re.search(r"ended \((with status 7|by signal KILL)\) and is started again", line) for line in lines)
    assert sum("by signal KILL" in line for line in lines) == 1
    end = time.monotonic() + 60
    while len(started := (tmp_path / "started").read_text().splitlines()) < 2 * len(wanted):
        assert time.monotonic() < end, started
        time.sleep(0.05)
    assert all(started.count(line) == 2 for line in started)


@pytest.fixture
def _signals() -> Iterator[None]:
    was = {n: signal.getsignal(n) for n in (signal.SIGTERM, signal.SIGINT)}
    yield
    for number, handler in was.items():
        signal.signal(number, handler)


@pytest.mark.usefixtures("_signals")
def test_whatever_ends_a_worker_is_in_the_log(caplog: pytest.LogCaptureFixture) -> None:
    def fails() -> None:
        raise ZeroDivisionError("of a packet")

    ends = {
        "ended by an error": (fails, 1),
        "nobody had asked it to": (lambda: None, 1),
        "ended with status 3": (lambda: sys.exit(3), 3),
        "asked to stop by SIGTERM": (lambda: os.kill(os.getpid(), signal.SIGTERM), 0),
    }
    for word, (does, status) in ends.items():
        caplog.clear()
        with caplog.at_level(logging.WARNING), pytest.raises(SystemExit) as end, reason_logged("the worker"):
            does()
        assert (end.value.code or 0, word in caplog.text) == (status, True), word
    with caplog.at_level(logging.WARNING), pytest.raises(SystemExit), reason_logged("the worker"):
        fails()
    assert "of a packet" in caplog.text
