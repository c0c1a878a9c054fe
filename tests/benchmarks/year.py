"""A year of a gym, written straight into the database: two evenings a week, fifty strikes an evening."""

import datetime as dt
import json

from django.contrib.auth import get_user_model
from django.db import connection

from agile_strike.capture.basis import bag_figures
from agile_strike.core.analysis import VERSION
from agile_strike.core.target import Bag
from agile_strike.gym.models import Gym, Member
from agile_strike.kit.services import save_version
from agile_strike.people.models import Student
from agile_strike.trials.models import Trial
from agile_strike.trials.services import WATCHED

FIRST = dt.datetime(2025, 11, 24, 17, tzinfo=dt.UTC)
BORN = dt.date(1996, 5, 4)
EVENINGS = 100
CENTRED, SHIFT = "stay centred", "full shift"
STRIKES = """
INSERT INTO review_strike (recording_id, set_id, number, contact_s, limb, relabelled_limb, level, flags, absent,
  analysis_id, version, excluded_reason, chain_order, note, impulse_n_s, impulse_n_s_sd, peak_force_n,
  peak_force_n_sd,
  effective_mass_kg, effective_mass_kg_sd, effective_mass_pct, effective_mass_pct_sd, contact_speed_m_s,
  contact_speed_m_s_sd, settle_ms, settle_ms_sd,
  pullback_mm, pullback_mm_sd, return_ms, return_ms_sd, tell_ms, tell_ms_sd, flight_ms, flight_ms_sd)
SELECT s.recording_id, s.id, s.place * 10 + k, s.place * 70 + 3 * k, s.limb, '', 'head', '{}', '{}', s.analysis_id, 1,
  '', '', '',
  v.i, 0.4, 90 * v.i, 40, 0.12 * v.i, 0.1, 0.17 * v.i, 0.2, 6 + random(), 0.1, 250 + 40 * random(), 20,
  8 + 4 * random(), 2, 300 + 40 * random(), 10, 90 + 40 * random(), 20, 160 + 30 * random(), 2
FROM (SELECT s.*, r.analysis_id, row_number() OVER (PARTITION BY s.recording_id ORDER BY s.id) - 1 AS place
  FROM review_strikeset s JOIN capture_recording r ON r.id = s.recording_id) s
CROSS JOIN generate_series(1, 10) k
CROSS JOIN LATERAL (SELECT 22 * exp(0.09 * (random() + random() + random() - 1.5) * 2)
  * CASE WHEN s.levels ->> 'weight transfer' = 'full shift' THEN 1.08 ELSE 1 END AS i) v
"""


def make_year(students: int) -> Gym:
    """The gym, with a coach who can sign in, and a trial for every student over the whole year."""
    gym = Gym.objects.create(name="A year", time_zone="Europe/Oslo")
    Member.objects.create(user=get_user_model().objects.create_user("year", password="x"), gym=gym, name="year")
    version = save_version(gym, None, "Bag", Bag("swivel", 52.0, 1.25, 0.36, 0.28), FIRST)
    people = Student.objects.bulk_create(
        Student(gym=gym, name=f"Student {i}", label=f"s{i}", stance="orthodox", birth_date=BORN)
        for i in range(students)
    )
    trials = Trial.objects.bulk_create(
        [
            Trial(
                gym=gym,
                factor="weight transfer",
                levels=[CENTRED, SHIFT],
                code="rear-straight",
                measure="impulse_n_s",
                watch=list(WATCHED),
                started_on=FIRST.date(),
            )
            for _ in people
        ]
    )
    through = Trial.students.through
    through.objects.bulk_create([through(trial=t, student=s) for t, s in zip(trials, people, strict=True)])
    with connection.cursor() as cursor:
        cursor.execute(
            """INSERT INTO evening_session (student_id, day, gear, soreness, notes, version)
            SELECT s.id, (%s::timestamptz + (e * 7 / 2) * interval '1 day')::date, '', '', '', 1
            FROM people_student s CROSS JOIN generate_series(0, %s) e WHERE s.gym_id = %s""",
            [FIRST, EVENINGS - 1, gym.pk],
        )
        cursor.execute(
            """INSERT INTO capture_recording (gym_id, student_id, session_id, bag_version_id, session_label, task, run,
              acquired_at, length_s, rate_hz, checksum, events, revision, stated)
            SELECT %s, e.student_id, e.id, %s, '', 'mixed', '', e.day + interval '17 hours', 400, 1000,
              e.student_id || '-' || e.id, '[]', 0, '{}'
            FROM evening_session e JOIN people_student s ON s.id = e.student_id WHERE s.gym_id = %s""",
            [gym.pk, version.pk, gym.pk],
        )
        cursor.execute(
            """INSERT INTO capture_analysisrun (recording_id, version, bag, calibrations, body_mass_kg, stance, made_at,
              flags, not_measured, clocks, bursts, strike_count, asked_by, late)
            SELECT r.id, %s, %s::jsonb, '{}', 70, '', now(), '[]', '[]', '[]', '[]', 50, '', false
            FROM capture_recording r WHERE r.gym_id = %s""",
            [VERSION, json.dumps(bag_figures(version)), gym.pk],
        )
        cursor.execute(
            """UPDATE capture_recording r SET analysis_id = a.id FROM capture_analysisrun a
            WHERE a.recording_id = r.id AND r.gym_id = %s""",
            [gym.pk],
        )
        cursor.execute(
            """INSERT INTO review_strikeset (recording_id, code, limb, level, levels, gear, by_coach)
            SELECT r.id, CASE WHEN b = 0 THEN 'lead-straight' ELSE 'rear-straight' END,
              CASE WHEN b = 0 THEN 'left_hand' ELSE 'right_hand' END, 'head',
              CASE WHEN b = 0 THEN '{}'::jsonb ELSE jsonb_build_object('weight transfer',
                CASE WHEN b IN (1, 4) THEN 'stay centred' ELSE 'full shift' END) END, '12 oz', false
            FROM capture_recording r CROSS JOIN generate_series(0, 4) b WHERE r.gym_id = %s""",
            [gym.pk],
        )
        cursor.execute(STRIKES)
        cursor.execute("ANALYZE")
    return gym
