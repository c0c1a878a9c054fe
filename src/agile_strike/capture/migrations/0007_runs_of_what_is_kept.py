"""Every recording that is kept gets its evening, its run and its wears."""

from zoneinfo import ZoneInfo

from django.db import migrations

FOUND = ("flags", "not_measured", "clocks", "bursts", "strike_count", "body_mass_kg", "stance")
FIGURES = (
    "mount", "mass_kg", "length_m", "diameter_m", "sensor_below_top_m", "mass_sd_kg", "pivot_to_top_m", "chain_m",
    "inertia_cm_kg_m2", "com_from_top_m", "inertia_sd_kg_m2", "impulse_gain", "impulse_gain_sd",
)  # fmt: skip


def tell(apps, schema_editor):
    recordings, chunks = apps.get_model("capture", "Recording"), apps.get_model("capture", "Chunk")
    runs, wears = apps.get_model("capture", "AnalysisRun"), apps.get_model("capture", "Wear")
    sessions, units = apps.get_model("evening", "Session"), apps.get_model("kit", "Unit")
    rows = recordings.objects.select_related("gym", "bag_version").order_by("acquired_at", "pk")
    for row in rows.iterator(chunk_size=100):
        day = row.acquired_at.astimezone(ZoneInfo(row.gym.time_zone)).date()
        session, _ = sessions.objects.get_or_create(student_id=row.student_id, day=day)
        basis = row.basis or {}
        bag = basis.get("bag") or ({f: getattr(row.bag_version, f) for f in FIGURES} if row.bag_version else {})
        run = runs.objects.create(
            recording=row,
            version=basis.get("analysis") or row.analysis_version,
            bag=bag,
            calibrations=basis.get("calibrations") or {},
            bag_state=row.mounting,
            **{name: getattr(row, name) for name in FOUND},
        )
        recordings.objects.filter(pk=row.pk).update(session=session, analysis=run)
        _worn(row, chunks, wears, units)


def _worn(row, chunks, wears, units):
    first = {}
    for unit, rate, scale in chunks.objects.filter(recording=row, first_sample=0).values_list(
        "unit", "rate_hz", "full_scale"
    ):
        first[unit] = {
            "rate_hz": rate,
            "accel_full_scale_m_s2": scale.get("accel"),
            "gyro_full_scale_rad_s": scale.get("gyro"),
        }
    for place in row.units:
        told = first.get(place) or {"rate_hz": row.rate_hz}
        known = {**told, "last_seen": row.acquired_at, "last_place": place}
        unit, _ = units.objects.get_or_create(gym_id=row.gym_id, place=place, defaults=known)
        wears.objects.create(recording=row, unit=unit, placement=place, **told)


class Migration(migrations.Migration):
    dependencies = [
        ("capture", "0006_runs_and_wears"),
    ]
    operations = [
        migrations.RunPython(tell, migrations.RunPython.noop),
    ]
