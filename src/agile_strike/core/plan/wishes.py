"""What a coach wishes for a week, and what is known of the student and of the week."""

from dataclasses import dataclass
from typing import Literal

from agile_strike.core.children import MOST_STRIKES
from agile_strike.core.errors import BadInput
from agile_strike.core.weeks.balance import JUMP, LEAST_WEEK

Kind = Literal["trial", "drill", "bursts", "hands", "kicks", "rounds"]
#: in the order of an evening: what is tested is fresh, what is fast comes before what is long
KINDS: tuple[Kind, ...] = ("trial", "drill", "bursts", "hands", "kicks", "rounds")
DAYS = 7
SET = 10  # strikes of a count's set
MOST_A_DAY = 100  # of one count
MINUTES_A_SET = 1.5  # with the rest after it
RAMP_MINUTES = 5.0
EASY = 0.6  # of the usual week


class BadWish(BadInput):
    pass


def rests_of(kind: str, part: str, sore: frozenset[str]) -> bool:
    """Whether something is thrown with what hurts. Bursts and rounds take all limbs; drills say none."""
    return kind in sore or part in sore or (kind in ("bursts", "rounds") and bool(sore))


@dataclass(frozen=True, slots=True)
class Wish:
    """Something that is to be done on so many evenings of the week."""

    kind: Kind
    name: str
    evenings: int
    strikes: int = 0  #: each evening; of a count in sets of ten, as many as fit
    minutes: float = 0.0  #: each evening; of a count by its sets
    key: str = ""  #: of the trial or the drill, or the family that is counted
    part: str = ""  #: hands or kicks, of a trial: what its strike is thrown with

    @property
    def counts(self) -> bool:
        return self.kind in ("hands", "kicks")

    def rests(self, sore: frozenset[str]) -> bool:
        """Whether it is thrown with what hurts."""
        return rests_of(self.kind, self.part, sore)


@dataclass(frozen=True, slots=True)
class Known:
    """What the week is planned from. Days are 0 (Monday) to 6."""

    free: dict[int, float]  #: day -> minutes
    child: bool = False
    usual_strikes: float = 0.0  #: of the weeks before, a mean; 0: nothing is known
    thrown: int = 0  #: strikes of this week, already
    easy: bool = False  #: a lighter week is wanted
    volume_before: bool = False  #: the Sunday before was a high-volume kick day
    sore: frozenset[str] = frozenset()  #: hands, kicks: what rests until it is cleared
    ahead: tuple[int, int] = (0, 0)  #: left minus right owed so far: of hands, of kicks

    @property
    def most_strikes(self) -> float:
        """What may still be thrown without a sudden jump; a first week is held to no figure that nobody knows."""
        most = max(JUMP * self.usual_strikes, float(LEAST_WEEK)) if self.usual_strikes else float("inf")
        most = min(most, EASY * self.usual_strikes) if self.easy and self.usual_strikes else most
        return max(most - self.thrown, 0.0)

    @property
    def most_a_day(self) -> int:
        return MOST_STRIKES if self.child else MOST_A_DAY


def check(wishes: list[Wish], known: Known) -> None:
    """Raises BadWish where something is asked that can't be meant."""
    if len(wishes) > 12:
        raise BadWish("A week holds at most twelve wishes.")
    for wish in wishes:
        if not 1 <= wish.evenings <= DAYS:
            raise BadWish(f"{wish.name}: wish for one to seven evenings.")
        if wish.counts and not SET <= wish.strikes <= 2 * MOST_A_DAY:
            raise BadWish(f"{wish.name}: count {SET} to {2 * MOST_A_DAY} strikes an evening.")
    if any(day not in range(DAYS) or not 0.0 < minutes <= 300.0 for day, minutes in known.free.items()):
        raise BadWish("Free evenings are days of the week, each of one minute to five hours.")
