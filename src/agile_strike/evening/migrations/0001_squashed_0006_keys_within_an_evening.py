import django.contrib.postgres.indexes
import django.contrib.postgres.search
import django.db.models.deletion
from django.db import migrations, models

import agile_strike.evening.models


class Migration(migrations.Migration):
    replaces = [
        ("evening", "0001_initial"),
        ("evening", "0002_who_came"),
        ("evening", "0003_volumes"),
        ("evening", "0004_looked_and_drilled"),
        ("evening", "0005_words_of_evenings"),
        ("evening", "0006_keys_within_an_evening"),
    ]

    initial = True

    dependencies = [
        ("people", "0001_squashed_0005_what_was_noted_before"),
        ("playbook", "0001_squashed_0006_written"),
    ]

    operations = [
        migrations.CreateModel(
            name="Session",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("day", models.DateField()),
                ("gear", models.CharField(blank=True, max_length=80)),
                (
                    "soreness",
                    models.CharField(blank=True, help_text="sore where, in the student's words", max_length=300),
                ),
                ("notes", models.TextField(blank=True)),
                ("here", models.BooleanField(db_default=True, default=True, help_text="the student came")),
                ("version", models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")),
                (
                    "student",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="sessions", to="people.student"
                    ),
                ),
            ],
            options={
                "ordering": ["-day", "-id"],
            },
        ),
        migrations.CreateModel(
            name="PlannedSet",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("key", models.CharField(default=agile_strike.evening.models.new_key, max_length=20)),
                ("place", models.IntegerField(help_text="0 is the evening's first")),
                ("code", models.CharField(max_length=60)),
                ("limb", models.CharField(blank=True, max_length=12)),
                ("level", models.CharField(blank=True, max_length=6)),
                ("levels", models.JSONField(default=dict, help_text="factor to level")),
                ("strikes", models.IntegerField(help_text="how many, where that was said", null=True)),
                ("gear", models.CharField(blank=True, help_text="where it is not the evening's", max_length=80)),
                ("began_at", models.DateTimeField(null=True)),
                ("ended_at", models.DateTimeField(null=True)),
                (
                    "school",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="playbook.school"
                    ),
                ),
                (
                    "session",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="planned", to="evening.session"
                    ),
                ),
            ],
            options={
                "ordering": ["session", "place"],
            },
        ),
        migrations.CreateModel(
            name="Looked",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("point", models.CharField(help_text="key of the playbook's point", max_length=80)),
                ("name", models.CharField(help_text="what it was called then", max_length=80)),
                ("good", models.BooleanField()),
                (
                    "session",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="looked", to="evening.session"
                    ),
                ),
            ],
            options={
                "ordering": ["session", "id"],
            },
        ),
        migrations.CreateModel(
            name="Drilled",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("drill", models.CharField(help_text="key of the playbook's drill", max_length=80)),
                ("name", models.CharField(help_text="what it was called then", max_length=80)),
                (
                    "session",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="drilled", to="evening.session"
                    ),
                ),
            ],
            options={
                "ordering": ["session", "id"],
            },
        ),
        migrations.CreateModel(
            name="Volume",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("family", models.CharField(help_text="a strike code without its side, as round", max_length=50)),
                ("total", models.IntegerField()),
                ("size", models.IntegerField(help_text="strikes of a set")),
                (
                    "session",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="volumes", to="evening.session"
                    ),
                ),
            ],
            options={
                "ordering": ["session", "id"],
            },
        ),
        migrations.AddIndex(
            model_name="session",
            index=django.contrib.postgres.indexes.GinIndex(
                django.contrib.postgres.search.SearchVector("gear", "soreness", "notes", config="simple"),
                name="evening_words",
            ),
        ),
        migrations.AddIndex(
            model_name="session",
            index=models.Index(fields=["-day"], name="evenings_by_day"),
        ),
        migrations.AddConstraint(
            model_name="session",
            constraint=models.UniqueConstraint(fields=("student", "day"), name="one_evening_a_day"),
        ),
        migrations.AddConstraint(
            model_name="plannedset",
            constraint=models.UniqueConstraint(fields=("session", "key"), name="planned_set_key_once"),
        ),
        migrations.AddConstraint(
            model_name="plannedset",
            constraint=models.CheckConstraint(
                condition=models.Q(("code", ""), _negated=True), name="planned_set_has_a_code"
            ),
        ),
        migrations.AddConstraint(
            model_name="plannedset",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("ended_at__isnull", True),
                    models.Q(("began_at__isnull", False), ("ended_at__gt", models.F("began_at"))),
                    _connector="OR",
                ),
                name="planned_set_ends_after_it_begins",
            ),
        ),
        migrations.AddConstraint(
            model_name="plannedset",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("strikes__isnull", True), models.Q(("strikes__gte", 1), ("strikes__lte", 1000)), _connector="OR"
                ),
                name="planned_strikes_count",
            ),
        ),
        migrations.AddConstraint(
            model_name="looked",
            constraint=models.UniqueConstraint(fields=("session", "point"), name="point_once_an_evening"),
        ),
        migrations.AddConstraint(
            model_name="drilled",
            constraint=models.UniqueConstraint(fields=("session", "drill"), name="drill_once_an_evening"),
        ),
        migrations.AddConstraint(
            model_name="volume",
            constraint=models.UniqueConstraint(fields=("session", "family"), name="one_volume_a_family"),
        ),
        migrations.AddConstraint(
            model_name="volume",
            constraint=models.CheckConstraint(
                condition=models.Q(("size__gte", 1), ("total__gte", 1)), name="volume_counts_up"
            ),
        ),
    ]
