"""A simulated student at a bag, made piece by piece: throws what the server says is being done, and guards else.

Each piece is a short evening of `core.simulation`; units sit, err and drift the same in all of them. Between pieces the
bag hangs nearly still, as after a hand that steadies it, and the guard is still for an instant.
"""

import math
from collections import defaultdict
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from agile_strike.core.recording import UnitSignal
from agile_strike.core.simulation.evening import Strike, simulate_motion
from agile_strike.core.simulation.plan import GYRO_FULL_SCALE_RAD_S, STAMPS_S, USUAL_TECHNIQUE, thrown_of, varied
from agile_strike.core.simulation.student import KICK, Body, Technique, Thrown
from agile_strike.core.simulation.unit import Mess, sense
from agile_strike.core.simulation.wear import WORN, Course, WearMess, wear
from agile_strike.core.target import GRAVITY_M_S2, Bag
from agile_strike.formats.packets import MOST_SAMPLES, Part, UnitFacts, parts_of

BAG_RATE_HZ = 1000.0
BAG_FULL_SCALE = 32 * GRAVITY_M_S2
IDLE_S, LEAD_S = 2.0, 0.6  # pieces without a strike; made so long before they are due
STAMPING_S = 6.0
FIRST_AFTER_S, LAST_BEFORE_S = 1.6, 1.8  # of a piece with strikes: its neighbours' guards are not quite its own
HEARS_S = 0.6  # nobody throws before being asked, however late a hub on a busy machine makes its pieces
IDLES = 6
CLOSE_S, LONGEST_S = 4.5, 14.0  # of calls in one piece
MOST_AT_ONCE = 4  # strikes in a piece, so that a set can be ended
REACTION_S, REACTION_SD_S = 0.21, 0.03  # to a call, until the limb leaves
FLIGHT_S = 0.2
USUAL_BAG = Bag("swivel", 52.0, 1.25, 0.36, 0.28, mass_sd_kg=0.25, chain_m=0.55, inertia_cm_kg_m2=7.3,
                inertia_sd_kg_m2=0.15, level_bands_m=(0.40, 0.85))  # fmt: skip
BEHIND_SHARE = 0.034  # of body mass, behind a rear straight
SPEED_M_S = 6.3
#: what a code holds -> mass behind it and speed, against a rear straight's, and its contact (ms); the first that fits
FAMILIES = {"lead-straight": (0.75, 0.92, 14.0), "straight": (1.0, 1.0, 15.0), "hook": (1.05, 0.86, 17.0),
            "uppercut": (0.95, 0.85, 17.0), "round": (1.7, 1.5, 22.0), "kick": (1.7, 1.3, 24.0),
            "knee": (2.2, 0.8, 24.0), "elbow": (1.1, 0.8, 14.0)}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Call:
    """One strike that is wanted, at a second of the stream where it was called out."""

    code: str
    limb: str
    level: str = "body"
    at_s: float | None = None


