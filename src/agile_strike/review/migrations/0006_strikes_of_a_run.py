"""Every strike belongs to the run that found it; a set may be one that was planned."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("capture", "0007_runs_of_what_is_kept"),
        ("review", "0005_when_sets_ran"),
    ]
    operations = [
        migrations.AddField(
            model_name="strike",
            name="analysis",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="strikes", to="capture.analysisrun"
            ),
        ),
        migrations.AddField(
            model_name="strikeset",
            name="planned",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="thrown", to="evening.plannedset"
            ),
        ),
    ]
