"""Strapdown parts on their own: rotations, running integrals, which way is up, loads under the feet."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from agile_strike.core.measured import Measured
from agile_strike.core.recording import UnitSignal
from agile_strike.core.student import rotation as rot
from agile_strike.core.student.clocks import UnitClock
from agile_strike.core.student.course import course_of
from agile_strike.core.student.feet import feet_measures, sole_state, soles
from agile_strike.core.student.gravity import _as_neighbours, gravity_of, wandered
from agile_strike.core.student.grid import AFTER, BEFORE, STEP_S
from agile_strike.core.student.guard import BESIDE_LEVEL, calm, restlessness
from agile_strike.core.student.limbs import _felt
from agile_strike.core.student.strap import leaving, steadied
from agile_strike.core.student.trunk import chain_order
from agile_strike.core.student.unclip import Clipped

Floats = NDArray[np.float64]
G = 9.80665
small = st.lists(st.floats(-0.3, 0.3), min_size=3, max_size=3).map(np.array)


def scipy_order(q: Floats) -> Floats:
    return np.asarray(q[..., [1, 2, 3, 0]])


@settings(max_examples=50, deadline=None)
@given(small, small)
def test_quaternions_are_those_of_the_textbook(a: Floats, b: Floats) -> None:
    qa, qb = rot.exp(a), rot.exp(b)
    assert Rotation.from_quat(scipy_order(qa)).as_rotvec() == pytest.approx(a, abs=1e-5)
    both = Rotation.from_rotvec(a) * Rotation.from_rotvec(b)
    assert rot.rotate(rot.multiply(qa, qb), np.array([1.0, -2.0, 0.5])) == pytest.approx(
        both.apply([1.0, -2.0, 0.5]), abs=1e-4
    )
    assert rot.rotate(rot.conjugate(qa), rot.rotate(qa, b)) == pytest.approx(b, abs=1e-6)


@pytest.mark.parametrize("steps", [1, 2, 7, 64, 100])
def test_running_products_equal_those_made_one_by_one(steps: int) -> None:
    q = rot.exp(0.2 * np.random.default_rng(steps).standard_normal((3, steps, 3)))
    one = q[:, 0]
    for k in range(1, steps):
        one = rot.multiply(one, q[:, k])
    assert rot.running(q)[:, -1] == pytest.approx(one, abs=1e-9)


@settings(max_examples=30, deadline=None)
@given(st.lists(st.floats(-1, 1), min_size=3, max_size=3).filter(lambda v: np.linalg.norm(v) > 0.1))
@example([0.0, 6.1e-5, -1.0])
@example([0.0, 0.0, -1.0])
def test_any_direction_is_carried_upright(v: list[float]) -> None:
    up = np.array([v]) / np.linalg.norm(v)
    assert rot.rotate(rot.onto_upright(up), up)[0] == pytest.approx([0, 0, 1], abs=1e-6)


def unit_of(accel: Floats, gyro: Floats, rate: float = 500.0, full: float = np.inf) -> UnitSignal:
    return UnitSignal("leftwrist", rate, accel.astype(np.float32), gyro.astype(np.float32), full)


def test_integrals_between_samples_are_those_of_straight_lines() -> None:
    t = np.arange(2000) / 500.0
    accel = np.column_stack([np.sin(3 * t), t, 0 * t + G])
    whole, _ = course_of(unit_of(accel, accel), np.zeros(0))
    at = np.array([0.1234, 1.7, 3.33333])
    gained = whole.near(np.zeros(1), 4.0).upto(at[None])[0, :, 3:]
    assert gained[:, 0] == pytest.approx((1 - np.cos(3 * at)) / 3, abs=1e-4)
    assert gained[:, 1] == pytest.approx(at**2 / 2, abs=1e-4)


def test_single_lost_samples_are_bridged_and_long_gaps_are_told() -> None:
    accel = np.tile([0.0, 0.0, G], (2000, 1))
    accel[::50] = np.nan
    accel[1000:1200] = np.nan
    whole, _ = course_of(unit_of(accel, np.zeros((2000, 3))), np.zeros(0))
    assert whole.near(np.zeros(1), 1.0).upto(np.array([[1.0]]))[0, 0, 5] == pytest.approx(G, rel=1e-6)
    assert bool(whole.seen(np.array(0.5), np.array(1.5)))
    assert not bool(whole.seen(np.array(1.9), np.array(2.2)))
    assert not bool(whole.seen(np.array(-0.5), np.array(0.2)))


@pytest.mark.parametrize(("at_s", "much"), [(1.0, False), (3.0, True)])
def test_a_lost_packet_is_bridged_in_a_guard_and_leaves_a_strike_open(at_s: float, much: bool) -> None:
    t = np.arange(0.0, 4.0, 0.001)
    sway, strike = 0.4 * np.sin(2 * np.pi * t), 60.0 * np.exp(-0.5 * ((t - 3.0) / 0.015) ** 2)
    accel = np.column_stack([sway + strike, 0.0 * t, 9.81 + 0.0 * t])
    lost = (t > at_s - 0.02) & (t < at_s + 0.02)
    with_hole = np.where(lost[:, None], np.nan, accel)
    course, _ = course_of(unit_of(with_hole, 0.0 * with_hole, 1000.0), np.zeros(0))
    gained = np.diff(course.near(np.zeros(1), 3.9).upto(np.array([[at_s - 0.1, at_s + 0.1]])), axis=1)[0, 0, 3:]
    true = accel[(t >= at_s - 0.1) & (t < at_s + 0.1)].sum(axis=0) * 0.001
    off = float(np.linalg.norm(gained - true))
    assert (off > 0.3) == much
    assert off < 4.0 * course.holes.speed_sd_m_s[0] or much
    begins, ends = course.holes.unbroken(np.array([at_s - 0.3, at_s, at_s + 0.3]))
    edge = pytest.approx(at_s, abs=0.03)
    assert (ends[0] == edge) == (begins[2] == edge) == much
    assert course.holes.parts([(0.0, 4.0)]) == ([(0.0, edge), (edge, 4.0)] if much else [(0.0, 4.0)])


def test_what_darts_out_and_home_is_cut_from_a_guard_but_not_what_another_limbs_strike_does() -> None:
    rng = np.random.default_rng(4)
    pushed = 0.01 * (np.array([0.0, 0.0, 9.81]) + 0.3 * rng.standard_normal((1000, 3)))
    pushed[500:520, 0] += 0.01 * 15.0
    how = calm(pushed, [(0.0, 10.0)], 0.01)
    (_, until), (again, _) = how.parts(pushed, [(0.0, 10.0)], 0.01, np.zeros(0))
    assert until == pytest.approx(4.8, abs=0.06)
    assert again == pytest.approx(5.4, abs=0.06)
    assert how.parts(pushed, [(0.0, 10.0)], 0.01, np.array([5.1])) == [(0.0, 10.0)]


def test_a_piece_unlike_those_beside_it_says_as_little_as_it_is_off() -> None:
    g = np.tile([0.0, 0.0, G], (9, 1))
    g[0, 2] += 0.5
    sd = _as_neighbours(g, np.full(9, 0.09))
    assert sd[0] == pytest.approx(0.5)
    assert np.all(sd[1:] == 0.09)


def test_a_light_hand_is_claimed_where_no_other_limb_felt_anything() -> None:
    signs = {"leftwrist": np.array([30.0, 30.0, 15.0, 60.0]), "rightwrist": np.array([4.0, 20.0, 2.0, 50.0])}
    felt = [_felt(list(signs), signs, i) for i in range(4)]
    assert felt == [("leftwrist", True), ("", False), ("", False), ("leftwrist", False)]


def clipped_way(true: Floats) -> tuple[float, Clipped]:
    """Speed gained along x on the way to a contact at 2 s, as a unit that ends at 16 g has it."""
    still = np.zeros(len(true))
    accel = np.column_stack([np.clip(true, -157, 157), still, still + G])
    whole, clipped = course_of(unit_of(accel, np.zeros((len(true), 3)), 1000.0, 157.0), np.array([2.0]))
    return float(whole.near(np.zeros(1), 2.0).upto(np.array([[2.0]]))[0, 0, 3]), clipped


def test_what_clipped_on_the_way_to_contact_is_put_back() -> None:
    t = np.arange(3000) / 1000.0
    true = 200.0 * np.exp(-(((t - 1.9) / 0.03) ** 2))
    gained, clipped = clipped_way(true)
    lost = float((true - np.clip(true, -157, 157)).sum() / 1000.0)
    assert clipped.share[0] > 0.05
    assert abs(gained - true[:2000].sum() / 1000.0) < 0.1 * lost


def test_what_clips_until_contact_is_put_back_from_one_side_with_a_wider_doubt() -> None:
    t = np.arange(3000) / 1000.0
    until_contact = np.where(t < 2.0, -260.0 * np.sin(np.pi * np.clip((t - 1.94) / 0.12, 0.0, 1.0)), 0.0)
    gained, clipped = clipped_way(until_contact)
    assert abs(gained - until_contact[:2000].sum() / 1000.0) < 2.0 * clipped.sd_m_s[0]
    both_sides = clipped_way(200.0 * np.exp(-(((t - 1.9) / 0.03) ** 2)))[1]
    assert clipped.sd_m_s[0] > both_sides.sd_m_s[0]


def test_a_way_that_clips_for_too_long_is_left_as_it_was_and_its_doubt_says_so() -> None:
    t = np.arange(3000) / 1000.0
    gained, clipped = clipped_way(np.where((t > 1.85) & (t < 1.95), 400.0, 0.0))
    assert gained == pytest.approx(15.7, rel=0.02)
    assert clipped.sd_m_s[0] > 10.0


@pytest.mark.parametrize(("level_m", "height_m"), [(0.02, 0.005), (0.004, 0.012)])
def test_how_restless_a_guard_is_is_learnt_from_its_quiet_pieces(level_m: float, height_m: float) -> None:
    rng = np.random.default_rng(5)
    t: Floats = 0.04 * np.arange(1, 37, dtype=np.float64)
    pieces = np.empty((40, 36, 3))
    for axis, size in enumerate((level_m, level_m, height_m)):
        # the sum of some sines, not the Gaussian process that it is taken for
        speed, phase = rng.uniform(0.2, 0.6, (40, 6)), rng.uniform(0, 2 * np.pi, (40, 6))
        waves = np.sin(2 * np.pi * speed[:, :, None] * t + phase[:, :, None]).sum(axis=1) / np.sqrt(3.0)
        run_away = 0.3 * rng.standard_normal((40, 1)) * t + 0.2 * rng.standard_normal((40, 1)) * t**2
        pieces[:, :, axis] = size * waves + run_away + 0.001 * rng.standard_normal((40, 36))
    found = restlessness(t, pieces, np.full(40, 36))
    assert 0.5 < found.level.slow_m / (BESIDE_LEVEL * level_m) < 2.0
    assert (found.level.slow_m > found.height.slow_m) == (level_m > height_m)


def test_a_swing_on_the_strap_is_taken_off_and_the_limbs_own_way_stays() -> None:
    t: Floats = STEP_S * np.arange(-BEFORE, AFTER + 1, dtype=np.float64)
    length = 0.016
    own = np.column_stack([-2.0 - 9.0 * t + 40.0 * t**2, 0.4 + 0.0 * t, 1.5 * t])
    rate = complex(-0.17, 1.0) * 2 * np.pi * 26.2  # between the frequencies and dampings that are tried
    size = np.array([0.7, -1.1, 0.5])
    swing = np.where(t >= length, 1.0, 0.0)[:, None] * (np.exp(rate * (t - length))[:, None] * size)
    placed = np.cumsum(own, axis=0) * STEP_S
    v, p = steadied(t, (own + swing.real)[None], (placed + (swing / rate).real)[None], np.array([length]))
    after = (t > length + 0.004) & (t < 0.3)
    assert np.abs(swing.real[after]).max() > 0.4
    assert np.abs(v[0, after] - own[after]).max() < 0.13
    assert np.abs(p[0, after] - placed[after]).max() < 1.5e-3
    assert np.allclose(leaving(t, v, np.array([length]))[0], own[BEFORE + round(length / STEP_S)], atol=0.08)


def restless(bias: Floats, slip: float = 0.0, seconds: float = 60.0) -> UnitSignal:
    """A unit, askew, in a guard that turns and sways to and fro; half-way it may slip round."""
    rng = np.random.default_rng(3)
    t = np.arange(int(200 * seconds)) / 200.0
    angles = np.column_stack([0.06 * np.sin(2 * np.pi * f * t + p) for f, p in ((0.7, 0), (0.45, 1), (0.3, 2))])
    tilt = Rotation.from_rotvec([0.2, -0.15, 0.1])
    attitude = Rotation.from_rotvec(angles) * tilt
    step = (attitude[:-1].inv() * attitude[1:]).as_rotvec() * 200.0
    gyro = np.vstack([step, step[-1:]])
    sway = 0.02 * (2 * np.pi * 0.4) ** 2 * np.sin(2 * np.pi * 0.4 * t)
    accel = attitude.inv().apply(np.column_stack([sway, 0.5 * sway, 0 * t + G]))
    half = len(t) // 2
    turn = Rotation.from_rotvec([slip, 0.0, 0.0])
    accel[half:], gyro[half:] = turn.apply(accel[half:]), turn.apply(gyro[half:])
    noise = 0.05 * rng.standard_normal(accel.shape)
    return unit_of(accel + noise, gyro + bias + 0.004 * rng.standard_normal(gyro.shape), 200.0)


def test_up_and_the_gyros_bias_are_found_in_a_guard_that_is_never_still() -> None:
    bias = np.array([0.01, -0.006, 0.004])
    whole, _ = course_of(restless(bias), np.zeros(0))
    quiet = [(a + 0.5, a + 2.6) for a in np.arange(0.0, 57.0, 3.0)]
    track, _ = gravity_of(whole, quiet, np.zeros(0))
    assert track.gyro_bias_rad_s == pytest.approx(bias, abs=0.002)
    g, sd = track.at(np.array([20.0, 40.0]))
    assert np.linalg.norm(g, axis=1) == pytest.approx([G, G], abs=0.1)
    ways = g / np.linalg.norm(g, axis=1, keepdims=True)
    assert np.degrees(np.arccos(np.clip(ways[0] @ ways[1], -1, 1))) < 1.5
    assert (sd < 0.2).all()


def about_z(unit: UnitSignal, rate_rad_s: Floats) -> UnitSignal:
    """The same of who turns about the vertical at so many rad/s (n,) as well."""
    up = unit.accel_m_s2 / np.linalg.norm(unit.accel_m_s2, axis=1, keepdims=True)
    return replace(unit, gyro_rad_s=(unit.gyro_rad_s + up * rate_rad_s[:, None]).astype(np.float32))


@pytest.mark.parametrize(("walks", "off"), [(False, 0.004), (True, 0.02)])
def test_a_bias_about_the_vertical_is_told_by_who_comes_back_to_face_the_bag(walks: bool, off: float) -> None:
    """Each strike turns the body out and, not all of the way when the piece begins, back."""
    still = restless(np.zeros(3))
    t = np.arange(len(still.gyro_rad_s)) / still.rate_hz
    phase = t % 3.0
    out = np.where(phase < 0.3, 2.0, np.where(phase < 2.3, -0.3, 0.0))
    rng = np.random.default_rng(8)
    out = out + np.repeat(rng.normal(0.0, 0.6 if walks else 0.0, 20), 600)[: len(t)] * (phase < 0.5)
    whole, _ = course_of(about_z(still, out), np.zeros(0))
    quiet = [(a + 0.7, a + 2.9) for a in np.arange(0.0, 57.0, 3.0)]
    up = still.accel_m_s2.mean(axis=0) / G
    alone, together = (gravity_of(whole, quiet, np.zeros(0), faces=f)[0].gyro_bias_rad_s @ up for f in (False, True))
    assert abs(alone) > 0.1
    assert abs(together) < off


def test_only_a_unit_that_slipped_is_said_to_have() -> None:
    quiet = [(a + 0.5, a + 2.6) for a in np.arange(0.0, 57.0, 3.0)]
    for slip, told in ((0.0, False), (0.2, False), (1.0, True)):
        whole, _ = course_of(restless(np.zeros(3), slip), np.zeros(0))
        assert gravity_of(whole, quiet, np.zeros(0))[0].slipped is told


def test_an_arm_that_is_held_otherwise_where_it_is_put_has_not_slipped() -> None:
    quiet = [(a + 0.5, a + 2.6) for a in np.arange(0.0, 57.0, 3.0)]
    for turned, told in ((0.7, False), (1.4, True)):
        whole, _ = course_of(restless(np.zeros(3), turned), np.zeros(0))
        known, track = gravity_of(whole, quiet, np.zeros(0))
        assert wandered(track, known, quiet, np.zeros(0), 0.25).slipped is told


WEIGHT = 70.0 * G


def standing(lead_share: Floats, total: Floats) -> dict[str, UnitSignal]:
    """Two soles at 100 a second; 60 % on the heel."""
    out = {}
    for side, share in (("left", lead_share), ("right", 1.0 - lead_share)):
        load = share * total
        cells = np.column_stack([0.6 * load, 0.4 * load]).astype(np.float32)
        none = np.zeros((len(cells), 3), np.float32)
        out[f"{side}sole"] = UnitSignal(f"{side}sole", 100.0, none, none, sole_n=cells)
    return out


def measured(lead_share: Floats, total: Floats | None = None, lead: str = "left") -> dict[str, float]:
    units = standing(lead_share, np.full(len(lead_share), WEIGHT) if total is None else total)
    clocks = {n: UnitClock(n, 0.0, 0.0, 0.1, "stamps", True) for n in units}
    known = sole_state(units, clocks, lead, 70.0)
    assert known is not None
    return {n: m.value for n, m in feet_measures(soles(units, clocks, known), 5.0, 4.85, np.inf).items()}


T = np.arange(1000) / 100.0


def test_load_moves_onto_the_lead_foot_and_settles() -> None:
    share = np.interp(T, [4.85, 5.0, 5.2, 5.6], [0.48, 0.72, 0.72, 0.48])
    told = measured(share)
    assert told["lead_load_start_pct"] == pytest.approx(48, abs=0.5)
    assert told["lead_load_contact_pct"] == pytest.approx(72, abs=0.5)
    assert told["load_shift_pct"] == pytest.approx(24, abs=0.7)
    assert told["lead_heel_pct"] == pytest.approx(60, abs=0.5)
    # back within 10 points where 72 - 60 t passes 58
    assert told["settle_ms"] == pytest.approx(433, abs=12)
    assert "step_before_ms" not in told


def test_the_other_foot_leads_a_southpaw() -> None:
    share = np.interp(T, [4.85, 5.0], [0.48, 0.72])
    assert measured(share, lead="right")["lead_load_contact_pct"] == pytest.approx(28, abs=0.5)


def test_a_landing_is_timed_and_a_foot_in_the_air_has_no_heel() -> None:
    lifted = np.where((T > 4.7) & (T < 4.96), 0.0, 0.5)
    assert measured(lifted)["step_before_ms"] == pytest.approx(45, abs=6)
    aloft = np.where((T > 4.7) & (T < 5.05), 0.0, 0.5)
    told = measured(aloft)
    assert told["step_before_ms"] == pytest.approx(-45, abs=6)
    assert "lead_heel_pct" not in told


def test_a_push_from_the_floor_is_load_above_weight_added_up() -> None:
    total = WEIGHT * (1.0 + np.where((T > 4.7) & (T < 4.9), 0.3, 0.0))
    assert measured(np.full(1000, 0.5), total)["push_bw_s"] == pytest.approx(0.06, abs=0.005)


def test_one_sole_alone_is_no_pair() -> None:
    units = standing(np.full(1000, 0.5), np.full(1000, WEIGHT))
    tied = UnitClock("leftsole", 0.0, 0.0, 0.1, "stamps", True)
    assert sole_state({"leftsole": units["leftsole"]}, {"leftsole": tied}, "left", 70.0) is None


@pytest.mark.parametrize(
    ("pelvis", "torso", "hand", "order"),
    [(90, 50, 8, "pelvis>torso>hand"), (50, 90, 8, "torso>pelvis>hand"), (51, 50, 8, "pelvis=torso>hand")],
)
def test_peaks_closer_than_their_doubt_are_a_tie(pelvis: float, torso: float, hand: float, order: str) -> None:
    peaks = {"pelvis_before_ms": pelvis, "torso_before_ms": torso, "hand_before_ms": hand}
    assert chain_order({n: Measured(v, 2.0) for n, v in peaks.items()}) == order
    assert chain_order({"hand_before_ms": Measured(8.0, 1.0)}) is None
