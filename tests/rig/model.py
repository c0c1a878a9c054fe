"""The rig's bodies: a jointed student whose joints give way at their strongest, and a bag on links.

World axes: z up, the bag hangs at the origin. Every unit sits on a strap: a few grams on springs. Gloves give before
the bag does. What moves whom is the engine's affair.
"""

from dataclasses import dataclass

TOP_M, CEILING_M = 2.05, 2.75  # of the bag, and where its links hang from
UPPER_ARM_M, FOREARM_M, UNIT_ON_FOREARM_M = 0.29, 0.27, 0.21
ARM = ("shoulder_z", "shoulder_y", "shoulder_x", "elbow", "turnover")
TRUNK = ("pelvis_z", "pelvis_y", "pelvis_x", "torso_z", "torso_y", "torso_x")
BASE = ("base_x", "base_y", "base_height")


@dataclass(frozen=True, slots=True)
class Build:
    """What one evening's bodies are like."""

    mass_kg: float = 70.0
    strength: float = 1.0  #: of every joint, against a trained adult's
    strap_hz: float = 42.0  #: at the wrist
    belt_hz: float = 26.0  #: on the trunk
    strap_damping: float = 0.25  #: share of critical
    seat_hz: float = 160.0  #: of the bag's unit on its shell
    seat_damping: float = 0.15
    glove_kn_m: float = 100.0  #: of the glove's padding; a little of the glove's mass lies before it
    contact_s: float = 0.008  #: the surface's time constant
    bag_kg: float = 35.0
    bag_length_m: float = 1.2
    bag_diameter_m: float = 0.35
    sensor_below_top_m: float = 0.25
    links: int = 3
    slosh_share: float = 0.0  #: of the bag's mass that moves inside it


def _strapped(name: str, place: str, hz: float, damping: float, mass_kg: float = 0.02) -> str:
    """A unit that its strap lets slide and tilt, each way at a pitch of its own."""
    inertia = 5e-6

    def gives(axis: str, kind: str, share: float, size: float) -> str:
        w = 6.2832 * hz * share
        way = {"x": "1 0 0", "y": "0 1 0", "z": "0 0 1"}[axis]
        return (
            f'<joint name="{name}_{kind}_{axis}" type="{kind}" axis="{way}" stiffness="{size * w * w:.4g}"'
            f' damping="{2.0 * damping * size * w:.4g}"/>'
        )

    slides = "".join(gives(a, "slide", s, mass_kg) for a, s in (("x", 1.0), ("y", 0.88), ("z", 1.1)))
    tilts = "".join(gives(a, "hinge", s, inertia) for a, s in (("x", 0.95), ("y", 1.1), ("z", 0.85)))
    return (
        f'<site name="{name}_true" {place}/><body name="{name}" {place}>{slides}{tilts}<site name="{name}"/>'
        f'<inertial pos="0 0 0" mass="{mass_kg}" diaginertia="{inertia} {inertia} {inertia}"/></body>'
    )


def _arm(side: str, b: Build) -> str:
    y = 0.19 if side == "left" else -0.19
    m = b.mass_kg
    glove_kg, k = 0.1, 1e3 * b.glove_kn_m
    c = 0.3 * (k * 0.04 * m) ** 0.5

    def hinge(name: str, axis: str, span: str, rotor: float) -> str:
        return (
            f'<joint name="{side}_{name}" type="hinge" axis="{axis}" range="{span}" armature="{rotor}" damping="0.3"/>'
        )

    bend = "-2.6 0" if side == "left" else "0 2.6"
    return f"""
    <body name="{side}_upper" pos="0 {y} 0.40">
      {hinge("shoulder_z", "0 0 1", "-2 2", 0.02)}{hinge("shoulder_y", "0 1 0", "-1.6 1.9", 0.02)}
      {hinge("shoulder_x", "1 0 0", "-2.4 2.4", 0.01)}
      <geom type="capsule" fromto="0 0 0 {UPPER_ARM_M} 0 0" size="0.045" mass="{0.028 * m}"/>
      <body pos="{UPPER_ARM_M} 0 0">{hinge("elbow", "0 0 1", bend, 0.01)}
        <geom type="capsule" fromto="0 0 0 {FOREARM_M / 2} 0 0" size="0.04" mass="{0.010 * m}"/>
        <body name="{side}_forearm" pos="{FOREARM_M / 2} 0 0">{hinge("turnover", "1 0 0", "-2.2 2.2", 0.002)}
          <geom type="capsule" fromto="0 0 0 {FOREARM_M / 2} 0 0" size="0.032" mass="{0.007 * m}"/>
          <geom type="sphere" pos="{FOREARM_M / 2 + 0.05} 0 0" size="0.04" mass="{0.006 * m + 0.25}"/>
          {_strapped(f"{side}wrist", f'pos="{UNIT_ON_FOREARM_M - FOREARM_M / 2} 0 0.045"', b.strap_hz, b.strap_damping)}
          <site name="{side}_fist" pos="{FOREARM_M / 2 + 0.05} 0 0"/>
          <body name="{side}_glove" pos="{FOREARM_M / 2 + 0.07} 0 0">
            <joint name="{side}_glove" type="slide" axis="1 0 0" stiffness="{k:.5g}" damping="{c:.4g}"/>
            <geom name="{side}_glove" type="sphere" size="0.065" mass="{glove_kg}" contype="1" conaffinity="2"/>
          </body>
        </body>
      </body>
    </body>"""


