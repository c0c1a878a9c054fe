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
    kit: str = ""  #: what it takes
    go_on: str = "Ten in a row are clean."  #: when the next step comes


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
    Ladder(
        "half-step", "Step, then half a step",
        ("A small lead step, a tiny half-step of the rear foot with the fist", "Against the turn alone",
         "Open on the step, close on the hit", "Make the step smaller"),
        "5 each way", "A long step weakens it.",
    ),
    Ladder(
        "imagined-lift", "Imagined lift",
        ("Strike", "A slow full squat, then lift a heavy load that is not there, breathing in", "Strike again"),
        "5 strikes, 5 squats, 5 strikes", "One order says little: run it as a trial.", children=False,
    ),
    Ladder(
        "lower-leg", "Lower leg",
        ("Lie on the side, knee kept where it is", "Snap and fold, slowly", "At speed"),
        "10 a side", "No hard lock.",
    ),
    Ladder(
        "fall-in", "Fall in",
        ("Weight on neither foot", "Topple and kick as one", "From the guard, no foot loaded first"),
        "5", kit="a clear floor",
    ),
    Ladder(
        "burst", "Burst",
        ("Fist a hand's breadth off the bag, a small pulse of the body", "Two", "Three, then four",
         "Straights, then a hook or a hammer fist among them"),
        "3 to 5, never 10", "Mixed ones are slower: that is as it should be.", children=False,
        go_on="The last one carries as much as the first.",
    ),
    Ladder(
        "solo-pad", "Solo pad",
        ("The other hand holds the pad: palm heel, hammer fist, elbow", "Knee, the pad in both hands",
         "One strike again and again", "All of them, with the voice"),
        "counts of 3, a run of 12", kit="a pad",
    ),
    Ladder(
        "as-worn", "As worn",
        ("The same strikes in street clothes and shoes",),
        "1 block", go_on="It is a change of gear: compare it as one.",
    ),
    Ladder(
        "shadow-lift", "Shadow with a lift",
        ("A push from the floor before each strike", "Feet alternate", "At the pace of a round"),
        "1 round",
    ),
    Ladder(
        "grip", "Grip",
        ("Hold a short stick in the fist and strike slowly", "Hold many small things: one dropped, once more",
         "With nothing in it, as firm"),
        "10", "Fewer, and firm: grip fades as they go by.", kit="a short stick",
    ),
)  # fmt: skip
LADDERS: dict[str, Ladder] = {ladder.code: ladder for ladder in _ALL}
