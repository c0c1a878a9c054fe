"""A student on the way to the bag: how weight, pelvis, torso and limb move through one strike, and how they guard.

World axes: x from the student to the bag, y to the student's left, z up. All shapes are smooth but none is the
analysis's own: speed climbs as a power of a sine, the trunk turns by skewed bells, the way back is a quintic.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline
from scipy.ndimage import gaussian_filter1d
from scipy.special import ndtr

Floats = NDArray[np.float64]

FINE_HZ = 2500.0  # of all made-up motion; contacts of 8 ms keep their shape
STILL_S, STILLING_S = 0.02, 0.4  # round a rest, and on either side of it
SIDES = ("left", "right")


@dataclass(frozen=True, slots=True)
class Technique:
    """How one set is thrown. Times in milliseconds are before contact."""

    reach_m: float = 0.62  #: from where the limb starts to where it lands
    bow_m: float = 0.02  #: how far the path leaves the straight line, to the side
    bow_up_m: float = 0.0  #: and upward; below the line where negative
    climb: float = 1.6  #: power of the sine by which speed rises
    even: bool = False  #: by a minimum-jerk step to that power instead
    hand_before_ms: float = 8.0
    speed_held: float = 0.985  #: with a usual peak; earlier peaks lose more
    pullback_m: float = 0.01
    drop_m: float = 0.005
    tell_ms: float = 170.0
    return_s: float = 0.3
    return_drop_m: float = 0.04
    turnover_deg: float = 80.0
    turnover_from: float = 0.1  #: share of the path at which the fist begins to turn over
    turn_deg: float = 38.0  #: of the pelvis
    torso_turn_deg: float = 55.0
    pelvis_before_ms: float = 90.0
    torso_before_ms: float = 50.0
    pelvis_width_ms: float = 38.0
    torso_width_ms: float = 34.0
    lean_deg: float = 5.0
    hip_tilt_deg: float = 2.0
    shoulder_tilt_deg: float = -3.0
    rise_m: float = -0.015
    lead_load_start: float = 0.48
    lead_load_contact: float = 0.68
    lead_heel: float = 0.45
    step_ms: float | None = None  #: lead foot lands so long before contact; None: it stays down
    pivot_deg: float = 35.0
    settle_ms: float = 320.0
    restless: float = 0.3  #: of the guard's bounce that goes on during the strike


#: thrown with the leg: longer, faster, on one foot
KICK = Technique(
    reach_m=1.3,
    bow_m=0.16,
    climb=1.4,
    hand_before_ms=14.0,
    speed_held=0.93,
    pullback_m=0.02,
    drop_m=0.0,
    tell_ms=220.0,
    return_s=0.42,
    return_drop_m=0.08,
    turnover_deg=35.0,
    turn_deg=70.0,
    torso_turn_deg=75.0,
    pelvis_before_ms=110.0,
    torso_before_ms=70.0,
    lean_deg=-12.0,
    rise_m=0.03,
    lead_load_start=0.5,
    lead_load_contact=0.97,
    pivot_deg=95.0,
    settle_ms=520.0,
)


@dataclass(frozen=True, slots=True)
class Body:
    """Who throws, and how restlessly they guard."""

    mass_kg: float = 70.0
    stance: str = "orthodox"
    bounce_m: float = 0.015  #: up and down in the guard
    bounce_hz: float = 1.9
    sway_m: float = 0.02
    tremor_m: float = 0.006  #: of each hand beside the trunk
    moves_m: float = 0.0  #: how far a hand is put elsewhere between strikes, to pause there before the next
    shadows_m: float = 0.0  #: how far a hand feints between strikes, out and back at once
    walks_m: float = 0.0  #: how far the feet are set elsewhere between strikes, one after the other
    rests_at_s: tuple[float, ...] = ()  #: instants at which the guard is for once still and in its middle

    @property
    def lead(self) -> str:
        return "right" if self.stance == "southpaw" else "left"


@dataclass(frozen=True, slots=True)
class Thrown:
    """One strike as it is to be made: the bag's simulation has settled when and how fast."""

    contact_s: float
    end_s: float
    limb: str
    technique: Technique
    contact_speed_m_s: float
    contact_times_s: Floats  #: (m,) from contact on, absolute
    contact_speeds_m_s: Floats  #: (m,) of the striking mass along the push
    rise_share: float  #: tangent of the climb of the path

    @property
    def side(self) -> str:
        return self.limb.split("_")[0]


def noise(rng: np.random.Generator, n: int, low_hz: float, high_hz: float) -> Floats:
    """Band-limited noise of unit spread, (n,): Gaussian low-pass less a slower one."""
    coarse = max(int(n * 40.0 / FINE_HZ), 8)  # 40 Hz carries a body's restlessness
    raw = rng.standard_normal(coarse)
    fast = gaussian_filter1d(raw, 40.0 / (2 * np.pi * high_hz), mode="reflect")
    slow = gaussian_filter1d(raw, 40.0 / (2 * np.pi * low_hz), mode="reflect")
    band = fast - slow
    band /= max(float(band.std()), 1e-9)
    # a cubic between the coarse points: no corners that an accelerometer would feel
    return np.asarray(CubicSpline(np.arange(coarse), band)(np.linspace(0.0, coarse - 1.0, n)))


