import django.contrib.postgres.fields
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [
        ("playbook", "0001_schools"),
        ("playbook", "0002_nothing_in_silence"),
        ("playbook", "0003_call_words"),
        ("playbook", "0004_own_strikes"),
        ("playbook", "0005_entries"),
        ("playbook", "0006_written"),
    ]

    initial = True

    dependencies = [
        ("gym", "0001_squashed_0002_demo_and_other"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="School",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=60)),
                ("belief", models.TextField(blank=True)),
                (
                    "objects_to",
                    django.contrib.postgres.fields.ArrayField(
                        base_field=models.CharField(max_length=40), default=list, size=None
                    ),
                ),
                ("version", models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")),
                ("removed_at", models.DateTimeField(null=True)),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="schools", to="gym.gym"
                    ),
                ),
            ],
            options={
                "ordering": ["id"],
            },
        ),
        migrations.CreateModel(
            name="Check",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=80)),
                ("measure", models.CharField(max_length=40)),
                ("low", models.FloatField(null=True)),
                ("high", models.FloatField(null=True)),
                (
                    "strikes",
                    django.contrib.postgres.fields.ArrayField(
                        base_field=models.CharField(max_length=40), default=list, size=None
                    ),
                ),
                (
                    "school",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="checks", to="playbook.school"
                    ),
                ),
            ],
            options={
                "ordering": ["id"],
            },
        ),
        migrations.CreateModel(
            name="Written",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("version", models.IntegerField()),
                (
                    "content",
                    models.JSONField(
                        help_text="of a school as it is sent to be saved; of the calls word and strike, in their order"
                    ),
                ),
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
                    "school",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="written",
                        to="playbook.school",
                    ),
                ),
            ],
            options={
                "ordering": ["-version"],
            },
        ),
        migrations.CreateModel(
            name="CallWord",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("word", models.CharField(max_length=12)),
                ("code", models.CharField(max_length=40)),
                ("place", models.IntegerField()),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="call_words", to="gym.gym"
                    ),
                ),
            ],
            options={
                "ordering": ["place", "id"],
                "constraints": [
                    models.UniqueConstraint(fields=("gym", "word"), name="call_word_once_a_gym"),
                    models.CheckConstraint(
                        condition=models.Q(
                            models.Q(("word", ""), _negated=True), models.Q(("code", ""), _negated=True)
                        ),
                        name="call_word_means_a_strike",
                    ),
                ],
            },
        ),
        migrations.CreateModel(
            name="Entry",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(help_text="of playbook.contents.SHIPPED", max_length=10)),
                ("key", models.CharField(max_length=80)),
                ("version", models.IntegerField()),
                ("state", models.CharField(choices=[("own", "Own"), ("ours", "Ours"), ("off", "Off")], max_length=4)),
                ("content", models.JSONField(help_text="as its kind has it; none: as it ships", null=True)),
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
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="playbook", to="gym.gym"
                    ),
                ),
            ],
            options={
                "ordering": ["kind", "key", "version"],
                "constraints": [
                    models.UniqueConstraint(fields=("gym", "kind", "key", "version"), name="playbook_version_once"),
                    models.CheckConstraint(
                        condition=models.Q(("version__gte", 1), models.Q(("key", ""), _negated=True)),
                        name="playbook_version_has_a_key",
                    ),
                    models.CheckConstraint(
                        condition=models.Q(
                            models.Q(("content__isnull", True), ("state", "ours")),
                            models.Q(("content__isnull", False), ("state__in", ["own", "off"])),
                            _connector="OR",
                        ),
                        name="playbook_own_has_content",
                    ),
                ],
            },
        ),
        migrations.CreateModel(
            name="GymStrike",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("code", models.CharField(max_length=60)),
                ("name", models.CharField(max_length=60)),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="own_strikes", to="gym.gym"
                    ),
                ),
            ],
            options={
                "ordering": ["name", "id"],
                "constraints": [
                    models.UniqueConstraint(fields=("gym", "code"), name="own_strike_once_a_gym"),
                    models.CheckConstraint(
                        condition=models.Q(
                            models.Q(("code", ""), _negated=True), models.Q(("name", ""), _negated=True)
                        ),
                        name="own_strike_has_a_name",
                    ),
                ],
            },
        ),
        migrations.AddConstraint(
            model_name="school",
            constraint=models.UniqueConstraint(fields=("gym", "name"), name="school_name_once_a_gym"),
        ),
        migrations.AddConstraint(
            model_name="school",
            constraint=models.CheckConstraint(
                condition=models.Q(("name", ""), _negated=True), name="school_has_a_name"
            ),
        ),
        migrations.AddConstraint(
            model_name="check",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("low__isnull", True), ("high__isnull", True), ("low__lt", models.F("high")), _connector="OR"
                ),
                name="range_runs_upward",
            ),
        ),
        migrations.AddConstraint(
            model_name="check",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("low__isnull", True),
                        models.Q(("low__gt", float("-inf")), ("low__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("high__isnull", True),
                        models.Q(("high__gt", float("-inf")), ("high__lt", float("inf"))),
                        _connector="OR",
                    ),
                ),
                name="playbook_check_finite",
            ),
        ),
        migrations.AddConstraint(
            model_name="written",
            constraint=models.UniqueConstraint(fields=("school", "version"), name="school_written_once"),
        ),
        migrations.AddConstraint(
            model_name="written",
            constraint=models.UniqueConstraint(
                condition=models.Q(("school__isnull", True)), fields=("gym", "version"), name="calls_written_once"
            ),
        ),
    ]
