"""Before a body is read: who sends it, and how much. A stranger's upload is refused at its first byte, not its last."""

import json
from collections.abc import Awaitable, Callable, Mapping
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore
from django.db import InterfaceError, OperationalError, connection
from django.http.cookie import parse_cookie

from agile_strike.config.web import DATABASE_AWAY
from agile_strike.gym.database import patience_of

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[Mapping[str, Any]]]
Send = Callable[[Mapping[str, Any]], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]

SIGN_IN_BYTES = 10_000  # a name and a password
FILE_PATHS = ("/api/uploads", "/api/tables", "/api/calibrations", "/api/archives/in")
SENDING = ("POST", "PUT", "PATCH", "DELETE")


class Patient:
    """Ends a page's wait for a database that says nothing. Hubs, which have more time, come in before."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        with patience_of(settings.DATABASE_WAIT_S):
            await self.app(scope, receive, send)


class Doorman:
    """Lets a body in only from somebody who is signed in, and only as much as its address takes."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        refused = await self._refused(scope)
        if refused is None:
            await self.app(scope, receive, send)
            return
        status, message = refused
        body = json.dumps({"message": message}).encode()
        headers = [(b"content-type", b"application/json"), (b"connection", b"close")]
        await send({"type": "http.response.start", "status": status, "headers": headers})
        await send({"type": "http.response.body", "body": body})

    async def _refused(self, scope: Scope) -> tuple[int, str] | None:
        if scope["type"] != "http" or scope["method"] not in SENDING:
            return None
        headers = {k.decode("latin-1").lower(): v.decode("latin-1") for k, v in scope["headers"]}
        size = headers.get("content-length", "")
        chunked = "transfer-encoding" in headers
        if size and not (size.isascii() and size.isdigit() and len(size) < 16):
            return 400, "The request says no size that can be read."
        sent = int(size or 0)
        if not chunked and sent <= SIGN_IN_BYTES:
            return None  # small enough to be read and answered as it is
        if chunked and not size:
            return 411, "Say how large it is: a request must tell its Content-Length."
        most = settings.LARGEST_UPLOAD_BYTES if scope["path"].startswith(FILE_PATHS) else settings.LARGEST_BODY_BYTES
        try:
            if not await sync_to_async(_signed_in, thread_sensitive=False)(headers.get("cookie", "")):
                return 401, "Sign in first."
        except (OperationalError, InterfaceError):
            return 503, DATABASE_AWAY
        if sent > most + SIGN_IN_BYTES:
            return 413, f"That is {sent / 1e6:.0f} MB; the most that is taken here is {most / 1e6:.0f} MB. Send less."
        return None


def _signed_in(cookie: str) -> bool:
    key = parse_cookie(cookie).get(settings.SESSION_COOKIE_NAME, "")
    try:
        return bool(key) and SESSION_KEY in SessionStore(session_key=key).load()
    finally:
        connection.close()  # no request ends here that would
