import django.contrib.postgres.indexes
import django.contrib.postgres.search
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [
        ("people", "0001_initial"),
        ("people", "0002_trials_and_weeks"),
        ("people", "0003_nothing_in_silence"),
        ("people", "0004_who_left"),
        ("people", "0005_what_was_noted_before"),
    ]

    initial = True

    dependencies = [
        ("gym", "0001_squashed_0002_demo_and_other"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Student",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=120)),
                (
                    "label",
                    models.CharField(help_text="participant label in data sets: letters and digits", max_length=40),
                ),
                (
                    "stance",
                    models.CharField(choices=[("orthodox", "Orthodox"), ("southpaw", "Southpaw")], max_length=10),
                ),
                ("birth_date", models.DateField(blank=True, null=True)),
                (
                    "consent",
                    models.CharField(
                        choices=[
                            ("not_needed", "Not Needed"),
                            ("kept", "Kept"),
                            ("missing", "Missing"),
                            ("withdrawn", "Withdrawn"),
                        ],
                        default="not_needed",
                        max_length=12,
                    ),
                ),
                ("version", models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")),
                (
                    "left_on",
                    models.DateField(
                        help_text="trains here no more; all that was measured stays to be read", null=True
                    ),
                ),
                ("removed_at", models.DateTimeField(null=True)),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="students", to="gym.gym"
                    ),
                ),
            ],
            options={
                "ordering": ["name"],
            },
        ),
        migrations.CreateModel(
            name="StanceChange",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("since", models.DateField()),
                (
                    "stance",
                    models.CharField(choices=[("orthodox", "Orthodox"), ("southpaw", "Southpaw")], max_length=10),
                ),
                (
                    "student",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="stances", to="people.student"
                    ),
                ),
            ],
            options={
                "ordering": ["-since"],
            },
        ),
        migrations.CreateModel(
            name="Mark",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "kind",
                    models.CharField(
                        choices=[("injury", "Injury"), ("break", "Break"), ("other", "Other")], max_length=8
                    ),
                ),
                ("since", models.DateField()),
                ("until", models.DateField(blank=True, null=True)),
                ("text", models.CharField(max_length=200)),
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
                    "student",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="marks", to="people.student"
                    ),
                ),
            ],
            options={
                "ordering": ["since", "id"],
            },
        ),
        migrations.CreateModel(
            name="Earlier",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "of",
                    models.CharField(
                        choices=[("evening", "Evening"), ("mark", "Mark"), ("note", "Note")], max_length=8
                    ),
                ),
                ("key", models.BigIntegerField(help_text="of the row that was written over")),
                ("said", models.TextField(blank=True, help_text="as it stood; nothing: it was not noted before")),
                ("at", models.DateTimeField(auto_now_add=True)),
                (
                    "by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                ("gym", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="gym.gym")),
                (
                    "student",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.student"
                    ),
                ),
            ],
            options={
                "ordering": ["-id"],
            },
        ),
        migrations.CreateModel(
            name="BodyMass",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("measured_on", models.DateField()),
                ("mass_kg", models.FloatField()),
                (
                    "student",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="masses", to="people.student"
                    ),
                ),
            ],
            options={
                "ordering": ["measured_on"],
            },
        ),
        migrations.AddConstraint(
            model_name="student",
            constraint=models.UniqueConstraint(fields=("gym", "label"), name="student_label_once_a_gym"),
        ),
        migrations.AddConstraint(
            model_name="student",
            constraint=models.CheckConstraint(
                condition=models.Q(("label__regex", "^[A-Za-z0-9]+$")), name="student_label_is_a_label"
            ),
        ),
        migrations.AddConstraint(
            model_name="student",
            constraint=models.CheckConstraint(
                condition=models.Q(("name", ""), _negated=True), name="student_has_a_name"
            ),
        ),
        migrations.AddConstraint(
            model_name="stancechange",
            constraint=models.UniqueConstraint(fields=("student", "since"), name="one_stance_a_day"),
        ),
        migrations.AddIndex(
            model_name="mark",
            index=django.contrib.postgres.indexes.GinIndex(
                django.contrib.postgres.search.SearchVector("text", config="simple"), name="mark_words"
            ),
        ),
        migrations.AddConstraint(
            model_name="mark",
            constraint=models.CheckConstraint(
                condition=models.Q(("until__isnull", True), ("until__gte", models.F("since")), _connector="OR"),
                name="mark_runs_forward",
            ),
        ),
        migrations.AddConstraint(
            model_name="mark",
            constraint=models.CheckConstraint(
                condition=models.Q(("text", ""), _negated=True), name="mark_says_something"
            ),
        ),
        migrations.AddIndex(
            model_name="earlier",
            index=models.Index(fields=["of", "key"], name="earlier_of_key"),
        ),
        migrations.AddConstraint(
            model_name="bodymass",
            constraint=models.UniqueConstraint(fields=("student", "measured_on"), name="one_mass_a_day"),
        ),
        migrations.AddConstraint(
            model_name="bodymass",
            constraint=models.CheckConstraint(
                condition=models.Q(("mass_kg__gte", 15), ("mass_kg__lte", 300)), name="mass_of_a_person"
            ),
        ),
        migrations.AddConstraint(
            model_name="bodymass",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("mass_kg__isnull", True),
                    models.Q(("mass_kg__gt", float("-inf")), ("mass_kg__lt", float("inf"))),
                    _connector="OR",
                ),
                name="people_bodymass_finite",
            ),
        ),
    ]
