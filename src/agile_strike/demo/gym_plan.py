"""The demo gym: who is in it, its bag, and what each student throws on each evening of the first three weeks."""

import datetime as dt
from dataclasses import dataclass, replace

from agile_strike.core.bag import Bag
from agile_strike.core.recording import Participant
from agile_strike.core.simulation.plan import Evening, SetPlan
from agile_strike.core.simulation.student import KICK, Body, Technique
from agile_strike.core.simulation.unit import Mess
from agile_strike.core.simulation.wear import WORN

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
CENTRED = Technique(lead_load_contact=0.53, lean_deg=2.0, settle_ms=190.0, return_s=0.24, turn_deg=36.0)
TRANSFER = Technique(
    lead_load_start=0.45,
    lead_load_contact=0.76,
    lead_heel=0.62,
    step_ms=12.0,
    lean_deg=5.0,
    settle_ms=430.0,
    turn_deg=44.0,
)
DRIVE = Technique(lead_load_contact=0.71, lean_deg=13.0, settle_ms=480.0, turn_deg=42.0, return_s=0.36)
STYLES = {"centred": CENTRED, "full transfer": TRANSFER, "drive through": DRIVE}
#: mass behind a strike against centred
HEAVIER = {"centred": 1.0, "full transfer": 1.13, "drive through": 1.1}


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
    schools: tuple[str, str]  #: of the two sets of rear straights
    side: float = 1.0  #: weaker left against right
    kicks: bool = False
    pullback_m: float = 0.008  #: at the start of the three weeks
    drop_m: float = 0.004
    turn: float = 1.0  #: of the hips against the style's own, at the start


STUDENTS = (
    # throws with the arm alone, and learns to turn
    DemoStudent(
        "Maren Aalto", "maren", "orthodox", dt.date(1992, 5, 14), 63.0, 0.0, 1.9, 6.2, 0.35,
        ("centred", "full transfer"), turn=0.35,
    ),
    DemoStudent(
        "Idris Bellamy", "idris", "southpaw", dt.date(1999, 2, 27), 84.0, -0.2, 3.1, 6.6, 0.02,
        ("drive through", "centred"), kicks=True,
    ),
    # tells every strike, and her left is weak
    DemoStudent(
        "Sunniva Roe", "sunniva", "orthodox", dt.date(2004, 8, 9), 58.0, 0.1, 2.1, 6.3, 0.0,
        ("full transfer", "centred"), side=0.8, pullback_m=0.055, drop_m=0.028,
    ),
    DemoStudent(
        "Kofi Andrade", "kofi", "orthodox", dt.date(1985, 1, 30), 92.0, -0.4, 3.3, 5.9, 0.05,
        ("centred", "drive through"),
    ),
)  # fmt: skip


def evening(student: DemoStudent, number: int, day_factor: float) -> Evening:
    """What a student throws on evening `number` (0 to 5); `day_factor` is how good a day it is."""
    done = number / (len(EVENINGS) - 1)
    behind = student.punch_kg * (1.0 + student.gain * done) * day_factor
    rear, lead = ("right_hand", "left_hand") if student.stance == "orthodox" else ("left_hand", "right_hand")
    weak = {"left_hand": student.side, "right_hand": 1.0}
    turn = student.turn + (1.0 - student.turn) * done

    def style(school: str, share: float = 1.0) -> Technique:
        q = STYLES[school]
        return replace(
            q,
            pullback_m=student.pullback_m,
            drop_m=student.drop_m,
            turn_deg=share * turn * q.turn_deg,
            torso_turn_deg=share * (0.4 + 0.6 * turn) * q.torso_turn_deg,
        )

    first, second = student.schools

    def straights(school: str, kg: float, level: str) -> SetPlan:
        return SetPlan(
            "rear-straight", rear, level, 8, HEAVIER[school] * kg * weak[rear], student.speed_m_s, 15.0, 2.8,
            extra=f"school={school}", technique=style(school),
        )  # fmt: skip

    jab = style(first, 0.5)
    hook = replace(style(first, 0.9), bow_m=0.12, reach_m=0.66, turnover_deg=45.0)
    sets = [
        SetPlan(
            "lead-straight", lead, "head", 8, 0.75 * behind * weak[lead], 0.92 * student.speed_m_s, 14.0, 2.6,
            extra=f"school={first}", technique=replace(jab, lead_load_contact=0.55),
        ),
        straights(first, behind, "head"),
        straights(second, behind, "head"),
        SetPlan(
            "lead-hook", lead, "body", 7, 1.05 * behind * weak[lead], 0.86 * student.speed_m_s, 17.0, 2.8,
            extra=f"school={first}", technique=hook,
        ),
        SetPlan(
            "one-two", lead, "body", 9, 0.8 * behind, 0.88 * student.speed_m_s, 14.0, 3.0, burst=3, burst_gap_s=0.34,
            extra=f"school={first}", other_limb=rear, technique=replace(jab, return_s=0.24),
        ),
    ]  # fmt: skip
    if student.kicks:
        foot = rear.replace("hand", "foot")
        sets.append(
            SetPlan(
                "rear-round", foot, "low", 6, 1.7 * behind, 1.5 * student.speed_m_s, 22.0, 4.0,
                extra=f"school={first}", technique=KICK,
            )
        )  # fmt: skip
    day = FIRST_EVENING + dt.timedelta(days=EVENINGS[number])
    at = dt.datetime.combine(day, dt.time(17, 30 + 5 * STUDENTS.index(student)), dt.UTC)
    mass_kg = student.mass_kg + student.drift_kg * EVENINGS[number] / 7
    person = Participant(student.label, mass_kg, None, None, student.stance, "right")
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
        worn=WORN,
        body=Body(mass_kg, student.stance, bounce_m=0.010, sway_m=0.014),
    )
