"""The API: a router from each app, and one answer for each kind of error. Everything is cut to the gym of who asks."""

from typing import Any

from django.db import DataError
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError
from ninja.renderers import JSONRenderer
from ninja.security import django_auth
from pydantic_core import to_json

from agile_strike.archive.api import router as archive
from agile_strike.backup.api import router as backup
from agile_strike.capture.api import router as capture
from agile_strike.core.errors import BadInput, ChangedMeanwhile, NotYours
from agile_strike.evening.api import router as evening
from agile_strike.gym.api import router as gym
from agile_strike.intake.api import router as intake
from agile_strike.kit.api import router as kit
from agile_strike.live.api import router as live
from agile_strike.logbook.api import router as logbook
from agile_strike.people.api import router as people
from agile_strike.plans.api import router as plans
from agile_strike.playbook.api import router as playbook
from agile_strike.removal.api import router as removal
from agile_strike.reports.api import router as reports
from agile_strike.review.api import router as review
from agile_strike.trials.api import router as trials


class _Finite(JSONRenderer):
    """Answers as JSON that any reader takes: a NaN would be none."""

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> bytes:
        return to_json(data, inf_nan_mode="null")


api = NinjaAPI(title="Agile Strike", version="1", auth=django_auth, docs_url=None, renderer=_Finite())
BELOW = (gym, people, kit, playbook, evening, capture, review, trials, plans, logbook, reports)
for router in (*BELOW, intake, live, removal, archive, backup):
    api.add_router("", router)


def _told(request: HttpRequest, status: int, message: str) -> HttpResponse:
    return api.create_response(request, {"message": message}, status=status)


@api.exception_handler(NotYours)
def not_yours(request: HttpRequest, error: Exception) -> HttpResponse:
    return _told(request, 404, str(error))


@api.exception_handler(ChangedMeanwhile)
def changed_meanwhile(request: HttpRequest, error: Exception) -> HttpResponse:
    return _told(request, 409, str(error))


@api.exception_handler(BadInput)
def bad_input(request: HttpRequest, error: Exception) -> HttpResponse:
    return _told(request, 422, str(error))


@api.exception_handler(HttpError)
def refused(request: HttpRequest, error: Any) -> HttpResponse:
    return _told(request, error.status_code, error.message)


@api.exception_handler(DataError)
def beyond_the_database(request: HttpRequest, error: Exception) -> HttpResponse:
    """Text with a zero byte, a number that no column holds: nothing was saved."""
    return _told(request, 422, "A value holds a character or a size that can't be kept. Type it anew.")


@api.exception_handler(ValueError)
def zero_byte(request: HttpRequest, error: Exception) -> HttpResponse:
    """Zero bytes are also refused on the way to the database; any other such error is ours, and stays one."""
    if "NUL" not in str(error) and "null character" not in str(error):
        raise error
    return beyond_the_database(request, error)


@api.exception_handler(ValidationError)
def not_valid(request: HttpRequest, error: Any) -> HttpResponse:
    first = error.errors[0]
    where = ".".join(str(p) for p in first["loc"][1:] if p not in ("body", "credentials", "values"))
    said = first["msg"].removeprefix("Value error, ")
    return _told(request, 422, f"{where}: {said}. Correct it and try again.")
