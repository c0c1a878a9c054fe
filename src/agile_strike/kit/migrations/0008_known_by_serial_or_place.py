"""What a unit and a calibration must be."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("kit", "0007_whose_calibrations"),
    ]
    operations = [
        migrations.RemoveField(
            model_name="calibration",
            name="placement",
        ),
        migrations.AddConstraint(
            model_name="calibration",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(("bag__isnull", True), ("kind", "rests"), ("unit__isnull", False)),
                    models.Q(("bag__isnull", False), ("kind__in", ["swing", "ball"]), ("unit__isnull", True)),
                    _connector="OR",
                ),
                name="calibrates_a_unit_or_a_bag",
            ),
        ),
        migrations.AddConstraint(
            model_name="unit",
            constraint=models.UniqueConstraint(
                condition=models.Q(("serial", ""), _negated=True), fields=("gym", "serial"), name="serial_once_a_gym"
            ),
        ),
        migrations.AddConstraint(
            model_name="unit",
            constraint=models.UniqueConstraint(
                condition=models.Q(("place", ""), _negated=True),
                fields=("gym", "place"),
                name="one_nameless_unit_a_place",
            ),
        ),
        migrations.AddConstraint(
            model_name="unit",
            constraint=models.CheckConstraint(
                condition=models.Q(("serial", ""), ("place", ""), _connector="XOR"),
                name="unit_known_by_serial_or_place",
            ),
        ),
    ]
