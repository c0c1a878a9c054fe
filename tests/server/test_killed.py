"""A small gym of its own in which everything is killed in mid-set: PostgreSQL, web server, live worker and hub.

The hub replays a made-up evening, so what must come of it is known: the batch's own figures, of every sample, once.
"""

import contextlib
import datetime as dt
import http.cookiejar
import json
import os
import re
import secrets
import signal
import subprocess
import sys
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import psycopg
import pytest
from databases import dumped, migrated
from kept import simulate
from processes import PATIENT_S, PROJECT, begun, ended, free_port, until

from agile_strike.core.analysis import analyse
from agile_strike.core.recording import Participant, Recording
from agile_strike.core.simulation.plan import Evening, SetPlan
from agile_strike.formats.motion_bids_write import write
from agile_strike.hub.student import USUAL_BAG

SPEED = 2.0
COACH, WORD = "ottoline", secrets.token_hex(12)
AWAY = (urllib.error.URLError, ConnectionError, TimeoutError)


@dataclass
class Place:
    """The installation: a cluster of its own, and the processes by name."""

    folder: Path
    environment: dict[str, str] = field(default_factory=dict)
    running: dict[str, "subprocess.Popen[bytes]"] = field(default_factory=dict)
    port: int = 0
    jar: http.cookiejar.CookieJar = field(default_factory=http.cookiejar.CookieJar)

    def shell(self, what: str) -> str:
        script = f"source scripts/lib.sh; {what}"
        done = subprocess.run(
            ["bash", "-c", script], cwd=PROJECT, env={**os.environ, "PG_EXTRA": ""}, check=True, stdout=subprocess.PIPE
        )
        return done.stdout.decode()

    def start_database(self) -> None:
        said = self.shell(f"pg_start {self.folder}/postgres >&2; env | grep ^AGILE_STRIKE_DB_")
        self.environment |= dict(line.split("=", 1) for line in said.splitlines())

    def kill_database(self) -> None:
        """All of its processes at once, as when the plug is pulled."""
        postmaster = int((self.folder / "postgres/data/postmaster.pid").read_text().split()[0])
        found = [int(p.name) for p in Path("/proc").iterdir() if p.name.isdigit() and parent(p) == postmaster]
        for pid in (postmaster, *found):
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        until(lambda: state(postmaster) == "Z")

    def database_again(self) -> None:
        """As ./scripts/demo does it: tried until it stands."""
        self.shell(f"for k in $(seq 30); do pg_again {self.folder}/postgres >&2 && exit 0; sleep 1; done; exit 1")

    @contextlib.contextmanager
    def database_stopped(self) -> Iterator[None]:
        """Its processes are there, its sockets open, and nobody answers."""
        postmaster = int((self.folder / "postgres/data/postmaster.pid").read_text().split()[0])
        found = [int(p.name) for p in Path("/proc").iterdir() if p.name.isdigit() and parent(p) == postmaster]
        for pid in (postmaster, *found):
            os.kill(pid, signal.SIGSTOP)
        try:
            yield
        finally:
            for pid in (postmaster, *found):
                with contextlib.suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGCONT)

    def start(self, name: str, *command: str) -> None:
        self.running[name] = begun([sys.executable, *command], self.environment)

    def again(self, name: str) -> None:
        """Killed, and started once more."""
        process = self.running[name]
        ended(process, politely=False)
        self.start(name, *[str(part) for part in process.args[1:]])  # type: ignore[index, union-attr]

    def until(self, what: Callable[[], Any]) -> Any:
        """What is waited for; what has ended is started again meanwhile, as the demo does."""

        def kept() -> Any:
            for name in ("queue", "live worker", "web"):
                if self.running[name].poll() is not None:
                    self.again(name)
            return what()

        return until(kept)

    def manage(self, *command: str) -> None:
        subprocess.run([sys.executable, "manage.py", *command], cwd=PROJECT, check=True, capture_output=True,
                       env={**os.environ, **self.environment})  # fmt: skip

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        """Asked until somebody answers, as a tablet does."""

        def answer() -> list[Any]:
            with contextlib.suppress(*AWAY):
                return [self._ask(method, path, body)]
            return []

        return self.until(answer)[0]

    def _ask(self, method: str, path: str, body: Any) -> Any:
        opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        at = f"http://127.0.0.1:{self.port}"
        if not any(c.name == "csrftoken" for c in self.jar):
            opener.open(at, timeout=10).read()
        token = next((c.value or "" for c in self.jar if c.name == "csrftoken"), "")
        headers = {"Content-Type": "application/json", "X-CSRFToken": token, "Referer": at}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{at}/api/{path}", data, headers, method=method)
        try:
            with opener.open(request, timeout=10) as answer:
                return json.loads(answer.read() or b"null")
        except urllib.error.HTTPError as error:
            if error.code != 503:
                raise AssertionError(error.code, error.read()) from error
            raise ConnectionError from error

    def status(self, method: str, path: str, body: Any = None) -> int:
        try:
            self._ask(method, path, body)
        except ConnectionError:
            return 503
        return 200

    def rows(self, query: str) -> list[Any]:
        e = self.environment
        with psycopg.connect(
            host="127.0.0.1", port=e["AGILE_STRIKE_DB_PORT"], user="app", dbname=e["AGILE_STRIKE_DB_NAME"],
            password=e["AGILE_STRIKE_DB_PASSWORD"], autocommit=True,
        ) as db:  # fmt: skip
            done = db.execute(query)  # type: ignore[call-overload]
            return done.fetchall() if done.description else []


