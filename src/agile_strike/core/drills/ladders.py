"""Drill ladders: steps from the easiest on, how much of it, what it should move, and what to take care of.

The next step comes when ten in a row are clean and the measure holds; speed comes last.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Ladder:
    code: str
    name: str
    steps: tuple[str, ...]
    dose: str
    care: str = ""
    children: bool = True  #: fit for them


_ALL = (
    Ladder(
        "slow-parts", "Slow parts",
        ("Feet only", "Hand only", "Both joined", "With the breath", "On pads, one correction at a time", "Faster"),
        "10 of each strike",
    ),
    Ladder(
        "mirror", "Mirror",
        ("Aim at your own chest in the mirror, slowly", "Watch for a dip, a lifted elbow, a sinking other hand",
         "The same at your own pace"),
        "2 minutes",
    ),
    Ladder(
        "gate", "Straight-path gate",
        ("Hand out and back through a wire loop", "The loop nearer, the hand still free of it",
         "Through a partner's two joined gloves"),
        "10, slowly", "Nobody's face behind the gate.",
    ),
    Ladder(
        "no-lock", "No lock-out",
        ("Point a finger at the target instead of striking", "Hold the arm out: the coach taps it, it gives"),
        "a few taps", "Never lock the elbow, on the bag or in the air.",
    ),
    Ladder(
        "lift", "Lift on one beat",
        ("Uppercuts, the head driving up, slowly", "Faster", "Straights on the same beat", "Back to uppercuts",
         "Hooks on it, then one odd strike among them"),
        "until it flows",
    ),
    Ladder(
        "leg-drive", "Leg drive",
        ("Squat flat-footed, lift a ball as in the uppercut and set it down", "The same, thrown", "The other side",
         "Into a rear straight", "Without the ball: duck under a rope, then strike"),
        "6 a side, slowly at first", "The legs lift, not the back.",
    ),
    Ladder(
        "sinking-step", "Sinking step",
        ("Step and sink as one, the hand already forward", "Palm heel on the step", "Hammer fist, then elbow",
         "The other side"),
        "counts of 3",
    ),
    Ladder(
        "transfer", "Transfer",
        ("Rear straight, freeze, lift the rear foot", "Short straight, then a hook back onto the rear heel"),
        "10",
    ),
    Ladder(
        "aim-behind", "Aim behind the surface",
        ("Touch the bag slowly and push a hand's breadth in", "Half speed, the same depth", "Full speed"),
        "10 a side",
    ),
    Ladder(
        "kick-form", "Kick form",
        ("Hands on the wall, heel turned beforehand, tap the bag", "Knee up, turn waist and foot, no kick",
         "Raise, then turn on the ball of the foot, in two counts", "In one count", "Over a chair"),
        "10 a side", "Clear the chair. Never twist a knee on a planted foot.",
    ),
    Ladder(
        "kick-power", "Kick power",
        ("Foot turned as it steps", "Foot turned by the swing", "Shin on the bag, hip back, shove it away",
         "Step at 45 degrees and run through"),
        "5 a side",
    ),
    Ladder(
        "start-loaded", "Start over the rear knee",
        ("Sit over the rear knee and wait", "Strike from there, slowly", "From there at speed", "From an even start"),
        "10",
    ),
)  # fmt: skip
LADDERS: dict[str, Ladder] = {ladder.code: ladder for ladder in _ALL}
