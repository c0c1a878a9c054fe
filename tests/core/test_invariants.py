"""What must not matter: which unit of measure, which level comes first, the order of rows, how a unit was turned on its
strap, when its clock began, which side a student leads with."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from makers import Played, dressed, play
from scipy.spatial.transform import Rotation
from test_trial import thrown  # the core folder's own

from agile_strike.core.analysis import Analysis, analyse
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.trial.claim import Claim, Strikes, claim

few = settings(max_examples=20, deadline=None)
trials = st.builds(
    thrown,
    seed=st.integers(0, 10_000),
    sessions=st.integers(2, 6),
    gain=st.floats(-0.2, 0.2),
    day=st.floats(0.0, 0.06),
    drift=st.floats(-0.02, 0.02),
    lost=st.sampled_from([0.0, 0.1]),
)


def interval(c: Claim) -> tuple[float, float, float]:
    assert c.effect is not None
    return c.effect.value, c.effect.low, c.effect.high


def comparable(s: Strikes) -> bool:
    return claim(s).effect is not None


@few
@given(trials.filter(comparable), st.floats(0.01, 1000.0))
def test_the_unit_of_measure_does_not_matter(s: Strikes, scale: float) -> None:
    told, other = claim(s), claim(replace(s, value=scale * s.value))
    assert interval(other) == pytest.approx([scale * x for x in interval(told)], rel=1e-6)
    assert (other.verdict, other.blocks_needed) == (told.verdict, told.blocks_needed)


@few
@given(trials.filter(comparable), st.randoms(use_true_random=False))
def test_the_order_of_the_rows_does_not_matter(s: Strikes, random: object) -> None:
    shuffled = np.array(sorted(range(len(s.value)), key=lambda _: random.random()))  # type: ignore[attr-defined]
    assert interval(claim(s.part(shuffled))) == pytest.approx(interval(claim(s)), rel=1e-9, abs=1e-9)


@few
@given(trials.filter(comparable))
def test_which_level_is_called_the_first_only_turns_the_sign(s: Strikes) -> None:
    turned = replace(s, level=1 - s.level, levels=s.levels[::-1])
    value, low, high = interval(claim(s))
    assert interval(claim(turned)) == pytest.approx((-value, -high, -low), rel=0.02, abs=0.02)


@few
@given(trials.filter(comparable), st.integers(1, 40))
def test_strikes_that_were_not_measured_do_not_matter(s: Strikes, more: int) -> None:
    rows = np.arange(len(s.value))
    longer = s.part(np.concatenate([rows, rows[:more]]))
    value = longer.value.copy()
    value[len(rows) :] = np.nan
    assert interval(claim(replace(longer, value=value))) == pytest.approx(interval(claim(s)), rel=1e-9)


@few
@given(trials.filter(comparable), st.floats(1.0, 30.0))
def test_a_higher_bar_never_makes_a_gain_surer(s: Strikes, worth: float) -> None:
    rank = {"not_settled": 0, "no_difference": 0, "likely": 1, "clear": 2}
    low, high = claim(s, worth), claim(s, 1.5 * worth)
    assert low.verdict is not None
    assert high.verdict is not None
    assert rank[high.verdict] <= rank[low.verdict] or high.verdict == "no_difference"
    assert interval(low) == interval(high)


@few
@given(trials.filter(comparable))
def test_a_longer_trial_with_the_same_findings_is_no_less_sure(s: Strikes) -> None:
    twice = replace(
        s,
        **{n: np.concatenate([getattr(s, n)] * 2) for n in ("block", "order", "level", "value")},
        session=np.concatenate([s.session, s.session + s.session.max() + 1]),
    )
    _, low, high = interval(claim(s))
    _, lower, higher = interval(claim(twice))
    assert higher - lower < (high - low) * 1.001


# --- the student behind the strike

TURNS = ([0.4, 0.0, 0.0], [0.0, -0.3, 0.5], [1.2, -0.8, 0.3])
SAME = ("contact_speed_m_s", "peak_speed_m_s", "flight_ms", "effective_mass_kg", "pullback_mm", "drop_mm", "return_ms")


@pytest.fixture(scope="module")
def evening() -> Played:
    few = dressed()
    return play(replace(few, sets=tuple(replace(s, strikes=4) for s in few.sets)), seed=31)


def with_unit(made: Recording, unit: UnitSignal) -> Analysis:
    return analyse(replace(made, units={**made.units, unit.unit: unit}))


def apart(a: Analysis, b: Analysis, measures: tuple[str, ...]) -> dict[str, float]:
    """Greatest difference of each measure over the strikes, in its own standard uncertainties."""
    out = {}
    for name in measures:
        pairs = [
            (x.measures[name], y.measures[name])
            for x, y in zip(a.strikes, b.strikes, strict=True)
            if name in x.measures and name in y.measures
        ]
        out[name] = max(abs(x.value - y.value) / x.sd for x, y in pairs)
    return out


@pytest.mark.parametrize("turn", TURNS)
def test_how_a_unit_is_turned_on_its_strap_does_not_matter_to_its_limb(evening: Played, turn: list[float]) -> None:
    made, before = evening.simulated[0].recording, evening.analyses[0]
    unit = replace(made.units["rightwrist"], accel_full_scale_m_s2=np.inf)  # what it clipped at turns with it
    still = with_unit(made, unit)
    by = Rotation.from_rotvec(turn)
    turned = replace(
        unit,
        accel_m_s2=by.apply(unit.accel_m_s2).astype(np.float32),
        gyro_rad_s=by.apply(unit.gyro_rad_s).astype(np.float32),
    )
    after = with_unit(made, turned)
    assert [s.limb for s in after.strikes] == [s.limb for s in before.strikes]
    assert max(apart(still, after, SAME).values()) < 0.35


@pytest.mark.parametrize("late_s", [0.4, 2.5])
def test_when_a_units_clock_began_does_not_matter(evening: Played, late_s: float) -> None:
    made, before = evening.simulated[0].recording, evening.analyses[0]
    unit = made.units["rightwrist"]
    cut = round(late_s * unit.rate_hz)
    late = replace(
        unit,
        accel_m_s2=unit.accel_m_s2[cut:],
        gyro_rad_s=unit.gyro_rad_s[cut:],
        starts_s=None if unit.starts_s is None else unit.starts_s + late_s,
    )
    after = with_unit(made, late)
    offsets = [next(c.offset_s for c in a.units if c.unit == "rightwrist") for a in (before, after)]
    assert offsets[1] - offsets[0] == pytest.approx(late_s, abs=0.002)
    assert max(apart(before, after, SAME).values()) < 2.0  # less of the first guard is seen


def test_twice_the_weight_on_both_soles_is_the_same_split(evening: Played) -> None:
    made, before = evening.simulated[0].recording, evening.analyses[0]
    units = dict(made.units)
    for name in ("leftsole", "rightsole"):
        sole = units[name].sole_n
        assert sole is not None
        units[name] = replace(units[name], sole_n=1.2 * sole)
    after = analyse(replace(made, units=units))
    shares = ("lead_load_start_pct", "lead_load_contact_pct", "lead_heel_pct", "push_bw_s", "settle_ms")
    assert max(apart(before, after, shares).values()) < 0.05


@pytest.mark.parametrize("seconds", [0.0, 1.0])
def test_an_evening_that_begins_later_has_the_same_strikes(evening: Played, seconds: float) -> None:
    """Every clock starts later alike; events move with it."""
    made, before = evening.simulated[0].recording, evening.analyses[0]

    def later(u: UnitSignal) -> UnitSignal:
        n = round(seconds * u.rate_hz)
        sole = None if u.sole_n is None else u.sole_n[n:]
        return replace(u, accel_m_s2=u.accel_m_s2[n:], gyro_rad_s=u.gyro_rad_s[n:], sole_n=sole)

    events = tuple(replace(e, onset_s=e.onset_s - seconds) for e in made.events)
    after = analyse(replace(made, units={n: later(u) for n, u in made.units.items()}, events=events))
    moved = [x.contact_s - y.contact_s for x, y in zip(before.strikes, after.strikes, strict=True)]
    assert moved == pytest.approx([seconds] * len(moved), abs=2e-4)
    assert max(apart(before, after, ("impulse_n_s", "peak_force_n", "off_centre_m")).values()) < 0.1
