"""No strike without the run that found it."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("review", "0007_runs_of_kept_strikes"),
    ]
    operations = [
        migrations.AlterField(
            model_name="strike",
            name="analysis",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="strikes", to="capture.analysisrun"
            ),
        ),
        migrations.RemoveField("strike", "analysis_version"),
    ]
