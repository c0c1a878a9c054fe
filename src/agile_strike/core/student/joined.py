"""Joins what the bag knew of each strike with what worn units add, and says what is missing and what would bring it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from agile_strike.core.measures.doubts import held, too_wide
from agile_strike.core.measures.of_student import BODY_MEASURES
from agile_strike.core.recording import Recording
from agile_strike.core.registry import PLAUSIBLE
from agile_strike.core.strikes import NotMeasured, Strike
from agile_strike.core.student.align import LIMB_KINDS
from agile_strike.core.student.alone import Found
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.state import BodyState
from agile_strike.core.student.strikes import OfStudent, measure, measure_alone
from agile_strike.core.student.tell import told
from agile_strike.core.student.worn import Contact

#: what a measure needs -> how a coach would bring it
UNIT_OF = {
    "limb": "unit on the striking limb",
    "pelvis": "pelvis unit",
    "torso": "torso unit",
    "soles": "pair of sole units",
    "ankle": "ankle unit on the standing foot",
    "body_mass": "body mass",
    "cues": "call-outs",
    "bag": "bag unit",
}
TOO_WIDE = "what is known of it in this strike leaves more open than the figure would say"
NO_TURN_RATES = "gave no turn rates"  # a gyro that was off, or left out of the file
WORN_FOR = {"hand": ("wrist", "forearm"), "elbow": ("forearm", "wrist"), "foot": ("ankle",), "knee": ("ankle",)}
#: measures that are absent because nothing of the kind happened, not because a unit failed
HAPPENS = frozenset(
    {
        "tell_ms",
        "step_before_ms",
        "lead_heel_pct",
        "turnover_deg",
        "turnover_late_pct",
        "settle_ms",
        "return_ms",
        "return_drop_mm",
        "reaction_ms",
        "response_ms",
    }
)


@dataclass(frozen=True, slots=True)
class WithStudent:
    """A recording's strikes with what worn units add to them."""

    strikes: list[Strike]
    state: BodyState
    flags: tuple[str, ...]  #: of the whole
    notes: list[NotMeasured]  #: what is missing, and what would bring it


def with_student(recording: Recording, found: list[Strike], alone: Found | None = None) -> WithStudent:
    """The strikes with limb and measures of the student; `alone` where no bag but the units themselves found them."""
    silent = sorted(n for n, u in recording.units.items() if u.sole_n is None and not u.feels_turning)
    feeling = replace(recording, units={n: u for n, u in recording.units.items() if n not in silent})
    if alone is None:
        said = measure(feeling, contacts_of(found))
    else:
        pairs = zip(contacts_of(found), alone.blows, strict=True)
        contacts = [
            replace(c, length_s=b.length_s or None, at_sd_s=b.at_sd_s, speed_sd_share=b.speed_sd_share)
            for c, b in pairs
        ]
        said = measure_alone(feeling, contacts, alone)
    out = [added(s, o) for s, o in zip(found, said.strikes, strict=True)]
    untied = sorted(n for n, c in said.clocks.items() if not c.aligned)
    whole = lacking(_have(recording, said.clocks) if alone is None else _have(recording, said.clocks) | {"limb"})
    notes = [NotMeasured(name, _why(need, recording, untied, silent)) for name, need in whole]
    wide = [frozenset(o.measures).difference(s.measures) for s, o in zip(out, said.strikes, strict=True)]
    notes += _of_single(out, {m for m, _ in whole}, silent, wide)
    flags = (*said.flags, *(f"not_aligned:{n}" for n in untied))
    return WithStudent(out, said.state, flags, notes)


def contacts_of(found: Sequence[Strike]) -> list[Contact]:
    """What the bag knew of each strike."""
    return [
        Contact(
            s.contact_s,
            s.measures["contact_ms"].value / 1e3 if "contact_ms" in s.measures else None,
            s.measures.get("impulse_n_s"),
            s.limb,
            s.kind,
        )
        for s in found
    ]


