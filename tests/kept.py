"""Simulated evenings, looked for among those of earlier runs and other processes; made and kept where there is none."""

import os
from pathlib import Path
from typing import Any

import numpy as np

from agile_strike.core.simulation import bagless, plan
from agile_strike.core.simulation.bagless import Free, FreeSet
from agile_strike.core.simulation.kept import kept
from agile_strike.core.simulation.plan import Evening, Simulated

FOLDER = Path(os.environ["AGILE_STRIKE_KEPT"]) if os.environ.get("AGILE_STRIKE_KEPT") else None
RIG = Path(__file__).parent / "rig"


def simulate(evening: Evening, rng: np.random.Generator) -> Simulated:
    return kept(("simulate", evening), lambda r: plan.simulate(evening, r), rng, FOLDER)


def simulate_free(
    sets: tuple[FreeSet, ...], units: tuple[str, ...], rng: np.random.Generator, *more: Any, **named: Any
) -> Free:
    whole = ("simulate_free", sets, units, more, named)
    return kept(whole, lambda r: bagless.simulate_free(sets, units, r, *more, **named), rng, FOLDER)


def on_the_rig(world: Any, rng: np.random.Generator) -> Any:
    """An evening of the physics engine."""
    import mujoco
    from rig.evening import evening

    return kept(("rig", world, mujoco.__version__), lambda r: evening(world, r), rng, FOLDER, (RIG,))
