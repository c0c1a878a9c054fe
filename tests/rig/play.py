"""Let the engine run an evening: where everything was, what pushed what, and what an ideal unit would have felt."""

from dataclasses import dataclass

import mujoco
import numpy as np
from numpy.typing import NDArray

from rig.moves import CONTROL_HZ, Programme

Floats = NDArray[np.float64]
STEADY_N_S_M, STEADY_N_M = 190.0, 120.0
UNITS = ("bagunit", "leftwrist", "rightwrist", "pelvis", "torso")
PLACES = ("leftwrist", "rightwrist", "pelvis", "torso")


@dataclass(frozen=True, slots=True)
class Pushed:
    """One instant of a glove on the bag."""

    at_s: float
    side: str
    force_n: Floats  #: (3,) on the bag, world axes
    place_m: Floats  #: (3,) bag axes, from its top
    upright: Floats  #: (3, 3) bag to world


@dataclass(frozen=True, slots=True)
class Ran:
    """Everything of one run, (n,) instants."""

    times_s: Floats
    places_m: dict[str, Floats]  #: (n, 3) of PLACES, as if no strap gave
    turned: dict[str, Floats]  #: (n, 3, 3) their axes in the world
    felt: dict[str, Floats]  #: (n, 3) specific force of UNITS on their straps
    rates: dict[str, Floats]  #: (n, 3) rad/s
    pushed: list[Pushed]


def run(model: mujoco.MjModel, plan: Programme) -> Ran:
    data = mujoco.MjData(model)
    for k in range(model.nu):
        data.qpos[model.jnt_qposadr[model.actuator_trnid[k, 0]]] = plan.targets[0, k]
    base, bag = model.body("base").id, model.body("bag").id
    sites = [model.site(f"{p}_true").id for p in PLACES]
    glove = {model.geom(f"{side}_glove").id: side for side in ("left", "right")}
    steps = round(1.0 / CONTROL_HZ / model.opt.timestep)
    n = len(plan.targets) * steps
    at = np.zeros((n, len(PLACES), 3))
    axes = np.zeros((n, len(PLACES), 9))
    felt = np.zeros((n, model.nsensordata))
    times = np.zeros(n)
    pushed: list[Pushed] = []
    speed = np.zeros(6)
    row = 0
    for k, target in enumerate(plan.targets):
        data.ctrl[:] = target
        data.xfrc_applied[base, 2] = plan.pushes_n[k]
        data.xfrc_applied[bag, :2] = 0.0
        if plan.steadied[k] > 0.0:
            mujoco.mj_objectVelocity(model, data, mujoco.mjtObj.mjOBJ_BODY, bag, speed, 0)
            hand = STEADY_N_S_M * speed[3:5] + STEADY_N_M * data.xipos[bag][:2]
            data.xfrc_applied[bag, :2] = -plan.steadied[k] * hand
        for _ in range(steps):
            mujoco.mj_step(model, data)
            times[row] = data.time
            # what was felt and pushed in a step belongs to where everything was at its beginning
            felt[row] = data.sensordata
            at[row], axes[row] = data.site_xpos[sites], data.site_xmat[sites]
            if data.ncon:
                pushed += _pushed(model, data, glove, data.time - model.opt.timestep)
            row += 1
    times -= model.opt.timestep
    return Ran(
        times,
        {p: at[:, k] for k, p in enumerate(PLACES)},
        {p: axes[:, k].reshape(n, 3, 3) for k, p in enumerate(PLACES)},
        {u: felt[:, 6 * k : 6 * k + 3] for k, u in enumerate(UNITS)},
        {u: felt[:, 6 * k + 3 : 6 * k + 6] for k, u in enumerate(UNITS)},
        pushed,
    )


def _pushed(model: mujoco.MjModel, data: mujoco.MjData, glove: dict[int, str], now_s: float) -> list[Pushed]:
    out = []
    six = np.zeros(6)
    top, upright = data.site("bag_top").xpos, data.site("bag_top").xmat.reshape(3, 3)
    for k in range(data.ncon):
        one = data.contact[k]
        mujoco.mj_contactForce(model, data, k, six)
        force = one.frame.reshape(3, 3).T @ six[:3]  # on the second body of the pair
        first_is_glove = one.geom[0] in glove
        side = glove[int(one.geom[0] if first_is_glove else one.geom[1])]
        out.append(
            Pushed(now_s, side, force if first_is_glove else -force, upright.T @ (one.pos - top), upright.copy())
        )
    return out
