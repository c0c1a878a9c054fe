from django.db import migrations

SAY = """UPDATE capture_analysisrun SET bag = bag || '{"filling": "packed"}' WHERE bag <> '{}' AND NOT bag ? 'filling'"""
UNSAY = "UPDATE capture_analysisrun SET bag = bag - 'filling'"


class Migration(migrations.Migration):
    dependencies = [("capture", "0009_still_being_recorded"), ("kit", "0009_what_a_bag_is_filled_with")]

    operations = [migrations.RunSQL(SAY, UNSAY)]
