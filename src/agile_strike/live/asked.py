"""What a station's hub is told: what is being done at its bag. A real hub may show it; a simulated student does it."""

from typing import Any

from agile_strike.live.models import Mark, Station, Stream, Take

CALLS = 40  # the latest


def asked_of(station_id: int, stream_id: int) -> dict[str, Any]:
    station = Station.objects.filter(pk=station_id).first()
    if station is None or station.revoked_at is not None:
        return {"revoked": True}
    take = Take.objects.filter(station=station, ended_at__isnull=True).select_related("session__student").first()
    if take is None:
        return {"student": None, "set": None, "calls": []}
    marks = take.marks.select_related("planned")
    running = marks.filter(kind=Mark.Kind.SET, until__isnull=True).first()
    planned = running.planned if running else None
    said: dict[str, Any] = {
        "student": take.session.student.label,
        "stamps": take.stamped_at.timestamp() if take.stamped_at else None,
        "set": None,
        "calls": [],
    }
    if running is not None and planned is not None:
        called = planned.code == "called"
        said["set"] = {"key": running.key, "code": planned.code, "limb": planned.limb, "level": planned.level,
                       "strikes": planned.strikes, "called": called}  # fmt: skip
    stream = Stream.objects.filter(pk=stream_id).first()
    if stream is not None and stream.clock is not None:
        offset, speed = stream.clock[0], stream.opening["speed"]
        for cue in marks.filter(kind=Mark.Kind.CUE).order_by("-at")[:CALLS]:
            code, _, rest = cue.value.partition(";")
            limb, _, level = rest.partition(";")
            at = (cue.at.timestamp() - offset) * speed
            said["calls"].append({"key": cue.key, "code": code, "limb": limb, "level": level, "at": at})
    return said
