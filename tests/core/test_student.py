"""What a coach is promised of the student behind a strike, on units strapped on askew that end at 16 g."""

from dataclasses import replace

import numpy as np
import pytest
from makers import Played, dressed, play
from scipy.spatial.transform import Rotation

from agile_strike.core.analysis import Analysis, analyse
from agile_strike.core.measures.doubts import STRETCH
from agile_strike.core.recording import Recording, UnitSignal

#: measure: median and 95th percentile promised; per cent for speeds, masses and turn rates, else the measure's unit
PROMISED = {
    "contact_speed_m_s": (1.0, 5.0),
    "peak_speed_m_s": (0.5, 1.5),
    "flight_ms": (1.2, 3.0),
    "effective_mass_kg": (3.0, 8.0),
    "pullback_mm": (3.0, 10.0),
    "drop_mm": (4.0, 10.0),
    "tell_ms": (5.0, 15.0),
    "return_ms": (5.0, 16.0),
    "return_drop_mm": (4.0, 10.0),
    "turnover_deg": (3.5, 6.0),
    "pelvis_peak_deg_s": (0.5, 1.5),
    "torso_peak_deg_s": (0.5, 1.5),
    "pelvis_before_ms": (5.0, 8.0),
    "torso_before_ms": (4.0, 6.0),
    "hand_before_ms": (1.0, 3.0),
    "pelvis_rise_mm": (4.0, 10.0),
    "lean_deg": (1.5, 4.0),
    "hip_tilt_deg": (1.5, 4.0),
    "shoulder_tilt_deg": (1.5, 4.0),
    "lead_load_start_pct": (1.5, 6.0),
    "lead_load_contact_pct": (1.5, 6.0),
    "lead_heel_pct": (1.5, 4.0),
    "pivot_deg": (0.6, 1.5),
}


@pytest.fixture(scope="module")
def singles() -> Played:
    return play(dressed(), dressed(stance="southpaw", step_ms=45.0), seed=13)


@pytest.fixture(scope="module")
def bursts() -> Played:
    return play(dressed(burst=3), dressed(burst=3), seed=12)


def without(made: Recording, *units: str) -> Analysis:
    return analyse(replace(made, units={n: u for n, u in made.units.items() if n not in units}))


def with_unit(made: Recording, unit: UnitSignal) -> Analysis:
    return analyse(replace(made, units={**made.units, unit.unit: unit}))


def why(analysis: Analysis, measure: str) -> str:
    return next(n.why for n in analysis.not_measured if n.measure == measure and n.strike is None)


#: here units sit and measure as no unit does, and fists spring back alike: how wide these are is asked in worlds drawn
#: at random and on the rig (test_other_worlds, test_rig)
SEATED = ("pelvis_peak_deg_s", "torso_peak_deg_s", "pivot_deg", "return_drop_mm")


#: a tell is seen to two milliseconds, or now and then taken for another beginning: its doubt holds both; the mass
#: behind a blow is as unsure as how a bag was weighed, which here was well, a turn-over as arms that lie otherwise
WIDE = {"tell_ms": 5.0, "effective_mass_kg": 5.0, "effective_mass_pct": 5.0, "turnover_deg": 4.0}


@pytest.mark.parametrize("measure", PROMISED)
def test_figures_of_the_student_are_as_good_as_promised(singles: Played, measure: str) -> None:
    median, worst = PROMISED[measure]
    assert singles.score.median(measure) <= median
    assert singles.score.worst(measure) <= worst


@pytest.mark.parametrize("measure", PROMISED)
def test_their_doubt_is_honest(singles: Played, measure: str) -> None:
    assert singles.score.covered(measure) >= 0.82
    if measure not in SEATED:
        # and no wider than it needs to be, but for what worlds unlike this one do
        assert singles.score.wide(measure) <= WIDE.get(measure, 3.5) * STRETCH.get(measure, 1.0)


@pytest.mark.parametrize("measure", PROMISED)
def test_they_are_there_for_nearly_every_strike(singles: Played, measure: str) -> None:
    assert singles.score.there(measure) >= (0.3 if measure == "tell_ms" else 0.85)


def test_a_burst_keeps_the_bag_as_good_and_the_limb_near(bursts: Played) -> None:
    assert bursts.score.recall == 1.0
    assert bursts.score.median("impulse_n_s") <= 2.5
    assert bursts.score.median("contact_speed_m_s") <= 3.0
    assert bursts.score.worst("effective_mass_kg") <= 12.0


def test_every_contact_is_given_to_the_limb_that_made_it(singles: Played, bursts: Played) -> None:
    for played in (singles, bursts):
        for made, analysis in zip(played.simulated, played.analyses, strict=True):
            assert [s.limb for s in analysis.strikes] == [strike.limb for strike, _ in made.truths]


