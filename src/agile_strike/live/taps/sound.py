"""The delay of a tablet's sound, from taps on the bag: see core.live.audio_delay."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from agile_strike.core.errors import BadInput, NotYours
from agile_strike.core.live.audio_delay import FIRST_FELT, audio_delay, taps
from agile_strike.formats.gathered import Gathered
from agile_strike.formats.packets import decode, opening_of
from agile_strike.gym.models import Gym
from agile_strike.live.models import Packet, Take
from agile_strike.live.whose.reference import at_reference

FEWEST, MOST = FIRST_FELT + 6, 40  # beeps
ROUND = dt.timedelta(seconds=3)  # them, in which packets were on their way


@dataclass(frozen=True, slots=True)
class SoundDelay:
    delay_ms: float
    doubt_ms: float
    taps: int


def sound_delay(gym: Gym, take_id: int, beeps: Sequence[dt.datetime], doubt_ms: float) -> SoundDelay:
    """From instants at which beeps were given to the loudspeaker, by the server's clock."""
    take = Take.objects.for_gym(gym).select_related("stream").filter(pk=take_id).first()
    if take is None:
        raise NotYours("take")
    if not FEWEST <= len(beeps) <= MOST:
        raise BadInput(f"It takes {FEWEST} to {MOST} beeps.")
    given = sorted(beeps)
    if given[-1] - given[0] > dt.timedelta(minutes=2):
        raise BadInput("Those beeps lie minutes apart. Begin anew.")
    known = take.clock
    if take.stream is None or known is None or "bag" not in take.firsts | take.stream.opening["units"]:
        raise BadInput("The bag's unit has not sent yet. Wake it, and try again.")
    if take.stream.opening["speed"] != 1.0:
        raise BadInput("This evening does not run at real speed: nobody can tap along.")
    facts = opening_of(take.stream.opening).units["bag"]
    first = take.firsts["bag"] if "bag" in take.firsts else _first_sample(take)
    held: Gathered | None = None
    near = Packet.objects.filter(
        stream=take.stream, number__gte=take.first_packet or 0,
        received_at__gte=given[0] - ROUND, received_at__lte=given[-1] + ROUND,
    ).order_by("number")  # fmt: skip
    for row in near.iterator(200):
        part = decode(bytes(row.content)).units.get("bag")
        if part is not None:
            held = held or Gathered("bag", facts, part.first)
            held.put(part)
    signal = held.signal(held.base, held.upto, 0.0, held.base) if held is not None else None
    if held is None or signal is None:
        raise BadInput("Nothing of the bag's unit came while it beeped. Wake it, and try again.")
    at = np.array([at_reference(known, b) for b in given], np.float64)
    felt = taps(signal) + (held.base - first) / facts.rate_hz
    found = audio_delay(at, felt, float(np.hypot(known["sd_s"], doubt_ms / 1e3)))
    return SoundDelay(1e3 * found.delay_s, 1e3 * found.sd_s, found.taps)


def _first_sample(take: Take) -> int:
    """Number of the bag's first sample in the take, which its clock counts from."""
    rows = Packet.objects.filter(stream=take.stream, number__gte=take.first_packet or 0).order_by("number")
    for row in rows.iterator(20):
        part = decode(bytes(row.content)).units.get("bag")
        if part is not None:
            return part.first
    return 0