def added(strike: Strike, more: OfStudent) -> Strike:
    """A strike with what worn units say of it, as far as that says anything."""
    told_of = held(more.measures)
    wide = too_wide(told_of)
    return replace(
        strike,
        limb=more.limb,
        measures=strike.measures | {n: m for n, m in told_of.items() if n not in wide},
        flags=(*strike.flags, *more.flags, *_implausible(more)),
        chain_order=more.chain_order,
        launch_s=more.launch_s,
        lanes=more.lanes,
    )


def _of_single(
    strikes: list[Strike], missing: set[str], silent: list[str], wide: list[frozenset[str]]
) -> list[NotMeasured]:
    """Why single strikes lack what others of the recording have; of each, what was known too loosely."""
    notes = []
    for i, s in enumerate(strikes):
        notes += [NotMeasured(n, TOO_WIDE, i) for n in sorted(wide[i])]
        why = "the limb's unit was clipped, hidden or never in the guard beside this strike"
        if s.launch_s is not None:
            why = "this strike did not show it: too little time in the guard, or samples missing"
        elif dumb := [n for n in silent if n in _units_for(s.limb)]:
            why = f"{' and '.join(dumb)} {NO_TURN_RATES}"
        notes += [
            NotMeasured(m.name, why, i)
            for m in BODY_MEASURES
            if m.numeric
            and m.name not in missing
            and m.name not in s.measures
            and m.name not in HAPPENS
            and m.name not in wide[i]
        ]
        if told(s.measures) and "tell_ms" not in s.measures:
            why = "the limb gave itself away, but its guard swayed too much to say since when"
            notes.append(NotMeasured("tell_ms", why, i))
    return notes


def _units_for(limb: str) -> tuple[str, ...]:
    """Units that a limb may wear, as right_hand."""
    side, _, part = limb.partition("_")
    return tuple(f"{side}{kind}" for kind in WORN_FOR.get(part, ()))


def lacking(have: frozenset[str]) -> list[tuple[str, str]]:
    """Measures that a recording can't give of any strike, each with the first thing that it lacks."""
    return [
        (m.name, next(n for n in m.needs if n not in have))
        for m in BODY_MEASURES
        if any(n not in have for n in m.needs)
    ]


def _have(recording: Recording, clocks: dict[str, UnitClock]) -> frozenset[str]:
    tied = {n for n, c in clocks.items() if c.aligned}
    kinds = {recording.units[n].kind for n in tied}
    have = {"bag"}
    have |= {"limb"} if kinds & set(LIMB_KINDS) else set()
    have |= kinds & {"pelvis", "torso", "ankle"}
    have |= {"soles"} if {"leftsole", "rightsole"} <= tied else set()
    have |= {"body_mass"} if recording.participant.mass_kg else set()
    have |= {"cues"} if any(e.trial_type == "cue" for e in recording.events) else set()
    return frozenset(have)


def _why(need: str, recording: Recording, untied: list[str], silent: list[str]) -> str:
    dumb = [n for n in silent if _serves(need, recording.units[n].kind)]
    if dumb:
        return f"{' and '.join(dumb)} {NO_TURN_RATES}"
    there = [n for n in untied if _serves(need, recording.units[n].kind)]
    if there:
        by = "contacts" if need == "limb" else "three stamps at the start and end"
        return f"the clock of {' and '.join(there)} could not be tied to the bag's: {by} would"
    return f"no {UNIT_OF[need]} in this recording"


def _serves(need: str, kind: str) -> bool:
    return kind in LIMB_KINDS if need == "limb" else kind == {"soles": "sole"}.get(need, need)


def _implausible(one: OfStudent) -> list[str]:
    return [
        f"implausible:{n}"
        for n, (low, high) in PLAUSIBLE.items()
        if n in one.measures and not low <= one.measures[n].value <= high
    ]
