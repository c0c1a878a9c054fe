"""Words that sets are labelled with: strike codes `side-family[-variant]`, factors and levels; a gym adds its own."""

import re
from dataclasses import dataclass

_PUNCHES = ("straight", "hook", "hook-palm-in", "hook-palm-down", "uppercut", "overhand", "screwed-straight")
_HANDS = (*_PUNCHES, "palm-heel", "hammer-fist", "back-fist")
_ELBOWS = ("elbow-across", "elbow-down", "elbow-diagonal", "elbow-back", "elbow-spinning")
_KNEES = ("knee-straight", "knee-side")
_KICKS = ("round", "round-rising", "round-snapped", "front-snap", "front-push", "side")
_ALL = (*_HANDS, *_ELBOWS, *_KNEES, *_KICKS)
STRIKE_CODES = tuple(f"{side}-{family}" for side in ("lead", "rear") for family in _ALL)

#: what a family of strikes is called beside its side, and how it travels: the shape that its small picture shows
_SPOKEN: dict[str, tuple[str, str]] = {
    "straight": ("straight", "straight"),
    "hook": ("hook", "across"),
    "hook-palm-in": ("hook, palm in", "across"),
    "hook-palm-down": ("hook, palm down", "across"),
    "uppercut": ("uppercut", "up"),
    "overhand": ("overhand", "over"),
    "screwed-straight": ("spiral straight", "screwed"),
    "palm-heel": ("palm heel", "straight"),
    "hammer-fist": ("hammer fist", "over"),
    "back-fist": ("back fist", "back"),
    "elbow-across": ("elbow across", "across"),
    "elbow-down": ("downward elbow", "over"),
    "elbow-diagonal": ("diagonal elbow", "over"),
    "elbow-back": ("back elbow", "back"),
    "elbow-spinning": ("spinning elbow", "back"),
    "knee-straight": ("straight knee", "up"),
    "knee-side": ("side knee", "across"),
    "round": ("round kick", "across"),
    "round-rising": ("round kick, rising", "up"),
    "round-snapped": ("round kick, snapped", "across"),
    "front-snap": ("front kick, snapped", "up"),
    "front-push": ("front kick, pushed", "straight"),
    "side": ("side kick", "straight"),
}
#: what else coaches call them
_ALSO: dict[str, tuple[str, ...]] = {
    "lead-straight": ("jab", "lead punch"),
    "rear-straight": ("cross", "reverse", "reverse punch"),
    "lead-screwed-straight": ("screwed straight", "corkscrew"),
    "rear-screwed-straight": ("screwed straight", "corkscrew"),
    "lead-round": ("roundhouse",),
    "rear-round": ("roundhouse",),
    "lead-front-push": ("push kick",),
    "rear-front-push": ("push kick",),
    "lead-front-snap": ("front snap kick",),
    "rear-front-snap": ("front snap kick",),
}


@dataclass(frozen=True, slots=True)
class StrikeWord:
    """A strike as a coach says and finds it."""

    code: str
    name: str
    also: tuple[str, ...] = ()
    family: str = "hand"  #: hand, elbow or kick
    path: str = "straight"  #: how it travels: straight, across, up, over, back, screwed; empty of a gym's own


def _word(code: str) -> StrikeWord:
    side, _, family = code.partition("-")
    name, path = _SPOKEN[family]
    return StrikeWord(code, f"{side} {name}", _ALSO.get(code, ()), family_of(code), path)


def code_for(name: str) -> str:
    """The code that a strike of a gym's own has, by its name: letters and figures, joined."""
    return "-".join(re.findall(r"[a-z0-9]+", name.lower()))


FACTORS: dict[str, tuple[str, ...]] = {
    "start weight": ("even", "rear-loaded", "lead-loaded"),
    "weight transfer": (
        "stay centred",
        "full shift onto the lead heel",
        "full shift back onto the rear heel",
        "drive and lean through",
    ),
    "vertical": ("level", "drop with the step", "lift through the legs", "sink while turning in"),
    "step": ("no step", "fist and foot together", "step then half-step", "diagonal", "45 degrees into a kick"),
    "hip and foot turn": ("no turn", "small hip thrust", "knee dip", "full turn", "over-turned"),
    "stance": ("orthodox", "southpaw", "even", "bladed", "tall", "low", "narrow", "wide"),
    "hand start": ("guard", "chambered", "other hand pulled back"),
    "fist": ("turned over late", "turned early", "vertical"),
    "aim depth": ("surface", "a hand's breadth behind"),
    "round-kick style": ("full hip turn", "quick snap"),
    "preparation": ("no preparation", "rope squats", "medicine ball", "light hand weights"),
    "body tension": ("loose until contact", "opened then closed"),
}

RESERVED = (",", ";", "=", "|")  # they part words of a planned set in recordings, tables and on the command line
#: what a coach sees in a strike, in one tap: family of strikes -> words; `any` fits all
REMARKS: dict[str, tuple[str, ...]] = {
    "hand": ("dipped", "drew back", "elbow out", "hand dropped", "wrist soft", "locked", "stopped at touch",
             "low return", "arm only", "stepped early", "clean"),
    "elbow": ("fist closed", "crowded", "two steps", "face open", "no trunk", "good edge"),
    "kick": ("foot stuck", "low knee", "hip under", "toes up", "faded", "curled", "leaned late", "no fold back"),
    "any": ("good", "leaned", "tall", "reached", "over-turned", "held breath", "rushed"),
}  # fmt: skip
#: the ramp before any full strike: how hard, and about which share of the usual full one that is
EFFORTS = {"light": 0.35, "half": 0.5, "three-quarter": 0.75}
EFFORT = "effort"  # the factor that a ramp's sets carry


def family_of(code: str) -> str:
    """Which family's remarks fit a strike of this code: hand, elbow or kick."""
    family = code.partition("-")[2]
    if family.startswith("elbow"):
        return "elbow"
    return "kick" if family in (*_KNEES, *_KICKS) or "kick" in code else "hand"


LEADING, REAR = "lead-", "rear-"
LEAD_OF = {"orthodox": "left", "southpaw": "right"}


def unsided(code: str) -> str:
    """A strike whichever side throws it, as `-hook`; a gym's own that has no side stays as it is."""
    side, _, family = code.partition("-")
    return f"-{family}" if f"{side}-" in (LEADING, REAR) and family else code


def spoken_name(name: str) -> str:
    """An unsided name as a coach says it."""
    return _SPOKEN[name[1:]][0] if name[1:] in _SPOKEN else name.removeprefix("-").replace("-", " ")


def sided(name: str, side: str, stance: str) -> str:
    """The other way: what it is called when that side (left, right) throws it in that stance."""
    if not name.startswith("-"):
        return name
    return (LEADING if LEAD_OF.get(stance) == side else REAR) + name[1:]


STRIKES: dict[str, StrikeWord] = {code: _word(code) for code in STRIKE_CODES}
