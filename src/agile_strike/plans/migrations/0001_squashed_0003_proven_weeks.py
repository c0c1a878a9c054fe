import django.db.models.deletion
import django.db.models.expressions
from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [
        ("plans", "0001_initial"),
        ("plans", "0002_unseen_strikes"),
        ("plans", "0003_proven_weeks"),
    ]

    initial = True

    dependencies = [
        ("people", "0001_squashed_0005_what_was_noted_before"),
    ]

    operations = [
        migrations.CreateModel(
            name="Week",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("monday", models.DateField()),
                ("wishes", models.JSONField(default=list, help_text="as core.plan.wishes.Wish, the first weighs most")),
                ("free", models.JSONField(default=dict, help_text="day of the week, 0 to 6 -> minutes")),
                (
                    "bent",
                    models.JSONField(
                        default=dict, help_text="place of a wish -> what it had to bend to, as it was proposed"
                    ),
                ),
                ("easy", models.BooleanField(default=False)),
                (
                    "proven",
                    models.BooleanField(
                        default=True, help_text="no better week exists; else the solver's time was over"
                    ),
                ),
                (
                    "unseen_hands",
                    models.IntegerField(
                        help_text="thrown without units, as the coach says; none: not asked", null=True
                    ),
                ),
                ("unseen_kicks", models.IntegerField(null=True)),
                ("version", models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")),
                (
                    "student",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="planned_weeks", to="people.student"
                    ),
                ),
            ],
            options={
                "ordering": ["monday"],
            },
        ),
        migrations.CreateModel(
            name="Part",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("day", models.IntegerField()),
                ("place", models.IntegerField()),
                ("kind", models.CharField(max_length=8)),
                ("name", models.CharField(max_length=160)),
                ("key", models.CharField(blank=True, max_length=80)),
                ("minutes", models.FloatField(default=0.0)),
                ("strikes", models.IntegerField(default=0)),
                ("left", models.IntegerField(default=0)),
                ("right", models.IntegerField(default=0)),
                (
                    "week",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="parts", to="plans.week"
                    ),
                ),
            ],
            options={
                "ordering": ["day", "place", "id"],
            },
        ),
        migrations.AddConstraint(
            model_name="week",
            constraint=models.UniqueConstraint(fields=("student", "monday"), name="one_plan_a_week"),
        ),
        migrations.AddConstraint(
            model_name="week",
            constraint=models.CheckConstraint(
                condition=models.Q(("monday__iso_week_day", 1)), name="week_begins_on_a_monday"
            ),
        ),
        migrations.AddConstraint(
            model_name="week",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("unseen_hands__isnull", True),
                        models.Q(("unseen_hands__gte", 0), ("unseen_hands__lte", 5000)),
                        _connector="OR",
                    ),
                    models.Q(
                        ("unseen_kicks__isnull", True),
                        models.Q(("unseen_kicks__gte", 0), ("unseen_kicks__lte", 5000)),
                        _connector="OR",
                    ),
                ),
                name="unseen_strikes_are_a_count",
            ),
        ),
        migrations.AddConstraint(
            model_name="part",
            constraint=models.CheckConstraint(
                condition=models.Q(("day__gte", 0), ("day__lte", 6)), name="part_is_on_a_day_of_the_week"
            ),
        ),
        migrations.AddConstraint(
            model_name="part",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(("left", 0), ("right", 0)),
                    (
                        "strikes",
                        django.db.models.expressions.CombinedExpression(models.F("left"), "+", models.F("right")),
                    ),
                    _connector="OR",
                ),
                name="part_sides_are_its_strikes",
            ),
        ),
        migrations.AddConstraint(
            model_name="part",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("minutes__isnull", True),
                    models.Q(("minutes__gt", float("-inf")), ("minutes__lt", float("inf"))),
                    _connector="OR",
                ),
                name="plans_part_finite",
            ),
        ),
    ]
