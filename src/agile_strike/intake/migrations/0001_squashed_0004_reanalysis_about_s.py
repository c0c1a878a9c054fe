import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [
        ("intake", "0001_foreign_files"),
        ("intake", "0002_reanalyses"),
        ("intake", "0003_nothing_in_silence"),
        ("intake", "0004_reanalysis_about_s"),
    ]

    initial = True

    dependencies = [
        ("capture", "0001_squashed_0011_passing_parts"),
        ("gym", "0001_squashed_0002_demo_and_other"),
        ("people", "0001_squashed_0005_what_was_noted_before"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Profile",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=80)),
                ("signature", models.TextField(help_text="separator and column names")),
                ("mapping", models.JSONField()),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="profiles", to="gym.gym"
                    ),
                ),
            ],
            options={
                "ordering": ["name"],
            },
        ),
        migrations.CreateModel(
            name="ForeignFile",
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
                ("file_name", models.CharField(max_length=255)),
                ("progress", models.FloatField(default=0.0)),
                (
                    "layout",
                    models.JSONField(
                        default=dict, help_text="how the text was laid out, and what stood above the figures"
                    ),
                ),
                ("mapping", models.JSONField(default=dict)),
                ("questions", models.JSONField(default=list)),
                ("told", models.JSONField(default=list)),
                (
                    "seen",
                    models.JSONField(default=dict, help_text="first rows, signals for the eye, and what physics says"),
                ),
                (
                    "version",
                    models.IntegerField(
                        default=1, help_text="of the mapping, so that two coaches don't overwrite each other"
                    ),
                ),
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
                    "columns",
                    models.OneToOneField(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to="capture.storedfile",
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
                        on_delete=django.db.models.deletion.CASCADE, related_name="foreign_files", to="gym.gym"
                    ),
                ),
                (
                    "student",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.student"
                    ),
                ),
                (
                    "profile",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="intake.profile"
                    ),
                ),
            ],
            options={
                "ordering": ["-id"],
            },
        ),
        migrations.CreateModel(
            name="Reanalysis",
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
                ("recordings", models.JSONField(help_text="ids, in the order in which they are done")),
                ("results", models.JSONField(default=list, help_text="one of each that is done")),
                ("about_s", models.FloatField(default=0.0, help_text="how long all of them should take")),
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
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="reanalyses", to="gym.gym"
                    ),
                ),
            ],
            options={
                "ordering": ["-id"],
            },
        ),
        migrations.AddConstraint(
            model_name="profile",
            constraint=models.UniqueConstraint(fields=("gym", "name"), name="profile_name_once_a_gym"),
        ),
        migrations.AddConstraint(
            model_name="profile",
            constraint=models.CheckConstraint(
                condition=models.Q(("name", ""), _negated=True), name="profile_has_a_name"
            ),
        ),
    ]
