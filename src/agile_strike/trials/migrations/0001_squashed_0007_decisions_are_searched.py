import django.contrib.postgres.fields
import django.contrib.postgres.indexes
import django.contrib.postgres.search
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [
        ("trials", "0001_trials_and_weeks"),
        ("trials", "0002_held_bag"),
        ("trials", "0003_nothing_in_silence"),
        ("trials", "0004_blocks_are_planned_sets"),
        ("trials", "0005_blocks_that_were_called"),
        ("trials", "0006_no_block_without_its_set"),
        ("trials", "0007_decisions_are_searched"),
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
            name="Trial",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("factor", models.CharField(max_length=60)),
                (
                    "levels",
                    django.contrib.postgres.fields.ArrayField(base_field=models.CharField(max_length=80), size=None),
                ),
                ("code", models.CharField(max_length=60)),
                ("height", models.CharField(blank=True, max_length=6)),
                ("measure", models.CharField(max_length=40)),
                (
                    "watch",
                    django.contrib.postgres.fields.ArrayField(
                        base_field=models.CharField(max_length=40), default=list, size=None
                    ),
                ),
                (
                    "worth_pct",
                    models.FloatField(
                        help_text="smallest change worth having, where the coach has said one", null=True
                    ),
                ),
                ("blocks_each", models.IntegerField(default=2)),
                ("strikes", models.IntegerField(default=8)),
                ("rest_s", models.FloatField(default=60.0)),
                ("evenings", models.IntegerField(default=4)),
                ("gear", models.CharField(blank=True, max_length=80)),
                ("started_on", models.DateField()),
                ("ended_on", models.DateField(null=True)),
                (
                    "version",
                    models.IntegerField(
                        default=1, help_text="of the text, so that two coaches don't overwrite each other"
                    ),
                ),
                ("removed_at", models.DateTimeField(null=True)),
                (
                    "bag",
                    models.ForeignKey(
                        help_text="held throughout",
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to="kit.bag",
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
                    "gym",
                    models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="trials", to="gym.gym"),
                ),
                ("students", models.ManyToManyField(related_name="trials", to="people.student")),
            ],
            options={
                "ordering": ["-started_on", "-id"],
            },
        ),
        migrations.CreateModel(
            name="Decision",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "what",
                    models.CharField(
                        choices=[("keep", "Keep"), ("drop", "Drop"), ("keep_testing", "Keep Testing")], max_length=12
                    ),
                ),
                ("level", models.CharField(help_text="the level that it is about", max_length=80)),
                ("reason", models.TextField()),
                ("said", models.TextField(blank=True, help_text="the sentence as it stood then")),
                ("decided_on", models.DateField()),
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
                (
                    "student",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="decisions", to="people.student"
                    ),
                ),
                (
                    "trial",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="decisions", to="trials.trial"
                    ),
                ),
            ],
            options={
                "ordering": ["-decided_on", "-id"],
            },
        ),
        migrations.CreateModel(
            name="ClaimPage",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "asked",
                    models.CharField(
                        help_text="measure, pair of levels, what it is narrowed to, worth", max_length=500
                    ),
                ),
                ("came_from", models.CharField(max_length=64)),
                ("document", models.JSONField()),
                (
                    "student",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.student"
                    ),
                ),
                (
                    "trial",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="pages", to="trials.trial"
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            name="Claim",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "asked",
                    models.CharField(
                        help_text="measure, pair of levels, what it is narrowed to, worth", max_length=500
                    ),
                ),
                ("came_from", models.CharField(max_length=64)),
                ("document", models.JSONField()),
                (
                    "student",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.student"
                    ),
                ),
                (
                    "trial",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="claims", to="trials.trial"
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            name="CalledBlock",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("place", models.IntegerField(help_text="0 is the trial's first of the evening")),
                (
                    "planned",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE, related_name="called", to="evening.plannedset"
                    ),
                ),
                (
                    "session",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="called", to="evening.session"
                    ),
                ),
                (
                    "trial",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="called", to="trials.trial"
                    ),
                ),
            ],
            options={
                "ordering": ["session__day", "place"],
            },
        ),
        migrations.AddConstraint(
            model_name="trial",
            constraint=models.CheckConstraint(
                condition=models.Q(("levels__len__gte", 2), ("levels__len__lte", 4)),
                name="trial_has_two_to_four_levels",
            ),
        ),
        migrations.AddConstraint(
            model_name="trial",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("worth_pct__isnull", True), models.Q(("worth_pct__gt", 0), ("worth_pct__lt", 100)), _connector="OR"
                ),
                name="worth_is_a_share",
            ),
        ),
        migrations.AddConstraint(
            model_name="trial",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("ended_on__isnull", True), ("ended_on__gte", models.F("started_on")), _connector="OR"
                ),
                name="trial_ends_after_it_starts",
            ),
        ),
        migrations.AddConstraint(
            model_name="trial",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("worth_pct__isnull", True),
                        models.Q(("worth_pct__gt", float("-inf")), ("worth_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("rest_s__isnull", True),
                        models.Q(("rest_s__gt", float("-inf")), ("rest_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                ),
                name="trials_trial_finite",
            ),
        ),
        migrations.AddIndex(
            model_name="decision",
            index=django.contrib.postgres.indexes.GinIndex(
                django.contrib.postgres.search.SearchVector("reason", "level", config="simple"), name="decision_words"
            ),
        ),
        migrations.AddConstraint(
            model_name="decision",
            constraint=models.CheckConstraint(
                condition=models.Q(("reason", ""), _negated=True), name="decided_for_a_reason"
            ),
        ),
        migrations.AddConstraint(
            model_name="claimpage",
            constraint=models.UniqueConstraint(
                fields=("trial", "student", "asked"), name="claim_page_once", nulls_distinct=False
            ),
        ),
        migrations.AddConstraint(
            model_name="claim",
            constraint=models.UniqueConstraint(
                fields=("trial", "student", "asked"), name="claim_once", nulls_distinct=False
            ),
        ),
        migrations.AddConstraint(
            model_name="calledblock",
            constraint=models.UniqueConstraint(fields=("trial", "session", "place"), name="block_called_once"),
        ),
    ]
