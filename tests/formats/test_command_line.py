"""The command line, as another program calls it."""

import csv
import io
import json
from pathlib import Path

import pytest
from makers import Played, data_set

from agile_strike.cli import main
from agile_strike.core.registry import MEASURES, NUMERIC


def test_analyse_prints_the_document(clean: Played, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["analyse", str(data_set(tmp_path / "a", clean.simulated[0].recording)), "--json"]) == 0
    document = json.loads(capsys.readouterr().out)
    (recording,) = document["recordings"]
    assert document["schema"] == 1
    assert [recording[k] for k in ("participant", "session", "task", "run")] == ["01", "01", "mixed", "01"]
    assert recording["units"][0]["aligned"] is True
    for said, strike in zip(recording["strikes"], clean.analyses[0].strikes, strict=True):
        assert said["limb"] == strike.limb
        assert said["measures"]["impulse_n_s"] == pytest.approx(strike.measures["impulse_n_s"].value, rel=1e-5)
        assert set(said["measures"]) <= set(MEASURES)
        assert set(said["sd"]) <= set(NUMERIC)


def test_csv_is_the_same_strikes(clean: Played, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    folder = str(data_set(tmp_path / "a", clean.simulated[0].recording))
    main(["analyse", folder, "--csv"])
    rows = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    main(["analyse", folder])
    strikes = json.loads(capsys.readouterr().out)["recordings"][0]["strikes"]
    assert [float(r["peak_force_n"]) for r in rows] == [s["measures"]["peak_force_n"] for s in strikes]
    assert rows[0]["gap_ms"] == ""  # absent, not zero


def test_a_bad_data_set_ends_with_status_two_and_one_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["analyse", str(tmp_path)]) == 2
    out, err = capsys.readouterr()
    assert out == ""
    assert err.count("\n") == 1
    assert "this is not a data set" in err


def test_simulate_gives_the_same_bytes_for_the_same_seed(tmp_path: Path) -> None:
    options = ["--strikes", "3", "--bumps", "1", "--seed", "7"]
    for name in ("a", "b"):
        assert main(["simulate", str(tmp_path / name), *options]) == 0
    a, b = (sorted(p for p in (tmp_path / n).rglob("*") if p.is_file()) for n in ("a", "b"))
    assert [p.read_bytes() for p in a] == [p.read_bytes() for p in b]
    true = json.loads((tmp_path / "a.truth.json").read_text())
    assert len(true["recordings"][0]["strikes"]) == 3
    assert main(["simulate", str(tmp_path / "a")]) == 2  # never over an older data set
