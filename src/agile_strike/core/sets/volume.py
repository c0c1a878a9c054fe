"""A volume count: a total that is chipped off in sets, with both sides even over the days.

Who kicks all of a day's hundred with one leg owes the other leg as many: the next day is shared so that the two come
even, as far as a day's total allows; what is left over is owed on.
"""

from dataclasses import dataclass

SET_SIZES = (5, 10, 20)
MOST = 200  # of one count: twice the largest that practitioners name
SIDES = ("left", "right")


@dataclass(frozen=True, slots=True)
class Shared:
    """A day's total by side, and by how many one side is behind before it."""

    left: int
    right: int
    owed_side: str  #: empty where the sides are even
    owed: int


def shared(total: int, ahead: int) -> Shared:
    """How a day's total is shared; `ahead` is left minus right of the days before."""
    left = min(max(round((total - ahead) / 2), 0), total)
    owed_side = "" if ahead == 0 else SIDES[1] if ahead > 0 else SIDES[0]
    return Shared(left, total - left, owed_side, abs(ahead))


def next_set(wanted: Shared, thrown: tuple[int, int], size: int) -> tuple[str, int] | None:
    """The side and number of the next set; None where the count is done. The side that has more to do goes first."""
    to_do = [wanted.left - thrown[0], wanted.right - thrown[1]]
    side = 0 if to_do[0] >= to_do[1] else 1
    return (SIDES[side], min(size, to_do[side])) if to_do[side] > 0 else None
