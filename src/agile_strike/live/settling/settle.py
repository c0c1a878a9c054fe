"""Settling a take: its packets become chunks, and the batch measures all of it, as an import of the same samples does.

Until it has ended, chunks end where a packet is still missing; at its end what never came stays missing.
"""

import datetime as dt
import logging
import math
from collections import defaultdict
from dataclasses import dataclass, field, replace

from django.db import transaction
from django.db.models import F, Max
from django.utils import timezone

from agile_strike.capture.basis import fetched
from agile_strike.capture.models import Chunk, Recording, Wear
from agile_strike.core.analysis import Analysis, State
from agile_strike.core.errors import BadInput
from agile_strike.core.recording import Participant, UnitSignal
from agile_strike.core.recording import Recording as CoreRecording
from agile_strike.formats.chunks import checksum
from agile_strike.formats.gathered import Gathered
from agile_strike.formats.packets import decode, opening_of
from agile_strike.intake.again import anew, raw
from agile_strike.intake.queue import ask_names
from agile_strike.intake.reading import save_chunks
from agile_strike.kit.calibrations import seen, settings_of
from agile_strike.live.models import Mark, Take
from agile_strike.live.telling.queue import settle_soon
from agile_strike.live.telling.told import tell
from agile_strike.live.whose.of_set import mark_at
from agile_strike.live.whose.placing import ended, packets_of, placed
from agile_strike.live.whose.reference import OnReference, on_reference
from agile_strike.review.models import Strike
from agile_strike.trials.compare import refresh

log = logging.getLogger(__name__)

PATIENCE = dt.timedelta(minutes=10)  # with a hub that still has some of a take that ended
AGAIN_S = 4.0
LATEST_S = 60.0  # that a packet may come after its neighbours, before its samples are given up in a take that goes on
ROOM_S = 0.05  # round a strike, within the set that it belongs to
LEAST_SET = dt.timedelta(seconds=1)
FEWEST_S = 1.5  # of a take: less holds no strike


@dataclass(slots=True)
class _Come:
    """What has come since the last chunks."""

    gathered: dict[str, Gathered] = field(default_factory=dict)
    begins: dict[str, float] = field(default_factory=dict)  #: hub's clock at each unit's first sample of the take
    ways: list[tuple[float, float]] = field(default_factory=list)  #: see whose.reference
    numbers: list[tuple[int, dict[str, int]]] = field(default_factory=list)  #: packets, and how far each brings units


def settle(take_id: int) -> None:
    """Settle what there is of a take; all of it for good where it has ended. Safe to run again after a kill."""
    packed = _packed(take_id)
    if packed is None:
        return
    take, whole, news = packed
    # no lock is held while it is measured: whoever taps, and the live worker, wait for nobody
    row = fetched(Recording.objects.filter(pk=take.recording_id)).get()
    row.open = not whole  # of what is whole, strikes up to its very end are kept, and none beyond it
    found: Analysis | None = None
    if row.length_s >= FEWEST_S and (news or whole):
        try:
            found = anew(take.station.gym, row)
        except BadInput as error:  # consent was taken back, or a bag that can't be: samples stay, figures as they were
            log.warning("take %s stays as it is: %s", take.pk, error)
    with transaction.atomic():
        now = Take.objects.select_for_update(of=("self",)).select_related("recording", "stream").get(pk=take_id)
        if found is not None:
            now.state, now.settled_s = _state(found).to_json(), row.length_s
        now.last_packet = take.last_packet
        if whole:
            _close(now)
        now.save(update_fields=["state", "settled_s", "settled_at"])
        _thrown_or_not(now)
        tell(take.station.gym_id, take.station_id, "settled", take=take.pk)
    if now.settled_at is not None:
        refresh([take.session.student_id])
        ask_names(take.station.gym_id)