def _bag(b: Build) -> str:
    whole = CEILING_M - TOP_M
    link = whole / b.links
    radius, still_kg = b.bag_diameter_m / 2.0, b.bag_kg * (1.0 - b.slosh_share)
    across = still_kg * (3.0 * radius**2 + b.bag_length_m**2) / 12.0
    about = 0.5 * still_kg * radius**2
    slosh = ""
    if b.slosh_share:
        kg = b.bag_kg * b.slosh_share
        w = 6.2832 * 1.4
        slides = "".join(
            f'<joint type="slide" axis="{v}" stiffness="{kg * w * w:.4g}" damping="{0.3 * kg * w:.4g}"/>'
            for v in ("1 0 0", "0 1 0")
        )
        slosh = (
            f'<body pos="0 0 {-b.bag_length_m / 2}">{slides}'
            f'<inertial pos="0 0 0" mass="{kg}" diaginertia="{kg * 0.03} {kg * 0.03} {kg * 0.01}"/></body>'
        )
    inner = f"""
      <body name="bag" pos="0 0 {-link if b.links else 0}">
        <joint name="bag_ball" type="ball" damping="0.5"/>
        <inertial pos="0 0 {-b.bag_length_m / 2}" mass="{still_kg}" diaginertia="{across} {across} {about}"/>
        <geom name="bag" type="cylinder" pos="0 0 {-b.bag_length_m / 2}" size="{radius} {b.bag_length_m / 2}" mass="0"
          contype="2" conaffinity="1"/>
        <site name="bag_top"/><site name="bag_middle" pos="0 0 {-b.bag_length_m / 2}"/>
        {_strapped("bagunit", f'pos="{radius} 0 {-b.sensor_below_top_m}"', b.seat_hz, b.seat_damping, 0.03)}{slosh}
      </body>"""
    for k in reversed(range(b.links)):
        inner = (
            f'<body name="link{k}" pos="0 0 {CEILING_M if k == 0 else -link}">'
            f'<joint type="ball" damping="{0.5 if k == 0 else 0.02}"/>'
            f'<geom type="capsule" fromto="0 0 0 0 0 {-link}" size="0.01" mass="0.25"/>{inner}</body>'
        )
    return inner


def mjcf(b: Build) -> str:
    """The whole rig for the engine to compile."""
    m, s = b.mass_kg, b.strength
    trunk = {"pelvis_z": 260, "pelvis_y": 300, "pelvis_x": 300, "torso_z": 220, "torso_y": 250, "torso_x": 250}
    arm = {"shoulder_z": 110, "shoulder_y": 110, "shoulder_x": 55, "elbow": 75, "turnover": 12}
    gain = {"shoulder_z": 700, "shoulder_y": 700, "shoulder_x": 260, "elbow": 300, "turnover": 25}
    motors = "".join(
        f'<position name="{n}" joint="{n}" kp="{k}" kv="{v}" forcerange="{-f} {f}"/>'
        for n, k, v, f in (
            ("base_x", 9000, 1300, 1500),
            ("base_y", 9000, 1300, 1500),
            ("base_height", 16000, 1500, 3000),
        )
    )
    motors += "".join(
        f'<position name="{n}" joint="{n}" kp="2600" kv="150" forcerange="{-f * s} {f * s}"/>' for n, f in trunk.items()
    )
    motors += "".join(
        f'<position name="{side}_{n}" joint="{side}_{n}" kp="{gain[n] * s}" kv="{0.045 * gain[n] * s}"'
        f' forcerange="{-f * s} {f * s}"/>'
        for side in ("left", "right")
        for n, f in arm.items()
    )
    units = ("bagunit", "leftwrist", "rightwrist", "pelvis", "torso")
    sensors = "".join(f'<accelerometer site="{u}"/><gyro site="{u}"/>' for u in units)

    def hinges(part: str) -> str:
        return "".join(
            f'<joint name="{part}_{a}" type="hinge" axis="{v}" damping="1" armature="0.05"/>'
            for a, v in (("z", "0 0 1"), ("y", "0 1 0"), ("x", "1 0 0"))
        )

    return f"""<mujoco><option timestep="0.00025" integrator="implicitfast" gravity="0 0 -9.80665"/>
    <compiler angle="radian"/><default><geom contype="0" conaffinity="0" solref="{b.contact_s} 0.6"
      solimp="0.02 0.95 0.025" friction="0.6"/><joint limited="auto"/></default>
    <worldbody>{_bag(b)}
      <body name="base" pos="0 0 1.0">
        <joint name="base_x" type="slide" axis="1 0 0"/><joint name="base_y" type="slide" axis="0 1 0"/>
        <joint name="base_height" type="slide" axis="0 0 1"/>{hinges("pelvis")}
        <geom type="capsule" fromto="0 -0.1 0 0 0.1 0" size="0.11" mass="{0.42 * m}"/>
        {_strapped("pelvis", 'pos="-0.12 0 0"', b.belt_hz, b.strap_damping)}
        <body name="chest" pos="0 0 0.12">{hinges("torso")}
          <geom type="capsule" fromto="0 0 0.1 0 0 0.42" size="0.13" mass="{0.36 * m}"/>
          {_strapped("torso", 'pos="-0.13 0 0.33"', b.belt_hz, b.strap_damping)}
          {_arm("left", b)}{_arm("right", b)}
        </body>
      </body>
    </worldbody><actuator>{motors}</actuator><sensor>{sensors}</sensor></mujoco>"""
