"""Strikes that are kept are of their recording's run."""

from django.db import migrations
from django.db.models import OuterRef, Subquery


def tell(apps, schema_editor):
    strikes, recordings = apps.get_model("review", "Strike"), apps.get_model("capture", "Recording")
    run = recordings.objects.filter(pk=OuterRef("recording_id")).values("analysis_id")[:1]
    strikes.objects.update(analysis_id=Subquery(run))


class Migration(migrations.Migration):
    dependencies = [
        ("review", "0006_strikes_of_a_run"),
    ]
    operations = [
        migrations.RunPython(tell, migrations.RunPython.noop),
    ]