@transaction.atomic
def _packed(take_id: int) -> tuple[Take, bool, bool] | None:
    """The take, with all that has come of it in chunks, whether that is all, and whether it is news to the batch.

    None where it is settled.
    """
    rows = Take.objects.select_for_update(of=("self",)).select_related(
        "station__gym", "session__student", "recording__bag_version__bag", "stream"
    )
    take = rows.filter(pk=take_id, settled_at__isnull=True).first()
    if take is None:
        return None
    whole = _bounded(take)
    come = _come(take)
    before = take.packed_packet, take.recording.events
    _pack(take, come, whole)
    events = _events(take, _reference(take, come))
    Recording.objects.filter(pk=take.recording_id).update(events=events)
    take.save(update_fields=["firsts", "starts", "packed_packet", "clock", "last_packet"])
    if take.ended_at is not None and not whole:
        settle_soon(take, AGAIN_S)  # some of it is still with the hub
    news = before != (take.packed_packet, events) or not take.settled_s
    return take, whole, news


def _bounded(take: Take) -> bool:
    """Whether a take has ended and all of it is here, or has been waited for long enough."""
    known = placed(take)
    if take.ended_at is None:
        return False
    patient = timezone.now() < take.ended_at + PATIENCE
    if not known:
        return not patient or take.station.revoked_at is not None or not take.station.streams.exists()
    found = ended(take)
    if found is not None:
        take.last_packet = found.last
    return (found is not None and found.whole) or not patient


def _come(take: Take) -> _Come:
    """Packets of the take that are not in chunks yet, in the order of their numbers."""
    out = _Come()
    if take.stream is None or take.first_packet is None:
        return out
    facts = opening_of(take.stream.opening).units
    upto = _chunked(take.recording)
    rows = packets_of(take).filter(number__gte=take.packed_packet)
    for number, content in rows.order_by("number").values_list("number", "content").iterator(500):
        packet = decode(bytes(content))
        for place, part in packet.units.items():
            if place not in facts:
                continue
            if place not in take.firsts:
                take.firsts[place] = part.first
                out.begins[place] = packet.hub_s - part.count / facts[place].rate_hz / _speed(take)
            first = take.firsts[place]
            if place not in out.gathered:
                out.gathered[place] = Gathered(place, facts[place], first + upto.get(place, 0))
            out.gathered[place].put(part)
        if "bag" in packet.units and "bag" in take.firsts:
            part = packet.units["bag"]
            out.ways.append((packet.hub_s, (part.first + part.count - take.firsts["bag"]) / facts["bag"].rate_hz))
        out.numbers.append((number, {p: part.first + part.count for p, part in packet.units.items()}))
    if "bag" in out.begins:
        begins = out.begins
        take.starts |= {p: round(_speed(take) * (at - begins["bag"]), 3) for p, at in begins.items() if p != "bag"}
    return out


def _speed(take: Take) -> float:
    return float(take.stream.opening["speed"]) if take.stream else 1.0


def _chunked(row: Recording) -> dict[str, int]:
    """How many samples of each unit are in chunks."""
    ends = Chunk.objects.filter(recording=row).values("unit").annotate(upto=Max(F("first_sample") + F("samples")))
    return {r["unit"]: r["upto"] for r in ends}


def _pack(take: Take, come: _Come, ended: bool) -> None:
    row = take.recording
    units: dict[str, UnitSignal] = {}
    upto: dict[str, int] = {}
    for place, one in come.gathered.items():
        last = one.upto if ended else _whole(one)
        signal = one.signal(one.base, last, take.starts.get(place), take.firsts[place])
        upto[place] = last
        if signal is not None:
            units[place] = signal
    if units:
        recording = CoreRecording(Participant(""), "", "", "", None, units)
        save_chunks(row, recording)
        _wear(take, recording)
    for number, ends in come.numbers:
        if any(end > upto.get(place, end) for place, end in ends.items()):
            break
        take.packed_packet = number + 1
    counts = _chunked(row)
    if take.stream is not None and "bag" in counts:
        row.rate_hz = opening_of(take.stream.opening).units["bag"].rate_hz
        row.length_s = counts["bag"] / row.rate_hz
        row.save(update_fields=["rate_hz", "length_s"])


def _whole(one: Gathered) -> int:
    """How far a unit's samples go without a hole that may still be filled."""
    latest = one.upto - int(LATEST_S * one.facts.rate_hz)
    return max(one.whole_upto(), min(latest, one.upto))