def state(pid: int) -> str:
    with contextlib.suppress(OSError):
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
    return "Z"


def parent(process: Path) -> int:
    with contextlib.suppress(OSError):
        return int(re.sub(r".*\) \S ", "", (process / "stat").read_text(), flags=re.S).split()[0])
    return 0


@pytest.fixture
def place(tmp_path: Path) -> Iterator[Place]:
    for folder in (tmp_path, *tmp_path.parents[:3]):  # the database server runs as somebody else
        with contextlib.suppress(PermissionError):
            folder.chmod(folder.stat().st_mode | 0o11)
    one = Place(tmp_path)
    one.port = free_port()
    one.environment = {
        "AGILE_STRIKE_DB_NAME": "postgres", "AGILE_STRIKE_SECRET": secrets.token_hex(20),
        "AGILE_STRIKE_VAR": str(tmp_path), "PYTHONPATH": str(PROJECT / "src"), "AGILE_STRIKE_STALLED_S": "6",
    }  # fmt: skip
    try:
        one.start_database()
        one.rows(dumped(migrated()))
        one.manage("add_member", COACH, "--name", "Ottoline Brandt", "--gym", "Kestrel Quay", "--password", WORD)
        one.start("live worker", "manage.py", "run_live")
        one.start("queue", "manage.py", "run_worker", "--queue", "live")
        web = (
            "-m",
            "uvicorn",
            "agile_strike.config.asgi:application",
            "--log-level",
            "critical",
            "--port",
            str(one.port),
        )
        one.start("web", *web)
        yield one
    finally:
        for process in one.running.values():
            ended(process, politely=False)
        one.shell(f'as_postgres "$(pg_bin)/pg_ctl" -s -m immediate -D {tmp_path}/postgres/data stop || true')


def made_evening() -> Recording:
    plan = SetPlan("rear-straight", "right_hand", "head", 16, gap_s=2.4)
    who = Participant("01", 70.0, None, None, "orthodox")
    planned = Evening(USUAL_BAG, (plan,), who, bumps=2, worn=("rightwrist",))
    return simulate(planned, np.random.default_rng(8)).recording


