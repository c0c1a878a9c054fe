"""Processes of a test: whatever starts one ends it, with all that it has started, also after a failure."""

import ctypes
import os
import signal
import socket
import subprocess
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

LIBC = ctypes.CDLL(None)  # loaded here: after a fork little may be
PROJECT = Path(__file__).resolve().parents[1]
ENDS_S = 20.0
PATIENT_S = 300.0  # that something is waited for which comes: a machine that is shared may stand still for minutes


def _ends_with_its_parent() -> None:
    """Linux's `prctl(PR_SET_PDEATHSIG, SIGTERM)`: where the tests themselves are killed, nothing is left behind."""
    LIBC.prctl(1, signal.SIGTERM)


def begun(command: list[str], environment: dict[str, str], **more: Any) -> "subprocess.Popen[bytes]":
    """Runs it as the head of a group of its own, in the project's folder, for as long as the thread that began it."""
    whole = {**os.environ, **environment}
    return subprocess.Popen(
        command, cwd=PROJECT, env=whole, start_new_session=True, preexec_fn=_ends_with_its_parent, **more
    )


def ended(process: "subprocess.Popen[bytes]", politely: bool = True) -> None:
    """Ends a process that `begun` began, and all of its group that is left; never raises for what is gone."""
    if politely and process.poll() is None:
        process.terminate()
        with suppress(subprocess.TimeoutExpired):
            process.wait(ENDS_S)
    with suppress(ProcessLookupError, PermissionError):
        os.killpg(process.pid, signal.SIGKILL)
    process.wait()


@contextmanager
def running(command: list[str], environment: dict[str, str], **more: Any) -> Iterator["subprocess.Popen[bytes]"]:
    process = begun(command, environment, **more)
    try:
        yield process
    finally:
        ended(process)


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


def listening(port: int, server: "subprocess.Popen[bytes]") -> None:
    """Waits until somebody listens. Raises where the server has ended instead."""

    def answers() -> bool:
        if server.poll() is not None:
            raise ChildProcessError(f"the web server ended with {server.returncode}")
        with socket.socket() as s:
            return s.connect_ex(("127.0.0.1", port)) == 0

    until(answers)


def until(what: Callable[[], Any]) -> Any:
    """What is waited for, once it is there."""
    end = time.monotonic() + PATIENT_S
    while time.monotonic() < end:
        if got := what():
            return got
        time.sleep(0.05)
    raise TimeoutError(what)
