import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("gym", "0002_demo_and_other"),
        ("playbook", "0005_entries"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
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
                (
                    "gym",
                    models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="gym.gym"),
                ),
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
                "constraints": [
                    models.UniqueConstraint(fields=("school", "version"), name="school_written_once"),
                    models.UniqueConstraint(
                        condition=models.Q(("school__isnull", True)),
                        fields=("gym", "version"),
                        name="calls_written_once",
                    ),
                ],
            },
        ),
    ]