@dataclass(slots=True)
class SimulatedStudent:
    """A source for a hub."""

    seed: int = 1
    speed: float = 1.0
    worn: tuple[str, ...] = ("leftwrist", "rightwrist")
    bag: Bag = USUAL_BAG
    body: Body = field(default_factory=Body)
    strength: float = 1.0  #: of this student against the usual one
    gap_s: float = 2.6
    ends_after_s: float = math.inf
    witness: Callable[[float, Course, Thrown], None] | None = None  #: is told each strike as it was
    _made: dict[str, list[UnitSignal]] = field(default_factory=lambda: defaultdict(list))
    _done_s: float = 0.0
    _due_s: float = 0.0
    _heard_s: float = 0.0
    _next: "Future[tuple[dict[str, UnitSignal], float]] | None" = None
    _wanted: list[Call] = field(default_factory=list)
    _stamps: int = 0
    _heard: tuple[Any, int] = (None, 0)
    _calls_heard: set[Any] = field(default_factory=set)
    _stamps_heard: Any = None
    _idles: list[dict[str, UnitSignal]] = field(default_factory=list)
    _pool: ThreadPoolExecutor = field(default_factory=lambda: ThreadPoolExecutor(1))

    @property
    def units(self) -> dict[str, UnitFacts]:
        mess = WearMess()
        bag = UnitFacts(
            rate_hz=BAG_RATE_HZ,
            serial="SIM-bag",
            model_text="simulated six-axis unit",
            accel_full_scale_m_s2=BAG_FULL_SCALE,
            gyro_full_scale_rad_s=GYRO_FULL_SCALE_RAD_S,
        )
        out = {"bag": bag}
        for place in self.worn:
            motion = not place.endswith("sole")
            out[place] = UnitFacts(
                rate_hz=_rate(place, mess),
                serial=f"SIM-{place}-{self.seed}",
                model_text="simulated six-axis unit" if motion else "simulated sole",
                accel_full_scale_m_s2=mess.full_scale_m_s2 if motion else None,
                gyro_full_scale_rad_s=mess.gyro_full_scale_rad_s if motion else None,
            )
        return out

    def told(self, asked: Any) -> None:
        """`set`: what is being thrown, how many of it are wanted, under which key; `calls`: one strike each."""
        if not isinstance(asked, dict):
            return
        if self._done_s == 0.0 and asked.get("bag"):  # it hangs there before anything is measured
            self.bag = Bag(**asked["bag"])
        if asked.get("student"):
            who = asked["student"]
            self.body = replace(self.body, mass_kg=who["mass_kg"] or self.body.mass_kg, stance=who["stance"])
        running = asked.get("set")
        key = running.get("key") if isinstance(running, dict) else None
        if key != self._heard[0]:
            self._heard = (key, 0)
            self._heard_s = self._due_s
            self._wanted = []
            if isinstance(running, dict) and not running.get("called"):
                code, limb, level = (str(running.get(n) or "") for n in ("code", "limb", "level"))
                self._wanted = [Call(code, limb, level or "body")] * min(int(running.get("strikes") or 200), 200)
        for call in asked.get("calls") or ():
            if call["key"] not in self._calls_heard:
                self._calls_heard.add(call["key"])
                self._wanted.append(Call(call["code"], call["limb"], call.get("level") or "head", call["at"]))
        stamps = asked.get("stamps")
        if stamps and stamps != self._stamps_heard:
            self._stamps_heard, self._stamps = stamps, 1

    def ended(self, sent: dict[str, int]) -> bool:
        return self._done_s >= self.ends_after_s and sent.get("bag", 0) >= int(self.ends_after_s * BAG_RATE_HZ)

    def due(self, until_s: float, sent: dict[str, int]) -> dict[str, Part]:
        self._due_s = until_s
        if self._done_s == 0.0 and sent.get("bag"):  # started again: the time between was not measured
            self._done_s = math.ceil(max(until_s, sent["bag"] / BAG_RATE_HZ))
        while until_s + LEAD_S * self.speed > self._done_s:
            if self._next is None:
                self._next = self._pool.submit(self._piece, self._done_s, self._take(self._done_s))
            if until_s < self._done_s and not self._next.done():
                break
            made, length_s = self._next.result()
            self._next = None
            for place, signal in made.items():
                self._made[place].append(signal)
            self._done_s += length_s
        out = {}
        for place, facts in self.units.items():
            part = self._cut(place, sent.get(place, 0), int(until_s * facts.rate_hz))
            if part is not None:
                out[place] = part
        return out

    def _cut(self, place: str, first: int, last: int) -> Part | None:
        """The next samples of one piece; what was sent is let go of."""
        pieces = self._made[place]
        while pieces and first >= pieces[0].first_sample + len(pieces[0].accel_m_s2):
            pieces.pop(0)
        if not pieces or last <= first:
            return None
        one = pieces[0]
        begin = max(0, first - one.first_sample)
        end = min(len(one.accel_m_s2), last - one.first_sample, begin + MOST_SAMPLES // 10)
        if end <= begin:
            return None
        part = parts_of(one, slice(begin, end))
        return Part(first=one.first_sample + begin, accel=part.accel, gyro=part.gyro, sole=part.sole)

    def _take(self, begins_s: float) -> tuple[list[Call], int]:
        stamps, self._stamps = self._stamps, 0
        if stamps:
            return [], stamps
        called = [c for c in self._wanted if c.at_s is not None]
        if called:
            # calls that follow each other closely are one piece; what is called for later waits
            near: list[Call] = []
            for call in sorted(called, key=lambda c: c.at_s or 0.0):
                after = (near[-1].at_s or 0.0) + CLOSE_S if near else begins_s + IDLE_S
                if (call.at_s or 0.0) < min(after, begins_s + LONGEST_S):
                    near.append(call)
            self._wanted = [c for c in self._wanted if c not in near]
            return near, 0
        now, self._wanted = self._wanted[:MOST_AT_ONCE], self._wanted[MOST_AT_ONCE:]
        return now, 0

    # --- one piece

    def _piece(self, begins_s: float, wanted: tuple[list[Call], int]) -> tuple[dict[str, UnitSignal], float]:
        calls, stamps = wanted
        if not calls and not stamps:
            return self._idle(begins_s), IDLE_S
        return self._made_anew(begins_s, calls, stamps)

    def _idle(self, begins_s: float) -> dict[str, UnitSignal]:
        """A piece without a strike: one of a few, since they all begin and end at rest."""
        if len(self._idles) < IDLES:
            made, _ = self._made_anew(begins_s, [], 0)
            self._idles.append(made)
            return made
        made = self._idles[int(begins_s / IDLE_S) % IDLES]
        out = {}
        for place, unit in made.items():
            rate = self._rates.get(place, BAG_RATE_HZ)
            first, last = math.ceil(begins_s * rate), math.ceil((begins_s + IDLE_S) * rate)
            out[place] = _moved(unit, first, last - first)
        return out

    @property
    def _rates(self) -> dict[str, float]:
        """Samples of each worn unit in a second of the bag's: no two crystals are alike."""
        drifts = np.random.default_rng(self.seed).uniform(-120e-6, 120e-6, len(WORN))
        return {p: _rate(p, WearMess()) / (1.0 + float(d)) for p, d in zip(WORN, drifts, strict=True) if p in self.worn}

    def _made_anew(self, begins_s: float, calls: list[Call], stamps: int) -> tuple[dict[str, UnitSignal], float]:
        rng = np.random.default_rng([self.seed, int(1e3 * begins_s)])
        strikes: list[Strike] = []
        techniques: list[Technique] = []
        at = max(FIRST_AFTER_S, self._heard_s + HEARS_S - begins_s)
        for call in calls:
            if call.at_s is not None:
                reacted = REACTION_S + REACTION_SD_S * rng.standard_normal() + FLIGHT_S
                at = max(at if strikes else 0.25, call.at_s - begins_s + reacted)
            strikes.append(self._strike(call, at, rng))
            techniques.append(varied(KICK if call.limb.endswith("foot") else USUAL_TECHNIQUE, rng))
            at += 0.35 if call.at_s is not None else self.gap_s * float(rng.uniform(0.85, 1.2))
        length = math.ceil(strikes[-1].time_s + LAST_BEFORE_S) if strikes else STAMPING_S if stamps else IDLE_S
        motion = simulate_motion(self.bag, strikes, [], length + 1.0, (0.004, 0.003, 0.0))
        _, accel, gyro = sense(
            motion, [], Mess(seed=self.seed), BAG_RATE_HZ, BAG_FULL_SCALE, GYRO_FULL_SCALE_RAD_S, rng
        )
        n = int(length * BAG_RATE_HZ)
        made = {
            "bag": UnitSignal(
                "bag",
                BAG_RATE_HZ,
                accel[:n].astype(np.float32),
                gyro[:n].astype(np.float32),
                BAG_FULL_SCALE,
                GYRO_FULL_SCALE_RAD_S,
                first_sample=round(begins_s * BAG_RATE_HZ),
            )
        }
        if self.worn:
            made |= self._worn(begins_s, length, strikes, techniques, motion, [*STAMPS_S] if stamps else [], rng)
        return made, float(length)

    def _worn(
        self,
        begins_s: float,
        length_s: float,
        strikes: list[Strike],
        techniques: list[Technique],
        motion: Any,
        stamps: list[float],
        rng: np.random.Generator,
    ) -> dict[str, UnitSignal]:
        rates = self._rates
        spans = {p: (math.ceil(begins_s * r), math.ceil((begins_s + length_s) * r)) for p, r in rates.items()}
        clocks = {p: (spans[p][0] / r - begins_s, 1e6 * (_rate(p, WearMess()) / r - 1.0)) for p, r in rates.items()}
        mess = WearMess(clocks=clocks, seed=self.seed)
        thrown = thrown_of(strikes, techniques, motion)
        body = replace(self.body, rests_at_s=(0.0, length_s))
        worn = wear(body, thrown, length_s + 0.5, stamps, mess, rng, self.worn)
        if self.witness is not None:
            for one in thrown:
                self.witness(begins_s, worn.course, one)
        out = {}
        for place, signal in worn.units.items():
            first, last = spans[place]
            n = last - first
            out[place] = UnitSignal(
                place,
                signal.rate_hz,
                signal.accel_m_s2[:n],
                signal.gyro_rad_s[:n],
                signal.accel_full_scale_m_s2,
                signal.gyro_full_scale_rad_s,
                sole_n=None if signal.sole_n is None else signal.sole_n[:n],
                first_sample=first,
            )
        return out

    def _strike(self, call: Call, at: float, rng: np.random.Generator) -> Strike:
        mass, speed, contact_ms = next((v for f, v in FAMILIES.items() if f in call.code), (1.0, 1.0, 15.0))
        mass, speed = mass * BEHIND_SHARE * self.body.mass_kg, speed * SPEED_M_S
        middle, band = self.bag.level_middle_m(call.level or "body")
        return Strike(
            at,
            float(np.clip(middle + 0.4 * band * rng.standard_normal(), 0.05, self.bag.length_m - 0.05)),
            0.02 * rng.standard_normal(),
            math.pi + 0.3 * rng.standard_normal(),
            mass * self.strength * math.exp(0.07 * rng.standard_normal()),
            speed * math.sqrt(self.strength) * math.exp(0.07 * rng.standard_normal()),
            contact_ms * math.exp(0.04 * rng.standard_normal()),
            upward_share=0.03 * rng.standard_normal(),
            code=call.code,
            limb=call.limb or "right_hand",
            level=call.level or "body",
        )


def _rate(place: str, mess: WearMess) -> float:
    if place.endswith("sole"):
        return mess.sole_rate_hz
    return mess.trunk_rate_hz if place in ("pelvis", "torso") else mess.wrist_rate_hz


def _moved(unit: UnitSignal, first: int, count: int) -> UnitSignal:
    """A piece's samples at another time: as many as fit there, the last one again where one is lacking."""
    rows = np.minimum(np.arange(count), len(unit.accel_m_s2) - 1)
    sole = None if unit.sole_n is None else unit.sole_n[rows]
    accel, gyro = unit.accel_m_s2[rows], unit.gyro_rad_s[rows]
    return replace(unit, first_sample=first, accel_m_s2=accel, gyro_rad_s=gyro, sole_n=sole)
