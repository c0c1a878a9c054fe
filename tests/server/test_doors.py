"""Who gets in, with how much, and what is said while the database is away."""

import asyncio
import datetime as dt
from typing import Any

import pytest
from asking import send  # the server folder's own
from axes.models import AccessAttempt
from conftest import signed_in
from django.conf import settings as configured
from django.core.management import CommandError, call_command
from django.db import OperationalError
from django.test import Client
from django.utils import timezone

from agile_strike.config.doorman import SIGN_IN_BYTES, Doorman
from agile_strike.gym.guesses import SLOWING
from agile_strike.gym.models import Gym
from agile_strike.people.models import Student

pytestmark = pytest.mark.django_db
JSON = "application/json"
SIGN_IN = {"user": "coach", "password": "no"}


# --- signing in


def test_another_page_cannot_sign_a_coach_in(gym: Gym, coach: Client) -> None:
    """A form of another site sends text/plain without the token; a browser lets it."""
    strict = Client(enforce_csrf_checks=True)
    for kind in ("text/plain", JSON):
        answer = strict.post("/api/session", '{"user": "coach", "password": "x"}', content_type=kind)
        assert answer.status_code == 403
        assert strict.get("/api/session").json() == {"me": None}
    strict.get("/")  # the page itself brings the token
    token = strict.cookies["csrftoken"].value if "csrftoken" in strict.cookies else ""
    if token:
        answer = strict.post("/api/session", {"user": "coach", "password": "x"}, JSON, headers={"X-CSRFToken": token})
        assert answer.status_code == 200


@pytest.fixture
def locking(settings: Any) -> None:
    settings.AXES_ENABLED = True


@pytest.mark.usefixtures("locking")
def test_who_guesses_locks_one_name_out_and_neither_the_gym_nor_the_coach_elsewhere(gym: Gym, coach: Client) -> None:
    signed_in(gym, "rafe")
    guesser = Client(REMOTE_ADDR="10.0.0.9")
    for _ in range(configured.AXES_FAILURE_LIMIT):
        guesser.post("/api/session", SIGN_IN, content_type=JSON)
    right = {"user": "coach", "password": "x"}
    assert guesser.post("/api/session", right, content_type=JSON).status_code in (401, 403, 429)
    forged = {"X-Forwarded-For": "10.9.9.9"}
    assert guesser.post("/api/session", right, content_type=JSON, headers=forged).status_code in (401, 403, 429)
    other = {"user": "rafe", "password": "x"}
    assert guesser.post("/api/session", other, content_type=JSON).status_code == 200  # of the same tablet
    assert Client(REMOTE_ADDR="10.0.0.7").post("/api/session", right, content_type=JSON).status_code == 200


@pytest.mark.usefixtures("locking")
def test_who_tries_many_names_from_one_address_is_slowed_and_nobody_elsewhere(gym: Gym, coach: Client) -> None:
    guesser, right = Client(REMOTE_ADDR="10.0.0.9"), {"user": "coach", "password": "x"}
    for k in range(SLOWING.failures):
        said = guesser.post("/api/session", {"user": f"name {k}", "password": "y"}, content_type=JSON)
        assert said.status_code == 401
    slowed = guesser.post("/api/session", right, content_type=JSON)
    assert (slowed.status_code, "Try again in 1 second" in slowed.json()["message"]) == (429, True)
    assert Client(REMOTE_ADDR="10.0.0.7").post("/api/session", right, content_type=JSON).status_code == 200
    AccessAttempt.objects.update(attempt_time=timezone.now() - dt.timedelta(seconds=SLOWING.most_s))
    assert guesser.post("/api/session", right, content_type=JSON).status_code == 200  # soon again


@pytest.mark.parametrize("word", ["a", "password", "123456789", "short"])
def test_a_password_that_anybody_guesses_is_refused(coach: Client, word: str) -> None:
    answer = coach.post("/api/session/password", {"old": "x", "new": word}, content_type=JSON)
    assert answer.status_code == 422
    assert coach.post("/api/session/password", {"old": "y", "new": "oar and rowlock"}, JSON).status_code == 422
    assert coach.post("/api/session/password", {"old": "x", "new": "oar and rowlock"}, JSON).status_code == 200
    assert coach.get("/api/students").status_code == 200  # and the coach stays signed in


def test_settings_for_the_world_pass_their_check(monkeypatch: pytest.MonkeyPatch) -> None:
    import os
    import subprocess
    import sys

    told = {
        **os.environ,
        "AGILE_STRIKE_SECRET": "k" * 30 + "0123456789abcdefghijklmnopqrstuvwxyz",
        "AGILE_STRIKE_HOSTS": "strike.example.org",
        "AGILE_STRIKE_TLS": "1",
        "PYTHONPATH": "src",
    }
    run = [sys.executable, "manage.py", "check", "--deploy", "--fail-level", "WARNING"]
    assert subprocess.run(run, env=told, capture_output=True, check=False).returncode == 0
    bare = {k: v for k, v in told.items() if k != "AGILE_STRIKE_SECRET"}
    refused = subprocess.run(run, env=bare, capture_output=True, text=True, check=False)
    assert refused.returncode != 0
    assert "AGILE_STRIKE_SECRET is not set" in refused.stderr


# --- before a body is read


