"""A week as an integer programme: which wish on which evening, and how many sets.

Rules are rows of the programme and never bend; wishes do, at a price that falls with their place in the list. What a
wish had to bend to is found by leaving rules out one at a time: the first without which it would get more is told.
Solved by HiGHS through SciPy (Huangfu & Hall, Parallelizing the dual revised simplex method, 2018).
"""

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import Bounds, LinearConstraint, milp

from agile_strike.core.plan.wishes import (
    DAYS,
    KINDS,
    MINUTES_A_SET,
    RAMP_MINUTES,
    SET,
    Known,
    Wish,
    check,
)
from agile_strike.core.sets.volume import shared
from agile_strike.core.weeks.balance import KICK_DAY, MOST_KICK_DAYS

MOST_DRILLS = 2  # an evening: one fault a set, and a student minds one or two
GAP = 1e-3  # of the whole price: less than a set of any wish


@dataclass(frozen=True, slots=True, kw_only=True)
class SolverTime:
    """How long a coach waits for a week. Twelve random wishes take 0.3 to 9 s to the proven best on two cores; what
    is found within four is within a few per cent of it."""

    best_s: float = 4.0  #: for the week itself
    why_s: float = 3.0  #: for all questions of which rule a wish had to bend to, together


#: rule -> what a coach reads where a wish had to bend to it
RULES: dict[str, str] = {
    "sore": "it rests until the soreness is cleared",
    "bursts": "a child throws no bursts at full effort",
    "child": "a child has no high-volume kick day",
    "volume_days": f"{MOST_KICK_DAYS} high-volume kick days a week are the most",
    "in_a_row": "high-volume kick days do not follow each other",
    "fresh": "a trial is thrown fresh: not the day after a high-volume day, nor two days running",
    "one_fault": f"{MOST_DRILLS} drills an evening are the most: one fault a set",
    "a_day": "there is a most for one day",
    "jump": "more would be a sudden jump from the weeks before",
    "free": "no more evenings are free and still to come",
    "minutes": "the evenings are too short",
}


@dataclass(frozen=True, slots=True)
class Item:
    """A part of an evening, in its order."""

    kind: str  #: ramp, or a wish's
    name: str
    minutes: float
    key: str = ""
    strikes: int = 0
    left: int = 0
    right: int = 0


@dataclass(frozen=True, slots=True)
class Bent:
    """A wish that could not be met whole, and the rule that stood against it."""

    wish: int
    wanted: int  #: evenings, of a count strikes in the week
    got: int
    rule: str  #: of RULES; `together` where no single one does it
    text: str


@dataclass(frozen=True, slots=True)
class Week:
    evenings: dict[int, list[Item]]  #: day -> its parts
    bent: list[Bent]
    strikes: int
    owed: tuple[int, int]  #: left minus right afterwards: of hands, of kicks
    proven: bool = True  #: no better week exists; else the time was over before that was known


@dataclass(slots=True)
class _Row:
    rule: str
    terms: dict[int, float]
    most: float