def test_clocks_are_tied_to_milliseconds(singles: Played) -> None:
    for made, analysis in zip(singles.simulated, singles.analyses, strict=True):
        assert made.worn is not None
        for clock in analysis.units:
            if clock.unit == "bag":
                continue
            offset, drift = made.worn.clocks[clock.unit]
            last = analysis.strikes[-1].contact_s
            errors = [1e3 * abs(clock.offset_s - offset + t * 1e-6 * (clock.drift_ppm - drift)) for t in (10.0, last)]
            assert clock.aligned
            assert max(errors) <= (8.0 if clock.unit.endswith("sole") else 6.0)


def test_power_climbs_from_the_ground(singles: Played) -> None:
    orders = [s.chain_order for a in singles.analyses for s in a.strikes]
    assert orders.count("pelvis>torso>hand") >= 0.9 * len(orders)


def test_without_stamps_the_trunk_is_tied_by_strikes_and_soles_by_what_they_carry(singles: Played) -> None:
    made = singles.simulated[0].recording

    def unstamped(unit: UnitSignal) -> UnitSignal:
        n = int(6 * unit.rate_hz)
        accel, sole = unit.accel_m_s2.copy(), None if unit.sole_n is None else unit.sole_n.copy()
        for signal in (accel, sole):
            if signal is not None:
                signal[:n], signal[-n:] = signal[n], signal[-n]
        return replace(unit, accel_m_s2=accel, sole_n=sole)

    units = {n: u if n == "bag" else unstamped(u) for n, u in made.units.items()}
    told = analyse(replace(made, units=units, events=()))
    assert told.flags == ("not_aligned:leftankle",)
    clocks = {u.unit: u for u in told.units}
    assert {clocks[n].aligned_by for n in ("pelvis", "torso")} <= {"strikes", "movement"}
    assert singles.simulated[0].worn is not None
    for name in ("leftsole", "rightsole"):
        offset, drift = singles.simulated[0].worn.clocks[name]
        own = np.array([5.0, clocks[name].own(np.array(made.units["bag"].length_s - 5.0))])
        error = np.abs(clocks[name].reference(own) - (offset + own * (1.0 + 1e-6 * drift))).max()
        assert clocks[name].aligned_by == "load"
        assert error < 0.02
        assert error < 2e-3 * clocks[name].residual_ms
    no_trunk = {n: u for n, u in units.items() if u.kind not in ("pelvis", "torso")}
    alone = analyse(replace(made, units=no_trunk, events=()))
    assert "not_aligned:leftsole" in alone.flags
    assert "three stamps" in why(alone, "lead_load_contact_pct")
    assert all("settle_ms" not in s.measures for s in alone.strikes)
    with_stamps = singles.analyses[0].strikes
    for name in ("pelvis_before_ms", "turn_done_pct", "separation_deg"):
        sds = [
            np.median([s.measures[name].sd for s in found if name in s.measures])
            for found in (told.strikes, with_stamps)
        ]
        assert sds[0] > 1.5 * sds[1], name  # and says how loosely
    assert all("contact_speed_m_s" in s.measures for s in told.strikes)


def test_what_needs_a_missing_unit_is_absent_and_says_what_would_bring_it(singles: Played) -> None:
    made = singles.simulated[0].recording
    assert why(without(made, "torso"), "lean_deg") == "no torso unit in this recording"
    assert "sole" in why(without(made, "leftsole"), "settle_ms")
    alone = without(made, *(n for n in made.units if n not in ("bag", "pelvis")))
    assert why(alone, "contact_speed_m_s") == "no unit on the striking limb in this recording"
    assert set.union(*(set(s.measures) for s in alone.strikes)) & {"pelvis_peak_deg_s", "flight_ms"} == set()


def test_swapped_wrists_are_noticed(singles: Played) -> None:
    made = singles.simulated[0]
    left, right = (made.recording.units[f"{side}wrist"] for side in ("left", "right"))
    swapped = {"leftwrist": replace(right, unit="leftwrist"), "rightwrist": replace(left, unit="rightwrist")}
    told = analyse(replace(made.recording, units={**made.recording.units, **swapped}))
    assert "units_swapped" in told.flags
    assert [s.limb for s in told.strikes] == [strike.limb for strike, _ in made.truths]


def test_a_unit_that_fell_silent_is_told_and_the_rest_stands(singles: Played) -> None:
    made = singles.simulated[0].recording
    unit = made.units["rightwrist"]
    accel = unit.accel_m_s2.copy()
    accel[int(15 * unit.rate_hz) : int(22 * unit.rate_hz)] = np.nan
    told = with_unit(made, replace(unit, accel_m_s2=accel))
    hidden = [s for s in told.strikes if "gap:rightwrist" in s.flags]
    assert hidden
    assert all("contact_speed_m_s" not in s.measures and "impulse_n_s" in s.measures for s in hidden)
    # the guard beside the hole is hidden too: a neighbour may lose its speed with it
    assert sum("contact_speed_m_s" in s.measures for s in told.strikes) >= len(told.strikes) - len(hidden) - 2


