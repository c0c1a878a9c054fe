"""Call-outs: which words mean which strikes, when a round calls them, and what was called against what landed.

A round's calls are drawn so that a student can't learn their times: gaps vary about a density that may rise to the end.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from agile_strike.core.errors import BadInput
from agile_strike.core.vocabulary import STRIKE_CODES

#: a neutral numbering, lead then rear; a gym's own takes its place
NEUTRAL = {
    "1": "lead-straight",
    "2": "rear-straight",
    "3": "lead-hook",
    "4": "rear-hook",
    "5": "lead-uppercut",
    "6": "rear-uppercut",
}
#: from easiest; sides alternate, so that each turn loads the next
BUILD = ("1", "1 1", "1 2", "1 1 2", "1 2 1", "1 1 2 1", "2 3", "6 3", "1 2 3")
BODY = "body"  # the mark on a call: what is called goes to the body
RUSH_S = 10.0  # of a round, at its end: as many as possible, and no calls
VARIES = 0.25  # of a gap, either way
BEGINS_S = 3.0  # after a round's start: a student gets ready
ORDERS = ("fixed", "random", "growing")
ANSWERED_S = 3.0
CALLED = "called"  # the code of a set whose strikes are called one by one


@dataclass(frozen=True, slots=True)
class Call:
    """What is called at a second of the round: words as spoken, and the strikes that they mean."""

    at_s: float
    words: tuple[str, ...]
    codes: tuple[str, ...]
    level: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Round:
    length_s: float
    calls: tuple[str, ...]  #: words of each, with blanks between
    order: str = "random"
    gap_s: float = 3.0  #: between calls at its beginning
    last_gap_s: float = 3.0  #: and at its end
    body_share: float = 0.0
    rush: bool = False


@dataclass(frozen=True, slots=True)
class Landed:
    """A strike, as a call sees it."""

    contact_s: float
    limb: str


@dataclass(frozen=True, slots=True)
class Answer:
    """What followed a call."""

    strikes: tuple[int, ...]  #: places among those that landed
    right: int  #: of the strikes called, made by the limb that was meant, in their order
    response_s: float | None  #: to the first contact


def limb_of(code: str, stance: str | None) -> str:
    """Which limb throws a code: lead is left for the orthodox; empty where the code tells none."""
    side, _, family = code.partition("-")
    if side not in ("lead", "rear") or not family:
        return ""
    lead_is_left = stance != "southpaw"
    left = (side == "lead") == lead_is_left
    kinds = (
        ("elbow", "elbow"),
        ("knee", "knee"),
        ("round", "foot"),
        ("front-", "foot"),
        ("side", "foot"),
        ("kick", "foot"),
    )
    part = next((limb for word, limb in kinds if family.startswith(word)), "hand")
    return f"{'left' if left else 'right'}_{part}"


def meant(words: str, known: dict[str, str]) -> tuple[tuple[str, ...], tuple[str, ...], str]:
    """Words as spoken, the codes they mean, and the height. Raises BadInput where a word is none of the gym's."""
    parts = words.split()
    strikes = [w for w in parts if w != BODY]
    codes = tuple(known.get(w, w if w in STRIKE_CODES else "") for w in strikes)
    if not strikes or "" in codes:
        lost = next((w for w, c in zip(strikes, codes, strict=True) if not c), words)
        raise BadInput(f"“{lost[:20]}” is no call of this gym. Calls are {', '.join(known)}.")
    return tuple(parts), codes, BODY if BODY in parts else ""


def schedule(plan: Round, known: dict[str, str], rng: np.random.Generator) -> list[Call]:
    """A round's calls in order of time. Raises BadInput."""
    if plan.order not in ORDERS:
        raise BadInput(f"Calls come in a fixed, random or growing order, not {plan.order[:20]}.")
    if not plan.calls:
        raise BadInput("Say what is called, as 1 2.")
    told = [meant(words, known) for words in plan.calls]
    until = plan.length_s - (RUSH_S if plan.rush else 0.0)
    out: list[Call] = []
    at = BEGINS_S
    while at < until - 1.0:
        words, codes, level = _which(plan, told, at / until, len(out), rng)
        if not level and rng.random() < plan.body_share:
            words, level = (*words, BODY), BODY
        out.append(Call(round(at, 3), words, codes, level or "head"))
        gap = plan.gap_s + (plan.last_gap_s - plan.gap_s) * at / until
        at += max(0.6, gap * float(rng.uniform(1 - VARIES, 1 + VARIES))) + 0.3 * (len(codes) - 1)
    return out


def _which(
    plan: Round, told: list[tuple[tuple[str, ...], tuple[str, ...], str]], done: float, n: int, rng: np.random.Generator
) -> tuple[tuple[str, ...], tuple[str, ...], str]:
    if plan.order == "fixed":
        return told[n % len(told)]
    upto = len(told) if plan.order == "random" else 1 + int(done * len(told))
    return told[int(rng.integers(min(upto, len(told))))]


def answered(calls: Sequence[tuple[float, Sequence[str]]], landed: Sequence[Landed]) -> list[Answer]:
    """What followed each call until the next one: `calls` are (second, limbs that were meant, in order)."""
    out = []
    for k, (at, limbs) in enumerate(calls):
        until = min(calls[k + 1][0] if k + 1 < len(calls) else np.inf, at + ANSWERED_S + 0.5 * len(limbs))
        own = [i for i, s in enumerate(landed) if at < s.contact_s <= until][: len(limbs)]
        right = sum(landed[i].limb == limb for i, limb in zip(own, limbs, strict=False))
        out.append(Answer(tuple(own), right, landed[own[0]].contact_s - at if own else None))
    return out


def cue_value(codes: Sequence[str], limbs: Sequence[str], level: str) -> str:
    """As a recording's events say a cue: `code+code;limb+limb;level=head`."""
    return f"{'+'.join(codes)};{'+'.join(limbs)};level={level}"


def cue_parts(value: str) -> tuple[list[str], list[str], str]:
    """The codes, limbs and height of a cue, from its event's value."""
    codes, _, rest = value.partition(";")
    limbs, _, pairs = rest.partition(";")
    said = dict(p.split("=", 1) for p in pairs.split(",") if "=" in p)
    named = limbs.split("+") if limbs else [""] * (codes.count("+") + 1)
    return codes.split("+"), named, said.get("level", "")
