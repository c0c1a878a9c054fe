"""Units are things: until a file names their serial they are known by their place."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("kit", "0005_why_a_bag_changed"),
    ]
    operations = [
        migrations.RemoveConstraint(
            model_name="calibration",
            name="calibrates_a_unit_or_a_bag",
        ),
        migrations.RemoveConstraint(
            model_name="unit",
            name="unit_once_a_place",
        ),
        migrations.RenameField("unit", "placement", "place"),
        migrations.AddField(
            model_name="calibration",
            name="unit",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="calibrations", to="kit.unit"
            ),
        ),
        migrations.AddField(
            model_name="unit",
            name="last_place",
            field=models.CharField(blank=True, max_length=40),
        ),
        migrations.AddField(
            model_name="unit",
            name="model_text",
            field=models.CharField(blank=True, help_text="as its files say it", max_length=80),
        ),
        migrations.AddField(
            model_name="unit",
            name="name",
            field=models.CharField(blank=True, help_text="what the gym calls it", max_length=60),
        ),
        migrations.AddField(
            model_name="unit",
            name="serial",
            field=models.CharField(blank=True, max_length=60),
        ),
        migrations.AddField(
            model_name="unit",
            name="version",
            field=models.IntegerField(
                default=1, help_text="of its name, so that two coaches don't overwrite each other"
            ),
        ),
        migrations.AlterField(
            "unit",
            "place",
            models.CharField(blank=True, help_text="where it is worn, if that is all it is known by", max_length=40),
        ),
        migrations.AlterModelOptions(
            name="unit",
            options={"ordering": ["last_place", "serial", "id"]},
        ),
    ]