def test_whatever_is_killed_in_mid_set_every_sample_is_there_once_and_figures_are_the_same(place: Place) -> None:
    recording = made_evening()
    assert recording.bag is not None
    wanted = analyse(recording)
    write(place.folder / "evening", [recording])
    place.ask("POST", "session", {"user": COACH, "password": WORD})
    values = asdict(recording.bag)
    bag = place.ask("POST", "bags", {"name": "By the window", "values": values})
    station = place.ask("POST", "stations", {"name": "By the window", "bag_id": bag["id"]})
    student = place.ask("POST", "students", {"name": "Petra Vanek", "stance": "orthodox", "birth_date": "1997-03-03"})
    take = place.ask("POST", f"stations/{station['id']}/takes", {"student_id": student["id"]})["id"]
    hub = ("-m", "agile_strike.cli", "hub", "replay", str(place.folder / "evening"), "--speed", str(SPEED))
    at = f"http://127.0.0.1:{place.port}"
    place.start("hub", *hub, "--server", at, "--token", station["token"], "--spool", str(place.folder / "spool"))
    text = {"code": "rear-straight", "limb": "right_hand", "level": "head", "levels": {}, "strikes": 16, "gear": ""}

    def now() -> str:
        return dt.datetime.now(dt.UTC).isoformat()

    place.ask("POST", f"takes/{take}/sets", {"at": now(), "key": "one-set", "text": text})

    def shown(n: int) -> bool:
        return len(place.ask("GET", f"takes/{take}")["strikes"]) >= n

    place.until(lambda: shown(2))
    pages = ["session", "students", "stations", "log", "plan/class", "trials", "schools", "bags", f"takes/{take}"]
    with place.database_stopped(), ThreadPoolExecutor(20) as tablets:
        # whatever hangs until it is there again would never let this block end
        written = [tablets.submit(place.status, "POST", "students", "x" * 20_000) for _ in pages]
        assert {place.status("GET", page) for page in pages} == {503}
        assert {w.result() for w in written} == {503}
    place.kill_database()
    place.until(lambda: place.status("GET", "students") == 503)
    place.database_again()
    place.until(lambda: shown(5))
    place.again("web")
    place.until(lambda: shown(8))
    place.again("live worker")
    place.until(lambda: shown(11))
    place.again("hub")
    place.until(lambda: shown(16))
    assert place.running["hub"].wait(PATIENT_S) == 0  # all of it is with the server
    place.ask("POST", f"takes/{take}/sets/end", {"at": now()})
    place.ask("POST", f"takes/{take}/end")

    whole_s = len(recording.units["bag"].accel_m_s2) / recording.units["bag"].rate_hz
    place.until(lambda: place.rows(f"SELECT 1 FROM live_take WHERE settled_s > {whole_s - 1e-3}"))
    page = place.ask("GET", f"takes/{take}")

    assert [s["number"] for s in page["strikes"]] == list(range(1, len(wanted.strikes) + 1))
    for got, want in zip(page["strikes"], wanted.strikes, strict=True):
        assert got["mark"] == "one-set"
        assert abs(got["contact_s"] - want.contact_s) < 1e-6
        for name in ("impulse_n_s", "peak_speed_m_s"):
            value, sd = got["measures"][name]
            assert abs(value / want.measures[name].value - 1.0) < 1e-6, name
            assert abs(sd / want.measures[name].sd - 1.0) < 1e-6, name
    with pytest.raises(psycopg.errors.NotNullViolation):
        place.rows("INSERT INTO people_student (name, birth_date) VALUES ('Wren Okafor', '2013-04-02') RETURNING 1")
    log = (place.folder / "postgres/data/server.log").read_text()
    assert "ready to accept connections" in log
    assert not any(word in log for word in ("Wren", "2013-04-02", "Petra Vanek", "INSERT"))

    held = place.rows("SELECT unit, sum(samples), max(first_sample + samples) FROM capture_chunk GROUP BY unit")
    lengths = {p: len(u.accel_m_s2) for p, u in recording.units.items()}
    assert {p: (n, last) for p, n, last in held} == {p: (n, n) for p, n in lengths.items()}
