"""Loading the demo gym, and rebuilding the compact file of its earlier weeks."""

import datetime as dt
import gzip
import json
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
from django.contrib.auth import get_user_model
from django.core.serializers.json import DjangoJSONEncoder
from django.db import transaction

from agile_strike.capture.models import Recording
from agile_strike.core.simulation.plan import simulate
from agile_strike.demo import gym_plan as plan
from agile_strike.formats.motion_bids_write import write
from agile_strike.gym.models import Gym, Member
from agile_strike.intake.services import import_path
from agile_strike.kit.models import BagVersion
from agile_strike.kit.services import save_version
from agile_strike.people.models import BodyMass, StanceChange, Student
from agile_strike.review.models import Strike

WEEKS = Path(__file__).parent / "weeks.json.gz"
LAST = len(plan.EVENINGS) - 1
DAY_SPREAD = 0.04
RECORDING_FIELDS = (
    "session",
    "task",
    "run",
    "acquired_at",
    "length_s",
    "rate_hz",
    "checksum",
    "analysis_version",
    "body_mass_kg",
    "flags",
    "not_measured",
    "events",
    "units",
    "bursts",
    "mounting",
    "strike_count",
)
STRIKE_FIELDS = tuple(
    f.name
    for f in Strike._meta.concrete_fields
    if f.name not in ("id", "recording", "excluded_at", "excluded_by", "excluded_reason")
)


def load() -> bool:
    """Make the demo gym if it is not there; True if it was made."""
    if Gym.objects.filter(name=plan.GYM).exists():
        return False
    with transaction.atomic():
        gym, students, version = _people_and_kit()
        for row in json.loads(gzip.decompress(WEEKS.read_bytes())):
            _restore(gym, students[row["student"]], version, row)
        for student in plan.STUDENTS:
            _import(gym, student, LAST)
    return True


def build_weeks() -> int:
    """Simulate, import and analyse every evening but the last; write the rows to the compact file."""
    rows: list[dict[str, Any]] = []
    with transaction.atomic():
        gym, _, _ = _people_and_kit()
        for number in range(LAST):
            for student in plan.STUDENTS:
                _import(gym, student, number)
        for recording in Recording.objects.for_gym(gym).select_related("student").order_by("acquired_at"):
            columns = list(Strike.objects.filter(recording=recording).order_by("number").values_list(*STRIKE_FIELDS))
            rows.append(
                {
                    "student": recording.student.label,
                    **{f: getattr(recording, f) for f in RECORDING_FIELDS},
                    "strikes": [[_short(v) for v in row] for row in columns],
                }
            )
        transaction.set_rollback(True)
    text = json.dumps(rows, cls=DjangoJSONEncoder, separators=(",", ":"))
    WEEKS.write_bytes(gzip.compress(text.encode(), 9, mtime=0))
    return len(rows)


def _short(value: Any) -> Any:
    return float(f"{value:.6g}") if isinstance(value, float) else value


def _people_and_kit() -> tuple[Gym, dict[str, Student], BagVersion]:
    gym = Gym.objects.create(name=plan.GYM, time_zone=plan.TIME_ZONE)
    users = get_user_model().objects
    for user, name, role in plan.COACHES:
        account = users.filter(username=user).first() or users.create_user(user, password=plan.PASSWORD)
        Member.objects.update_or_create(user=account, defaults={"gym": gym, "name": name, "role": role})
    start = dt.datetime.combine(plan.FIRST_EVENING, dt.time(12), dt.UTC)
    version = save_version(gym, None, plan.BAG_NAME, plan.BAG, start)
    students = {}
    for s in plan.STUDENTS:
        students[s.label] = Student.objects.create(
            gym=gym, name=s.name, label=s.label, stance=s.stance, birth_date=s.birth_date
        )
        StanceChange.objects.create(student=students[s.label], since=plan.FIRST_EVENING, stance=s.stance)
        BodyMass.objects.bulk_create(
            [
                BodyMass(
                    student=students[s.label],
                    measured_on=plan.FIRST_EVENING + dt.timedelta(days=day),
                    mass_kg=round(s.mass_kg + s.drift_kg * day / 7, 1),
                )
                for day in plan.EVENINGS
            ]
        )
    return gym, students, version


def _import(gym: Gym, student: plan.DemoStudent, number: int) -> None:
    rng = np.random.default_rng([2026, plan.STUDENTS.index(student), number])
    made = simulate(plan.evening(student, number, float(np.exp(DAY_SPREAD * rng.standard_normal()))), rng)
    with TemporaryDirectory(prefix="agile-strike-demo-") as folder:
        write(Path(folder) / "evening", [made.recording])
        import_path(gym, None, Path(folder) / "evening")


def _restore(gym: Gym, student: Student, version: BagVersion, row: dict[str, Any]) -> None:
    recording = Recording.objects.create(
        gym=gym,
        student=student,
        bag_version=version,
        **{f: row[f] for f in RECORDING_FIELDS if f != "acquired_at"},
        acquired_at=dt.datetime.fromisoformat(row["acquired_at"]),
    )
    Strike.objects.bulk_create(
        [Strike(recording=recording, **dict(zip(STRIKE_FIELDS, values, strict=True))) for values in row["strikes"]]
    )
