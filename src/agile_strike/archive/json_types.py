"""What each JSON column holds, so that what comes in from elsewhere can be trusted like what was written here.

A database keeps any JSON; pages and the analysis read it as what it was when it was kept. A new column stands here, or
the archive's test fails.
"""

import json
from collections.abc import Callable
from functools import cache
from typing import Annotated, Any, Literal, NotRequired

from django.contrib.postgres.fields import ArrayField
from django.db import models
from pydantic import AfterValidator, ConfigDict, Field, TypeAdapter, ValidationError, with_config
from typing_extensions import TypedDict

from agile_strike.archive.tables import Column
from agile_strike.core.analysis import State
from agile_strike.core.bag.state import mounting_from_json
from agile_strike.core.errors import BadInput
from agile_strike.core.plan.wishes import Wish
from agile_strike.core.recording import UNITS
from agile_strike.core.student.clocks import UnitClock
from agile_strike.formats.packets import opening_of
from agile_strike.gym.bodies import Text
from agile_strike.intake.schemas import MappingText
from agile_strike.playbook.contents import Content

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e12, le=1e12)]
Whole = Annotated[int, Field(ge=0, le=2**53)]
Word = Annotated[Text, Field(max_length=160)]
Sentence = Annotated[Text, Field(max_length=2000)]
Day = Annotated[str, Field(pattern=r"^[0-6]$")]
Digits = Annotated[str, Field(pattern=r"^\d{1,4}$")]
Numbers = Annotated[list[Number], Field(max_length=20_000)]


def _place(text: str) -> str:
    if text not in UNITS:
        raise ValueError(f"no unit is worn at “{text[:40]}”")
    return text


Place = Annotated[str, AfterValidator(_place)]
STRICT = ConfigDict(extra="forbid", strict=True)


#: of a student, as a file said it; `as` is its label there, a word that no class can have
Stated = TypedDict(
    "Stated",
    {"mass_kg": NotRequired[Number], "stance": NotRequired[Literal["orthodox", "southpaw"]], "as": NotRequired[Word]},
)
with_config(STRICT)(Stated)


@with_config(STRICT)
class Event(TypedDict):
    onset_s: Number
    duration_s: Number
    type: Word
    value: Sentence


@with_config(STRICT)
class NotMeasured(TypedDict):
    measure: Word
    why: Sentence


@with_config(STRICT)
class Burst(TypedDict):
    strikes: list[Whole]
    rate_hz: Number
    rhythm_cv: Number | None
    force_kept_pct: Number | None


@with_config(STRICT)
class Rests(TypedDict):
    """Of a unit, from six positions."""

    accel_offset_m_s2: Annotated[list[Number], Field(min_length=3, max_length=3)]
    accel_scale: Annotated[list[Number], Field(min_length=3, max_length=3)]
    gyro_bias_rad_s: Annotated[list[Number], Field(min_length=3, max_length=3)]
    offset_sd_m_s2: Number
    scale_sd: Number
    residual_m_s2: Number
    before_m_s2: Number


@with_config(STRICT)
class Swing(TypedDict):
    period_s: Number
    period_sd_s: Number
    inertia_cm_kg_m2: Number
    inertia_sd_kg_m2: Number
    before_kg_m2: Number


@with_config(STRICT)
class Ball(TypedDict):
    gain: Number
    gain_sd: Number
    before: Number
    hits: Whole


@with_config(STRICT)
class TakeClock(TypedDict):
    at_zero_s: Number
    rate: Number
    sd_s: Number


@with_config(STRICT)
class SchoolCheck(TypedDict):
    name: Word
    measure: Word
    low: Number | None
    high: Number | None
    strikes: list[Word]


@with_config(STRICT)
class School(TypedDict):
    name: Word
    belief: Sentence
    objects_to: list[Word]
    checks: list[SchoolCheck]


def _readable(read: Callable[[Any], Any]) -> Any:
    """What this application's own reader takes."""

    def check(value: Any) -> Any:
        try:
            read(value)
        except (BadInput, LookupError, TypeError, ValueError, AttributeError) as error:
            raise ValueError(str(error)) from error
        return value

    return AfterValidator(check)


Levels = dict[Word, Word]
TYPES: dict[tuple[str, str], Any] = {
    ("intake.Profile", "mapping"): MappingText,
    ("playbook.Entry", "content"): Content | None,
    ("playbook.Written", "content"): School | list[Annotated[list[Word], Field(min_length=2, max_length=2)]],
    ("kit.Calibration", "result"): Rests | Swing | Ball,
    ("kit.Calibration", "drawn"): dict[Word, Numbers],
    ("plans.Week", "wishes"): Annotated[list[Wish], Field(max_length=12)],
    ("plans.Week", "free"): dict[Day, Number],
    ("plans.Week", "bent"): dict[Digits, Sentence],
    ("capture.Recording", "stated"): Stated,
    ("capture.Recording", "events"): list[Event],
    ("evening.PlannedSet", "levels"): Levels,
    ("review.StrikeSet", "levels"): Levels,
    ("review.Strike", "absent"): dict[Word, Sentence],
    ("live.Stream", "opening"): Annotated[dict[str, Any], _readable(opening_of)],
    ("live.Stream", "clock"): Annotated[list[Number], Field(min_length=2, max_length=2)] | None,
    ("live.Stream", "battery"): dict[Place, Number],
    ("capture.AnalysisRun", "bag"): dict[Word, Number | Word | list[Number] | None],
    ("capture.AnalysisRun", "calibrations"): dict[Place, Whole],
    ("capture.AnalysisRun", "flags"): list[Word],
    ("capture.AnalysisRun", "not_measured"): list[NotMeasured],
    ("capture.AnalysisRun", "clocks"): list[UnitClock],
    ("capture.AnalysisRun", "bursts"): list[Burst],
    ("capture.AnalysisRun", "bag_state"): Annotated[dict[str, Any], _readable(mounting_from_json)] | None,
    ("capture.Chunk", "full_scale"): dict[Literal["accel", "gyro"], Number],
    ("live.Take", "firsts"): dict[Place, Whole],
    ("live.Take", "starts"): dict[Place, Number],
    ("live.Take", "clock"): TakeClock | None,
    ("live.Take", "state"): Annotated[dict[str, Any], _readable(State.from_json)] | None,
}


class WrongType(ValueError):
    """A value that its column does not hold."""


@cache
def _adapter(label: str, name: str) -> TypeAdapter[Any]:
    return TypeAdapter(TYPES[label, name])


def check_json(label: str, column: Column, text: str) -> None:
    """Raises WrongType where the text of a JSON or list column is not what that column holds."""
    try:
        value = json.loads(text, parse_constant=_no_constant)
        if isinstance(column.field, ArrayField):
            _check_list(column.field, value)
            return
        _adapter(label, column.name).validate_json(text, strict=True)
    except (ValidationError, ValueError, RecursionError) as error:
        raise WrongType(f"{column.name} holds {text[:60]}, which it can't") from error


def _no_constant(name: str) -> None:
    raise ValueError(f"{name} is no number")


def _check_list(field: "ArrayField[Any, Any]", value: Any) -> None:
    words = isinstance(field.base_field, models.CharField | models.TextField)
    if not isinstance(value, list) or len(value) > 1000:
        raise ValueError("no list")
    for one in value:
        if words and not isinstance(one, str):
            raise ValueError("no words")
        if not words and (isinstance(one, bool) or not isinstance(one, int | float)):
            raise ValueError("no numbers")
