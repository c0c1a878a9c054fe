"""A gym's playbook: its schools, its calls, its strikes, and the entries that are kept version by version."""

import datetime as dt
from typing import Annotated

from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from agile_strike.core.playbook.schools import Check
from agile_strike.core.sets.calls import BUILD
from agile_strike.core.vocabulary import StrikeWord
from agile_strike.gym.asking import gym, user
from agile_strike.gym.bodies import In, Line, Problem, Text, Version, Word
from agile_strike.playbook import entries, services, strikes
from agile_strike.playbook.contents import SHIPPED, Content, read
from agile_strike.playbook.models import Entry, School

router = Router()


class CheckText(In):
    name: Word
    measure: Line = Field(max_length=40)
    low: float | None = None
    high: float | None = None
    strikes: list[Annotated[Line, Field(max_length=40)]] = Field([], max_length=20)


class SchoolIn(In):
    name: Line = Field(max_length=60)
    belief: Text = Field("", max_length=2000)
    objects_to: list[Annotated[Line, Field(max_length=40)]] = Field([], max_length=40)
    checks: list[CheckText] = Field(max_length=100)
    version: Version = 0  #: of the school that was changed; 0 for a new one


class CheckOut(Schema):
    name: str
    measure: str
    low: float | None
    high: float | None
    strikes: list[str]


class SchoolOut(Schema):
    id: int
    name: str
    belief: str
    objects_to: list[str]
    checks: list[CheckOut]
    version: int


@router.get("/schools", response=list[SchoolOut])
def schools(request: HttpRequest) -> list[School]:
    return services.schools(gym(request))


def _save(request: HttpRequest, school_id: int | None, text: SchoolIn) -> School:
    checks = [Check(c.name, c.measure, c.low, c.high, tuple(c.strikes)) for c in text.checks]
    told = services.SchoolText(text.name, text.belief, text.objects_to, checks)
    row = services.save(gym(request), school_id, told, text.version, user(request))
    return School.objects.prefetch_related("checks").get(pk=row.pk)


@router.post("/schools", response={200: SchoolOut, 422: Problem})
def add_school(request: HttpRequest, school: SchoolIn) -> School:
    return _save(request, None, school)


@router.put("/schools/{school_id}", response={200: SchoolOut, 422: Problem, 409: Problem})
def save_school(request: HttpRequest, school_id: int, school: SchoolIn) -> School:
    return _save(request, school_id, school)


class SchoolVersion(Schema):
    version: int
    at: dt.datetime
    by: str  #: empty: as it was before anybody changed it
    text: SchoolIn


@router.get("/schools/{school_id}/versions", response=list[SchoolVersion])
def school_versions(request: HttpRequest, school_id: int) -> list[SchoolVersion]:
    """What it ever said; any of it stands again once it is saved again."""
    rows = services.written(gym(request), school_id)
    return [
        SchoolVersion(version=w.version, at=w.at, by=_who(w.by), text=SchoolIn.model_validate(w.content)) for w in rows
    ]


def _who(by: User | None) -> str:
    member = getattr(by, "member", None)
    return "" if by is None else member.name if member else "someone who left"


class CallsOut(Schema):
    """A gym's call list, in its order, and rounds from easy to hard."""

    words: dict[str, str]
    build: list[str]


class CallsIn(In):
    words: dict[Annotated[Line, Field(max_length=12)], Annotated[Line, Field(max_length=40)]]
    before: dict[Line, Line]  #: as the page showed them


@router.get("/calls", response=CallsOut)
def calls(request: HttpRequest) -> CallsOut:
    return CallsOut(words=services.call_words(gym(request)), build=list(BUILD))


@router.put("/calls", response={200: CallsOut, 422: Problem, 409: Problem})
def save_calls(request: HttpRequest, what: CallsIn) -> CallsOut:
    words = services.save_call_words(gym(request), what.words, what.before, user(request))
    return CallsOut(words=words, build=list(BUILD))


class CallsVersion(Schema):
    version: int
    at: dt.datetime
    by: str
    words: dict[str, str]


@router.get("/calls/versions", response=list[CallsVersion])
def call_versions(request: HttpRequest) -> list[CallsVersion]:
    rows = services.written(gym(request), None)
    return [CallsVersion(version=w.version, at=w.at, by=_who(w.by), words=dict(w.content)) for w in rows]


class StrikeOut(Schema):
    """A strike as a coach says and finds it; `path` is how it travels, empty where nobody said."""

    code: str
    name: str
    also: list[str]
    family: str
    path: str


class StrikeIn(In):
    name: Line = Field(max_length=60)


@router.get("/strike-names", response=list[StrikeOut])
def strike_names(request: HttpRequest) -> list[StrikeWord]:
    """Every strike that this gym knows, by all its names."""
    return strikes.known(gym(request))


@router.post("/strike-names", response={200: StrikeOut, 422: Problem})
def add_strike(request: HttpRequest, what: StrikeIn) -> StrikeWord:
    """A strike of the gym's own."""
    return strikes.add(gym(request), what.name)


Kind = Annotated[Line, Field(max_length=10)]


class EntryOut(Schema):
    """An entry as it stands; `version` 0: as it ships."""

    kind: str
    key: str
    content: Content
    version: int
    shipped: bool  #: ours is there to go back to
    off: bool  #: the gym took it off


class EntryIn(In):
    content: Content
    key: Word = ""  #: none: a new one
    version: Version = 0  #: of the entry that was changed


class OneEntry(In):
    kind: Kind
    key: Word
    version: Version


class BackIn(OneEntry):
    to: Version  #: the version that is to stand again; 0: ours


class VersionOut(Schema):
    """What was written of an entry, when and by whom; `content` is what stood then."""

    version: int
    state: str
    at: dt.datetime
    by: str
    content: Content


@router.get("/playbook", response=list[EntryOut])
def playbook(request: HttpRequest) -> list[entries.Line]:
    """Every entry of every kind, those too that were taken off."""
    return entries.lines(gym(request))


@router.post("/playbook", response={200: EntryOut, 422: Problem, 409: Problem})
def save_entry(request: HttpRequest, what: EntryIn) -> entries.Line:
    return entries.save(gym(request), what.key, what.content, what.version, user(request))


@router.post("/playbook/off", response={200: EntryOut, 422: Problem, 409: Problem})
def take_off(request: HttpRequest, what: OneEntry) -> entries.Line:
    """No longer there to be chosen; `back` undoes it."""
    return entries.take_off(gym(request), what.kind, what.key, what.version, user(request))


@router.post("/playbook/back", response={200: EntryOut, 422: Problem, 409: Problem})
def put_back(request: HttpRequest, what: BackIn) -> entries.Line:
    return entries.put_back(gym(request), what.kind, what.key, what.to, what.version, user(request))


@router.get("/playbook/versions", response=list[VersionOut])
def versions(request: HttpRequest, kind: str, key: str) -> list[VersionOut]:
    return [_version(row) for row in entries.versions(gym(request), kind, key)]


def _version(row: Entry) -> VersionOut:
    content = SHIPPED[row.kind][row.key] if row.content is None else read.validate_python(row.content)
    by = _who(row.by) or "someone who left"
    return VersionOut(version=row.version, state=row.state, at=row.at, by=by, content=content)
