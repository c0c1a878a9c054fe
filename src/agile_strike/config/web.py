"""What every answer carries, and the one page of the web application."""

from collections.abc import Callable
from pathlib import Path

from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.views.decorators.csrf import ensure_csrf_cookie

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
