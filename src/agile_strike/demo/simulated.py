"""One evening of a demo student, made up; no Django, so that it can be made in a process of its own."""

import os
from dataclasses import replace
from pathlib import Path

import numpy as np

from agile_strike.core.recording import Recording
from agile_strike.core.simulation.kept import kept
from agile_strike.core.simulation.plan import simulate
from agile_strike.demo import gym_plan as plan

DAY_SPREAD = 0.04  # of the mass behind a strike, from day to day


def simulated_evening(which: tuple[int, int]) -> Recording:
    """The recording of (place of the student, evening)."""
    student, number = which
    rng = np.random.default_rng([2026, student, number])
    day_factor = float(np.exp(DAY_SPREAD * rng.standard_normal()))
    evening = plan.evening(plan.STUDENTS[student], number, day_factor, float(rng.standard_normal()))
    folder = os.environ.get("AGILE_STRIKE_KEPT")
    made = kept(("simulate", evening), lambda r: simulate(evening, r), rng, Path(folder) if folder else None).recording
    levels = np.random.default_rng([2027, number])  # one set of units goes round
    units = {
        n: replace(u, battery_pct=float(levels.integers(18, 100)), serial=plan.SERIALS[n], model_text=plan.UNIT_MODEL)
        for n, u in made.units.items()
    }
    return replace(made, units=units)
