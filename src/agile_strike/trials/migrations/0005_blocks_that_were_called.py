"""Blocks that were called get their planned set, with its times. Kept pages are made anew."""

import datetime as dt
import secrets

from django.db import migrations

SCHOOL = "school"
SAME_S = 0.01


def tell(apps, schema_editor):
    blocks, claims = apps.get_model("trials", "CalledBlock"), apps.get_model("trials", "Claim")
    sessions, planned = apps.get_model("evening", "Session"), apps.get_model("evening", "PlannedSet")
    schools, sets = apps.get_model("playbook", "School"), apps.get_model("review", "StrikeSet")
    claims.objects.filter(asked__startswith="page|").delete()
    for row in blocks.objects.select_related("trial").order_by("began_at", "pk"):
        trial = row.trial
        session, _ = sessions.objects.get_or_create(student_id=row.student_id, day=row.evening)
        by_school = trial.factor == SCHOOL
        school = schools.objects.filter(gym_id=trial.gym_id, name=row.level).first() if by_school else None
        made = planned.objects.create(
            session=session,
            key=secrets.token_hex(5),
            place=planned.objects.filter(session=session).count(),
            code=trial.code,
            level=trial.height,
            levels={} if by_school else {trial.factor: row.level},
            school=school,
            strikes=trial.strikes if 1 <= trial.strikes <= 1000 else None,
            gear=trial.gear,
            began_at=row.began_at,
            ended_at=row.ended_at,
        )
        blocks.objects.filter(pk=row.pk).update(session=session, planned=made)
        for one in sets.objects.filter(
            recording__session=session, code=trial.code, began_s__isnull=False
        ).select_related("recording"):
            if abs((row.began_at - one.recording.acquired_at) / dt.timedelta(seconds=1) - one.began_s) < SAME_S:
                sets.objects.filter(pk=one.pk).update(planned=made)


class Migration(migrations.Migration):
    dependencies = [
        ("trials", "0004_blocks_are_planned_sets"),
        ("review", "0008_no_strike_without_a_run"),
    ]
    operations = [
        migrations.RunPython(tell, migrations.RunPython.noop),
    ]
