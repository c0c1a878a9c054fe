"""What a coach is promised of one strike's figures, on bags that the method knows only so well."""

from dataclasses import replace

import numpy as np
import pytest
from makers import Played, body_worn, evening, play, recorded
from scipy.spatial.transform import Rotation

from agile_strike.core.analysis import analyse
from agile_strike.core.measures.doubts import STRETCH
from agile_strike.core.recording import Recording
from agile_strike.core.target import Mount

#: measure: median and 95th percentile that are promised, in the score's units
PROMISED = {
    "contact_s": (0.0005, 0.0015),
    "impulse_n_s": (2.5, 7.0),
    "peak_force_n": (4.0, 10.0),
    "contact_ms": (1.2, 3.5),
    "hit_below_top_m": (0.015, 0.040),
    "off_centre_m": (0.003, 0.008),
}
DOUBTED = (
    "impulse_n_s",
    "peak_force_n",
    "contact_ms",
    "rise_ms",
    "push_index",
    "hit_below_top_m",
    "off_centre_m",
    "direction_deg",
    "bag_energy_j",
)


def test_every_strike_is_found_once_and_no_bump_counts(messy: Played) -> None:
    s = messy.score
    assert (s.found, s.false) == (s.true_strikes, 0)
    assert sum(len(m.bumps) for m in messy.simulated) >= 15


@pytest.mark.parametrize("measure", PROMISED)
def test_figures_are_as_good_as_promised(messy: Played, measure: str) -> None:
    median, worst = PROMISED[measure]
    assert messy.score.median(measure) <= median
    assert messy.score.worst(measure) <= worst


@pytest.mark.parametrize("measure", DOUBTED)
def test_the_stated_doubt_is_honest(messy: Played, measure: str) -> None:
    # 60 strikes: a true 90 % shows as 82 % or more in 97 of 100 runs
    assert messy.score.covered(measure) >= 0.82
    # nor is it told much wider than the errors here ask for, but for what worlds unlike this one do
    assert messy.score.wide(measure) <= 3.0 * STRETCH.get(measure, 1.0)
    assert messy.score.there(measure) == 1.0


def test_bursts_are_as_good_as_single_strikes(messy: Played) -> None:
    burst = messy.analyses[1]
    assert sum(len(b.strikes) for b in burst.bursts) == len(burst.strikes)
    kept = [b.force_kept_pct for b in burst.bursts]
    assert all(k is not None and 50 < k < 200 for k in kept)
    assert all("in_burst" in s.flags for b in burst.bursts for s in (burst.strikes[i] for i in b.strikes[1:]))


def test_a_perfect_unit_on_a_known_bag_is_almost_exact(clean: Played) -> None:
    assert clean.score.median("impulse_n_s") < 1.0
    assert clean.score.median("hit_below_top_m") < 0.005


def test_a_clipped_unit_keeps_its_impulse_and_loses_its_peak(clipped: Played) -> None:
    hit = [s for a in clipped.analyses for s in a.strikes if "clipped:bag" in s.flags]
    assert len(hit) >= 8
    assert all("peak_force_n" not in s.measures for s in hit)
    assert clipped.score.recall == 1.0
    assert clipped.score.median("impulse_n_s") <= 6.0
    assert clipped.score.covered("impulse_n_s") >= 0.9
    told = {(n.measure, n.why) for a in clipped.analyses for n in a.not_measured}
    assert ("peak_force_n", "the bag unit clipped during contact") in told


def test_a_fixed_mount_carries_the_unseen_height_into_its_doubt(fixed: Played) -> None:
    s = fixed.score
    assert (s.found, s.false) == (s.true_strikes, 0)
    assert s.covered("impulse_n_s") >= 0.9
    assert "hit_below_top_m" not in s.errors
    assert fixed.analyses[0].flags == ()
    strike = fixed.analyses[0].strikes[0]
    assert strike.measures["impulse_n_s"].sd > 0.05 * strike.measures["impulse_n_s"].value


@pytest.mark.parametrize(("true", "declared"), [("swivel", "fixed"), ("fixed", "swivel")])
def test_a_wrong_mount_is_flagged(true: str, declared: str) -> None:
    played = play(evening(strikes=12, mount=true, declared=declared), seed=8)  # type: ignore[arg-type]
    assert played.analyses[0].flags == ("mount_mismatch",)


def test_a_held_bag_gives_times_and_shape_but_no_impulse(clean: Played) -> None:
    made = clean.simulated[0].recording
    assert made.bag is not None
    held = analyse(replace(made, bag=replace(made.bag, mount="held")))
    assert len(held.strikes) == 8
    assert all("impulse_n_s" not in s.measures and "contact_ms" in s.measures for s in held.strikes)
    assert "a partner's arms have no known mass" in {n.why for n in held.not_measured}


