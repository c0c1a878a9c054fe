"""The set-up check: what a coach looks at before the first strike, and who sees it."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Point:
    name: str
    look_for: str
    mistake: str
    measures: tuple[str, ...] = ()  #: by which units see it; none: the coach's eye alone


POINTS: dict[str, Point] = {
    "width": Point(
        "Width and line",
        "Feet under hips or shoulders; the lead foot can slide back past the rear one.",
        "On one line, crossed, or too wide.",
    ),
    "foot-angles": Point(
        "Foot angles",
        "Rear foot half out, lead foot a little in, or as the school has it.",
        "Rear foot straight or sideways.",
    ),
    "facing": Point("Facing", "Bladed, or hips to the front for kicks.", "Drifts square."),
    "weight": Point(
        "Weight", "Even, or over the rear knee, as the school has it.", "On the toes.", ("lead_load_start_pct",)
    ),
    "heels": Point("Heels", "Light, or flat, as the school has it.", "Stuck, or on tiptoe.", ("lead_heel_pct",)),
    "knees": Point(
        "Knees", "A little bent; lower for the body.", "Straight, and bends at the waist.", ("pelvis_rise_mm",)
    ),
    "trunk": Point(
        "Trunk", "Upright, or rounded, as the school has it; hips loose.", "Rocks to and fro.", ("lean_deg",)
    ),
    "level": Point(
        "Level", "Hips and shoulders level.", "Lead side rides up in a hook.", ("hip_tilt_deg", "shoulder_tilt_deg")
    ),
    "head": Point(
        "Head, eyes, chin", "Head between the knees, eyes on the target, chin in.", "Chin up, or looks away."
    ),
    "guard": Point("Guard", "Other hand at the face, elbows over the ribs.", "Falls as the first one goes."),
    "fist": Point("Fist", "Fingers rolled in, thumb locked below, first two knuckles.", "Half open, or thumb inside."),
    "wrist": Point(
        "Wrist and elbow",
        "Knuckles, wrist and elbow on one line, the end a little bent.",
        "Wrist gives, elbow flares, or locks.",
    ),
    "shoulder": Point(
        "Shoulder link",
        "The arm holds when a partner presses the fist.",
        "The arm works alone.",
        ("effective_mass_kg",),
    ),
    "breath": Point("Breath", "Short, out, with each strike.", "Held."),
    "space": Point(
        "Bag and space", "Mount as last time, nobody near, units off the striking surface.", "Not looked at."
    ),
}
