"""Who asks, for which gym; and the file that is handed out."""

from typing import TypeVar, cast

from django.contrib.auth.models import User
from django.db.models import Model, QuerySet
from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from ninja.errors import HttpError
from pydantic_core import to_json

from agile_strike.core.errors import NotYours
from agile_strike.gym.models import Gym, Member
from agile_strike.gym.names import safe_name

Row = TypeVar("Row", bound=Model)
CSV = "text/csv; charset=utf-8"


def member(request: HttpRequest) -> Member:
    row = Member.objects.select_related("gym", "other").filter(user=cast(User, request.user)).first()
    if row is None:
        raise HttpError(403, "This sign-in belongs to no gym. Ask your head coach to add you.")
    return row


def gym(request: HttpRequest) -> Gym:
    return member(request).gym


def user(request: HttpRequest) -> User:
    return cast(User, request.user)


def found(rows: "QuerySet[Row]", key: int, what: str) -> Row:
    """The row of this gym's rows. Raises NotYours where it is none of them."""
    row = rows.filter(pk=key).first()
    if row is None:
        raise NotYours(what)
    return row


def attached(content: str | bytes, kind: str, name: str) -> HttpResponse:
    """A file to save, under a name that any header and any disk takes."""
    response = HttpResponse(content, content_type=kind)
    response["Content-Disposition"] = content_disposition_header(True, safe_name(name)) or "attachment"
    response["Cache-Control"] = "no-store"  # a tablet is lent; no page keeps files for when there is no network
    return response


def as_json(content: object) -> HttpResponse:
    """As the schema says, unchecked: thousands of strikes are not worth a second look at each."""
    return HttpResponse(to_json(content, inf_nan_mode="null"), content_type="application/json")
