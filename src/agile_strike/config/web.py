"""What every answer carries, and the one page of the web application."""

import logging
import secrets
import sys
from collections.abc import Callable
from pathlib import Path

from django.conf import settings
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.views.decorators.csrf import ensure_csrf_cookie
from psycopg.errors import DeadlockDetected, LockNotAvailable, QueryCanceled

log = logging.getLogger(__name__)

POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'; "
    "base-uri 'self'; form-action 'self'"
)


class ContentSecurityPolicy:
    """Everything comes from this server; nothing may frame it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self.get_response(request)
        response.headers["Content-Security-Policy"] = POLICY
        return response


@ensure_csrf_cookie
def page(request: HttpRequest, path: str = "") -> HttpResponseBase:
    """The web application, for every address that it handles itself."""
    index = Path(settings.WEB_BUILD) / "index.html"
    if not index.is_file():
        return HttpResponse("The web application is not built yet: run ./scripts/demo.", status=503)
    return HttpResponse(index.read_bytes(), headers={"Cache-Control": "no-cache"})


DATABASE_AWAY = "The database is away for the moment. Nothing was saved. Try again in a few seconds."

DATABASE_BUSY = (
    "Somebody else is changing the same just now, or the database is busy. Nothing was saved. "
    "Try again in a few seconds."
)


def failed(request: HttpRequest) -> HttpResponseBase:
    """The answer where something failed that nobody foresaw: a word to show, and a reference to look for in the log."""
    error = sys.exc_info()[1]
    if isinstance(error, OperationalError | InterfaceError):
        busy = isinstance(error.__cause__, QueryCanceled | LockNotAvailable | DeadlockDetected)
        message = DATABASE_BUSY if busy else DATABASE_AWAY
        return JsonResponse({"message": message}, status=503, headers={"Retry-After": "3"})
    reference = secrets.token_hex(4)
    log.error("request failed, reference %s: %s %s", reference, request.method, request.path, exc_info=error)
    said = f"Something went wrong here that nobody foresaw. Nothing was saved. Reference {reference}."
    return JsonResponse({"message": said}, status=500)
