"""When each packet was gathered stands beside it: that, and no number, says whose it is."""

from typing import Any

import cbor2
from django.db import migrations, models


def read_anew(apps: Any, schema_editor: Any) -> None:
    packet = apps.get_model("live", "Packet")
    for row in packet.objects.only("pk", "content").iterator(500):
        packet.objects.filter(pk=row.pk).update(gathered_s=float(cbor2.loads(bytes(row.content))["t"]))


class Migration(migrations.Migration):
    dependencies = [("live", "0002_keys_of_a_station")]

    operations = [
        migrations.AddField("packet", "gathered_s", models.FloatField(null=True)),
        migrations.RunPython(read_anew, migrations.RunPython.noop),
        migrations.AlterField(
            "packet", "gathered_s", models.FloatField(help_text="the hub's clock when its last sample had come")
        ),
        migrations.AddConstraint(
            model_name="packet",
            constraint=models.CheckConstraint(
                condition=models.Q(gathered_s__isnull=True)
                | models.Q(gathered_s__gt=float("-inf"), gathered_s__lt=float("inf")),
                name="live_packet_finite",
            ),
        ),
    ]
