"""What is of the run is no longer of the recording, and every recording is of an evening."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("capture", "0007_runs_of_what_is_kept"),
    ]
    operations = [
        migrations.RemoveConstraint(
            model_name="recording",
            name="capture_recording_finite",
        ),
        migrations.RemoveField("recording", "analysis_version"),
        migrations.RemoveField("recording", "basis"),
        migrations.RemoveField("recording", "body_mass_kg"),
        migrations.RemoveField("recording", "bursts"),
        migrations.RemoveField("recording", "clocks"),
        migrations.RemoveField("recording", "flags"),
        migrations.RemoveField("recording", "mounting"),
        migrations.RemoveField("recording", "not_measured"),
        migrations.RemoveField("recording", "stance"),
        migrations.RemoveField("recording", "strike_count"),
        migrations.RemoveField("recording", "units"),
        migrations.AlterField(
            model_name="recording",
            name="session",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="recordings", to="evening.session"
            ),
        ),
        migrations.AddConstraint(
            model_name="recording",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("length_s__isnull", True),
                        models.Q(("length_s__gt", float("-inf")), ("length_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("rate_hz__isnull", True),
                        models.Q(("rate_hz__gt", float("-inf")), ("rate_hz__lt", float("inf"))),
                        _connector="OR",
                    ),
                ),
                name="capture_recording_finite",
            ),
        ),
    ]
