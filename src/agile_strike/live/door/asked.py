"""What a station's hub is told: what is being done at its bag. A real hub may show it; a simulated student does it."""

from typing import Any

from agile_strike.core.sets.calls import CALLED, cue_parts
from agile_strike.kit.models import FIELDS
from agile_strike.live.models import Mark, Station, Stream, Take

CALLS = 200


def asked_of(station_id: int, stream_id: int) -> dict[str, Any]:
    station = Station.objects.filter(pk=station_id).select_related("bag").first()
    if station is None or station.revoked_at is not None:
        return {"revoked": True}
    said: dict[str, Any] = {"student": None, "set": None, "calls": [], "bag": _bag(station)}
    rows = Take.objects.filter(station=station, ended_at__isnull=True)
    take = rows.select_related("session__student", "recording__analysis").first()
    if take is None:
        return said
    marks = take.marks.select_related("planned")
    running = marks.filter(kind=Mark.Kind.SET, until__isnull=True).first()
    planned = running.planned if running else None
    run, student = take.recording.analysis, take.session.student
    mass = run.body_mass_kg if run else None
    said["student"] = {"label": student.label, "stance": student.stance, "mass_kg": mass}
    said["stamps"] = take.stamped_at.timestamp() if take.stamped_at else None
    if running is not None and planned is not None:
        called = planned.code == CALLED
        said["set"] = {"key": running.key, "code": planned.code, "limb": planned.limb, "level": planned.level,
                       "strikes": planned.strikes, "called": called}  # fmt: skip
    stream = Stream.objects.filter(pk=stream_id).first()
    if stream is not None and stream.clock is not None:
        offset, speed = stream.clock[0], stream.opening["speed"]
        for cue in marks.filter(kind=Mark.Kind.CUE).order_by("at")[:CALLS]:
            codes, limbs, level = cue_parts(cue.value)
            at = (cue.at.timestamp() - offset) * speed
            for k, (code, limb) in enumerate(zip(codes, limbs, strict=True)):
                said["calls"].append({"key": f"{cue.key}-{k}", "code": code, "limb": limb, "level": level, "at": at})
    return said


def _bag(station: Station) -> dict[str, Any] | None:
    """What hangs there, as a simulated student must know it."""
    version = station.bag.versions.first()
    return None if version is None else {f: getattr(version, f) for f in FIELDS}