def test_how_a_unit_was_strapped_on_changes_nothing_but_its_own_axes(singles: Played) -> None:
    made, plain = singles.simulated[0].recording, singles.analyses[0]
    unit = made.units["leftwrist"]
    turn = Rotation.from_rotvec([0.15, -0.1, 0.12])
    turned = replace(
        unit,
        accel_full_scale_m_s2=np.inf,
        accel_m_s2=turn.apply(unit.accel_m_s2).astype(np.float32),
        gyro_rad_s=turn.apply(unit.gyro_rad_s).astype(np.float32),
    )
    for a, b in zip(plain.strikes, with_unit(made, turned).strikes, strict=True):
        if a.limb == "left_hand" and "clipped:leftwrist" not in a.flags:
            assert b.measures["contact_speed_m_s"].value == pytest.approx(
                a.measures["contact_speed_m_s"].value, rel=0.01
            )


def test_a_heavier_student_has_a_smaller_share_behind_the_same_strike(singles: Played) -> None:
    made, plain = singles.simulated[0].recording, singles.analyses[0]
    assert made.participant.mass_kg is not None
    heavy = analyse(replace(made, participant=replace(made.participant, mass_kg=2 * made.participant.mass_kg)))
    a, b = (x.strikes[0].measures["effective_mass_pct"].value for x in (plain, heavy))
    assert b == pytest.approx(a / 2, rel=1e-6)


def test_a_unit_that_slipped_round_is_told(singles: Played) -> None:
    made = singles.simulated[0].recording
    unit = made.units["pelvis"]
    half, turn = len(unit.accel_m_s2) // 2, Rotation.from_rotvec([0.9, 0.0, 0.0])
    accel, gyro = unit.accel_m_s2.copy(), unit.gyro_rad_s.copy()
    accel[half:], gyro[half:] = turn.apply(accel[half:]), turn.apply(gyro[half:])
    assert "slipped:pelvis" in with_unit(made, replace(unit, accel_m_s2=accel, gyro_rad_s=gyro)).flags
    assert not any(f.startswith("slipped") for a in singles.analyses for f in a.flags)


def test_plates_under_the_feet_tell_all_but_the_heel(singles: Played) -> None:
    made, whole = singles.simulated[0].recording, singles.analyses[0]
    plates = {}
    for name in ("leftsole", "rightsole"):
        unit = made.units[name]
        load = unit.under_foot_n
        plates[name] = replace(unit, sole_n=np.column_stack([np.full_like(load, np.nan), load]))
    told = analyse(replace(made, units={**made.units, **plates}))
    seen = 0
    for own, other in zip(told.strikes, whole.strikes, strict=True):
        assert "lead_heel_pct" not in own.measures
        for measure in ("lead_load_contact_pct", "load_shift_pct", "push_bw_s", "settle_ms"):
            if measure in other.measures:
                assert own.measures[measure].value == pytest.approx(other.measures[measure].value, rel=1e-4, abs=1e-4)
                seen += 1
    assert seen > 20


def test_a_tell_whose_beginning_the_sway_hides_is_left_out_and_the_reason_said(singles: Played) -> None:
    hidden = 0
    for analysis in singles.analyses:
        said = {n.strike for n in analysis.not_measured if n.measure == "tell_ms"}
        for i, strike in enumerate(analysis.strikes):
            drawn = max(strike.measures[n].value for n in ("pullback_mm", "drop_mm"))
            assert (i in said) == (drawn > 15.0 and "tell_ms" not in strike.measures)
            hidden += i in said
    assert hidden > 0


def test_a_gyro_that_was_off_takes_its_limb_out_and_is_named(singles: Played) -> None:
    made = singles.simulated[0].recording

    def dead(name: str) -> UnitSignal:
        unit = made.units[name]
        return replace(unit, gyro_rad_s=np.zeros_like(unit.gyro_rad_s))

    told = with_unit(made, dead("rightwrist"))
    rights = [i for i, s in enumerate(told.strikes) if s.limb == "right_hand"]
    assert rights
    for i in rights:
        assert "contact_speed_m_s" not in told.strikes[i].measures
        assert "impulse_n_s" in told.strikes[i].measures
        said = {n.why for n in told.not_measured if n.strike == i and n.measure == "contact_speed_m_s"}
        assert said == {"rightwrist gave no turn rates"}
    assert any("contact_speed_m_s" in s.measures for s in told.strikes if s.limb == "left_hand")
    assert why(with_unit(made, dead("pelvis")), "turn_deg") == "pelvis gave no turn rates"


def test_a_bag_unit_without_turn_rates_measures_nothing_and_says_so(singles: Played) -> None:
    made = singles.simulated[0].recording
    bag = made.units["bag"]
    told = with_unit(made, replace(bag, gyro_rad_s=np.zeros_like(bag.gyro_rad_s)))
    assert told.strikes == []
    assert why(told, "impulse_n_s") == "the bag unit gave no turn rates: without them its push can't be had"
