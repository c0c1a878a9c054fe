"""By how much figures that are shown while an evening goes on must be wider, and whether they then hold:
`python -m agile_strike.core.simulation.fit_early [WORLDS [FIRST]]` prints the table of `core.live.early` anew, and how
that table as it is now does in these worlds.

An evening is cut off at some of its strikes, as a take is that is settled between sets; with what is learnt from the
part, the strikes after it are measured up to the next cut, each from samples up to then.
"""

import sys
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from agile_strike.core.analysis import Analysis, State, analyse
from agile_strike.core.analysis import strikes as measured_in
from agile_strike.core.live import provisional as live
from agile_strike.core.live.early import MOST, SEEN, shown
from agile_strike.core.measured import Measured
from agile_strike.core.recording import Recording, UnitSignal
from agile_strike.core.simulation.plan import Simulated, simulate
from agile_strike.core.simulation.score import score
from agile_strike.core.simulation.worlds import drawn
from agile_strike.core.strikes import Strike
from agile_strike.core.window import window

USUAL, FIRST = 48, 200  # worlds; the first of them, beyond those that the doubts of settled figures were set on
SEED = 7
HOLDS, STEP = 0.96, 0.1
FEWEST = 30  # figures: of fewer nothing is learnt, and the column before is taken
CIRCLE = ("direction_deg",)
MORE = 3.2  # s of samples after a strike that ends a part: its own way back is over


@dataclass(frozen=True, slots=True)
class Early:
    """One figure as it was shown at once: how far it lay from what the settled evening says, and from the truth, in its
    own standard uncertainties, as the method gave them."""

    measure: str
    strikes: int  #: that were known then, one of SEEN
    from_settled: float
    from_true: float | None
    shown: Measured | None  #: as the table now has it
    raw: Measured


def early(made: Simulated) -> list[Early]:
    """Every figure of an evening that could be shown while it went on."""
    whole = analyse(made.recording)
    at = [s.contact_s for s in whole.strikes]
    offsets = {n: offset for n, (offset, _) in made.worn.clocks.items()} if made.worn else {}
    out: list[Early] = []
    for seen, until in zip(SEEN, (*SEEN[1:], len(at)), strict=True):
        state = _known(made.recording, at, seen, offsets)
        if state is None:
            continue
        for i in range(seen, min(until, len(at))):
            so_far = upto(made.recording, at[i] + (live.FULL_AFTER_S if seen else live.LOOK_AFTER_S), offsets)
            piece = window(so_far, at[i], state.body)
            found = measured_in(piece if seen else replace(piece, units={"bag": piece.units["bag"]}), state)
            near = min(found, key=lambda s: abs(s.contact_s - at[i]), default=None)
            if near is not None and abs(near.contact_s - at[i]) <= live.SAME_S:
                out += _figures(near, whole.strikes[i], whole, made, state)
    return out


def _known(recording: Recording, at: list[float], seen: int, offsets: dict[str, float]) -> State | None:
    assert recording.bag is not None
    if seen:
        return analyse(upto(recording, at[seen - 1] + MORE, offsets)).state if seen < len(at) else None
    bag = live.first_state(upto(recording, live.FIRST_LEARNT_S, offsets).units["bag"], recording.bag)
    return None if bag is None else State(bag, None)


def _figures(near: Strike, settled: Strike, whole: Analysis, made: Simulated, state: State) -> list[Early]:
    against = score(replace(whole, strikes=[near]), made)
    told = shown(near.measures, state.strikes)
    column = max(s for s in SEEN if state.strikes >= s)
    out = []
    for name, raw in near.measures.items():
        other = settled.measures.get(name)
        if other is None or raw.sd <= 0.0:
            continue
        off = raw.value - other.value
        off = (off + 180.0) % 360.0 - 180.0 if name in CIRCLE else off
        true = None
        if name in against.errors:
            true = abs(float(against.errors[name][0] / against.doubts[name][0]))
        out.append(Early(name, column, abs(off) / raw.sd, true, told.get(name), raw))
    return out


