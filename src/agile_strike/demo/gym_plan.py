"""The demo gym: who is in it, its bags, and what each student throws on each of twelve evenings. Each has a story."""

import datetime as dt
from dataclasses import dataclass, field, replace

from agile_strike.core.recording import UNITS, Participant
from agile_strike.core.simulation.plan import Evening, SetPlan
from agile_strike.core.simulation.student import KICK, Body, Technique
from agile_strike.core.simulation.unit import Mess
from agile_strike.core.simulation.wear import WORN
from agile_strike.core.target import Bag

GYM = "Kestrel Quay Boathouse"
TIME_ZONE = "Europe/Oslo"
COACHES = (("ottoline", "Ottoline Brandvik", "coach"), ("rafe", "Rafe Quillon", "assistant"))
PASSWORD = "boathouse"
FIRST_EVENING = dt.date(2026, 9, 8)
EVENINGS = tuple(range(0, 84, 7))  # Tuesdays
GEAR = "gloves 12 oz"
UNIT_MODEL = "simulated six-axis unit"
#: one set of units goes round
SERIALS = {place: f"KQ-{100 + i}" for i, place in enumerate(UNITS)}
BAG_NAME, HEAVY_NAME = "Long bag by the window", "Heavy bag by the stairs"
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
HEAVY = Bag(
    "swivel",
    64.0,
    1.20,
    0.40,
    0.27,
    mass_sd_kg=0.3,
    chain_m=0.50,
    inertia_cm_kg_m2=8.6,
    inertia_sd_kg_m2=0.2,
    level_bands_m=(0.38, 0.82),
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
FACTOR = "weight transfer"
LEVELS = {
    "centred": "stay centred",
    "full transfer": "full shift onto the lead heel",
    "drive through": "drive and lean through",
}


@dataclass(frozen=True, slots=True)
class Trial:
    """Centred against another school, block against block."""

    other: str  #: the school tried
    evenings: tuple[int, ...]
    gain: float  #: of the mass behind the strike, under the other school
    gain_last: float | None = None  #: on the last evening, where it changes on the way
    gain_spread: float = 0.03  #: from evening to evening
    worth_pct: float | None = None
    decisions: tuple[tuple[int, str, str], ...] = ()  #: (evening, what, why)


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
    trial: Trial | None = None
    consent: str = "not_needed"
    weak_left: float = 1.0  #: left against right
    both_stances: bool = False
    kicks: bool = False
    pullback_m: float = 0.008
    drop_m: float = 0.004
    turn: float = 1.0  #: of the hips against the style's own, on the first evening; all of it on the last
    gain: float = 0.0  #: of mass behind the strike over the twelve weeks, whatever is tried
    heavy_from: int | None = None  #: evening from which the other bag hangs there
    sets_of_jabs: dict[int, int] = field(default_factory=dict)  #: evening -> sets of ten, where not one


STUDENTS = (
    # a clear gain; threw with the arm alone, and learns to turn
    DemoStudent(
        "Maren Aalto", "maren", "orthodox", dt.date(1992, 5, 14), 63.0, 0.0, 1.9, 6.2, turn=0.35, gain=0.10,
        trial=Trial("full transfer", (2, 3, 4, 5, 6, 7), 0.20, decisions=(
            (4, "keep_testing", "Looks good after three evenings; make sure of it."),
            (7, "keep", "Heavier every evening. She keeps her balance well enough."),
        )),
    ),
    # a gain that faded
    DemoStudent(
        "Idris Bellamy", "idris", "southpaw", dt.date(1999, 2, 27), 84.0, -0.05, 3.1, 6.6, kicks=True,
        trial=Trial("drive through", (1, 2, 3, 4, 5, 6, 7, 8, 9, 10), 0.32, gain_last=-0.04, decisions=(
            (4, "keep_testing", "Strong at first. See whether it lasts."),
            (10, "drop", "What it gave in September was gone by November."),
        )),
    ),
    # a school that did not suit; tells every strike
    DemoStudent(
        "Sunniva Roe", "sunniva", "orthodox", dt.date(2004, 8, 9), 58.0, 0.05, 2.1, 6.3, pullback_m=0.055, drop_m=0.028,
        trial=Trial("full transfer", (2, 3, 4, 5, 6, 7), -0.14, decisions=(
            (7, "drop", "Lighter, slower to settle, and it shows before it leaves. Back to centred."),
        )),
    ),
    # no difference
    DemoStudent(
        "Kofi Andrade", "kofi", "orthodox", dt.date(1985, 1, 30), 92.0, -0.1, 3.3, 5.9,
        trial=Trial("drive through", (1, 2, 3, 4, 5, 6, 7, 8), 0.0, gain_spread=0.01, worth_pct=8.0, decisions=(
            (8, "drop", "Nothing in it for Kofi. Keep what recovers sooner."),
        )),
    ),
    # a bag changed half way
    DemoStudent(
        "Petra Vanek", "petra", "orthodox", dt.date(1997, 3, 3), 71.0, 0.0, 2.5, 6.3, heavy_from=6,
        trial=Trial("full transfer", (3, 4, 5, 6, 7, 8), 0.14),
    ),
    # not settled
    DemoStudent(
        "Lior Castellan", "lior", "southpaw", dt.date(2007, 6, 21), 68.0, 0.1, 2.3, 6.8,
        trial=Trial("drive through", (9, 10, 11), 0.04, gain_spread=0.16),
    ),
    # an imbalance; a child: no maximal testing
    DemoStudent(
        "Wren Okafor", "wren", "orthodox", dt.date(2013, 4, 2), 47.0, 0.15, 1.1, 4.4, consent="kept", weak_left=0.72,
        both_stances=True,
    ),
    # a volume jump; consent missing
    DemoStudent(
        "Hamish Duarte", "hamish", "southpaw", dt.date(2011, 9, 17), 60.0, 0.1, 1.6, 5.2, consent="missing",
        sets_of_jabs={9: 5, 10: 9},
    ),
)  # fmt: skip
#: what else happened: (student, evening from, evening until or None, kind, text)
MARKS = (("kofi", 9, 10, "injury", "Sore wrist: two weeks of footwork only"),)
FREE_ROUND = ("kofi", "one-two")  # whose, and as which it is simulated
#: the last evening, as its coach noted it: soreness, notes, remarks by strike, and notes on strikes
LAST_NOTES = {
    "sunniva": ("", "Told every cross from across the room. Mirror work before the bag next week.",
                {3: "hand dropped", 4: "hand dropped", 6: "hand dropped", 8: "good"}, {4: "Elbow out first."}),
    "maren": ("lower back, a little", "Heavy and quiet. Keep it.", {12: "good", 15: "good", 21: "leaned"}, {}),
    "kofi": ("left wrist, fading", "First full evening since October: stopped at the first twinge.", {}, {}),
}  # fmt: skip
#: what was worked on: (student, from which evening on, drill), every evening from then
DRILLED = (("sunniva", 7, "mirror"), ("petra", 6, "slow-parts"), ("maren", 5, "transfer"), ("idris", 8, "mirror"))
#: the set-up check of the last evening: student -> point -> whether it was good
LOOKED = {
    "sunniva": {"head": True, "fist": True, "guard": False, "breath": True},
    "maren": {"guard": True, "head": True},
}
AWAY = {("kofi", 9), ("kofi", 10)}


def there(student: DemoStudent, number: int) -> bool:
    return (student.label, number) not in AWAY


def evening(student: DemoStudent, number: int, day_factor: float, gain_off: float) -> Evening:
    """What a student throws on evening `number` (0 to 11). `day_factor` is how good a day it is, `gain_off` how far
    this evening's gain is from the trial's own, in its spreads."""
    done = number / (len(EVENINGS) - 1)
    behind = student.punch_kg * (1.0 + student.gain * done) * day_factor
    rear, lead = ("right_hand", "left_hand") if student.stance == "orthodox" else ("left_hand", "right_hand")
    bag = HEAVY if student.heavy_from is not None and number >= student.heavy_from else BAG
    day = FIRST_EVENING + dt.timedelta(days=EVENINGS[number])
    at = dt.datetime.combine(day, dt.time(16, 0), dt.UTC) + dt.timedelta(minutes=20 * STUDENTS.index(student))
    mass_kg = student.mass_kg + student.drift_kg * EVENINGS[number] / 7
    sets = [*_jabs(student, number, behind, lead), *_straights(student, number, behind, rear, gain_off)]
    if student.both_stances:
        sets += _other_stance(student, behind)
    if number == len(EVENINGS) - 1:
        sets += _rest(student, behind, lead, rear)
    person = Participant(student.label, round(mass_kg, 1), None, None, student.stance, "right")
    return Evening(
        bag,
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


def style(student: DemoStudent, number: int, school: str, share: float = 1.0) -> Technique:
    """How a student throws under a school on an evening."""
    turn = student.turn + (1.0 - student.turn) * number / (len(EVENINGS) - 1)
    q = STYLES[school]
    return replace(
        q,
        pullback_m=student.pullback_m * (1.3 if school == "full transfer" else 1.0),
        drop_m=student.drop_m,
        turn_deg=share * turn * q.turn_deg,
        torso_turn_deg=share * (0.4 + 0.6 * turn) * q.torso_turn_deg,
    )


def _side(student: DemoStudent, limb: str) -> float:
    return student.weak_left if limb.startswith("left") else 1.0


def _jabs(student: DemoStudent, number: int, behind: float, lead: str) -> list[SetPlan]:
    jab = replace(style(student, number, "centred", 0.5), lead_load_contact=0.55)
    kg = 0.75 * behind * _side(student, lead)
    return [
        SetPlan(
            "lead-straight",
            lead,
            "head",
            10,
            kg,
            0.92 * student.speed_m_s,
            14.0,
            2.6,
            extra=f"school=centred,gear={GEAR},block={i}",
            technique=jab,
        )
        for i in range(student.sets_of_jabs.get(number, 1))
    ]


def _straights(student: DemoStudent, number: int, behind: float, rear: str, gain_off: float) -> list[SetPlan]:
    """Blocks of a trial evening, A B B A or B A A B; else two sets as the student throws them then."""
    t = student.trial
    if t is None:
        order = ["centred", "centred"]
    elif number in t.evenings:
        first, second = ("centred", t.other) if number % 2 == 0 else (t.other, "centred")
        order = [first, second, second, first]
    else:
        kept = any(what == "keep" and number > at for at, what, _ in t.decisions)
        order = [t.other if kept else "centred"] * 2
    out = []
    for i, school in enumerate(order):
        gain = 0.0
        if t is not None and school == t.other:
            share = (number - t.evenings[0]) / max(t.evenings[-1] - t.evenings[0], 1)
            last = t.gain if t.gain_last is None else t.gain_last
            gain = t.gain + (last - t.gain) * min(max(share, 0.0), 1.0) + t.gain_spread * gain_off
        warm = 1.0 + 0.008 * i  # a little stronger as the evening goes on
        out.append(
            SetPlan(
                "rear-straight", rear, "head", 8, (1.0 + gain) * warm * behind * _side(student, rear),
                student.speed_m_s, 15.0, 2.8,
                extra=f"school={school},{FACTOR}={LEVELS[school]},gear={GEAR},block={i}",
                technique=style(student, number, school),
            )
        )  # fmt: skip
    return out


def _other_stance(student: DemoStudent, behind: float) -> list[SetPlan]:
    """The same two straights with the feet changed over, so that left and right can be compared like with like."""
    out = []
    for code, limb, share in (("lead-straight", "right_hand", 0.75), ("rear-straight", "left_hand", 1.0)):
        out.append(
            SetPlan(
                code, limb, "head", 10, share * behind * _side(student, limb), 0.95 * student.speed_m_s, 15.0, 2.8,
                extra=f"school=centred,stance=southpaw,gear={GEAR}", technique=CENTRED,
            )
        )  # fmt: skip
    return out


def _rest(student: DemoStudent, behind: float, lead: str, rear: str) -> list[SetPlan]:
    """Hooks, a combination and kicks: of the last evening only, whose samples are kept."""
    last = len(EVENINGS) - 1
    hook = replace(style(student, last, "centred", 0.9), bow_m=0.12, reach_m=0.66, turnover_deg=45.0)
    jab = replace(style(student, last, "centred", 0.5), return_s=0.24)
    extra = f"school=centred,gear={GEAR}"
    sets = [
        SetPlan(
            "lead-hook", lead, "body", 7, 1.05 * behind * _side(student, lead), 0.86 * student.speed_m_s, 17.0, 2.8,
            extra=extra, technique=hook,
        ),
        SetPlan(
            "one-two", lead, "body", 9, 0.8 * behind, 0.88 * student.speed_m_s, 14.0, 3.0, burst=3, burst_gap_s=0.34,
            extra=extra, other_limb=rear, technique=jab,
        ),
    ]  # fmt: skip
    if student.kicks:
        foot = rear.replace("hand", "foot")
        sets.append(
            SetPlan(
                "rear-round", foot, "low", 6, 1.7 * behind, 1.5 * student.speed_m_s, 22.0, 4.0,
                extra=extra, technique=KICK,
            )
        )  # fmt: skip
    return sets
