"""What every body that comes in is held to: the members that the schema names, of the types that it names, and text,
numbers and days that can be kept."""

import datetime as dt
import unicodedata
from typing import Annotated

from ninja import Schema
from pydantic import AfterValidator, BeforeValidator, ConfigDict, Field

LARGEST_ID = 2**63 - 1
FIRST_DAY, LAST_DAY = dt.date(1900, 1, 1), dt.date(2100, 12, 31)
MOST_CHOSEN = 5000


class In(Schema):
    """A body: no member that the schema does not name, no text where it says a number, no number that is none."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)


def _shown(text: str) -> str:
    if any(unicodedata.category(c) in ("Cc", "Cs") and c not in "\n\t" for c in text):
        raise ValueError("holds a character that can't be shown")
    return text


def _one_line(text: str) -> str:
    return " ".join(_shown(text).split())


def _day(value: object) -> object:
    if isinstance(value, dt.date):
        return value
    if not isinstance(value, str) or len(value) != 10:
        raise ValueError("a day is written as 2026-11-24")
    day = dt.date.fromisoformat(value)
    if not FIRST_DAY <= day <= LAST_DAY:
        raise ValueError("the day lies too far off")
    return day


def _moment(value: object) -> object:
    if isinstance(value, dt.datetime):
        return value
    if not isinstance(value, str) or not 16 <= len(value) <= 40:
        raise ValueError("a time is written as 2026-11-24T18:30")
    at = dt.datetime.fromisoformat(value)
    if not FIRST_DAY <= at.date() <= LAST_DAY:
        raise ValueError("the time lies too far off")
    return at


Line = Annotated[str, AfterValidator(_one_line)]  #: words on one line
Text = Annotated[str, AfterValidator(_shown)]  #: words on lines
Name = Annotated[Line, Field(max_length=120)]
Word = Annotated[Line, Field(max_length=80)]
Id = Annotated[int, Field(ge=1, le=LARGEST_ID)]
Version = Annotated[int, Field(ge=0, le=2**31 - 1)]
Count = Annotated[int, Field(ge=-(2**31), le=2**31 - 1)]
Day = Annotated[dt.date, BeforeValidator(_day)]
Moment = Annotated[dt.datetime, BeforeValidator(_moment)]
Finite = Annotated[float, Field(allow_inf_nan=False)]


class Problem(Schema):
    """What went wrong, in one line that says what to do."""

    message: str


class Changed(Schema):
    changed: int
