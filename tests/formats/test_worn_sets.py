"""Data sets with units on the student: out and in again, and what is wrong with a bad one."""

import json
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from kept import simulate
from makers import dressed

from agile_strike.core.errors import BadFile
from agile_strike.core.recording import Recording
from agile_strike.formats import motion_bids_read as bids
from agile_strike.formats.chunks import checksum, pack, unpack
from agile_strike.formats.motion_bids_write import write


@pytest.fixture(scope="module")
def made() -> Recording:
    evening = dressed()
    few = replace(evening, sets=(replace(evening.sets[0], strikes=3),))
    return simulate(few, np.random.default_rng(5)).recording


@pytest.fixture
def folder(made: Recording, tmp_path: Path) -> Path:
    write(tmp_path / "set", [made])
    return tmp_path / "set"


def one(folder: Path, pattern: str) -> Path:
    return next(folder.rglob(pattern))


def test_every_unit_reads_back_to_the_same_numbers(made: Recording, folder: Path) -> None:
    (back,) = bids.read_all(folder)
    assert set(back.units) == set(made.units)
    for name, unit in made.units.items():
        again = back.units[name]
        assert again.rate_hz == unit.rate_hz
        assert again.accel_m_s2.tobytes() == unit.accel_m_s2.tobytes()
        if unit.sole_n is not None:
            assert again.sole_n is not None
            assert again.sole_n.tobytes() == unit.sole_n.tobytes()
        if name != "bag":
            assert again.starts_s == pytest.approx(unit.starts_s, abs=0.01)
    assert checksum(back) == checksum(made)


def test_soles_survive_the_chunks(made: Recording) -> None:
    unit = made.units["leftsole"]
    chunks = list(pack(unit))
    back = unpack([c.parquet for c in chunks], "leftsole", unit.rate_hz, {})
    assert unit.sole_n is not None
    assert back.sole_n is not None
    assert back.sole_n.tobytes() == unit.sole_n.tobytes()


def test_a_plate_without_a_heel_and_a_battery_read_back(made: Recording, tmp_path: Path) -> None:
    sole = made.units["leftsole"]
    load = sole.under_foot_n
    plate = replace(sole, sole_n=np.column_stack([np.full_like(load, np.nan), load]), battery_pct=62.0)
    write(tmp_path / "plates", [replace(made, units={**made.units, "leftsole": plate})])
    (back,) = bids.read_all(tmp_path / "plates")
    assert back.units["leftsole"].under_foot_n.tobytes() == load.tobytes()
    assert back.units["leftsole"].battery_pct == 62.0
    assert back.units["rightsole"].battery_pct is None
    sidecar = one(tmp_path / "plates", "*leftsole*_motion.json")
    sidecar.write_text(sidecar.read_text().replace("62.0", "620"))
    with pytest.raises(BadFile, match="BatteryPercent is 620"):
        list(bids.read_all(tmp_path / "plates"))


def test_the_official_validator_finds_no_error(folder: Path) -> None:
    command = Path(sys.executable).with_name("bids-validator-deno")
    told = subprocess.run([command, folder, "--json"], capture_output=True, text=True, check=False)
    issues = json.loads(told.stdout)["issues"]["issues"]
    assert [i for i in issues if i["severity"] == "error"] == []


def test_a_sole_without_its_heel_is_refused(folder: Path) -> None:
    table = one(folder, "*leftsole*_channels.tsv")
    table.write_text(table.read_text().replace("heel", "toe"))
    with pytest.raises(BadFile, match=r"no channel MISC\.heel"):
        list(bids.read_all(folder))


def test_a_wrist_without_a_gyro_is_refused(folder: Path) -> None:
    table = one(folder, "*leftwrist*_channels.tsv")
    lines = [line for line in table.read_text().splitlines() if not line.startswith("gyr_y")]
    table.write_text("\n".join(lines) + "\n")
    sidecar = one(folder, "*leftwrist*_motion.json")
    content = json.loads(sidecar.read_text())
    sidecar.write_text(json.dumps({**content, "MotionChannelCount": 5}))
    with pytest.raises(BadFile, match=r"no channel GYRO\.y"):
        list(bids.read_all(folder))


def test_a_start_that_is_not_told_is_left_open(folder: Path) -> None:
    scans = one(folder, "*_scans.tsv")
    lines = scans.read_text().splitlines()
    scans.write_text(
        "\n".join(line if "bag" in line or i == 0 else line.split("\t")[0] + "\tn/a" for i, line in enumerate(lines))
    )
    (back,) = bids.read_all(folder)
    assert back.units["pelvis"].starts_s is None
    assert back.acquired_at is not None


def test_stamps_and_sets_are_told_in_order(folder: Path) -> None:
    (back,) = bids.read_all(folder)
    assert [e.trial_type for e in back.events] == ["stamps", "set", "stamps"]
    assert back.events[1].set_parts == ("rear-straight", "right_hand", {"level": "head"})
