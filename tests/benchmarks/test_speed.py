"""How long things take. Nothing here fails for being slow: compare each group with its named baseline.

.venv/bin/python -m pytest tests/benchmarks --benchmark-only --benchmark-group-by=group
"""

import io
from collections.abc import Callable
from contextlib import redirect_stdout
from dataclasses import replace
from pathlib import Path

import numpy as np
import pyarrow.csv as pacsv
import pytest
from makers import Played, data_set, dressed

from agile_strike.cli import main
from agile_strike.core.analysis import analyse, strikes
from agile_strike.core.bag.curve import curve
from agile_strike.core.simulation.plan import simulate
from agile_strike.core.window import window
from agile_strike.formats.motion_bids_read import read_all

Benchmark = Callable[..., object]
KIT = {"bag", "leftwrist", "rightwrist"}


@pytest.fixture(scope="module")
def folder(messy: Played, tmp_path_factory: pytest.TempPathFactory) -> Path:
    return data_set(tmp_path_factory.mktemp("speed") / "evening", messy.simulated[0].recording)


@pytest.mark.benchmark(group="a data set, start to finish")
def test_baseline_reading_the_samples_with_pyarrow(benchmark: Benchmark, folder: Path) -> None:
    (path,) = folder.rglob("*_motion.tsv")
    options = {
        "read_options": pacsv.ReadOptions(autogenerate_column_names=True),
        "parse_options": pacsv.ParseOptions(delimiter="\t"),
    }
    table = benchmark(lambda: pacsv.read_csv(path, **options))
    assert table.num_columns == 6  # type: ignore[attr-defined]


@pytest.mark.benchmark(group="a data set, start to finish")
def test_analyse_a_data_set(benchmark: Benchmark, folder: Path) -> None:
    def run() -> int:
        with redirect_stdout(io.StringIO()):
            return main(["analyse", str(folder)])

    assert benchmark(run) == 0


def read_alone(folder: Path) -> int:
    """The samples' text as columns of figures, and nothing else."""
    options = {
        "read_options": pacsv.ReadOptions(autogenerate_column_names=True),
        "parse_options": pacsv.ParseOptions(delimiter="\t"),
    }
    return sum(pacsv.read_csv(p, **options).num_rows for p in sorted(folder.rglob("*_motion.tsv")))


@pytest.fixture(scope="module")
def wrists(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A bag and two wrists."""
    made = simulate(dressed(), np.random.default_rng(6)).recording
    units = {n: u for n, u in made.units.items() if n in KIT}
    return data_set(tmp_path_factory.mktemp("speed") / "wrists", replace(made, units=units))


@pytest.mark.benchmark(group="bag and two wrists")
def test_baseline_reading_bag_and_wrists_with_pyarrow(benchmark: Benchmark, wrists: Path) -> None:
    assert benchmark(lambda: read_alone(wrists))


@pytest.mark.benchmark(group="bag and two wrists")
def test_analyse_bag_and_wrists(benchmark: Benchmark, wrists: Path) -> None:
    result = benchmark(lambda: analyse(next(iter(read_all(wrists)))))
    assert set(result.recording.units) == KIT  # type: ignore[attr-defined]
    assert any("contact_speed_m_s" in s.measures for s in result.strikes)  # type: ignore[attr-defined]


@pytest.mark.benchmark(group="parts")
def test_one_strike_of_a_window(benchmark: Benchmark, messy: Played) -> None:
    whole = messy.analyses[0]
    piece = window(whole.recording, whole.strikes[4].contact_s, None)
    assert benchmark(lambda: strikes(piece, whole.state))


@pytest.mark.benchmark(group="parts")
def test_strikes_of_a_recording(benchmark: Benchmark, messy: Played) -> None:
    result = benchmark(lambda: analyse(messy.simulated[0].recording))
    assert len(result.strikes) == 30  # type: ignore[attr-defined]


@pytest.mark.benchmark(group="parts")
def test_one_force_curve(benchmark: Benchmark, messy: Played) -> None:
    made, result = messy.simulated[0].recording, messy.analyses[0]
    strike, seat, bag = result.strikes[4], result.mounting, made.bag
    assert seat is not None
    assert bag is not None
    drawn = benchmark(
        lambda: curve(made.units["bag"], strike.contact_s, seat, bag, impulse_n_s=strike.measures["impulse_n_s"].value)
    )
    assert drawn.force_n.max() == pytest.approx(strike.measures["peak_force_n"].value, rel=0.01)  # type: ignore[attr-defined]
