"""One evening on the rig: drawn at random, played by the engine, sensed, and what is true of it by the definitions."""

from dataclasses import dataclass, field, replace

import mujoco
import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from agile_strike.core.analysis import Analysis
from agile_strike.core.recording import Participant, Recording
from agile_strike.core.simulation.body_truth import upper_truth
from agile_strike.core.simulation.limb_motion import LimbMotion
from agile_strike.core.simulation.score import Score, scored
from agile_strike.core.simulation.student import FINE_HZ, Body, Technique, Thrown
from agile_strike.core.simulation.trunk_motion import Loads, PartMotion
from agile_strike.core.simulation.wear import Course
from agile_strike.core.target import Bag
from rig.model import CEILING_M, TOP_M, Build, mjcf
from rig.moves import Manner, programme
from rig.play import PLACES, Pushed, Ran, run
from rig.sense import IDEAL, G, Sensors, sensed

Floats = NDArray[np.float64]
EDGE = 0.05  # of the peak, where a contact begins and ends
APART_S = 0.25
FEWEST_N = 60.0  # a graze is no strike
RATES_HZ = {"bag": 1000.0, "leftwrist": 1000.0, "rightwrist": 1000.0, "pelvis": 400.0, "torso": 400.0}


@dataclass(frozen=True, slots=True)
class Contact:
    """One strike as the engine had it."""

    limb: str
    contact_s: float
    end_s: float
    impulse_n_s: Floats  #: (3,) world axes
    measures: dict[str, float]


@dataclass(frozen=True, slots=True)
class OnTheRig:
    recording: Recording
    course: Course
    contacts: list[Contact]
    clocks: dict[str, tuple[float, float]]

    def true_of(self, i: int) -> dict[str, float]:
        one = self.contacts[i]
        push = one.impulse_n_s / np.linalg.norm(one.impulse_n_s)
        thrown = self.course.thrown[i]
        return one.measures | upper_truth(self.course, thrown, one.measures["impulse_n_s"], None, push)

    def score(self, analysis: Analysis) -> Score:
        return scored(analysis, np.array([c.contact_s for c in self.contacts]), self.true_of)


@dataclass(frozen=True, slots=True)
class World:
    build: Build = field(default_factory=Build)
    manner: Manner = field(default_factory=Manner)
    sensors: Sensors = field(default_factory=Sensors)
    mass_error: float = 0.005


def drawn(rng: np.random.Generator, strikes: int = 24) -> World:
    """A student, a bag, straps and sensors of any kind."""
    u = rng.uniform
    mass = u(38.0, 100.0)
    guard = str(rng.choice(["still", "sways", "bounces", "elsewhere", "elsewhere", "walks"]))
    build = Build(
        mass_kg=mass,
        strength=u(0.8, 1.3) * mass / 70.0,
        strap_hz=np.exp(u(np.log(28.0), np.log(65.0))),
        belt_hz=np.exp(u(np.log(17.0), np.log(45.0))),
        strap_damping=u(0.12, 0.4),
        seat_hz=u(110.0, 300.0),
        seat_damping=u(0.08, 0.3),
        glove_kn_m=u(50.0, 160.0),
        contact_s=u(0.006, 0.012),
        bag_kg=u(25.0, 55.0),
    )
    manner = Manner(
        guard, u(0.15, 0.23), u(0.03, 0.08), u(0.25, 0.45), u(0.35, 0.8), u(0.0, 0.3), u(400.0, 1500.0),
        u(0.012, 0.05), strikes, u(2.3, 3.0), u(0.5, 1.0), u(0.04, 0.15), u(0.1, 0.18),
    )  # fmt: skip
    sensors = Sensors(
        low_pass_hz=u(80.0, 400.0), scale=u(0.0, 0.004), full_scale_m_s2=float(rng.choice([16.0, 32.0, 200.0])) * G
    )
    if rng.random() < 0.15:
        sensors = IDEAL
    return World(build, manner, sensors)


def evening(world: World, rng: np.random.Generator) -> OnTheRig:
    model = mujoco.MjModel.from_xml_string(mjcf(world.build))
    ran = run(model, programme(model, world.manner, rng))
    bag = _bag(world.build)
    contacts = _contacts(ran, bag)
    known = replace(bag, mass_kg=bag.mass_kg * (1.0 + world.mass_error * rng.standard_normal()))
    units, clocks = {}, {}
    for name, rate in RATES_HZ.items():
        place = "bagunit" if name == "bag" else name
        units[name], clocks[name] = sensed(
            name, ran.times_s, ran.felt[place], ran.rates[place], rate, world.sensors, rng
        )
    who = Participant("01", world.build.mass_kg, 1.75, 30.0, "orthodox")
    recording = Recording(who, "01", "rig", "01", known, units)
    return OnTheRig(recording, _course(ran, contacts, world.build), contacts, clocks)


