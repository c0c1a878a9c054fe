"""The measures in a coach's plain words, from the floor to the bag: what is told first; definitions come after.

One order everywhere: as power climbs.
"""

#: groups in their order -> measures in theirs -> what each answers
PLAIN: dict[str, dict[str, str]] = {
    "The floor": {
        "lead_load_start_pct": "How much weight is over the lead foot as it sets off?",
        "lead_load_contact_pct": "How much weight is over the lead foot as it lands?",
        "load_shift_pct": "How much weight came onto the lead foot?",
        "lead_heel_pct": "How much of that is on the heel?",
        "step_before_ms": "Does the foot land with the strike, or before it?",
        "push_bw_s": "Did the legs push up, or sink?",
        "pivot_deg": "How far did the foot turn?",
        "settle_ms": "How long until the stance is steady again?",
    },
    "Hips and shoulders": {
        "pelvis_rise_mm": "Did the hips rise, or sink?",
        "turn_deg": "How far did the hips turn?",
        "turn_done_pct": "Was the turn done when it landed?",
        "pelvis_peak_deg_s": "How fast did the hips turn?",
        "pelvis_before_ms": "When were the hips fastest?",
        "torso_peak_deg_s": "How fast did the shoulders turn?",
        "torso_before_ms": "When were the shoulders fastest?",
        "chain_order": "Hips first, then shoulders, then the hand?",
        "separation_deg": "Did the shoulders lag behind the hips?",
        "lean_deg": "How far does the body lean in?",
        "hip_tilt_deg": "Are the hips level?",
        "shoulder_tilt_deg": "Are the shoulders level?",
    },
    "Hand or foot": {
        "pullback_mm": "Is it drawn back first?",
        "drop_mm": "Does it dip first?",
        "tell_ms": "How long can it be seen coming?",
        "flight_ms": "How long is it on its way?",
        "path_ratio": "Is the way straight?",
        "peak_speed_m_s": "How fast at its fastest?",
        "hand_before_ms": "When was it fastest?",
        "contact_speed_m_s": "How fast as it lands?",
        "speed_held_pct": "Does it keep its speed until it lands?",
        "turnover_deg": "How far does the fist turn over?",
        "turnover_late_pct": "Does it turn over late, where it should?",
        "return_ms": "How long until the hand is home?",
        "return_drop_mm": "Does it sink on its way home?",
    },
    "The bag": {
        "effective_mass_kg": "How much of the body is behind it?",
        "effective_mass_pct": "How much of the body is behind it, for this weight?",
        "effective_mass_estimated_kg": "How much is usually behind it, on your bag?",
        "impulse_n_s": "How hard did it hit: how much did it move the bag?",
        "impulse_estimated_n_s": "How hard would it hit your bag?",
        "peak_force_n": "How high was the push at its highest?",
        "push_index": "A push, or a slap?",
        "bag_energy_j": "How much did the bag swing for it?",
        "contact_ms": "How long was it on the bag?",
        "rise_ms": "How fast did the push come?",
        "level": "Head, body or low?",
        "hit_below_top_m": "How high did it land?",
        "off_centre_m": "Did it land in the middle?",
        "direction_deg": "Which way did it push?",
    },
    "Timing": {
        "reaction_ms": "How long from the call until it sets off?",
        "response_ms": "How long from the call until it lands?",
        "gap_ms": "How long since the one before?",
    },
}
#: what is shown of a strike where nobody chose: eight, from the floor to the bag
USUAL = (
    *("load_shift_pct", "turn_done_pct", "pullback_mm", "flight_ms", "contact_speed_m_s", "return_ms"),
    *("effective_mass_kg", "impulse_n_s"),
)
#: of a child: technique first, and nothing that only full effort shows
USUAL_OF_A_CHILD = (
    *("lead_load_contact_pct", "settle_ms", "turn_done_pct", "pullback_mm", "drop_mm", "path_ratio"),
    *("return_ms", "return_drop_mm"),
)


def group_of(name: str) -> str:
    return next((group for group, members in PLAIN.items() if name in members), "")


def plain(name: str) -> str:
    """What a measure answers, in a coach's words."""
    return next((members[name] for members in PLAIN.values() if name in members), "")
