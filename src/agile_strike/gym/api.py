"""Signing in and out, and who is signed in."""

from typing import Any

from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError as PasswordRefused
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema, Status
from ninja.utils import check_csrf
from pydantic import Field

from agile_strike.core.errors import BadInput
from agile_strike.gym import guesses, services
from agile_strike.gym.asking import member, user
from agile_strike.gym.bodies import In, Line, Problem

router = Router()


class Credentials(In):
    user: str = Field(max_length=150)
    password: str = Field(max_length=200)


class PasswordIn(In):
    old: str = Field(max_length=200)
    new: str = Field(max_length=200)


class Me(Schema):
    name: str
    gym: str
    time_zone: str
    demo: bool  #: the gym is made up
    other: str | None  #: the gym on the other side: the demo gym, or the member's own


class GymIn(In):
    name: Line = Field(max_length=120)
    time_zone: Line = Field(max_length=60)


class SignedIn(Schema):
    me: Me | None  #: null where nobody is signed in


def _me(request: HttpRequest) -> Me:
    who = member(request)
    return Me(
        name=who.name,
        gym=who.gym.name,
        time_zone=who.gym.time_zone,
        demo=who.gym.demo,
        other=who.other.name if who.other else None,
    )


@router.get("/session", response=SignedIn, auth=None)
def session(request: HttpRequest) -> SignedIn:
    get_token(request)  # a page that the browser kept was not handed out with one
    return SignedIn(me=_me(request) if request.user.is_authenticated else None)


@router.post("/session", response={200: Me, 401: Problem, 403: Problem, 429: Problem}, auth=None)
def sign_in(request: HttpRequest, credentials: Credentials) -> Any:
    if check_csrf(request, sign_in):  # or another page could sign a coach in as somebody else
        return Status(403, Problem(message="This page is out of date. Reload it, then sign in."))
    if wait := guesses.wait_s(request):
        return Status(429, Problem(message=f"Too many sign-ins from here failed. Try again in {wait:.0f} seconds."))
    found = authenticate(request, username=credentials.user, password=credentials.password)
    if found is None:
        said = "That name and password do not match. After eight tries it locks for a quarter of an hour."
        return Status(401, Problem(message=said))
    login(request, found)
    get_token(request)
    return Status(200, _me(request))


@router.post("/session/password", response={200: Me, 422: Problem})
def change_password(request: HttpRequest, what: PasswordIn) -> Me:
    who = user(request)
    if not who.check_password(what.old):
        raise BadInput("The old password is not that one.")
    try:
        validate_password(what.new, who)
    except PasswordRefused as error:
        raise BadInput(" ".join(error.messages)) from error
    who.set_password(what.new)
    who.save(update_fields=["password"])
    update_session_auth_hash(request, who)
    return _me(request)


@router.post("/session/other-gym", response={200: Me, 422: Problem})
def cross_over(request: HttpRequest) -> Me:
    """From the demo gym to an empty one of one's own, and back."""
    services.cross_over(member(request))
    return _me(request)


@router.put("/gym", response={200: Me, 422: Problem})
def rename(request: HttpRequest, what: GymIn) -> Me:
    services.rename(member(request).gym, what.name, what.time_zone)
    return _me(request)


@router.delete("/session", response={204: None})
def sign_out(request: HttpRequest) -> Any:
    logout(request)
    return Status(204, None)
