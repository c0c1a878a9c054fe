"""Versions of bags that hang as the one before are more that was learnt, not another bag."""

from django.db import migrations

HANGS_BY = ("mount", "mass_kg", "length_m", "diameter_m", "sensor_below_top_m", "pivot_to_top_m", "chain_m")


def tell(apps, schema_editor):
    versions = apps.get_model("kit", "BagVersion")
    before = {}
    for row in versions.objects.order_by("bag_id", "since", "pk"):
        hangs = tuple(getattr(row, name) for name in HANGS_BY)
        if before.get(row.bag_id) == hangs:
            versions.objects.filter(pk=row.pk).update(why="learnt")
        before[row.bag_id] = hangs


class Migration(migrations.Migration):
    dependencies = [("kit", "0004_nothing_in_silence")]
    operations = [migrations.RunPython(tell, migrations.RunPython.noop)]
