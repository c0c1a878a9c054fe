"""Calibrations belong to a unit, not to a place."""

from django.db import migrations
from django.db.models import F


def tell(apps, schema_editor):
    units, calibrations = apps.get_model("kit", "Unit"), apps.get_model("kit", "Calibration")
    units.objects.update(last_place=F("place"))
    for row in calibrations.objects.filter(kind="rests"):
        known = {"rate_hz": 0.0, "last_seen": row.made_at, "last_place": row.placement}
        unit, _ = units.objects.get_or_create(gym_id=row.gym_id, place=row.placement, defaults=known)
        calibrations.objects.filter(pk=row.pk).update(unit=unit)


class Migration(migrations.Migration):
    dependencies = [
        ("kit", "0006_units_are_things"),
    ]
    operations = [
        migrations.RunPython(tell, migrations.RunPython.noop),
    ]