def upto(recording: Recording, seconds: float, offsets: dict[str, float]) -> Recording:
    """What had come of a recording by a second of the reference clock; units' own clocks are `offsets` behind it."""
    units = {n: _cut(u, seconds - offsets.get(n, 0.0)) for n, u in recording.units.items()}
    return replace(recording, units=units)


def _cut(unit: UnitSignal, own_s: float) -> UnitSignal:
    rows = slice(0, max(0, int(own_s * unit.rate_hz)))
    return replace(
        unit,
        accel_m_s2=unit.accel_m_s2[rows],
        gyro_rad_s=unit.gyro_rad_s[rows],
        load_n=None if unit.load_n is None else unit.load_n[rows],
        sole_n=None if unit.sole_n is None else unit.sole_n[rows],
    )


def fitted(figures: list[Early]) -> dict[str, list[float]]:
    """For each measure and each of SEEN the least stretch, from 1, by which two standard uncertainties hold the settled
    figure and the truth in `HOLDS` of these; infinite where that would be more than is of use."""
    by: dict[str, dict[int, list[Early]]] = defaultdict(lambda: defaultdict(list))
    for one in figures:
        by[one.measure][one.strikes].append(one)
    out = {}
    for name, columns in sorted(by.items()):
        row: list[float] = []
        for seen in SEEN:
            enough = len(columns[seen]) >= FEWEST
            row.append(_least(columns[seen]) if enough else row[-1] if row else np.inf)
        out[name] = row
    return out


def _least(figures: list[Early]) -> float:
    settled = np.quantile([f.from_settled for f in figures], HOLDS) / 2.0
    true = [f.from_true for f in figures if f.from_true is not None]
    wanted = max(1.0, settled, np.quantile(true, HOLDS) / 2.0 if true else 0.0)
    stretch = round(float(np.ceil(wanted / STEP)) * STEP, 1)
    return stretch if stretch <= MOST else np.inf


def table(figures: list[Early]) -> str:
    """How those hold that are shown, by measure and strikes that were known, the weakest first, as Markdown."""
    by: dict[str, list[Early]] = defaultdict(list)
    for one in figures:
        by[one.measure].append(one)
    rows = []
    for name, own in by.items():
        told = [f for f in own if f.shown is not None]
        if len(told) < FEWEST:
            rows.append((1.0, f"| {name} | after the set | | | {len(told)} of {len(own)} |"))
            continue
        settled = [_holds(f, f.from_settled) for f in told]
        true = [_holds(f, f.from_true) for f in told if f.from_true is not None]
        columns = []
        for seen in SEEN:
            at = [h for h, f in zip(settled, told, strict=True) if f.strikes == seen]
            columns.append(f"{100 * np.mean(at):.0f}" if len(at) >= FEWEST else "-")
        rows.append((float(np.mean(settled)),
                     f"| {name} | {100 * np.mean(settled):.1f} % | {' · '.join(columns)} | "
                     f"{f'{100 * np.mean(true):.1f} %' if true else ''} | {len(told)} of {len(own)} |"))  # fmt: skip
    head = ["| | settled within 2 sd | by strikes known | truth within 2 sd | shown |", "|---|---|---|---|---|"]
    return "\n".join([*head, *(text for _, text in sorted(rows))])


def _holds(figure: Early, off: float) -> bool:
    assert figure.shown is not None
    return off * figure.raw.sd <= 2.0 * figure.shown.sd


def play(seed: int) -> list[Early]:
    """The figures of one world, from its seed."""
    world = drawn(np.random.default_rng([SEED, seed]))
    return early(simulate(world.evening, np.random.default_rng([SEED, seed, 1])))


def run(worlds: int, first: int, processes: int = 2) -> list[Early]:
    with ProcessPoolExecutor(processes) as pool:
        return [f for figures in pool.map(play, range(first, first + worlds)) for f in figures]


if __name__ == "__main__":
    asked = [int(text) for text in sys.argv[1:]]
    found = run(*(asked + [USUAL, FIRST][len(asked) :]))
    for measure, row in fitted(found).items():
        print(f'    "{measure}": ({", ".join("inf" if np.isinf(x) else f"{x:g}" for x in row)}),')
    print()
    print(table(found))