def _wear(take: Take, recording: CoreRecording) -> None:
    """Units that this take had not had before."""
    known = set(take.recording.wears.values_list("placement", flat=True))
    new = {p: u for p, u in recording.units.items() if p not in known}
    if not new:
        return
    things = seen(take.station.gym, replace(recording, units=new), take.began_at)
    battery = take.stream.battery if take.stream else {}
    Wear.objects.bulk_create(
        Wear(
            recording=take.recording,
            unit=things[place],
            placement=place,
            starts_s=take.starts.get(place),
            **(settings_of(unit) | {"battery_pct": battery.get(place)}),
        )
        for place, unit in new.items()
    )


def _reference(take: Take, come: _Come) -> OnReference | None:
    """The clock by these packets, and by the quickest of those before."""
    found = on_reference(take, come.ways)
    if found is not None:
        take.clock = found.to_json()
    return found


def _events(take: Take, clock: OnReference | None) -> list[dict[str, object]]:
    """What was begun and called, on the reference clock. A set holds the strikes that fell into it, also those that
    came before the tap that began it, or landed after the one that ended it."""
    row, out = take.recording, []
    if clock is None:
        return list(row.events)
    marks = list(take.marks.filter(sounded=True))
    struck: dict[str, list[float]] = defaultdict(list)
    for at in Strike.objects.filter(recording=row).order_by("contact_s").values_list("contact_s", flat=True):
        struck[mark_at(take, marks, at)].append(at)
    for mark in marks:
        onset = clock.of(mark.at)
        until = row.length_s if mark.until is None else clock.of(mark.until)
        if mark.kind == Mark.Kind.SET and struck[mark.key]:
            onset, until = min(onset, struck[mark.key][0] - ROOM_S), max(until, struck[mark.key][-1] + ROOM_S)
        if mark.kind in (Mark.Kind.CUE, Mark.Kind.STAMPS) and mark.until is None:
            until = onset
        if until < 0.0 or onset > row.length_s:
            continue
        onset = max(0.0, onset)
        out.append(
            {
                "onset_s": round(onset, 4),
                "duration_s": round(max(0.0, min(until, row.length_s) - onset), 4),
                "type": str(mark.kind),
                "value": _value(take, mark),
            }
        )
    return out


def _thrown_or_not(take: Take) -> None:
    """A planned set in which nobody struck was not thrown: it is to come. One whose strikes came late was."""
    ended = [m for m in take.marks.select_related("planned") if m.kind == Mark.Kind.SET and m.until and m.planned]
    at = Strike.objects.filter(recording=take.recording_id).values_list("contact_s", flat=True)
    struck = {mark_at(take, ended, contact_s) for contact_s in at} if ended else set()
    for mark in ended:
        planned = mark.planned
        assert planned is not None
        assert mark.until is not None
        if mark.key not in struck and planned.began_at == mark.at:
            planned.began_at = planned.ended_at = None
        elif mark.key in struck and planned.began_at is None:
            planned.began_at, planned.ended_at = mark.at, max(mark.until, mark.at + LEAST_SET)
        else:
            continue
        planned.save(update_fields=["began_at", "ended_at"])


def _value(take: Take, mark: Mark) -> str:
    """A cue says how well its instant is known, so that what it is compared with does too."""
    if mark.kind != Mark.Kind.CUE or take.clock is None:
        return mark.value
    return f"{mark.value},doubt_ms={math.hypot(mark.doubt_ms, 1e3 * take.clock['sd_s']):.1f}"


def _state(found: Analysis) -> State:
    bag = found.state.bag
    return replace(found.state, bag=None if bag is None else replace(bag, seen=None))


def _close(take: Take) -> None:
    """The take is a recording like any other from now on; what it was made of is let go of."""
    row = take.recording
    now = dt.datetime.now(dt.UTC)
    counts = _chunked(row)
    row.open = False
    if counts:
        same = checksum(raw(row))
        if not Recording.objects.with_removed_of(row.gym).filter(checksum=same).exists():
            row.checksum = same  # else it was played before: this is an evening of its own, under the take's key
        row.save(update_fields=["open", "checksum"])
        if take.stream is not None and take.first_packet is not None and take.last_packet is not None:
            packets_of(take).delete()
    else:
        row.removed_at = now  # nothing ever came
        row.save(update_fields=["open", "removed_at"])
    take.settled_at = now
