"""What a student is to mind before an evening or a trial: short, plain, only where it matters.

A list of what not to do is soon skipped over. Each caution is asked for by something: soreness that was noted, a plan
without a ramp, a child, the strikes that are planned.
"""

from collections.abc import Iterable, Mapping

from agile_strike.core.children import MAXIMAL_FROM_AGE
from agile_strike.core.playbook.schools import fits

PAIN = "Sore: {where}. Leave out what hurts, stop on pain, and have it looked at if it stays."
BUILD_UP = "Build up: light, half, three-quarter effort before any full strike. Stop on pain."
CHILD = "A child: technique and slow work, half the volume, no full effort."
LEAVE_FIRST = "Meant for self-defence: notice, talk and leave come first; few strikes, and away."
#: families that are taught for getting away
FOR_LEAVING = ("palm-heel", "hammer-fist", "back-fist", "elbow", "knee")
MOST = 4


def tonight(codes: Iterable[str], care: Mapping[str, str], age: int | None, sore: str, ramp: bool) -> list[str]:
    """Of an evening: of the strikes that are planned (codes), what their cards say (care, by code or family), a
    student's age where it is known, what was noted as sore, and whether a ramp is planned. The weightiest first."""
    told = [PAIN.format(where=sore.strip().rstrip("."))] if sore.strip() else []
    told += of_trial([age]) if not ramp else of_trial([age])[1:]
    codes = list(codes)
    told += [text for code in codes if (text := of_strike(code, care))]
    if any(fits(code, one) for code in codes for one in FOR_LEAVING):
        told.append(LEAVE_FIRST)
    return list(dict.fromkeys(told))[:MOST]


def of_strike(code: str, care: Mapping[str, str]) -> str:
    """What its card says, of this side or of both; empty where nothing is to be minded."""
    return care.get(code) or next((text for said, text in care.items() if fits(code, said)), "")


def of_trial(ages: Iterable[int | None]) -> list[str]:
    children = any(age is not None and age < MAXIMAL_FROM_AGE for age in ages)
    return [BUILD_UP, *([CHILD] if children else [])]
