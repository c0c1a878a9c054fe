"""What an analysis found hangs on its run, where a unit was on its wear, a recording on its evening."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("capture", "0005_same_samples_same_sum"),
        ("evening", "0001_initial"),
        ("kit", "0008_known_by_serial_or_place"),
    ]
    operations = [
        migrations.CreateModel(
            name="AnalysisRun",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("version", models.CharField(max_length=20)),
                (
                    "bag",
                    models.JSONField(
                        default=dict, help_text="its figures, with what was learnt of it; empty without a bag"
                    ),
                ),
                ("calibrations", models.JSONField(default=dict, help_text="of units from six positions, by placement")),
                ("body_mass_kg", models.FloatField(null=True)),
                (
                    "stance",
                    models.CharField(
                        blank=True, choices=[("orthodox", "Orthodox"), ("southpaw", "Southpaw")], max_length=10
                    ),
                ),
                ("made_at", models.DateTimeField(auto_now_add=True)),
                ("took_s", models.FloatField(null=True)),
                ("flags", models.JSONField(default=list)),
                ("not_measured", models.JSONField(default=list)),
                ("clocks", models.JSONField(default=list)),
                ("bursts", models.JSONField(default=list)),
                ("bag_state", models.JSONField(help_text="how the unit sat on the bag: see core.bag.state", null=True)),
                ("strike_count", models.IntegerField(default=0)),
                (
                    "asked_by",
                    models.CharField(blank=True, help_text="what was known when `late` was asked last", max_length=64),
                ),
                ("late", models.BooleanField(default=False, help_text="more was known then than it rests on")),
            ],
            options={
                "ordering": ["-made_at", "-id"],
            },
        ),
        migrations.CreateModel(
            name="Wear",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("placement", models.CharField(max_length=40)),
                ("rate_hz", models.FloatField()),
                ("accel_full_scale_m_s2", models.FloatField(null=True)),
                ("gyro_full_scale_rad_s", models.FloatField(null=True)),
                ("battery_pct", models.FloatField(help_text="at its start, where the unit said it", null=True)),
            ],
            options={
                "ordering": ["recording", "placement"],
            },
        ),
        migrations.RenameField("recording", "session", "session_label"),
        migrations.AlterField(
            "recording",
            "session_label",
            models.CharField(blank=True, help_text="of the evening, in data sets", max_length=60),
        ),
        migrations.AddField(
            model_name="recording",
            name="session",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="recordings", to="evening.session"
            ),
        ),
        migrations.AddField(
            model_name="analysisrun",
            name="recording",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="analyses", to="capture.recording"
            ),
        ),
        migrations.AddField(
            model_name="recording",
            name="analysis",
            field=models.OneToOneField(
                help_text="that its strikes show now",
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="+",
                to="capture.analysisrun",
            ),
        ),
        migrations.AddField(
            model_name="wear",
            name="recording",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="wears", to="capture.recording"
            ),
        ),
        migrations.AddField(
            model_name="wear",
            name="unit",
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="wears", to="kit.unit"),
        ),
        migrations.AddConstraint(
            model_name="analysisrun",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("body_mass_kg__isnull", True),
                        models.Q(("body_mass_kg__gt", float("-inf")), ("body_mass_kg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("took_s__isnull", True),
                        models.Q(("took_s__gt", float("-inf")), ("took_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                ),
                name="capture_analysisrun_finite",
            ),
        ),
        migrations.AddConstraint(
            model_name="wear",
            constraint=models.UniqueConstraint(fields=("recording", "placement"), name="one_unit_a_place"),
        ),
        migrations.AddConstraint(
            model_name="wear",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("rate_hz__isnull", True),
                        models.Q(("rate_hz__gt", float("-inf")), ("rate_hz__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("accel_full_scale_m_s2__isnull", True),
                        models.Q(
                            ("accel_full_scale_m_s2__gt", float("-inf")), ("accel_full_scale_m_s2__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("gyro_full_scale_rad_s__isnull", True),
                        models.Q(
                            ("gyro_full_scale_rad_s__gt", float("-inf")), ("gyro_full_scale_rad_s__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("battery_pct__isnull", True),
                        models.Q(("battery_pct__gt", float("-inf")), ("battery_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                ),
                name="capture_wear_finite",
            ),
        ),
    ]
