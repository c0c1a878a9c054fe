"""No called block without its planned set."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("trials", "0005_blocks_that_were_called"),
    ]
    operations = [
        migrations.RemoveConstraint(
            model_name="calledblock",
            name="block_called_once",
        ),
        migrations.RemoveConstraint(
            model_name="calledblock",
            name="block_ends_after_it_begins",
        ),
        migrations.RemoveField("calledblock", "began_at"),
        migrations.RemoveField("calledblock", "ended_at"),
        migrations.RemoveField("calledblock", "evening"),
        migrations.RemoveField("calledblock", "level"),
        migrations.RemoveField("calledblock", "student"),
        migrations.AlterField(
            model_name="calledblock",
            name="planned",
            field=models.OneToOneField(
                on_delete=django.db.models.deletion.CASCADE, related_name="called", to="evening.plannedset"
            ),
        ),
        migrations.AlterField(
            model_name="calledblock",
            name="session",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="called", to="evening.session"
            ),
        ),
        migrations.AlterModelOptions(
            name="calledblock",
            options={"ordering": ["session__day", "place"]},
        ),
        migrations.AlterField(
            model_name="calledblock",
            name="place",
            field=models.IntegerField(help_text="0 is the trial's first of the evening"),
        ),
        migrations.AddConstraint(
            model_name="calledblock",
            constraint=models.UniqueConstraint(fields=("trial", "session", "place"), name="block_called_once"),
        ),
    ]
