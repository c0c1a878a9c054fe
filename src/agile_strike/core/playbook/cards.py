"""What a coach teaches of each strike: its counted parts, where the weight goes, how it ends, what goes wrong.

Lead and rear throughout: left-handers mirror. A card is kept under a strike's code, or under its family for both sides.
The other hand stays at the face unless a card says otherwise.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Card:
    name: str
    parts: tuple[str, ...]  #: counted, in order
    weight: str
    ends: str
    mistakes: tuple[str, ...]
    measures: tuple[str, ...]  #: by which units see it
    care: str = ""
    lead_turn_deg: float = 0.0  #: of the lead foot until the end, toes inward positive
    rear_turn_deg: float = 0.0
    lead_weight_pct: float = 50.0  #: over the lead foot at contact, as it is drawn


_LOCK = "Never lock the elbow, on the bag or in the air."
_UNIT = "Strike the bag, never a unit."
_KNEE = "Turn the foot with the hip: a knee that twists over a planted foot is loaded."

CARDS: dict[str, Card] = {
    "lead-straight": Card(
        "Lead straight",
        ("Push off the ball of the rear foot", "Fist from the cheek, elbow in",
         "Fist turns over on the last of the way", "Home on the same line"),
        "Stays even. Some keep it light, for range.",
        "Chin behind the shoulder, elbow a little bent.",
        ("Dips before it goes", "The elbow leads", "Leans after it", "Locks at the end"),
        ("flight_ms", "drop_mm", "path_ratio", "step_before_ms", "return_drop_mm"), _LOCK, 0.0, 10.0, 50.0,
    ),
    "rear-straight": Card(
        "Rear straight",
        ("Rear foot turns on its ball", "Hip follows the foot", "Shoulder goes through, the other one comes back",
         "Fist lands as the turn ends", "Home"),
        "As the school has it: through the middle, or over to the lead heel, the rear foot just heavy enough to stay.",
        "Hips square, rear toes toward the lead heel.",
        ("Rear foot stays locked, or rolls over", "Turns past the target", "Stands up tall",
         "Reaches instead of stepping"),
        ("turn_done_pct", "pivot_deg", "load_shift_pct", "lead_heel_pct"), _KNEE, 0.0, 45.0, 62.0,
    ),
    "lead-hook": Card(
        "Lead hook",
        ("Weight onto the lead side, the knee bends", "Elbow square and behind the fist",
         "Hip and shoulder to the front, the other shoulder back", "Weight where the school wants it", "Home"),
        "Back onto the rear heel, or it stays in the middle.",
        "Lead foot turned, or the knee dipped in and the foot kept, or square: as the school has it.",
        ("Lead hip rides up", "Swings wide", "Stands too close after a long straight"),
        ("load_shift_pct", "shoulder_tilt_deg", "hip_tilt_deg", "gap_ms"), "A turned leg is late against a low kick.",
        50.0, 0.0, 40.0,
    ),
    "rear-hook": Card(
        "Rear hook",
        ("Rear foot and hip first", "Elbow square", "Through the bag, not along it", "Home"),
        "From the rear foot to the lead foot.",
        "Hips square, elbow still behind the fist.",
        ("Swings wide", "The other hand falls", "Fist leads and the hip comes after"),
        ("turn_done_pct", "pivot_deg", "off_centre_m"), _KNEE, 0.0, 45.0, 60.0,
    ),
    "uppercut": Card(
        "Uppercut",
        ("Load that side: hips back, feet flat", "Push from the heels", "Hip turns, elbow stays close",
         "Up, in a small curve", "Home"),
        "From lead to rear, or from rear to lead, with the hand that strikes.",
        "Taller than it began, elbow still bent.",
        ("Only the toes push", "The arm works alone", "The face is open, with the lead hand most"),
        ("push_bw_s", "pelvis_rise_mm"), "", 15.0, 25.0, 50.0,
    ),
    "overhand": Card(
        "Overhand",
        ("Sink", "Hips go", "The arm trails behind the trunk", "The trunk slows and the arm whips past",
         "Through, the lean holds the recoil"),
        "Over to the lead foot.",
        "Low, head short of the lead knee.",
        ("Head past the knee", "Arm and trunk go together"),
        ("separation_deg", "chain_order", "settle_ms"), "", 0.0, 40.0, 70.0,
    ),
    "screwed-straight": Card(
        "Spiral straight",
        ("As a straight, elbow in", "The arm goes on turning, so that the hand passes a narrow gap",
         "Fist and stepping foot together", "Home the same way"),
        "Stays even.",
        "Thumb down, elbow pointing out of the way.",
        ("Elbow flares", "The turn begins at the cheek"),
        ("turnover_deg", "turnover_late_pct", "gap_ms"), _LOCK, 0.0, 10.0, 52.0,
    ),
    "palm-heel": Card(
        "Palm heel",
        ("Open hand already in front", "Sink and step as one", "Hip", "Ready to go again at once"),
        "With the step.",
        "Fingers back, elbow a little bent.",
        ("Drawn back first", "Locks the elbow"),
        ("pullback_mm", "step_before_ms"), _LOCK, 0.0, 15.0, 60.0,
    ),
    "hammer-fist": Card(
        "Hammer fist",
        ("Hand open and in front", "Step and sink as one", "Down, or across with a level elbow bent by half",
         "The fleshy edge lands"),
        "With the step, downward.",
        "Elbow bent, fist below the shoulder.",
        ("Drawn back first", "Locks the elbow"),
        ("pullback_mm", "step_before_ms"), _LOCK, 0.0, 15.0, 60.0,
    ),
    "back-fist": Card(
        "Back fist",
        ("Elbow level, fist at the far ear", "Hip", "Across, the first two knuckles land", "Back at once"),
        "Stays even, or with a step.",
        "Elbow a little bent.",
        ("Locks the elbow", "The wrist gives"),
        ("pullback_mm", "path_ratio"), _LOCK, 0.0, 10.0, 50.0,
    ),
    "elbow-across": Card(
        "Elbow across",
        ("Hand open", "The body turns as in a punch", "Level, half way across", "The last of the elbow lands"),
        "With the turn, onto the foot in front of it.",
        "Rear foot turned, short stance.",
        ("Closed fist", "Stance too long", "The face is open"),
        ("torso_peak_deg_s", "settle_ms"), _UNIT, 0.0, 45.0, 60.0,
    ),
    "elbow-down": Card(
        "Downward elbow",
        ("Hand open, elbow over the top", "Sink", "The point lands"),
        "Down, through both feet.",
        "Knees bent, head up.",
        ("Closed fist", "Bends at the waist"),
        ("torso_peak_deg_s", "pelvis_rise_mm"), _UNIT, 0.0, 0.0, 55.0,
    ),
    "elbow-diagonal": Card(
        "Diagonal elbow",
        ("Hand open", "The body turns", "Down along a crossed line", "The last of the elbow lands"),
        "With the turn.",
        "Rear foot turned.",
        ("Closed fist", "No trunk in it"),
        ("torso_peak_deg_s", "settle_ms"), _UNIT, 0.0, 40.0, 60.0,
    ),
    "elbow-back": Card(
        "Back elbow",
        ("Neutral stance, hand to the far ear", "Lean, or a short step and sink", "Straight back"),
        "Onto the foot behind.",
        "Eyes over the shoulder.",
        ("Long stance", "Does not look"),
        ("torso_peak_deg_s", "settle_ms"), _UNIT, 0.0, 0.0, 35.0,
    ),
    "elbow-spinning": Card(
        "Spinning elbow",
        ("One step, straight or at an angle, the foot already turned", "The rear leg straightens", "The trunk spins",
         "Into a stance again"),
        "Over the foot that stepped.",
        "In a stance, able to go on. From the lead side it takes a step more.",
        ("The rear leg slides in and crowds it", "Two steps where one will do"),
        ("torso_peak_deg_s", "settle_ms"), _UNIT, 90.0, 90.0, 60.0,
    ),
    "knee-straight": Card(
        "Straight knee",
        ("Fold the leg", "Hips through, trunk back", "Home"),
        "Over the standing leg.",
        "Standing leg a little bent, toes of the other one pointed.",
        ("Only the knee is raised", "Falls in after it"),
        ("impulse_n_s",), _UNIT, 20.0, 0.0, 95.0,
    ),
    "knee-side": Card(
        "Side knee",
        ("On one leg, the other foot only taps", "Knee in from the side", "Tap again"),
        "Over the standing leg.",
        "On one leg.",
        ("Leans away", "Both feet carry"),
        ("impulse_n_s",), "Slow work, for conditioning.", 20.0, 0.0, 95.0,
    ),
    "round": Card(
        "Round kick, full turn",
        ("Knee up, square", "Support foot turns on its ball, half round", "Leg level, upper hip over the lower",
         "On the bag it rebounds; in the air it is set down, or spins through"),
        "Over the ball of the support foot.",
        "Heel of the support foot at the target.",
        ("Hip slips under", "Toes up", "Fades before it lands", "Curls the bag in"),
        ("pivot_deg", "speed_held_pct"), _KNEE, 170.0, 0.0, 95.0,
    ),
    "round-snapped": Card(
        "Round kick, snapped",
        ("Straight up to the waist", "Out with little turn of the foot", "Fold back", "Set down"),
        "Over the support foot.",
        "Leg folded again before it comes down.",
        ("No fold back", "Knee low"),
        ("pivot_deg", "speed_held_pct", "flight_ms"), _KNEE, 50.0, 0.0, 92.0,
    ),
    "round-rising": Card(
        "Round kick, rising",
        ("Knee up half way to the side", "Rises at half a right angle", "Fold back", "Set down"),
        "Over the support foot.",
        "Support foot turned part of the way.",
        ("Hip slips under", "Leans late"),
        ("pivot_deg", "speed_held_pct"), _KNEE, 90.0, 0.0, 92.0,
    ),
    "front": Card(
        "Front kick",
        ("Fold high", "Snap, or push with the ball of the foot", "Home, or set down in front"),
        "Over the support foot, flat.",
        "Ankle locked for the instep; toes back for the ball.",
        ("Folds low", "The leg is swung"),
        ("path_ratio", "contact_speed_m_s"), "Never lock the knee.", 20.0, 0.0, 92.0,
    ),
    "side": Card(
        "Side kick",
        ("Lean", "Fold to the chest", "Extend: heel or outer edge lands", "Fold back"),
        "Over the support foot, heel toward the target.",
        "Low at first; higher when the fold holds.",
        ("Folds low", "The leg is swung"),
        ("path_ratio", "contact_speed_m_s"), "Never lock the knee.", 90.0, 0.0, 92.0,
    ),
}  # fmt: skip
