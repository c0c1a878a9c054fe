import django.contrib.postgres.fields
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [
        ("kit", "0001_initial"),
        ("kit", "0002_units_and_calibrations"),
        ("kit", "0003_unit_battery"),
        ("kit", "0004_nothing_in_silence"),
        ("kit", "0005_why_a_bag_changed"),
        ("kit", "0006_units_are_things"),
        ("kit", "0007_whose_calibrations"),
        ("kit", "0008_known_by_serial_or_place"),
        ("kit", "0009_what_a_bag_is_filled_with"),
    ]

    initial = True

    dependencies = [
        ("gym", "0001_squashed_0002_demo_and_other"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Bag",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=120)),
                ("version", models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")),
                ("removed_at", models.DateTimeField(null=True)),
                (
                    "gym",
                    models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="bags", to="gym.gym"),
                ),
            ],
            options={
                "ordering": ["name"],
            },
        ),
        migrations.CreateModel(
            name="BagVersion",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("since", models.DateTimeField()),
                (
                    "why",
                    models.CharField(
                        choices=[
                            ("changed", "it hangs otherwise from then on"),
                            ("learnt", "more is known of it: its inertia or its gain"),
                            ("corrected", "a figure was wrong: it was always so"),
                        ],
                        default="changed",
                        max_length=10,
                    ),
                ),
                (
                    "mount",
                    models.CharField(
                        choices=[
                            ("swivel", "Swivel"),
                            ("fixed", "Fixed"),
                            ("standing", "Standing"),
                            ("wall", "Wall"),
                            ("held", "Held"),
                        ],
                        max_length=10,
                    ),
                ),
                (
                    "filling",
                    models.CharField(
                        choices=[("packed", "Packed"), ("water", "Water")], default="packed", max_length=10
                    ),
                ),
                ("mass_kg", models.FloatField()),
                ("mass_sd_kg", models.FloatField(null=True)),
                ("length_m", models.FloatField()),
                ("diameter_m", models.FloatField()),
                ("sensor_below_top_m", models.FloatField()),
                ("pivot_to_top_m", models.FloatField(default=0.0)),
                ("chain_m", models.FloatField(default=0.5)),
                ("inertia_cm_kg_m2", models.FloatField(null=True)),
                ("inertia_sd_kg_m2", models.FloatField(null=True)),
                ("com_from_top_m", models.FloatField(null=True)),
                ("impulse_gain", models.FloatField(default=1.0)),
                ("impulse_gain_sd", models.FloatField(default=0.0)),
                (
                    "level_bands_m",
                    django.contrib.postgres.fields.ArrayField(base_field=models.FloatField(), null=True, size=2),
                ),
                (
                    "bag",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="versions", to="kit.bag"
                    ),
                ),
            ],
            options={
                "ordering": ["-since", "-id"],
            },
        ),
        migrations.CreateModel(
            name="Unit",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("serial", models.CharField(blank=True, max_length=60)),
                (
                    "place",
                    models.CharField(
                        blank=True, help_text="where it is worn, if that is all it is known by", max_length=40
                    ),
                ),
                ("name", models.CharField(blank=True, help_text="what the gym calls it", max_length=60)),
                ("model_text", models.CharField(blank=True, help_text="as its files say it", max_length=80)),
                ("last_place", models.CharField(blank=True, max_length=40)),
                ("rate_hz", models.FloatField()),
                ("accel_full_scale_m_s2", models.FloatField(null=True)),
                ("gyro_full_scale_rad_s", models.FloatField(null=True)),
                ("last_seen", models.DateTimeField()),
                ("battery_pct", models.FloatField(help_text="when last seen, where the unit said it", null=True)),
                (
                    "version",
                    models.IntegerField(
                        default=1, help_text="of its name, so that two coaches don't overwrite each other"
                    ),
                ),
                (
                    "gym",
                    models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="units", to="gym.gym"),
                ),
            ],
            options={
                "ordering": ["last_place", "serial", "id"],
            },
        ),
        migrations.CreateModel(
            name="Calibration",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "kind",
                    models.CharField(choices=[("rests", "Rests"), ("swing", "Swing"), ("ball", "Ball")], max_length=6),
                ),
                ("made_at", models.DateTimeField()),
                ("expires_on", models.DateField()),
                ("result", models.JSONField()),
                ("drawn", models.JSONField(default=dict, help_text="the fit, for the eye")),
                (
                    "bag",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="calibrations",
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
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="calibrations", to="gym.gym"
                    ),
                ),
                (
                    "unit",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="calibrations",
                        to="kit.unit",
                    ),
                ),
            ],
            options={
                "ordering": ["-made_at", "-id"],
            },
        ),
        migrations.AddConstraint(
            model_name="bag",
            constraint=models.UniqueConstraint(fields=("gym", "name"), name="bag_name_once_a_gym"),
        ),
        migrations.AddConstraint(
            model_name="bagversion",
            constraint=models.CheckConstraint(
                condition=models.Q(("mass_kg__gte", 1), ("mass_kg__lte", 400)), name="mass_of_a_bag"
            ),
        ),
        migrations.AddConstraint(
            model_name="bagversion",
            constraint=models.CheckConstraint(
                condition=models.Q(("filling__in", ("packed", "water"))), name="filling_of_a_bag"
            ),
        ),
        migrations.AddConstraint(
            model_name="bagversion",
            constraint=models.CheckConstraint(
                condition=models.Q(("sensor_below_top_m__lte", models.F("length_m"))), name="unit_is_on_the_bag"
            ),
        ),
        migrations.AddConstraint(
            model_name="bagversion",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("mass_kg__isnull", True),
                        models.Q(("mass_kg__gt", float("-inf")), ("mass_kg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("length_m__isnull", True),
                        models.Q(("length_m__gt", float("-inf")), ("length_m__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("diameter_m__isnull", True),
                        models.Q(("diameter_m__gt", float("-inf")), ("diameter_m__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("sensor_below_top_m__isnull", True),
                        models.Q(("sensor_below_top_m__gt", float("-inf")), ("sensor_below_top_m__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("mass_sd_kg__isnull", True),
                        models.Q(("mass_sd_kg__gt", float("-inf")), ("mass_sd_kg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pivot_to_top_m__isnull", True),
                        models.Q(("pivot_to_top_m__gt", float("-inf")), ("pivot_to_top_m__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("chain_m__isnull", True),
                        models.Q(("chain_m__gt", float("-inf")), ("chain_m__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("inertia_cm_kg_m2__isnull", True),
                        models.Q(("inertia_cm_kg_m2__gt", float("-inf")), ("inertia_cm_kg_m2__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("com_from_top_m__isnull", True),
                        models.Q(("com_from_top_m__gt", float("-inf")), ("com_from_top_m__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("inertia_sd_kg_m2__isnull", True),
                        models.Q(("inertia_sd_kg_m2__gt", float("-inf")), ("inertia_sd_kg_m2__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("impulse_gain__isnull", True),
                        models.Q(("impulse_gain__gt", float("-inf")), ("impulse_gain__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("impulse_gain_sd__isnull", True),
                        models.Q(("impulse_gain_sd__gt", float("-inf")), ("impulse_gain_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                ),
                name="kit_bagversion_finite",
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
        migrations.AddConstraint(
            model_name="unit",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("rate_hz__isnull", True),
                        models.Q(("rate_hz__gt", float("-inf")), ("rate_hz__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("accel_full_scale_m_s2__isnull", True),
                        models.Q(
                            ("accel_full_scale_m_s2__gt", float("-inf")), ("accel_full_scale_m_s2__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("gyro_full_scale_rad_s__isnull", True),
                        models.Q(
                            ("gyro_full_scale_rad_s__gt", float("-inf")), ("gyro_full_scale_rad_s__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("battery_pct__isnull", True),
                        models.Q(("battery_pct__gt", float("-inf")), ("battery_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                ),
                name="kit_unit_finite",
            ),
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
    ]
