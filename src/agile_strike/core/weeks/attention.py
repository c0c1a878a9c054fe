"""What a coach should see to before the next evening, the weightiest first."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from agile_strike.core.weeks.balance import weeks

Kind = Literal["consent", "volume", "sides", "retest", "battery", "calibration", "away"]
#: consent stops everything; what may hurt comes before what may only be forgotten
ORDER: tuple[Kind, ...] = ("consent", "volume", "sides", "retest", "battery", "calibration", "away")

RECENT = dt.timedelta(days=14)  # a jump before that is past
LOOK_BACK = dt.timedelta(days=42)
ONE_SIDE, LEAST_STRIKES = 0.7, 60  # of four weeks' strikes with hands or feet, where there are so many
SIDES_OVER = dt.timedelta(days=28)
RETEST_AFTER = dt.timedelta(days=14)  # of an evening's blocks, in a trial that goes on
AWAY_AFTER = dt.timedelta(days=21)
LOW_BATTERY_PCT = 20.0
SOON = dt.timedelta(days=7)  # before a calibration ends


@dataclass(frozen=True, slots=True)
class Notice:
    kind: Kind
    who: str  #: student, unit or bag
    text: str
    student_id: int | None = None
    trial_id: int | None = None


@dataclass(frozen=True, slots=True)
class Strikes:
    """A student's strikes of the last weeks, day and limb of each."""

    on: Sequence[dt.date]
    limb: Sequence[str]


def of_strikes(student_id: int, who: str, thrown: Strikes, today: dt.date) -> list[Notice]:
    """Jumps of volume, and one side that is left behind."""
    out = []
    for week in weeks(list(thrown.on), list(thrown.limb)):
        if today - week.monday <= RECENT:
            out += [Notice("volume", who, flag, student_id) for flag in week.flags]
    for part, words in (("hand", "hand strikes"), ("foot", "kicks")):
        own = [
            name
            for day, name in zip(thrown.on, thrown.limb, strict=True)
            if name.endswith(part) and today - day <= SIDES_OVER
        ]
        left = sum(name.startswith("left") for name in own)
        more, side = max((left, "left"), (len(own) - left, "right"))
        if len(own) >= LEAST_STRIKES and more > ONE_SIDE * len(own):
            told = f"{more} of {len(own)} {words} in four weeks were with the {side}."
            out.append(Notice("sides", who, told, student_id))
    return out


def retest(student_id: int, who: str, trial_id: int, trial: str, last: dt.date, today: dt.date) -> Notice | None:
    """A trial that goes on and that nobody has gone on with."""
    since = (today - last).days
    if dt.timedelta(days=since) <= RETEST_AFTER:
        return None
    return Notice("retest", who, f"{trial}: no blocks for {since} days.", student_id, trial_id)


def away(student_id: int, who: str, last: dt.date, today: dt.date) -> Notice | None:
    since = (today - last).days
    if dt.timedelta(days=since) <= AWAY_AFTER:
        return None
    return Notice("away", who, f"Nothing measured for {since // 7} weeks.", student_id)


def battery(unit: str, pct: float) -> Notice | None:
    return (
        Notice("battery", unit, f"{pct:.0f} % of its battery left when last worn.") if pct < LOW_BATTERY_PCT else None
    )


def calibration(what: str, until: dt.date, today: dt.date) -> Notice | None:
    """One that has ended, or is about to."""
    left = (until - today).days
    if dt.timedelta(days=left) > SOON:
        return None
    days = f"{abs(left)} day{'' if abs(left) == 1 else 's'}"
    return Notice(
        "calibration", what, "Ends today." if left == 0 else f"Ended {days} ago." if left < 0 else f"Ends in {days}."
    )


def in_order(found: Sequence[Notice]) -> list[Notice]:
    return sorted(found, key=lambda n: (ORDER.index(n.kind), n.who))