def test_a_wall_target_reads_its_load_cell() -> None:
    t = np.arange(6000) / 1000
    force = 1500 * np.where(np.abs(t - 3.0) < 0.008, np.cos(np.pi * (t - 3.0) / 0.016), 0) + 20.0
    made = recorded(np.tile([0.0, 0.0, 9.80665], (6000, 1)), np.zeros((6000, 3)))
    assert made.bag is not None
    unit = replace(made.units["bag"], load_n=force.astype(np.float32))
    wall = analyse(replace(made, bag=replace(made.bag, mount="wall"), units={"bag": unit}))
    (strike,) = wall.strikes
    assert strike.measures["peak_force_n"].value == pytest.approx(1500, rel=0.02)
    assert strike.measures["impulse_n_s"].value == pytest.approx(1500 * 0.016 * 2 / np.pi, rel=0.02)


@pytest.mark.parametrize("kind", ["walking", "running", "jumping", "handling"])
@pytest.mark.parametrize("mount", ["swivel", "fixed", "standing", "held"])
def test_a_person_moving_about_is_no_striking(kind: str, mount: Mount) -> None:
    for seed, rate_hz in ((1, 1000.0), (2, 1000.0), (3, 100.0)):
        made = body_worn(kind, seed=seed, rate_hz=rate_hz)
        assert made.bag is not None
        assert len(analyse(replace(made, bag=replace(made.bag, mount=mount))).strikes) <= 1


def test_a_moment_of_samples_is_too_short_to_tell() -> None:
    result = analyse(recorded(np.tile([0.0, 0.0, 9.8], (300, 1)), np.zeros((300, 3))))
    assert result.strikes == []
    assert result.not_measured[0].why == "the recording is shorter than a second"


def test_samples_lost_in_the_middle_cost_only_what_they_hid(messy: Played) -> None:
    made = messy.simulated[0].recording
    whole = messy.analyses[0]
    hit = whole.strikes[5].contact_s
    unit = made.units["bag"]
    accel = unit.accel_m_s2.copy()
    accel[int((hit + 0.5) * 1000) : int((hit + 1.0) * 1000)] = np.nan  # between strikes
    accel[int((hit + 0.003) * 1000) : int((hit + 0.006) * 1000)] = np.nan  # inside one contact
    holed = analyse(replace(made, units={"bag": replace(unit, accel_m_s2=accel)}))
    assert len(holed.strikes) == len(whole.strikes)
    struck = holed.strikes[5]
    assert "gap:bag" in struck.flags
    assert "impulse_n_s" not in struck.measures
    assert holed.strikes[4].measures["impulse_n_s"].value == pytest.approx(
        whole.strikes[4].measures["impulse_n_s"].value, rel=0.01
    )


@pytest.mark.parametrize("every", [5, 20])
def test_a_slow_unit_gives_times_and_impulse_at_most(clean: Played, every: int) -> None:
    made = clean.simulated[0].recording
    unit = made.units["bag"]
    slow = replace(
        unit, rate_hz=1000.0 / every, accel_m_s2=unit.accel_m_s2[::every], gyro_rad_s=unit.gyro_rad_s[::every]
    )
    result = analyse(replace(made, units={"bag": slow}))
    assert result.strikes
    assert set.union(*(set(s.measures) for s in result.strikes)) <= {"impulse_n_s", "gap_ms"}
    assert any("need 400" in n.why for n in result.not_measured)


def test_without_a_bag_or_limb_unit_nothing_is_computed_and_the_reason_is_told(clean: Played) -> None:
    made = clean.simulated[0].recording
    result = analyse(replace(made, units={"pelvis": replace(made.units["bag"], unit="pelvis")}))
    assert result.strikes == []
    assert {n.why for n in result.not_measured} == {"no bag unit in this recording"}
    assert result.units[0].aligned is False


def turned(made: Recording, degrees: float) -> Recording:
    unit = made.units["bag"]
    turn = Rotation.from_rotvec(np.radians(degrees) * np.array([0.6, 0.8, 0.0]))
    return replace(
        made,
        units={
            "bag": replace(
                unit,
                accel_m_s2=turn.apply(unit.accel_m_s2).astype(np.float32),
                gyro_rad_s=turn.apply(unit.gyro_rad_s).astype(np.float32),
            )
        },
    )


def test_tilting_the_unit_changes_nothing(clean: Played) -> None:
    made = clean.simulated[0].recording
    for straight, tilted in zip(clean.analyses[0].strikes, analyse(turned(made, 9.0)).strikes, strict=True):
        assert tilted.measures["impulse_n_s"].value == pytest.approx(straight.measures["impulse_n_s"].value, rel=0.01)


def test_a_bag_twice_as_heavy_took_twice_the_impulse(clean: Played) -> None:
    made = clean.simulated[0].recording
    bag = made.bag
    assert bag is not None
    assert bag.inertia_cm_kg_m2 is not None
    double = replace(bag, mass_kg=2 * bag.mass_kg, inertia_cm_kg_m2=2 * bag.inertia_cm_kg_m2)
    for one, two in zip(clean.analyses[0].strikes, analyse(replace(made, bag=double)).strikes, strict=True):
        assert two.measures["impulse_n_s"].value == pytest.approx(2 * one.measures["impulse_n_s"].value, rel=1e-3)
        assert two.measures["hit_below_top_m"].value == pytest.approx(one.measures["hit_below_top_m"].value, abs=1e-3)


def test_the_same_samples_give_the_same_figures(clean: Played) -> None:
    again = analyse(clean.simulated[0].recording)
    assert again.strikes == clean.analyses[0].strikes
