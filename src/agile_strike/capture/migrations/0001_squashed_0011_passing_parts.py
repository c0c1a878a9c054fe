import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [
        ("capture", "0001_initial"),
        ("capture", "0002_clocks"),
        ("capture", "0003_trials_and_weeks"),
        ("capture", "0004_nothing_in_silence"),
        ("capture", "0005_same_samples_same_sum"),
        ("capture", "0006_runs_and_wears"),
        ("capture", "0007_runs_of_what_is_kept"),
        ("capture", "0008_recordings_of_an_evening"),
        ("capture", "0009_still_being_recorded"),
        ("capture", "0010_runs_know_the_filling"),
        ("capture", "0011_passing_parts"),
    ]

    initial = True

    dependencies = [
        ("evening", "0001_squashed_0006_keys_within_an_evening"),
        ("gym", "0001_squashed_0002_demo_and_other"),
        ("kit", "0001_squashed_0009_what_a_bag_is_filled_with"),
        ("people", "0001_squashed_0005_what_was_noted_before"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
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
            name="Recording",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "session_label",
                    models.CharField(blank=True, help_text="of the evening, in data sets", max_length=60),
                ),
                ("task", models.CharField(max_length=120)),
                ("run", models.CharField(blank=True, max_length=20)),
                ("acquired_at", models.DateTimeField()),
                ("length_s", models.FloatField()),
                ("rate_hz", models.FloatField()),
                ("checksum", models.CharField(max_length=64)),
                (
                    "stated",
                    models.JSONField(default=dict, help_text="of the student on that day, as the file itself said it"),
                ),
                ("events", models.JSONField(default=list)),
                ("removed_at", models.DateTimeField(null=True)),
                ("open", models.BooleanField(db_default=False, default=False, help_text="still being recorded")),
                (
                    "revision",
                    models.IntegerField(default=0, help_text="counts every change to what its strikes are or say"),
                ),
                (
                    "analysis",
                    models.OneToOneField(
                        help_text="that its strikes show now",
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to="capture.analysisrun",
                    ),
                ),
                (
                    "bag_version",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="recordings",
                        to="kit.bagversion",
                    ),
                ),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="recordings", to="gym.gym"
                    ),
                ),
                (
                    "session",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="recordings", to="evening.session"
                    ),
                ),
                (
                    "student",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="recordings", to="people.student"
                    ),
                ),
            ],
            options={
                "ordering": ["-acquired_at", "-id"],
            },
        ),
        migrations.AddField(
            model_name="analysisrun",
            name="recording",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="analyses", to="capture.recording"
            ),
        ),
        migrations.CreateModel(
            name="StoredFile",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=255)),
                ("size_bytes", models.BigIntegerField()),
                ("created_at", models.DateTimeField(auto_now_add=True)),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="stored_files", to="gym.gym"
                    ),
                ),
            ],
            options={
                "ordering": ["id"],
            },
        ),
        migrations.CreateModel(
            name="PassingPart",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("place", models.IntegerField()),
                ("content", models.BinaryField()),
                (
                    "file",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="passing_parts",
                        to="capture.storedfile",
                    ),
                ),
            ],
            options={
                "ordering": ["place"],
            },
        ),
        migrations.CreateModel(
            name="StoredPart",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("place", models.IntegerField()),
                ("content", models.BinaryField()),
                (
                    "file",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="parts", to="capture.storedfile"
                    ),
                ),
            ],
            options={
                "ordering": ["place"],
            },
        ),
        migrations.CreateModel(
            name="Upload",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "state",
                    models.CharField(
                        choices=[
                            ("queued", "Queued"),
                            ("running", "Running"),
                            ("done", "Done"),
                            ("failed", "Failed"),
                            ("cancelled", "Cancelled"),
                        ],
                        default="queued",
                        max_length=10,
                    ),
                ),
                ("message", models.TextField(default="")),
                (
                    "reference",
                    models.CharField(blank=True, help_text="under which the server's log tells more", max_length=12),
                ),
                (
                    "starts",
                    models.IntegerField(
                        default=0, help_text="how often a worker took it up: one that kills workers is ended"
                    ),
                ),
                ("cancel_asked", models.BooleanField(default=False)),
                ("created_at", models.DateTimeField(auto_now_add=True)),
                ("ended_at", models.DateTimeField(null=True)),
                (
                    "tables",
                    models.JSONField(help_text="where it comes from tables: which, and on which bag", null=True),
                ),
                ("file_name", models.CharField(max_length=255)),
                ("size_bytes", models.BigIntegerField()),
                ("stage", models.CharField(default="Waiting", max_length=120)),
                ("progress", models.FloatField(default=0.0)),
                (
                    "by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "file",
                    models.OneToOneField(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to="capture.storedfile",
                    ),
                ),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="uploads", to="gym.gym"
                    ),
                ),
                (
                    "student",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="people.student"
                    ),
                ),
            ],
            options={
                "ordering": ["-id"],
            },
        ),
        migrations.AddField(
            model_name="recording",
            name="upload",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="recordings", to="capture.upload"
            ),
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
                (
                    "starts_s",
                    models.FloatField(
                        help_text="its first sample after the bag's, by the hub that gathered both", null=True
                    ),
                ),
                (
                    "recording",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="wears", to="capture.recording"
                    ),
                ),
                (
                    "unit",
                    models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="wears", to="kit.unit"),
                ),
            ],
            options={
                "ordering": ["recording", "placement"],
            },
        ),
        migrations.CreateModel(
            name="Chunk",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("unit", models.CharField(max_length=40)),
                ("first_sample", models.BigIntegerField()),
                ("samples", models.IntegerField()),
                ("full_scale", models.JSONField(default=dict)),
                ("rate_hz", models.FloatField()),
                ("sha256", models.CharField(max_length=64)),
                ("parquet", models.BinaryField()),
                (
                    "recording",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="chunks", to="capture.recording"
                    ),
                ),
            ],
            options={
                "ordering": ["recording", "unit", "first_sample"],
                "constraints": [
                    models.UniqueConstraint(fields=("recording", "unit", "first_sample"), name="chunk_once"),
                    models.CheckConstraint(condition=models.Q(("samples__gt", 0)), name="chunk_has_samples"),
                ],
            },
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
            model_name="passingpart",
            constraint=models.UniqueConstraint(fields=("file", "place"), name="passing_part_once"),
        ),
        migrations.AddConstraint(
            model_name="storedpart",
            constraint=models.UniqueConstraint(fields=("file", "place"), name="stored_part_once"),
        ),
        migrations.AddConstraint(
            model_name="upload",
            constraint=models.CheckConstraint(
                condition=models.Q(("progress__gte", 0), ("progress__lte", 1)), name="progress_is_a_share"
            ),
        ),
        migrations.AddIndex(
            model_name="recording",
            index=models.Index(fields=["student", "acquired_at"], name="recording_of_an_evening"),
        ),
        migrations.AddConstraint(
            model_name="recording",
            constraint=models.UniqueConstraint(fields=("gym", "checksum"), name="recording_once_a_gym"),
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
                    models.Q(
                        ("starts_s__isnull", True),
                        models.Q(("starts_s__gt", float("-inf")), ("starts_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                ),
                name="capture_wear_finite",
            ),
        ),
    ]
