"""All that is slow about a bag's unit: which way up it hung and how it sits, learnt from the bag's own free hanging.

With it a window round a contact says the same as the whole evening. Learning goes on from piece to piece: what was seen
so far is kept as means of 5 ms, some megabytes an hour, and is no part of what a window needs.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.bag import detection, facing, leather
from agile_strike.core.bag.motion import Motion
from agile_strike.core.bag.mounting import Mounting, mounting
from agile_strike.core.bag.windows import Windows
from agile_strike.core.recording import UnitSignal
from agile_strike.core.target import Bag

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

CONTACT_BUSY_S = (0.06, 0.07)


@dataclass(frozen=True, slots=True)
class Looked:
    """A unit's samples in means of some 5 ms, in its own axes."""

    block: int  #: samples in each
    step_s: float
    first: int  #: sample of the evening that the first one here begins with
    accel: Floats  #: (m, 3)
    gyro: Floats  #: (m, 3)

    def then(self, later: "Looked") -> "Looked":
        accel, gyro = (np.concatenate([a, b]) for a, b in ((self.accel, later.accel), (self.gyro, later.gyro)))
        return replace(self, accel=accel, gyro=gyro)


def look(unit: UnitSignal) -> Looked:
    block = detection.block_length(unit)
    accel, gyro = detection.block_means(unit.accel_m_s2, block), detection.block_means(unit.gyro_rad_s, block)
    return Looked(block, block / unit.rate_hz, unit.first_sample, accel, gyro)


@dataclass(frozen=True, slots=True)
class BagState:
    turn: Floats  #: (3, 3) quarter turns from the unit's axes to ones in which z runs up
    seat: Mounting  #: of the unit once it is turned so
    seen: Looked | None = None  #: what it was learnt from; not kept

    @property
    def turned(self) -> bool:
        return bool(not np.array_equal(self.turn, facing.UPRIGHT) or self.seat.quarters)

    @property
    def seat_as_hung(self) -> Mounting:
        """The seat from the unit's axes as they are in its samples."""
        if np.array_equal(self.turn, facing.UPRIGHT):
            return self.seat
        bias = self.seat.gyro_bias_rad_s @ self.turn
        return replace(self.seat, rotation=self.seat.rotation @ self.turn, gyro_bias_rad_s=bias)

    def stood_up(self, unit: UnitSignal) -> UnitSignal:
        return facing.stood_up(unit, self.turn)

    def to_json(self) -> dict[str, Any]:
        return {"turn": self.turn.tolist(), "seat": mounting_to_json(self.seat)}

    @staticmethod
    def from_json(said: dict[str, Any]) -> "BagState":
        return BagState(np.array(said["turn"]), mounting_from_json(said["seat"]))


def learn(before: BagState | None, piece: Looked, rate_hz: float, bag: Bag) -> BagState:
    """The state after a piece of the evening more: as if everything so far had come at once."""
    seen = before.seen.then(piece) if before is not None and before.seen is not None else piece
    turn = facing.turn_of(seen.accel)
    accel, gyro = seen.accel @ turn.T, seen.gyro @ turn.T
    centres, sizes = detection.candidates(seen.block, rate_hz, accel, gyro)
    busy = _busy(len(accel), centres // seen.block, seen.step_s)
    seat = mounting(accel, gyro, seen.step_s, busy, bag, facing.out_axis_known(turn))
    if bag.mount == "swivel" and seat.upright:
        since, until = detection.neighbours(centres, sizes, rate_hz)
        alone = centres[(since > -leather.BEFORE_S[0]) & (until > leather.AFTER_S[1])] // seen.block
        seat = replace(seat, tail=_tail(accel, gyro, alone, seen.step_s, seat, bag))
    return BagState(turn, seat, seen)


def _tail(accel: Floats, gyro: Floats, at: NDArray[np.int64], step_s: float, seat: Mounting, bag: Bag) -> leather.Tail:
    """From means round blocks `at` (s,)."""
    reach = round(leather.AFTER_S[1] / step_s)
    at = at[(at >= reach) & (at + reach < len(accel))]
    offsets = np.arange(-reach, reach + 1)
    places = at[:, None] + offsets
    sound = np.zeros(places.shape, bool)
    free = np.full(len(at), np.inf)
    since_s = np.asarray(offsets * step_s, np.float64)
    windows = Windows(at - reach, 1.0 / step_s, since_s, accel[places], gyro[places], sound, sound, -free, free)
    motion = Motion(windows, seat, bag)
    moment = motion.carried(motion.felt)[2]
    found = leather.learnt(moment[:, :, :2], motion.turning[:, :, :2], since_s)
    # water that comes after hides a tail
    return leather.PERHAPS if bag.filling == "water" and found == leather.AT_ONCE else found


def _busy(blocks: int, at: NDArray[np.int64], step_s: float) -> Bools:
    """Blocks (m,) in which something may be touching the bag."""
    busy = np.zeros(blocks + 1, np.int64)
    before, after = (int(s / step_s) for s in CONTACT_BUSY_S)
    np.add.at(busy, np.clip(at - before, 0, blocks), 1)
    np.add.at(busy, np.clip(at + after, 0, blocks), -1)
    return np.asarray(np.cumsum(busy)[:blocks] > 0)


def mounting_to_json(seat: Mounting) -> dict[str, Any]:
    return {
        "rotation": seat.rotation.tolist(),
        "position_m": seat.position_m.tolist(),
        "tilt_deg": seat.tilt_deg,
        "yaw_deg": seat.yaw_deg,
        "yaw_sd_rad": seat.yaw_sd_rad,
        "upright": seat.upright,
        "gyro_bias_rad_s": seat.gyro_bias_rad_s.tolist(),
        "quarters": seat.quarters,
        "tail": {"share": seat.tail.share, "s": seat.tail.s, "perhaps": seat.tail.perhaps},
    }


def mounting_from_json(said: dict[str, Any]) -> Mounting:
    arrays = {n: np.array(said[n]) for n in ("rotation", "position_m", "gyro_bias_rad_s")}
    tail = leather.Tail(**said["tail"]) if "tail" in said else leather.AT_ONCE
    return Mounting(**{"quarters": 0} | said | arrays | {"tail": tail})
