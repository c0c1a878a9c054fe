"""Where a take begins and ends among its stream's packets: by when they were gathered, whenever they came.

One instant parts two takes that follow each other, and no packet belongs to both. Packet numbers order and tell whether
one is missing; they never place.
"""

import datetime as dt
from dataclasses import dataclass

from django.db.models import F, FloatField, Max, Min, Q, QuerySet
from django.db.models.functions import Cast, Extract
from django.utils import timezone

from agile_strike.live.models import Packet, Stream, Take

EARLY_S = 0.06  # a packet that was gathered so shortly before a tap still belongs after it
MISSED = dt.timedelta(minutes=1)  # after which a packet that has not come holds the next student up no longer
UNKNOWN_CLOCK_SD_S = 0.25  # of a hub that has not told how its clock stands
STREAMS = 5  # of a station, that an evening may still be in: the latest
LATEST_ASKED = 2000  # packets of a hub that never tells


@dataclass(frozen=True, slots=True)
class Ended:
    """The last packet that was gathered before a take ended."""

    last: int
    whole: bool  #: the next one has come, and none before it is missing


def clock_of(stream: Stream) -> tuple[float, float]:
    """The server's clock minus the hub's, and its doubt, seconds: as the hub told it, else by the quickest packet."""
    if stream.clock is not None:
        return float(stream.clock[0]), float(stream.clock[1])
    recent = Packet.objects.filter(stream=stream).order_by("-number")[:LATEST_ASKED]
    way = Cast(Extract("received_at", "epoch"), FloatField()) - F("gathered_s")
    quickest = Packet.objects.filter(pk__in=recent.values("pk")).aggregate(way=Min(way))["way"]
    return (stream.began_at.timestamp() if quickest is None else quickest), UNKNOWN_CLOCK_SD_S


def placed(take: Take) -> bool:
    """Whether it is known where a take begins. Found among what has come once it is certain: the packet before its
    first has come too, so that none is on its way that was gathered after the tap as well."""
    if take.first_packet is not None:
        return True
    stream = _stream_of(take)
    if stream is None:
        return False
    own = _gathered_in(take, stream)
    free = _after_others(take, stream)
    first = own.filter(number__gte=free).order_by("number").first()
    if first is None:
        return False
    before = first.number == free or Packet.objects.filter(stream=stream, number=first.number - 1).exists()
    if not before and timezone.now() < first.received_at + MISSED:
        return False
    take.stream, take.first_packet = stream, first.number
    take.save(update_fields=["stream", "first_packet"])
    return True


def ended(take: Take) -> Ended | None:
    """Of a take that has ended and is placed, by what has come so far; None where none of its packets has."""
    rows = _between(take)
    span = rows.aggregate(first=Min("number"), last=Max("number"))
    if span["last"] is None:
        return None
    # those that are in chunks already may have been dropped
    complete = rows.count() == span["last"] - span["first"] + 1
    after = Packet.objects.filter(stream=take.stream, number=span["last"] + 1).exists()
    return Ended(span["last"], complete and after)


def packets_of(take: Take) -> QuerySet[Packet]:
    """All that is here of a take, as far as it is known where it begins and ends; none where it is not."""
    rows = _between(take)
    return rows if take.last_packet is None else rows.filter(number__lte=take.last_packet)


def _between(take: Take) -> QuerySet[Packet]:
    """What was gathered between a take's taps, and is no other's."""
    if take.stream is None or take.first_packet is None:
        return Packet.objects.none()
    rows = Packet.objects.filter(stream=take.stream, number__gte=take.first_packet)
    if take.ended_at is None:
        return rows
    later = Take.objects.filter(stream=take.stream).filter(_after(take))
    after = later.aggregate(first=Min("first_packet"))["first"]
    rows = rows.exclude(pk__in=_gathered_from(rows, take.stream, take.ended_at).values("pk"))
    return rows if after is None else rows.filter(number__lt=after)


def _stream_of(take: Take) -> Stream | None:
    """The latest of its station; of a take that has ended, the latest of which something was gathered meanwhile: the
    hub may have come in only after it, or begun anew since."""
    latest = list(take.station.streams.all()[:STREAMS])
    if take.ended_at is None:
        return latest[0] if latest else None
    return next((s for s in latest if _gathered_in(take, s).exists()), None)


def _gathered_in(take: Take, stream: Stream) -> QuerySet[Packet]:
    """What a stream gathered between a take's taps."""
    rows = Packet.objects.filter(stream=stream)
    own = _gathered_from(rows, stream, take.began_at)
    return (
        own if take.ended_at is None else own.exclude(pk__in=_gathered_from(rows, stream, take.ended_at).values("pk"))
    )


def _gathered_from(rows: QuerySet[Packet], stream: Stream, at: dt.datetime) -> QuerySet[Packet]:
    """Those that were gathered from an instant of the server's clock on."""
    return rows.filter(gathered_s__gte=at.timestamp() - clock_of(stream)[0] - EARLY_S)


def _after(take: Take) -> Q:
    """Takes that began after this one, however late that was told."""
    return Q(began_at__gt=take.began_at) | Q(began_at=take.began_at, pk__gt=take.pk)


def _after_others(take: Take, stream: Stream) -> int:
    """The first number that no earlier take of this stream has."""
    before = Take.objects.filter(stream=stream).exclude(_after(take)).exclude(pk=take.pk)
    spans = before.values_list("first_packet", "last_packet")
    ends = [first if last is None else last + 1 for first, last in spans if first is not None or last is not None]
    return max((e for e in ends if e is not None), default=0)
