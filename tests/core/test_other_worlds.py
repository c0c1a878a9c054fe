"""Worlds that the method was not made in: a guard that is put elsewhere, stamps that nobody sees."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from kept import simulate

from agile_strike.core.analysis import analyse
from agile_strike.core.measures.doubts import too_wide
from agile_strike.core.recording import Participant, Recording, UnitSignal
from agile_strike.core.simulation.plan import Evening, SetPlan, Simulated
from agile_strike.core.simulation.score import Score, pooled, score
from agile_strike.core.simulation.student import Body, Technique
from agile_strike.core.simulation.wear import Stamps, WearMess
from agile_strike.core.simulation.world_report import play
from agile_strike.core.student import align, stamps, worn
from agile_strike.core.student.alike import alike
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.course import Course
from agile_strike.core.student.guard import wandering
from agile_strike.core.student.joined import TOO_WIDE
from agile_strike.core.student.limbs import Limbs
from agile_strike.core.student.net import borne_out
from agile_strike.core.student.recoil import by_strikes
from agile_strike.core.student.still import still_sd
from agile_strike.core.student.tell import EDGE, TELL_S, began
from agile_strike.core.target import Bag

BAG = Bag("swivel", 52.0, 1.25, 0.36, 0.28, mass_sd_kg=0.25, chain_m=0.55, level_bands_m=(0.40, 0.85))
CALM = {"bounce_m": 0.001, "sway_m": 0.004, "tremor_m": 0.002}
STEP_S = 0.002
USUAL = WearMess()


def world(
    seed: int, body: Body, worn: tuple[str, ...] = ("leftwrist", "rightwrist"), mess: WearMess = USUAL
) -> Simulated:
    draws = Technique(pullback_m=0.035, tell_ms=140.0)
    sets = (
        SetPlan("rear-straight", "right_hand", "head", 10, gap_s=2.6, technique=draws),
        SetPlan("lead-hook", "left_hand", "body", 10, 2.4, 6.0, 17.0, 2.6),
    )
    who = Participant("01", 70.0, 1.75, 30.0, "orthodox")
    evening = Evening(BAG, sets, who, bumps=2, worn=worn, body=body, wear_mess=mess)
    return simulate(evening, np.random.default_rng(seed))


@pytest.fixture(scope="module")
def elsewhere() -> Score:
    """Between strikes the hand goes to another place, up to 25 cm off, and pauses there."""
    played = [world(seed, Body(**CALM, moves_m=0.25)) for seed in (21, 22)]  # type: ignore[arg-type]
    return pooled([score(analyse(p.recording), p) for p in played])


@pytest.mark.parametrize(
    ("measure", "median", "worst"),
    [
        ("contact_speed_m_s", 1.0, 5.0),
        ("peak_speed_m_s", 0.8, 2.3),
        ("flight_ms", 1.2, 3.0),
        ("pullback_mm", 8.0, 25.0),
        ("drop_mm", 8.0, 25.0),
    ],
)
def test_a_hand_that_is_put_elsewhere_is_measured_by_its_pauses(
    elsewhere: Score, measure: str, median: float, worst: float
) -> None:
    assert elsewhere.median(measure) < median
    assert elsewhere.worst(measure) < worst
    assert elsewhere.covered(measure) >= 0.88
    assert elsewhere.there(measure) >= 0.85


def test_feints_and_lost_packets_cost_no_figure_without_a_word() -> None:
    feints = {"bounce_m": 0.008, "sway_m": 0.012, "tremor_m": 0.004, "shadows_m": 0.25}
    played = [
        world(seed, Body(**feints), mess=WearMess(lost_share=lost)) for seed, lost in ((24, 0.0), (25, 0.01), (27, 0.0))
    ]  # type: ignore[arg-type]
    told = pooled([score(analyse(p.recording), p) for p in played])
    for measure, worst in (("peak_speed_m_s", 2.0), ("flight_ms", 5.0), ("pullback_mm", 15.0)):
        assert told.worst(measure) < worst, measure  # 4, 10 and 35 with feints taken for a guard; 16 % across a hole
        assert told.covered(measure) >= 0.9, measure
        assert told.there(measure) >= 0.75, measure


def test_what_is_known_too_loosely_is_not_told_and_says_why() -> None:
    walks = analyse(world(27, Body(bounce_m=0.03, sway_m=0.02, walks_m=0.4)).recording)
    loose = [n for n in walks.not_measured if n.why == TOO_WIDE]
    assert loose
    for n in loose:
        assert n.strike is not None
        assert n.measure not in walks.strikes[n.strike].measures
    assert all(not too_wide(s.measures) for s in walks.strikes)


def test_only_a_hand_that_goes_elsewhere_is_said_to() -> None:
    for moves_m, goes in ((0.0, False), (0.25, True)):
        analysis = analyse(world(23, Body(**CALM, moves_m=moves_m)).recording)  # type: ignore[arg-type]
        assert analysis.state.body is not None
        wander = [analysis.state.body.gravity[n].guard.level.wander_m for n in ("leftwrist", "rightwrist")]
        assert all((w > 0.1) == goes for w in wander), (moves_m, wander)


def test_a_guard_that_is_never_still_says_nothing_of_where_it_goes() -> None:
    rng = np.random.default_rng(2)
    pushed = 0.01 * (rng.standard_normal((2000, 3)) * 4.0 + [0.0, 0.0, 9.81])
    turned = 0.01 * rng.standard_normal((2000, 3)) * 2.0
    spans = [(400 * k, 400 * k + 380) for k in range(5)]
    assert wandering(pushed, turned, np.tile([0.0, 0.0, 9.81], (5, 1)), spans, 0.01) == 0.0


def test_a_moment_is_as_still_as_the_unit_feels() -> None:
    quiet = np.zeros((1, 400, 3))
    turning, pushed = np.full_like(quiet, 0.6), np.full_like(quiet, 1.2)
    sds = [float(still_sd(a, w, 50)[0, 200]) for a, w in ((quiet, quiet), (quiet, turning), (pushed, quiet))]
    assert sds[0] < 0.03
    assert min(sds[1:]) > 0.15


# --- a tell


def course(pull_m: float, began_s: float, lasts_s: float, drift_m_s: float) -> np.ndarray:
    """Places along the strike over the tell's window, drawn back after `began_s`, while the guard drifts."""
    t = np.arange(0.0, TELL_S + 1e-9, STEP_S)
    x = np.clip((t - began_s) / lasts_s, 0.0, 1.0)
    return -pull_m * x**3 * (10.0 - 15.0 * x + 6.0 * x * x) + drift_m_s * t


