"""What was removed and can be taken back; a person who is erased for good."""

import datetime as dt
from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema, Status

from agile_strike.gym.asking import gym
from agile_strike.gym.bodies import Id, In, Name, Problem, Word
from agile_strike.removal import services
from agile_strike.removal.nameless import make_nameless

router = Router()


class RemovalIn(In):
    kind: Word  #: student, recording, bag, school or trial
    id: Id


class RemovedOut(Schema):
    kind: str
    id: int
    name: str
    removed_at: dt.datetime


class ForGoodIn(In):
    name: Name  #: of the student, typed


@router.post("/removals", response={200: RemovedOut, 422: Problem})
def remove(request: HttpRequest, what: RemovalIn) -> services.Removed:
    return services.remove(gym(request), what.kind, what.id)


@router.post("/removals/undo", response={200: RemovedOut, 422: Problem})
def take_back(request: HttpRequest, what: RemovalIn) -> services.Removed:
    return services.take_back(gym(request), what.kind, what.id)


@router.get("/removals", response=list[RemovedOut])
def removals(request: HttpRequest) -> list[services.Removed]:
    return services.removed(gym(request))


@router.post("/students/{student_id}/erase", response={204: None, 422: Problem})
def erase_student(request: HttpRequest, student_id: int, what: ForGoodIn) -> Any:
    """For good: a person's samples, strikes and all that was said of them."""
    services.erase(gym(request), student_id, what.name)
    return Status(204, None)


@router.post("/students/{student_id}/nameless", response={204: None, 422: Problem})
def nameless(request: HttpRequest, student_id: int, what: ForGoodIn) -> Any:
    """For good: the person goes, with samples and words; figures stay, so that trials keep theirs."""
    make_nameless(gym(request), student_id, what.name)
    return Status(204, None)
