"""Where a take begins and ends among its stream's packets: by when they were gathered, whenever they came."""

import datetime as dt
from dataclasses import dataclass

from agile_strike.formats.packets import Packet as Sent
from agile_strike.formats.packets import decode
from agile_strike.live.models import Packet, Stream, Take
from agile_strike.live.reference import clock_of

EARLY_S = 0.06  # a packet that was gathered so shortly before a tap still belongs after it
EARLY = dt.timedelta(minutes=10)  # a hub that was cut off sends what it gathered then


@dataclass(frozen=True, slots=True)
class Ended:
    """The last packet that was gathered before a take ended."""

    last: int
    whole: bool  #: a later one has come, and none before it is missing


def place(take: Take, stream: Stream, packet: Sent, at: dt.datetime) -> bool:
    """Whether a packet is the first of a take that has none yet; the take then knows where it begins."""
    offset, _ = clock_of(stream, [(packet, at)])
    if packet.hub_s + offset < take.began_at.timestamp() - EARLY_S and packet.number > 0:
        return False
    take.stream, take.first_packet = stream, packet.number
    take.save(update_fields=["stream", "first_packet"])
    return True


def placed(take: Take) -> bool:
    """Find where a take begins among what is here already; whether it is known now."""
    if take.first_packet is not None:
        return True
    stream = take.station.streams.first()
    if stream is None:
        return False
    rows = Packet.objects.filter(stream=stream, received_at__gte=take.began_at - EARLY).order_by("number")
    return any(place(take, stream, decode(bytes(r.content)), r.received_at) for r in rows.iterator(200))


def ended(take: Take) -> Ended | None:
    """Of a take that has ended and is placed; None where none of its packets has come."""
    assert take.ended_at is not None
    assert take.stream is not None
    rows = Packet.objects.filter(stream=take.stream, number__gte=take.first_packet)
    offset, _ = clock_of(take.stream, [])
    until = take.ended_at.timestamp() - offset
    last: int | None = None
    for row in rows.order_by("-number").iterator(100):
        if decode(bytes(row.content)).hub_s <= until:
            last = row.number
            break
    if last is None:
        return None
    come = rows.filter(number__lte=last).count()
    # those that are in chunks already may have been dropped
    first = max(take.first_packet or 0, rows.order_by("number").values_list("number", flat=True).first() or 0)
    return Ended(last, come == last - first + 1 and rows.filter(number__gt=last).exists())