class Line:
    """A connection to the doorman: what it sends, and whether the body was asked for."""

    def __init__(self, method: str, path: str, headers: dict[str, str]) -> None:
        raw = [(k.lower().encode(), v.encode()) for k, v in headers.items()]
        self.scope = {"type": "http", "method": method, "path": path, "headers": raw}
        self.read, self.sent = 0, list[Any]()

    async def receive(self) -> dict[str, Any]:
        self.read += 1
        return {"type": "http.request", "body": b"x"}

    async def send(self, message: Any) -> None:
        self.sent.append(message)

    def ask(self) -> int:
        async def app(scope: Any, receive: Any, send: Any) -> None:
            await receive()
            await send({"type": "http.response.start", "status": 200})

        asyncio.run(Doorman(app)(self.scope, self.receive, self.send))
        return int(self.sent[0]["status"])


@pytest.fixture
def cookie(monkeypatch: pytest.MonkeyPatch) -> str:
    """Of somebody who is signed in, as far as the doorman sees."""
    monkeypatch.setattr("agile_strike.config.doorman._signed_in", lambda c: "sessionid=good" in c)
    return "sessionid=good"


@pytest.mark.parametrize(
    ("path", "headers", "status"),
    [
        ("/api/uploads", {"content-length": "1000000000"}, 401),
        ("/api/uploads", {"transfer-encoding": "chunked"}, 411),
        ("/api/uploads", {"content-length": "1000000000", "cookie": "sessionid=bad"}, 401),
        ("/api/uploads", {"content-length": "99999999999999999999"}, 400),
        ("/api/uploads", {"content-length": "-5"}, 400),
        ("/api/uploads", {"content-length": "1600000000", "cookie": "sessionid=good"}, 413),
        ("/api/session", {"content-length": "20000000"}, 401),
        ("/api/strikes/label", {"content-length": "20000000", "cookie": "sessionid=good"}, 413),
        ("/api/uploads", {"content-length": "1000000000", "cookie": "sessionid=good"}, 200),
        ("/api/session", {"content-length": str(SIGN_IN_BYTES)}, 200),
    ],
)
def test_a_body_is_read_only_from_who_is_signed_in_and_only_as_far_as_it_goes(
    cookie: str, path: str, headers: dict[str, str], status: int
) -> None:
    line = Line("POST", path, headers)
    assert line.ask() == status
    assert line.read == (1 if status == 200 else 0)


def test_a_session_of_nobody_opens_nothing(db: None) -> None:
    from agile_strike.config.doorman import _signed_in

    client = Client()
    session = client.session
    session["anything"] = 1
    session.save()
    assert not _signed_in_here(_signed_in, f"sessionid={session.session_key}")
    assert not _signed_in_here(_signed_in, "sessionid=%00; x")


def _signed_in_here(ask: Any, cookie: str) -> bool:
    """The doorman closes its connection; inside a test's transaction it must not."""
    from unittest.mock import patch

    with patch("agile_strike.config.doorman.connection.close"):
        return bool(ask(cookie))


# --- while the database is away


def test_while_the_database_is_away_every_page_says_so_at_once(coach: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    def away(*_: Any, **__: Any) -> None:
        raise OperationalError("connection refused")

    coach.raise_request_exception = False
    monkeypatch.setattr("agile_strike.people.api.shown", away)
    answer = coach.get("/api/students")
    assert (answer.status_code, answer.headers["Retry-After"]) == (503, "3")
    assert "The database is away" in answer.json()["message"]


def test_what_nobody_foresaw_is_answered_with_a_reference_and_no_trace(
    coach: Client, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def fails(*_: Any, **__: Any) -> None:
        raise KeyError("secret detail")

    coach.raise_request_exception = False
    monkeypatch.setattr("agile_strike.people.api.shown", fails)
    answer = coach.get("/api/students")
    said = answer.json()["message"]
    assert answer.status_code == 500
    assert "secret detail" not in said
    assert said.rstrip(".").rsplit(" ", 1)[1] in caplog.text


def test_every_system_check_passes() -> None:
    call_command("check", fail_level="WARNING")


def test_a_member_is_added_with_a_password_that_is_one(gym: Gym) -> None:
    told = ["add_member", "rafe", "--name", "Rafe Quillon", "--gym", gym.name]
    with pytest.raises(CommandError, match=r"too common|too short"):
        call_command(*told, "--password", "a")
    call_command(*told, "--password", "oar and rowlock")
    who = {"user": "rafe", "password": "oar and rowlock"}
    assert Client().post("/api/session", who, content_type=JSON).json()["gym"] == gym.name
    with pytest.raises(CommandError, match="already"):
        call_command(*told, "--password", "oar and rowlock")


def test_the_demo_gym_is_left_for_an_empty_one_and_entered_again(coach: Client, gym: Gym, student: Student) -> None:
    assert coach.post("/api/session/other-gym").status_code == 422  # a gym that people work in is not left
    Gym.objects.filter(pk=gym.pk).update(demo=True)
    assert send(coach, "put", "gym", {"name": "x", "time_zone": "UTC"}).status_code == 422
    own = coach.post("/api/session/other-gym").json()
    assert (own["gym"], own["demo"], own["other"]) == ("coach's gym", False, gym.name)
    assert coach.get("/api/students").json() == []
    assert "no time zone" in send(coach, "put", "gym", {"name": "Loft", "time_zone": "Mars/Base"}).json()["message"]
    assert send(coach, "put", "gym", {"name": "Loft", "time_zone": "Europe/Oslo"}).json()["time_zone"] == "Europe/Oslo"
    back = coach.post("/api/session/other-gym").json()
    assert (back["gym"], back["demo"], back["other"]) == (gym.name, True, "Loft")
    assert [s["id"] for s in coach.get("/api/students").json()] == [student.pk]
    assert coach.post("/api/session/other-gym").json()["gym"] == "Loft"  # the same one again
    assert Gym.objects.count() == 2
