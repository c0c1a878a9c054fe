"""The demo gym: who is in it, its bag, and what each student throws on each evening of the first three weeks."""

import datetime as dt
from dataclasses import dataclass

from agile_strike.core.bag import Bag
from agile_strike.core.recording import Participant
from agile_strike.core.simulation.plan import Evening, SetPlan
from agile_strike.core.simulation.unit import Mess

GYM = "Kestrel Quay Boathouse"
TIME_ZONE = "Europe/Oslo"
COACHES = (("ottoline", "Ottoline Brandvik", "coach"), ("rafe", "Rafe Quillon", "assistant"))
PASSWORD = "boathouse"
FIRST_EVENING = dt.date(2026, 11, 3)
EVENINGS = (0, 2, 7, 9, 14, 16)  # Tuesdays and Thursdays
BAG_NAME = "Long bag by the window"
BAG = Bag(
    "swivel",
    52.0,
    1.25,
    0.36,
    0.28,
    mass_sd_kg=0.25,
    chain_m=0.55,
    inertia_cm_kg_m2=7.3,
    inertia_sd_kg_m2=0.15,
    level_bands_m=(0.40, 0.85),
)


@dataclass(frozen=True, slots=True)
class DemoStudent:
    name: str
    label: str
    stance: str
    birth_date: dt.date
    mass_kg: float
    drift_kg: float  #: of body mass a week
    punch_kg: float  #: typical mass behind a straight
    speed_m_s: float
    gain: float  #: of mass behind the strike over the three weeks
    side: float = 1.0  #: weaker left against right
    kicks: bool = False


STUDENTS = (
    DemoStudent("Maren Aalto", "maren", "orthodox", dt.date(1992, 5, 14), 63.0, 0.0, 2.3, 6.2, 0.14),
    DemoStudent("Idris Bellamy", "idris", "southpaw", dt.date(1999, 2, 27), 84.0, -0.2, 3.1, 6.9, 0.02, 1.0, True),
    DemoStudent("Sunniva Roe", "sunniva", "orthodox", dt.date(2004, 8, 9), 58.0, 0.1, 2.1, 6.6, 0.0, 0.8),
    DemoStudent("Kofi Andrade", "kofi", "orthodox", dt.date(1985, 1, 30), 92.0, -0.4, 3.3, 5.9, 0.05),
)


def evening(student: DemoStudent, number: int, day_factor: float) -> Evening:
    """What a student throws on evening `number` (0 to 5); `day_factor` is how good a day it is."""
    done = number / (len(EVENINGS) - 1)
    behind = student.punch_kg * (1.0 + student.gain * done) * day_factor
    rear, lead = ("right_hand", "left_hand") if student.stance == "orthodox" else ("left_hand", "right_hand")
    weak = {"left_hand": student.side, "right_hand": 1.0}
    sets = [
        SetPlan("lead-straight", lead, "head", 8, 0.75 * behind * weak[lead], 0.95 * student.speed_m_s, 14.0, 2.6),
        SetPlan("rear-straight", rear, "head", 10, behind * weak[rear], student.speed_m_s, 15.0, 2.8),
        SetPlan("lead-hook", lead, "body", 8, 1.05 * behind * weak[lead], 0.9 * student.speed_m_s, 17.0, 2.8),
        SetPlan("mixed", rear, "body", 9, 0.8 * behind, 0.9 * student.speed_m_s, 14.0, 3.0, burst=3),
    ]
    if student.kicks:
        foot = rear.replace("hand", "foot")
        sets.append(SetPlan("rear-round", foot, "low", 6, 1.7 * behind, 1.35 * student.speed_m_s, 22.0, 4.0))
    day = FIRST_EVENING + dt.timedelta(days=EVENINGS[number])
    at = dt.datetime.combine(day, dt.time(17, 30 + 5 * STUDENTS.index(student)), dt.UTC)
    person = Participant(
        student.label, student.mass_kg + student.drift_kg * EVENINGS[number] / 7, None, None, student.stance, "right"
    )
    return Evening(
        BAG,
        tuple(sets),
        person,
        f"{number + 1:02d}",
        "mixed",
        "01",
        at.isoformat(),
        bumps=3,
        mess=Mess(ringing_share=0.04, mounting_deg=5.0),
        mass_error_share=0.0,
        inertia_error_share=0.0,
    )