class _Programme:
    """Variables: on[w, d], sets[w, d], evening[d], volume[d], short[w]."""

    def __init__(self, wishes: list[Wish], known: Known) -> None:
        self.wishes, self.known, n = wishes, known, len(wishes)
        self.size = (2 * n + 2) * DAYS + n
        self.rows = self._rows()

    def on(self, w: int, d: int) -> int:
        return w * DAYS + d

    def sets(self, w: int, d: int) -> int:
        return (len(self.wishes) + w) * DAYS + d

    def evening(self, d: int) -> int:
        return 2 * len(self.wishes) * DAYS + d

    def volume(self, d: int) -> int:
        return (2 * len(self.wishes) + 1) * DAYS + d

    def short(self, w: int) -> int:
        return (2 * len(self.wishes) + 2) * DAYS + w

    def _strikes(self, w: int, d: int) -> dict[int, float]:
        """Strikes of a wish on a day, as terms of a row."""
        wish = self.wishes[w]
        return {self.sets(w, d): float(SET)} if wish.counts else {self.on(w, d): float(wish.strikes)}

    def _rows(self) -> list[_Row]:
        k, out = self.known, list[_Row]()
        days, each = range(DAYS), list(enumerate(self.wishes))
        most_kicks = float(sum(w.strikes for w in self.wishes if w.kind == "kicks"))
        for i, w in each:
            if w.rests(k.sore) or (k.child and w.kind == "bursts"):
                why = "sore" if w.rests(k.sore) else "bursts"
                out.append(_Row(why, {self.on(i, d): 1.0 for d in days}, 0.0))
            if w.counts:
                for d in days:  # sets only where it is on, and it is on only with a set
                    out.append(_Row("", {self.sets(i, d): 1.0, self.on(i, d): -float(w.strikes // SET)}, 0.0))
                    out.append(_Row("", {self.on(i, d): 1.0, self.sets(i, d): -1.0}, 0.0))
                wanted = float(w.evenings * (w.strikes // SET))
                out.append(_Row("", {**{self.sets(i, d): -1.0 for d in days}, self.short(i): -1.0}, -wanted))
            else:
                out.append(_Row("", {**{self.on(i, d): -1.0 for d in days}, self.short(i): -1.0}, -float(w.evenings)))
            out.append(_Row("", {self.on(i, d): 1.0 for d in days}, float(w.evenings)))
            if w.kind == "trial":
                for d in days:
                    if d:
                        out.append(_Row("fresh", {self.on(i, d): 1.0, self.volume(d - 1): 1.0}, 1.0))
                        out.append(_Row("fresh", {self.on(i, d): 1.0, self.on(i, d - 1): 1.0}, 1.0))
                    elif k.volume_before:
                        out.append(_Row("fresh", {self.on(i, d): 1.0}, 0.0))
        for d in days:
            if d not in k.free:
                out.append(_Row("free", {self.on(i, d): 1.0 for i, _ in each}, 0.0))
            spent = {self.evening(d): RAMP_MINUTES}
            for i, w in each:
                spent |= {self.sets(i, d): MINUTES_A_SET} if w.counts else {self.on(i, d): w.minutes}
                out.append(_Row("", {self.on(i, d): 1.0, self.evening(d): -1.0}, 0.0))
            # an evening that is not free is as long as the longest: so that leaving "free" out tells of "free" alone
            out.append(_Row("minutes", spent, k.free.get(d, max(k.free.values(), default=60.0))))
            out.append(
                _Row("one_fault", {self.on(i, d): 1.0 for i, w in each if w.kind == "drill"}, float(MOST_DRILLS))
            )
            if k.child:
                whole = {key: v for i, w in each for key, v in self._strikes(i, d).items()}
                out.append(_Row("a_day", whole, float(k.most_a_day)))
                out.append(_Row("child", {self.volume(d): 1.0}, 0.0))
            kicks = {self.sets(i, d): float(SET) for i, w in each if w.kind == "kicks"}
            out.append(_Row("a_day", kicks, float(k.most_a_day)))
            out.append(_Row("", {**kicks, self.volume(d): -most_kicks}, float(KICK_DAY - 1)))
            if d:
                out.append(_Row("in_a_row", {self.volume(d): 1.0, self.volume(d - 1): 1.0}, 1.0))
            elif k.volume_before:
                out.append(_Row("in_a_row", {self.volume(d): 1.0}, 0.0))
        out.append(_Row("volume_days", {self.volume(d): 1.0 for d in days}, float(MOST_KICK_DAYS)))
        if np.isfinite(k.most_strikes):
            whole = {key: v for d in days for i, w in each for key, v in self._strikes(i, d).items()}
            out.append(_Row("jump", whole, k.most_strikes))
        return [row for row in out if row.terms]

    def solve(self, within_s: float, without: str = "") -> tuple[NDArray[np.float64], bool]:
        """The best week that is found in that time, and whether it is proven to be the best; with one rule left out
        where it is named. An empty week keeps them all, and is what there is where nothing else was found."""
        n = len(self.wishes)
        rows = [r for r in self.rows if not without or r.rule != without]
        a = np.zeros((len(rows), self.size))
        for at, row in enumerate(rows):
            for key, value in row.terms.items():
                a[at, key] += value
        cost = np.zeros(self.size)
        for i, w in enumerate(self.wishes):
            whole = w.evenings * (w.strikes // SET) if w.counts else w.evenings
            cost[self.short(i)] = 100.0 * 0.8**i / whole
            for d in range(DAYS):  # where all else is equal: what is tested early in the week, and few evenings
                cost[self.on(i, d)] = 0.001 * (d + 1) * (2.0 if w.kind == "trial" else 1.0)
        for d in range(DAYS):
            cost[self.evening(d)] = 0.05
        upper = np.ones(self.size)
        for i, w in enumerate(self.wishes):
            upper[[self.sets(i, d) for d in range(DAYS)]] = w.strikes // SET if w.counts else 0
            upper[self.short(i)] = np.inf
        whole_numbers = np.ones(self.size)
        whole_numbers[-n:] = 0
        limits = LinearConstraint(a, -np.inf, [r.most for r in rows])
        best = milp(
            cost,
            constraints=limits,
            integrality=whole_numbers,
            bounds=Bounds(0.0, upper),
            options={"mip_rel_gap": GAP, "time_limit": max(within_s, 0.05)},
        )
        x = np.zeros(self.size) if best.x is None else best.x
        return np.asarray(np.round(x, 6), dtype=np.float64), best.status == 0

    def got(self, x: NDArray[np.float64], i: int) -> int:
        """Evenings, of a count strikes."""
        of: Callable[[int, int], int] = self.sets if self.wishes[i].counts else self.on
        times = SET if self.wishes[i].counts else 1
        return times * round(float(sum(x[of(i, d)] for d in range(DAYS))))


def week(wishes: list[Wish], known: Known, allowed: SolverTime = SolverTime()) -> Week:
    """What is done on which evening, as good as is found in the time. Raises BadWish where a wish can't be meant."""
    check(wishes, known)
    if not wishes:
        return Week({}, [], 0, known.ahead)
    programme = _Programme(wishes, known)
    x, proven = programme.solve(allowed.best_s)
    until = time.monotonic() + allowed.why_s
    without: dict[str, NDArray[np.float64]] = {}
    bent = []
    for i, w in enumerate(wishes):
        wanted, got = w.evenings * (w.strikes // SET * SET if w.counts else 1), programme.got(x, i)
        if got >= wanted:
            continue
        rule = "together"
        for name in RULES:
            if all(r.rule != name for r in programme.rows):
                continue
            if name not in without:
                left_s = until - time.monotonic()
                if left_s <= 0:
                    break  # told as what the wishes have together: true, if less plain
                without[name], _ = programme.solve(left_s, name)
            if programme.got(without[name], i) > got:
                rule = name
                break
        why = RULES.get(rule, "there is no room for it beside the other wishes")
        asked = f"{wanted} strikes" if w.counts else f"{wanted} evening{'' if wanted == 1 else 's'}"
        bent.append(Bent(i, wanted, got, rule, f"{w.name}: {asked} wished for, {got} planned, since {why}."))
    evenings, owed = _evenings(programme, x)
    strikes = sum(item.strikes for items in evenings.values() for item in items)
    return Week(evenings, bent, strikes, owed, proven)


def _evenings(p: _Programme, x: NDArray[np.float64]) -> tuple[dict[int, list[Item]], tuple[int, int]]:
    """The parts of each evening in their order; a count is shared between the sides so that they come even."""
    ahead = dict(zip(("hands", "kicks"), p.known.ahead, strict=True))
    out: dict[int, list[Item]] = {}
    for d in range(DAYS):
        items = []
        for kind in KINDS:
            for i, w in enumerate(p.wishes):
                if w.kind != kind or x[p.on(i, d)] < 0.5:
                    continue
                if not w.counts:
                    items.append(Item(kind, w.name, w.minutes, w.key, w.strikes))
                    continue
                sets = round(float(x[p.sets(i, d)]))
                share = shared(SET * sets, ahead[kind])
                ahead[kind] += share.left - share.right
                items.append(Item(kind, w.name, MINUTES_A_SET * sets, w.key, SET * sets, share.left, share.right))
        if items:
            out[d] = [Item("ramp", "Ramp", RAMP_MINUTES), *items]
    return out, (ahead["hands"], ahead["kicks"])
