from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("kit", "0008_known_by_serial_or_place")]

    operations = [
        migrations.AddField(
            model_name="bagversion",
            name="filling",
            field=models.CharField(choices=[("packed", "Packed"), ("water", "Water")], default="packed", max_length=10),
        ),
        migrations.AddConstraint(
            model_name="bagversion",
            constraint=models.CheckConstraint(
                condition=models.Q(("filling__in", ["packed", "water"])), name="filling_of_a_bag"
            ),
        ),
    ]
