"""From what is seen to what to drill: a fault finds its drill, and who has none is sent to none."""

from dataclasses import replace

import numpy as np
import pytest
from kept import simulate

from agile_strike.core.analysis import analyse
from agile_strike.core.drills.advice import Advice, Figure, Seen, advise
from agile_strike.core.drills.ladders import LADDERS, Ladder
from agile_strike.core.drills.signs import ASKED, SIGNS, Sign
from agile_strike.core.drills.tally import Heard, tally
from agile_strike.core.measured import Measured
from agile_strike.core.playbook.schools import CHAIN, SHIPPED, Check, School
from agile_strike.core.recording import Participant
from agile_strike.core.registry import MEASURES
from agile_strike.core.simulation.plan import Evening, SetPlan
from agile_strike.core.simulation.student import KICK, Body, Technique
from agile_strike.core.simulation.wear import WORN
from agile_strike.core.target import Bag
from agile_strike.core.vocabulary import FACTORS, REMARKS, STRIKES

BAG = Bag("swivel", 52.0, 1.25, 0.36, 0.28, mass_sd_kg=0.25, chain_m=0.55, level_bands_m=(0.40, 0.85))
GOOD = Technique(
    lead_load_contact=0.54, lead_load_start=0.5, lean_deg=2.0, settle_ms=240.0, return_s=0.24, drop_m=0.003
)
GOOD_KICK = replace(KICK, speed_held=0.95, pivot_deg=160.0)
OF_LIMB = {"right_hand": "rear-straight", "left_hand": "lead-straight", "right_foot": "rear-round"}


def advised(seed: int, straight: dict[str, float], kick: dict[str, float]) -> list[Advice]:
    fist, foot = replace(GOOD, **straight), replace(GOOD_KICK, **kick)  # type: ignore[arg-type]
    sets = (
        SetPlan("rear-straight", "right_hand", "head", 8, 2.8, 6.2, technique=fist),
        SetPlan("lead-straight", "left_hand", "head", 6, 2.4, 5.8, technique=fist),
        SetPlan("rear-round", "right_foot", "low", 6, 5.0, 8.0, 20.0, technique=foot),
    )
    who = Participant("01", 70.0, 1.75, 30.0, "orthodox", "right")
    made = simulate(Evening(BAG, sets, who, bumps=1, worn=WORN, body=Body()), np.random.default_rng(seed))
    seen = [Seen(OF_LIMB[s.limb], s.measures, s.chain_order, (), SHIPPED[0]) for s in analyse(made.recording).strikes]
    return advise(seen)


@pytest.mark.parametrize(
    ("straight", "kick", "drills"),
    [
        ({"drop_m": 0.06}, {"speed_held": 0.78, "hand_before_ms": 30.0}, {"mirror", "kick-power"}),
        ({"bow_m": 0.13}, {"pivot_deg": 30.0}, {"gate", "kick-form"}),
        ({"pelvis_before_ms": 45.0, "torso_before_ms": 85.0}, {}, {"slow-parts"}),
        ({"step_ms": 140.0}, {}, {"sinking-step"}),
        ({"lead_load_contact": 0.38}, {}, {"start-loaded"}),
    ],
)
def test_a_fault_finds_its_drill(straight: dict[str, float], kick: dict[str, float], drills: set[str]) -> None:
    assert drills <= {a.sign.drill for a in advised(5, straight, kick)[:2]}


def test_who_has_no_fault_is_sent_to_no_drill() -> None:
    assert [a.figure for a in advised(6, {}, {})] == []


def strikes(value: float, sd: float, n: int = 8, **more: object) -> list[Seen]:
    return [
        Seen("rear-straight", {"pullback_mm": Measured(value + k % 3, sd)}, **more)  # type: ignore[arg-type]
        for k in range(n)
    ]


def test_chance_doubt_and_one_slip_are_no_fault() -> None:
    assert [a.sign.drill for a in advise(strikes(40.0, 3.0))] == ["mirror"]
    assert advise(strikes(40.0, 3.0, 3)) == []
    assert advise(strikes(22.0, 30.0)) == []  # the whole recording may be off by more
    slip = [*strikes(8.0, 3.0), Seen("rear-straight", {"pullback_mm": Measured(300.0, 3.0)})]
    assert advise(slip) == []


def test_what_a_school_teaches_and_a_trial_asks_for_is_no_fault() -> None:
    far = School("far back", "", (Check("wind up", "pullback_mm", 30.0, None),))
    assert advise(strikes(60.0, 3.0, school=far)) == []
    assert advise(strikes(60.0, 3.0, factors=("hand start",))) == []
    near = School("near", "", (Check("none", "pullback_mm", None, 5.0, ("rear-straight",)),))
    (told,) = advise(strikes(12.0, 1.0, school=near))
    assert told.figure == Figure("pullback_mm", pytest.approx(12.875), 8, 5.0, low=False, school="near")


def test_a_coachs_remark_speaks_where_it_comes_back() -> None:
    said = [replace(s, remarks=("arm only",) if k < 4 else ()) for k, s in enumerate(strikes(5.0, 1.0))]
    (told,) = advise(said)
    assert (told.sign.drill, told.strikes) == ("leg-drive", (0, 1, 2, 3))
    assert told.words == "4 of 8 were remarked on: “arm only”."
    assert advise(said[3:]) == []


def test_a_child_is_asked_for_no_power() -> None:
    weak = [Seen("rear-straight", {"effective_mass_pct": Measured(1.0 + 0.01 * k, 0.05)}) for k in range(8)]
    assert [a.sign.drill for a in advise(weak)] == ["leg-drive"]
    assert advise(weak, child=True) == []


def test_signs_speak_of_what_there_is() -> None:
    for sign in SIGNS:
        assert sign.drill in LADDERS
        assert sign.measure is None or sign.measure == CHAIN or sign.measure in MEASURES
        assert set(sign.remarks) <= {word for words in REMARKS.values() for word in words}
        assert any(sign.fits(code) for code in STRIKES)
        assert sign.seen.endswith(".")
    assert set(ASKED) - {"effort"} <= set(FACTORS)


def test_a_gyms_own_rules_and_ladders_go_before_ours() -> None:
    own = Sign("late", "It comes late.", "own", "pullback_mm", edge=2.0, remarks=("drew back",))
    ladder = Ladder("own", "Our own", ("once",), "10")
    (told,) = advise(strikes(5.0, 0.1), signs=[own], ladders={"own": ladder})
    assert (told.ladder.name, told.figure and told.figure.edge) == ("Our own", 2.0)
    assert advise(strikes(5.0, 0.1), signs=[own], ladders={}) == []
    assert advise(strikes(5.0, 0.1), signs=[own], ladders={"own": replace(ladder, children=False)}, child=True) == []


def test_what_was_said_is_set_against_what_units_say() -> None:
    said = [replace(s, remarks=("drew back",) if k in (0, 1, 9) else ()) for k, s in enumerate(strikes(60.0, 3.0, 8))]
    said += [Seen("rear-straight", {"pullback_mm": Measured(v, 3.0)}, None, ("drew back",)) for v in (5.0, 21.0)]
    said += [Seen("rear-straight", {}, None, ("drew back", "good")), Seen("rear-round", {}, None, ("good",))]
    drew, good = tally(said, SIGNS)
    # of five, one is too close to the edge and one is not measured
    assert drew == Heard("drew back", 5, "pullback_mm", shown=2, told=3, others_shown=6, others_told=6)
    assert good == Heard("good", 2)
