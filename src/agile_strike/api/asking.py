"""Who asks, for which gym; and what is said where something is not there."""

from typing import TypeVar, cast

from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from ninja.errors import HttpError

from agile_strike.capture.store import safe_name
from agile_strike.gym.models import Gym, Member

T = TypeVar("T")


def member(request: HttpRequest) -> Member:
    row = Member.objects.select_related("gym").filter(user=cast(User, request.user)).first()
    if row is None:
        raise HttpError(403, "This sign-in belongs to no gym. Ask your head coach to add you.")
    return row


def gym(request: HttpRequest) -> Gym:
    return member(request).gym


def found(row: T | None, what: str) -> T:
    if row is None:
        raise HttpError(404, f"There is no such {what} in this gym.")
    return row


def attached(content: str | bytes, kind: str, name: str) -> HttpResponse:
    """A file to save, under a name that any header and any disk takes."""
    response = HttpResponse(content, content_type=kind)
    response["Content-Disposition"] = content_disposition_header(True, safe_name(name)) or "attachment"
    return response