@pytest.mark.parametrize("drift_m_s", [-0.05, 0.0, 0.05])
def test_a_tell_begins_where_the_quick_way_does_whatever_the_guard_drifts(drift_m_s: float) -> None:
    x = course(0.04, 0.24, 0.16, drift_m_s)
    _, _, since = began(x, np.zeros(len(x)))
    assert since is not None
    assert abs(since * STEP_S - (0.24 + 0.19 * 0.16)) < 0.015


def test_a_slow_drift_is_no_tell_and_what_began_before_the_window_is_not_told_to_begin_at_its_edge() -> None:
    slow = course(0.012, 0.1, 0.2, -0.01)
    assert began(slow, np.zeros(len(slow)))[2] is None
    before = course(0.3, -0.2, 0.8, 0.0)
    since = began(before, np.zeros(len(before)))[2]
    assert since is not None
    assert since <= EDGE  # which is not told


# --- clocks of the trunk without stamps that can be made out


@pytest.mark.parametrize("seed", [31, 32])
def test_a_trunk_whose_stamps_nobody_sees_is_tied_by_what_jolts_the_body(
    seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    seen = stamps.felt_by

    def blind(unit: UnitSignal, *more: object) -> object:
        return None if unit.kind in align.TRUNK else seen(unit, *more)  # type: ignore[arg-type]

    monkeypatch.setattr(stamps, "felt_by", blind)
    played = world(seed, Body(**CALM), ("leftwrist", "rightwrist", "pelvis", "torso"))
    clocks = {u.unit: u for u in analyse(played.recording).units}
    assert played.worn is not None
    bag = played.recording.units["bag"]
    for name in align.TRUNK:
        assert clocks[name].aligned_by == "movement"
        offset, drift = played.worn.clocks[name]
        for own in (5.0, bag.length_s / 2, bag.length_s - 5.0):
            off = float(clocks[name].reference(np.array(own))) - (offset + own * (1.0 + 1e-6 * drift))
            assert abs(off) < 0.006


@pytest.mark.parametrize("shared", ["nothing", "a slow bounce"])
def test_a_trunk_that_nothing_jolts_with_the_limbs_is_refused(shared: str) -> None:
    rng = np.random.default_rng(5)
    t = np.arange(0.0, 40.0, 0.002)
    bounce = 2.0 * np.sin(2 * np.pi * 1.9 * t + 0.4 * np.sin(0.3 * t)) * (shared == "a slow bounce")

    def unit(name: str) -> UnitSignal:
        accel = np.column_stack(
            [0.4 * rng.standard_normal((len(t), 2)), 9.81 + bounce + 0.4 * rng.standard_normal(len(t))]
        )
        return UnitSignal(name, 500.0, accel.astype(np.float32), np.zeros((len(t), 3), np.float32))

    limbs = [(unit(n), UnitClock(n, 0.0, 0.0, 0.3, "contacts", True)) for n in ("leftwrist", "rightwrist")]
    assert alike(unit("torso"), limbs, np.array([12.0, 20.0, 28.0]), 40.0) is None


def test_a_trunk_that_nothing_else_ties_is_tied_by_strikes_to_the_doubt_it_says() -> None:
    for seed in (33, 34):
        played = world(seed, Body(**CALM), ("leftwrist", "rightwrist", "pelvis", "torso"))
        at = np.array([struck.contact_s for _, struck in played.truths])
        assert played.worn is not None
        length_s = played.recording.units["bag"].length_s
        for name in align.TRUNK:
            clock = by_strikes(played.recording.units[name], at, length_s)
            assert clock is not None
            offset, drift = played.worn.clocks[name]
            own = np.array([5.0, length_s - 5.0])
            off = np.abs(clock.reference(own) - (offset + own * (1.0 + 1e-6 * drift))).max()
            assert off < min(0.015, 3e-3 * clock.residual_ms)
        unmoved = replace(played.recording.units["torso"], accel_m_s2=played.recording.units["torso"].accel_m_s2[::-1])
        assert by_strikes(unmoved, at, length_s) is None  # what it felt has nothing to do with these strikes


# --- stamps of which not all come


def clocks_off(played: Simulated, recording: Recording) -> dict[str, tuple[float, float]]:
    """Worst error of each clock that is tied and what it says of itself, s."""
    assert played.worn is not None
    length_s = recording.units["bag"].length_s
    out = {}
    for clock in analyse(recording).units:
        if clock.unit == "bag" or not clock.aligned:
            continue
        offset, drift = played.worn.clocks[clock.unit]
        own = np.array([5.0, length_s - 5.0])
        off = np.abs(clock.reference(own) - (offset + own * (1.0 + 1e-6 * drift))).max()
        out[clock.unit] = (float(off), 1e-3 * clock.residual_ms)
    return out


UNITS = ("leftwrist", "rightwrist", "leftankle", "pelvis", "torso", "leftsole", "rightsole")


def test_a_stamp_that_does_not_come_costs_no_clock() -> None:
    played = world(35, Body(**CALM), UNITS, WearMess(stamps=Stamps(missed=True)))
    off = clocks_off(played, played.recording)
    assert set(off) == set(UNITS)
    assert max(error for error, _ in off.values()) < 0.006


@pytest.mark.parametrize(("guard", "feet_s"), [({"bounce_m": 0.03}, 0.016), ({"moves_m": 0.12}, 0.016), (CALM, 0.025)])
def test_stamps_that_reach_no_unit_sharply_tie_ankles_and_soles_as_well(guard: dict[str, float], feet_s: float) -> None:
    played = world(37, Body(**guard), UNITS, WearMess(stamps=Stamps(0.3, 0.015, 0.3, announced=False)))  # type: ignore[arg-type]
    off = clocks_off(played, played.recording)
    assert set(off) == set(UNITS)
    assert max(off[name][0] for name in ("pelvis", "torso")) < 0.008
    assert max(error for error, _ in off.values()) < feet_s  # loosely, where nothing but stamps moves the body
    assert all(error < 2.0 * says for name, (error, says) in off.items() if not name.endswith("wrist"))


def test_an_ankle_that_walks_is_not_tied_to_the_step_of_the_other() -> None:
    walked = play(34, simulate)
    assert walked.families["guard"] == "walks"
    assert walked.clocks["leftankle"] < 0.01  # 264 ms, a step, were it held against the other one


def test_a_gyro_that_warms_turns_no_pivot() -> None:
    units = ("leftwrist", "rightwrist", "leftankle", "rightankle")
    warms = [world(seed, Body(), units, WearMess(warming_rad_s=0.006)) for seed in (41, 42)]
    told = pooled([score(analyse(p.recording), p) for p in warms])
    assert told.worst("pivot_deg") <= 0.8  # 4.9 with one bias for all of the evening
    assert told.covered("pivot_deg") >= 0.9


def test_a_likeness_that_no_third_unit_bears_out_is_not_believed() -> None:
    lags = {("a", "b"): 0.02, ("a", "c"): 0.001, ("b", "c"): -0.002}
    assert not borne_out(("a", "b"), lags)
    assert borne_out(("a", "b"), lags | {("a", "b"): 0.003})
    assert not borne_out(("a", "b"), {("a", "b"): 0.0})


def test_stamps_of_one_end_alone_leave_a_crystals_run_in_the_doubt() -> None:
    played = world(36, Body(**CALM), UNITS)

    def quiet_at_first(unit: UnitSignal) -> UnitSignal:
        n = int(6 * unit.rate_hz)
        accel, sole = unit.accel_m_s2.copy(), None if unit.sole_n is None else unit.sole_n.copy()
        for signal in (accel, sole):
            if signal is not None:
                signal[:n] = signal[n]
        return replace(unit, accel_m_s2=accel, sole_n=sole)

    cut = {n: u if n == "bag" else quiet_at_first(u) for n, u in played.recording.units.items()}
    off = clocks_off(played, replace(played.recording, units=cut, events=()))
    for name in ("leftankle", "pelvis", "torso", "leftsole", "rightsole"):
        error, says = off[name]
        assert says > 0.002
        assert error < 3.0 * says


def test_a_blow_that_no_unit_claims_lies_in_no_limbs_quiet_pieces(monkeypatch: pytest.MonkeyPatch) -> None:
    played = world(21, Body(**CALM))  # type: ignore[arg-type]
    found, learn = worn.limbs, worn.gravity_of
    quiet: list[list[tuple[float, float]]] = []

    def unclaimed(*asked: Any) -> Limbs:
        out = found(*asked)
        return replace(out, unit=["" if k == 3 else u for k, u in enumerate(out.unit)])

    def seen(course: Course, spans: list[tuple[float, float]], carried_s: Any, **how: Any) -> Any:
        quiet.append(spans)
        return learn(course, spans, carried_s, **how)

    monkeypatch.setattr(worn, "limbs", unclaimed)
    monkeypatch.setattr(worn, "gravity_of", seen)
    said = analyse(played.recording)
    blow = played.truths[3][1].contact_s
    clocks = [c for c in said.units if c.unit != "bag"]
    assert len(quiet) == len(clocks) == 2
    for spans in quiet:
        for clock in clocks:
            at = float(clock.own(np.array(blow)))
            assert not any(a - 0.3 < at < b + 0.3 for a, b in spans)


@pytest.mark.parametrize("measure", ["pelvis_peak_deg_s", "torso_peak_deg_s", "pivot_deg", "turn_deg", "turnover_deg"])
def test_what_a_units_seat_costs_is_in_the_doubt_and_no_more(at_random: Score, measure: str) -> None:
    assert at_random.covered(measure) >= 0.85
    assert at_random.wide(measure) <= 4.0


def test_a_light_hand_on_a_soft_bag_ties_its_clock_as_well(at_random: Score) -> None:
    assert at_random.worst("contact_speed_m_s") <= 6.0
    assert at_random.covered("contact_speed_m_s") >= 0.85


@pytest.fixture(scope="module")
def at_random() -> Score:
    """The first world of each kind of sensors from 100 on, and a child's soft bag through a slow filter (34)."""
    return pooled([play(seed, simulate).score for seed in (34, 100, 103, 112)])
