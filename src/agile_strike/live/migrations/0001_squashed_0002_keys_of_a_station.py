import django.db.models.deletion
from django.db import migrations, models

import agile_strike.live.models


class Migration(migrations.Migration):
    replaces = [
        ("live", "0001_stations_takes_and_marks"),
        ("live", "0002_keys_of_a_station"),
    ]

    initial = True

    dependencies = [
        ("capture", "0001_squashed_0011_passing_parts"),
        ("evening", "0001_squashed_0006_keys_within_an_evening"),
        ("gym", "0001_squashed_0002_demo_and_other"),
        ("kit", "0001_squashed_0009_what_a_bag_is_filled_with"),
    ]

    operations = [
        migrations.CreateModel(
            name="Station",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=60)),
                ("token_hash", models.CharField(max_length=64, unique=True)),
                ("made_at", models.DateTimeField(auto_now_add=True)),
                ("revoked_at", models.DateTimeField(null=True)),
                (
                    "simulated_until",
                    models.DateTimeField(help_text="until then a simulated student stands there", null=True),
                ),
                (
                    "simulated_token",
                    models.CharField(blank=True, help_text="of a simulated hub, which runs here", max_length=80),
                ),
                ("simulated_speed", models.FloatField(default=1.0)),
                (
                    "bag",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="stations", to="kit.bag"
                    ),
                ),
                (
                    "gym",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="stations", to="gym.gym"
                    ),
                ),
            ],
            options={
                "ordering": ["name", "id"],
            },
        ),
        migrations.CreateModel(
            name="Stream",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("key", models.CharField(max_length=40)),
                ("opening", models.JSONField(help_text="its units and its speed, as the hub said them")),
                ("began_at", models.DateTimeField(auto_now_add=True)),
                (
                    "clock",
                    models.JSONField(help_text="the server's clock minus the hub's, and its doubt, seconds", null=True),
                ),
                ("battery", models.JSONField(default=dict, help_text="per cent, by placement")),
                (
                    "station",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="streams", to="live.station"
                    ),
                ),
            ],
            options={
                "ordering": ["-id"],
            },
        ),
        migrations.CreateModel(
            name="Packet",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.BigIntegerField()),
                ("content", models.BinaryField()),
                ("received_at", models.DateTimeField(help_text="by the server's clock, before it was committed")),
                (
                    "stream",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="packets", to="live.stream"
                    ),
                ),
            ],
            options={
                "ordering": ["stream", "number"],
            },
        ),
        migrations.CreateModel(
            name="Take",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("key", models.CharField(default=agile_strike.live.models.new_key, max_length=20)),
                ("began_at", models.DateTimeField()),
                ("ended_at", models.DateTimeField(null=True)),
                ("first_packet", models.BigIntegerField(null=True)),
                ("last_packet", models.BigIntegerField(null=True)),
                (
                    "firsts",
                    models.JSONField(default=dict, help_text="number of each unit's first sample, by placement"),
                ),
                (
                    "starts",
                    models.JSONField(
                        default=dict, help_text="each unit's first sample after the bag's, seconds, by the hub"
                    ),
                ),
                (
                    "clock",
                    models.JSONField(
                        help_text="the reference clock against the server's: see live.reference", null=True
                    ),
                ),
                (
                    "packed_packet",
                    models.BigIntegerField(default=0, help_text="all samples of packets before it are in chunks"),
                ),
                (
                    "state",
                    models.JSONField(
                        help_text="all that is slow, as it was learnt last: see core.analysis.State", null=True
                    ),
                ),
                ("settled_s", models.FloatField(default=0.0, help_text="of it, that the batch has measured")),
                ("settled_at", models.DateTimeField(null=True)),
                ("stamped_at", models.DateTimeField(help_text="when stamps were asked for last", null=True)),
                (
                    "recording",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE, related_name="take", to="capture.recording"
                    ),
                ),
                (
                    "session",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="takes", to="evening.session"
                    ),
                ),
                (
                    "station",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="takes", to="live.station"
                    ),
                ),
                (
                    "stream",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.PROTECT, related_name="takes", to="live.stream"
                    ),
                ),
            ],
            options={
                "ordering": ["-id"],
            },
        ),
        migrations.CreateModel(
            name="Mark",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "kind",
                    models.CharField(
                        choices=[("set", "Set"), ("round", "Round"), ("cue", "Cue"), ("stamps", "Stamps")], max_length=8
                    ),
                ),
                (
                    "key",
                    models.CharField(
                        default=agile_strike.live.models.new_key,
                        help_text="made by the tablet, so that it counts once",
                        max_length=20,
                    ),
                ),
                ("value", models.CharField(blank=True, max_length=300)),
                ("words", models.CharField(blank=True, help_text="as a cue is spoken", max_length=80)),
                ("at", models.DateTimeField()),
                (
                    "doubt_ms",
                    models.FloatField(
                        default=0.0, help_text="of that instant: half the way to the server, and the sound's"
                    ),
                ),
                ("until", models.DateTimeField(null=True)),
                (
                    "sounded",
                    models.BooleanField(default=True, help_text="a cue that was planned counts once it has been heard"),
                ),
                (
                    "planned",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="marks",
                        to="evening.plannedset",
                    ),
                ),
                (
                    "take",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="marks", to="live.take"
                    ),
                ),
            ],
            options={
                "ordering": ["at", "id"],
            },
        ),
        migrations.AddConstraint(
            model_name="station",
            constraint=models.UniqueConstraint(
                condition=models.Q(("revoked_at__isnull", True)), fields=("gym", "name"), name="station_name_once_a_gym"
            ),
        ),
        migrations.AddConstraint(
            model_name="station",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("simulated_speed__isnull", True),
                    models.Q(("simulated_speed__gt", float("-inf")), ("simulated_speed__lt", float("inf"))),
                    _connector="OR",
                ),
                name="live_station_finite",
            ),
        ),
        migrations.AddConstraint(
            model_name="stream",
            constraint=models.UniqueConstraint(fields=("station", "key"), name="stream_once_a_station"),
        ),
        migrations.AddConstraint(
            model_name="packet",
            constraint=models.UniqueConstraint(fields=("stream", "number"), name="packet_once"),
        ),
        migrations.AddConstraint(
            model_name="packet",
            constraint=models.CheckConstraint(condition=models.Q(("number__gte", 0)), name="packet_is_numbered"),
        ),
        migrations.AddConstraint(
            model_name="take",
            constraint=models.UniqueConstraint(fields=("station", "key"), name="take_key_once"),
        ),
        migrations.AddConstraint(
            model_name="take",
            constraint=models.UniqueConstraint(
                condition=models.Q(("ended_at__isnull", True)), fields=("station",), name="one_take_a_station"
            ),
        ),
        migrations.AddConstraint(
            model_name="take",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("settled_s__isnull", True),
                    models.Q(("settled_s__gt", float("-inf")), ("settled_s__lt", float("inf"))),
                    _connector="OR",
                ),
                name="live_take_finite",
            ),
        ),
        migrations.AddConstraint(
            model_name="mark",
            constraint=models.UniqueConstraint(fields=("take", "key"), name="mark_once"),
        ),
        migrations.AddConstraint(
            model_name="mark",
            constraint=models.UniqueConstraint(
                condition=models.Q(("kind", "set"), ("until__isnull", True)), fields=("take",), name="one_set_at_a_time"
            ),
        ),
        migrations.AddConstraint(
            model_name="mark",
            constraint=models.CheckConstraint(
                condition=models.Q(("until__isnull", True), ("until__gte", models.F("at")), _connector="OR"),
                name="mark_ends_later",
            ),
        ),
        migrations.AddConstraint(
            model_name="mark",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("doubt_ms__isnull", True),
                    models.Q(("doubt_ms__gt", float("-inf")), ("doubt_ms__lt", float("inf"))),
                    _connector="OR",
                ),
                name="live_mark_finite",
            ),
        ),
    ]