def _bag(b: Build) -> Bag:
    radius = b.bag_diameter_m / 2.0
    return Bag(
        "swivel", b.bag_kg, b.bag_length_m, b.bag_diameter_m, b.sensor_below_top_m, mass_sd_kg=0.005 * b.bag_kg,
        chain_m=CEILING_M - TOP_M, inertia_cm_kg_m2=b.bag_kg * (3.0 * radius**2 + b.bag_length_m**2) / 12.0,
    )  # fmt: skip


def _contacts(ran: Ran, bag: Bag) -> list[Contact]:
    """Pushes of one glove that belong together; where a strike pushes again after letting go, the first is meant."""
    step = ran.times_s[1] - ran.times_s[0]
    runs: list[list[Pushed]] = []
    for side in ("left", "right"):
        for p in (p for p in ran.pushed if p.side == side):
            if runs and runs[-1][-1].side == side and p.at_s - runs[-1][-1].at_s < APART_S:
                runs[-1].append(p)
            else:
                runs.append([p])
    out = []
    for pushes in runs:
        at = np.array([p.at_s for p in pushes])
        size = np.array([np.linalg.norm(p.force_n[:2]) for p in pushes])
        peak = int(np.argmax(size))
        if size[peak] < FEWEST_N:
            continue
        # nothing between two pushes is a force of nought
        gap = np.flatnonzero((np.diff(at) > 1.5 * step) | (size[1:] < EDGE * size[peak]))
        first = int(gap[gap < peak][-1]) + 1 if (gap < peak).any() else 0
        last = int(gap[gap >= peak][0]) if (gap >= peak).any() else len(at) - 1
        own = pushes[first : last + 1]
        impulse = sum((p.force_n for p in own), np.zeros(3)) * step
        out.append(
            Contact(
                f"{own[0].side}_hand",
                float(at[first]),
                float(at[last]) + step,
                impulse * [1.0, 1.0, 0.0],
                _on_the_bag(own, impulse, size[first : last + 1], step, bag),
            )
        )
    return sorted(out, key=lambda c: c.contact_s)


def _on_the_bag(own: list[Pushed], impulse: Floats, size: Floats, step: float, bag: Bag) -> dict[str, float]:
    to_bag = own[0].upright.T
    j = to_bag @ impulse
    level = float(np.hypot(j[0], j[1]))
    middle = np.array([0.0, 0.0, -bag.com_below_top_m])
    spin = sum((np.cross(p.place_m - middle, p.upright.T @ p.force_n) for p in own), np.zeros(3)) * step
    up = (spin[1] * j[0] - spin[0] * j[1]) / level**2
    peak = int(np.argmax(size))
    low, high = (int(np.argmax(size[: peak + 1] >= s * size[peak])) for s in (0.1, 0.9))
    return {
        "impulse_n_s": level,
        "peak_force_n": float(size[peak]),
        "contact_ms": 1e3 * step * len(own),
        "rise_ms": 1e3 * step * (high - low),
        "push_index": float(size.mean() / size[peak]),
        "hit_below_top_m": float(bag.com_below_top_m - up),
        "off_centre_m": float(spin[2] / level),
    }


def _course(ran: Ran, contacts: list[Contact], build: Build) -> Course:
    t = np.arange(int(ran.times_s[-1] * FINE_HZ)) / FINE_HZ

    def even(x: Floats) -> Floats:
        return np.column_stack([np.interp(t, ran.times_s, x[:, i]) for i in range(x.shape[1])])

    places = {p: even(ran.places_m[p]) for p in PLACES}
    angles = {p: even(np.unwrap(Rotation.from_matrix(ran.turned[p]).as_euler("ZYX"), axis=0)) for p in PLACES}
    nothing = np.zeros(0)
    return Course(
        t,
        {f"{s}_hand": LimbMotion(places[f"{s}wrist"], angles[f"{s}wrist"]) for s in ("left", "right")},
        {p: PartMotion(places[p], angles[p]) for p in ("pelvis", "torso")},
        {},
        Loads({}, {}),
        Body(mass_kg=build.mass_kg),
        [Thrown(c.contact_s, c.end_s, c.limb, Technique(), 0.0, nothing, nothing, 0.0) for c in contacts],
    )
