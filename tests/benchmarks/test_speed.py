"""How long things take. Nothing here fails for being slow: compare each group with its named baseline.

.venv/bin/python -m pytest tests/benchmarks --benchmark-only --benchmark-group-by=group
"""

import io
from collections.abc import Callable
from contextlib import redirect_stdout
from pathlib import Path

import pyarrow.csv as pacsv
import pytest
from makers import Played, data_set

from agile_strike.cli import main
from agile_strike.core.analysis import analyse
from agile_strike.core.bag.curve import curve

Benchmark = Callable[..., object]


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
