"""When planned sets ran, from the events that named them, so that a strike found later finds its set."""

from django.db import migrations


def tell(apps, schema_editor):
    sets, strikes = apps.get_model("review", "StrikeSet"), apps.get_model("review", "Strike")
    for row in sets.objects.filter(by_coach=False).select_related("recording").iterator(chunk_size=200):
        first = strikes.objects.filter(set=row).order_by("contact_s").values_list("contact_s", flat=True).first()
        if first is None:
            continue
        for event in row.recording.events:
            if event["type"] == "set" and event["onset_s"] <= first <= event["onset_s"] + event["duration_s"]:
                row.began_s, row.ended_s = event["onset_s"], event["onset_s"] + event["duration_s"]
                row.save(update_fields=["began_s", "ended_s"])
                break


class Migration(migrations.Migration):
    dependencies = [("review", "0004_nothing_in_silence")]
    operations = [migrations.RunPython(tell, migrations.RunPython.noop)]
