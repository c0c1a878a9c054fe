"""A block is a planned set of an evening; a claim's page is kept apart from the claim."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("trials", "0003_nothing_in_silence"),
        ("evening", "0001_initial"),
        ("people", "0003_nothing_in_silence"),
    ]
    operations = [
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
            ],
        ),
        migrations.AddField(
            model_name="claimpage",
            name="student",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.student"
            ),
        ),
        migrations.AddField(
            model_name="claimpage",
            name="trial",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="pages", to="trials.trial"
            ),
        ),
        migrations.AddConstraint(
            model_name="claimpage",
            constraint=models.UniqueConstraint(
                fields=("trial", "student", "asked"), name="claim_page_once", nulls_distinct=False
            ),
        ),
        migrations.AddField(
            model_name="calledblock",
            name="planned",
            field=models.OneToOneField(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="called", to="evening.plannedset"
            ),
        ),
        migrations.AddField(
            model_name="calledblock",
            name="session",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="called", to="evening.session"
            ),
        ),
    ]