def stirred(body: Body, times_s: Floats) -> Floats:
    """(n, 1) how much of the guard's restlessness there is: pieces that meet at a rest fit each other."""
    share = np.ones(len(times_s))
    for rest in body.rests_at_s:
        share *= smooth_step((np.abs(times_s - rest) - STILL_S) / STILLING_S)
    return share[:, None]


def rising(q: Technique, x: Floats) -> Floats:
    """Speed on the way to its highest, 0 to 1, over time 0 to 1."""
    return np.asarray((smooth_step(x) if q.even else np.sin(np.pi / 2.0 * np.clip(x, 0.0, 1.0))) ** q.climb)


def smooth_step(x: Floats) -> Floats:
    """0 to 1 with two smooth derivatives at both ends (a minimum-jerk course, Flash and Hogan 1985)."""
    x = np.clip(x, 0.0, 1.0)
    return np.asarray(x**3 * (10.0 - 15.0 * x + 6.0 * x * x))


def bell_step(t: Floats, peak_s: float, width_s: float, skew: float = 0.25) -> Floats:
    """0 to 1; its rate is a bell that peaks at `peak_s`, steeper before than after."""
    low = width_s * (1.0 - skew)
    high = width_s * (1.0 + skew)
    # integral of a two-piece Gaussian
    total = low + high
    before = 2.0 * low / total * ndtr((t - peak_s) / low)
    after = low / total + 2.0 * high / total * (ndtr((t - peak_s) / high) - 0.5)
    return np.asarray(np.where(t < peak_s, before, after))


def guard(body: Body, times_s: Floats, rng: np.random.Generator) -> Floats:
    """Where the trunk wanders and bounces between strikes: (n, 3) metres."""
    n = len(times_s)
    out = np.column_stack([body.sway_m * noise(rng, n, 0.12, 0.7) for _ in range(3)])
    out[:, 2] *= 0.25
    phase = 2 * np.pi * body.bounce_hz * times_s + 1.5 * noise(rng, n, 0.05, 0.3)
    swell = 0.75 + 0.35 * noise(rng, n, 0.05, 0.3)
    out[:, 2] += body.bounce_m * swell * np.sin(phase)
    out[:, 0] += 0.3 * body.bounce_m * swell * np.sin(phase + 0.7)
    return out * stirred(body, times_s)


@dataclass(frozen=True, slots=True)
class Step:
    """A walk's step: both feet, the leading one first, from `start_s` on."""

    start_s: float
    way_m: Floats  #: (3,)

    def gone(self, times_s: Floats, delay_s: float, lasts_s: float) -> Floats:
        """Share of the way (n,) that something has gone which begins so much later and takes so long."""
        return smooth_step((times_s - self.start_s - delay_s) / lasts_s)


FOOT_S, NEXT_FOOT_S, TRUNK_STEP_S = 0.22, 0.26, 0.5  # a foot's flight, when the other one follows, the trunk's way


def steps(body: Body, length_s: float, thrown: list[Thrown], rng: np.random.Generator) -> list[Step]:
    """To a new place after each strike that leaves time for it, and to and fro so as to keep to the bag."""
    out: list[Step] = []
    here = np.zeros(3)
    if not body.walks_m:
        return out
    ends = [0.5, *(one.end_s + 0.75 for one in thrown)]
    nexts = [*(one.contact_s - 1.1 for one in thrown), length_s - 1.0]
    for free_from, free_to in zip(ends, nexts, strict=True):
        if free_to - free_from < NEXT_FOOT_S + FOOT_S:
            continue
        angle = rng.uniform(-np.pi, np.pi)
        there = body.walks_m * np.sqrt(rng.random()) * np.array([np.cos(angle), np.sin(angle), 0.0])
        start = rng.uniform(free_from, free_to - NEXT_FOOT_S - FOOT_S)
        out.append(Step(float(start), there - here))
        here = there
    return out


def quiet_share(times_s: Floats, thrown: list[Thrown]) -> Floats:
    """(n,) 1 in the guard, down to `restless` through each strike: nobody bounces while hitting."""
    share = np.ones(len(times_s))
    for one in thrown:
        i, j = np.searchsorted(times_s, [one.contact_s - 0.9, one.contact_s + 1.1])
        t = times_s[i:j] - one.contact_s
        dip = smooth_step((t + 0.85) / 0.4) * (1.0 - smooth_step((t - 0.45) / 0.6))
        share[i:j] = np.minimum(share[i:j], 1.0 - (1.0 - one.technique.restless) * dip)
    return share
