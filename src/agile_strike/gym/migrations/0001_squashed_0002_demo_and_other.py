import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [
        ("gym", "0001_initial"),
        ("gym", "0002_demo_and_other"),
    ]

    initial = True

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Gym",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=120)),
                ("time_zone", models.CharField(default="UTC", max_length=60)),
                ("demo", models.BooleanField(db_default=False, default=False, help_text="made up, to look at")),
            ],
        ),
        migrations.CreateModel(
            name="Member",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=120)),
                (
                    "role",
                    models.CharField(
                        choices=[("coach", "Coach"), ("assistant", "Assistant")], default="coach", max_length=20
                    ),
                ),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="members", to="gym.gym"
                    ),
                ),
                (
                    "other",
                    models.ForeignKey(
                        help_text="the demo gym's coach has one besides",
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to="gym.gym",
                    ),
                ),
                (
                    "user",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE, related_name="member", to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
        ),
    ]
