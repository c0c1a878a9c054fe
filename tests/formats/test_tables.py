"""Foreign tables: what a logger wrote is understood, and what can't be known is asked."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from makers import G, Played
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile, BadInput
from agile_strike.core.recording import UnitSignal
from agile_strike.formats import c3d, loose_table
from agile_strike.formats.foreign.document import document, units_in
from agile_strike.formats.mapped import apply, physics
from agile_strike.formats.mapping import Guess
from agile_strike.formats.mapping_guess import guess

Rows = NDArray[np.float64]


@pytest.fixture(scope="module")
def truth(clean: Played) -> UnitSignal:
    unit = clean.simulated[0].recording.units["bag"]
    return UnitSignal("bag", 1000.0, unit.accel_m_s2[:12000], unit.gyro_rad_s[:12000])


def text(rows: Rows, separator: str = ",", decimal: str = ".") -> str:
    return "\n".join(separator.join(f"{x:.6g}".replace(".", decimal) for x in row) for row in rows) + "\n"


def plain(t: Rows, a: Rows, g: Rows) -> tuple[str, str]:
    return "bag.csv", "time_s,ax,ay,az,gx,gy,gz\n" + text(np.column_stack([t, a, g]))


def semicolons(t: Rows, a: Rows, g: Rows) -> tuple[str, str]:
    head = "Zeit (ms);AccX (g);AccY (g);AccZ (g);GyroX (deg/s);GyroY (deg/s);GyroZ (deg/s)\n"
    return "heavy bag.txt", head + text(np.column_stack([1e3 * t, a / G, np.degrees(g)]), ";", ",")


def long_header(t: Rows, a: Rows, g: Rows) -> tuple[str, str]:
    above = "".join(f"# note {i}\n" if i != 50 else "# sampling rate: 1000 Hz\n" for i in range(100))
    return "bag.dat", above + "acc_x\tacc_y\tacc_z\tgyr_x\tgyr_y\tgyr_z\n" + text(
        np.column_stack([1e3 * a / G, g]), "\t"
    )


def epoch(t: Rows, a: Rows, g: Rows) -> tuple[str, str]:
    head = "timestamp,acc.x,acc.y,acc.z,gyro.x,gyro.y,gyro.z\n"
    stamps = (1_700_000_000_000_000 + np.rint(1e6 * t)).astype(np.int64)
    rows = (f"{s},{','.join(f'{x:.6g}' for x in r)}" for s, r in zip(stamps, np.column_stack([a, g]), strict=True))
    return "sack.csv", head + "\n".join(rows) + "\n"


def headless(t: Rows, a: Rows, g: Rows) -> tuple[str, str]:
    return "bag.csv", text(np.column_stack([1e6 * t, a, g]).round(4))


def wrong_words(t: Rows, a: Rows, g: Rows) -> tuple[str, str]:
    head = "time [s],acc x [m/s^2],acc y [m/s^2],acc z [m/s^2],rate x [rad/s],rate y [rad/s],rate z [rad/s]\n"
    return "bag.csv", head + text(np.column_stack([t, a / G, np.degrees(g)]))


def counts(t: Rows, a: Rows, g: Rows) -> tuple[str, str]:
    head = "t,bag_acc_x,bag_acc_y,bag_acc_z,bag_gyr_x,bag_gyr_y,bag_gyr_z\n"
    return "night.csv", head + text(np.column_stack([t, np.rint(a / G * 2048), np.rint(np.degrees(g) * 16.4)]))


def taken(folder: Path, name: str, content: str) -> tuple[loose_table.LooseTable, Guess]:
    path = folder / name
    path.write_text(content, encoding="utf-8")
    table = loose_table.read(path, name)
    return table, guess(table, name)


@pytest.mark.parametrize("logger", [plain, semicolons, long_header, epoch, headless, wrong_words, counts])
def test_what_a_logger_wrote_is_understood(
    truth: UnitSignal, tmp_path: Path, logger: Callable[[Rows, Rows, Rows], tuple[str, str]]
) -> None:
    a, g = truth.accel_m_s2.astype(np.float64), truth.gyro_rad_s.astype(np.float64)
    table, found = taken(tmp_path, *logger(np.arange(len(a)) / 1000.0, a, g))
    unit = apply(table, found.mapping)["bag"]
    assert unit.rate_hz == pytest.approx(1000.0, rel=1e-3)
    assert np.abs(unit.accel_m_s2 - truth.accel_m_s2).max() < 0.05
    assert np.abs(unit.gyro_rad_s - truth.gyro_rad_s).max() < 0.01
    assert physics(table, found.mapping) == []
    assert len(found.questions) <= 2


def test_physics_overrules_a_files_own_words_and_says_so(truth: UnitSignal, tmp_path: Path) -> None:
    a, g = truth.accel_m_s2.astype(np.float64), truth.gyro_rad_s.astype(np.float64)
    table, found = taken(tmp_path, *wrong_words(np.arange(len(a)) / 1000.0, a, g))
    assert any("the file says m/s^2" in line for line in found.told)
    found.mapping.units[0].accel_unit = "m/s^2"
    assert "where gravity is 9.81" in physics(table, found.mapping)[0]


def test_what_cannot_be_known_is_asked(truth: UnitSignal, tmp_path: Path) -> None:
    a, g = truth.accel_m_s2.astype(np.float64), truth.gyro_rad_s.astype(np.float64)
    table, found = taken(tmp_path, "night7.csv", "ax,ay,az,gx,gy,gz\n" + text(np.column_stack([a, g])))
    assert {q.about for q in found.questions} >= {"rate", "placement"}
    with pytest.raises(BadInput, match="where each unit was worn"):
        apply(table, found.mapping)


def test_several_units_in_one_table_come_apart(truth: UnitSignal, tmp_path: Path) -> None:
    a, g = truth.accel_m_s2.astype(np.float64), truth.gyro_rad_s.astype(np.float64)
    names = [f"{u}_{k}_{x}" for u in ("bag", "rw") for k in ("acc", "gyr") for x in "xyz"]
    t = np.arange(len(a)) / 1000.0
    table, found = taken(tmp_path, "class.csv", ",".join(["t", *names]) + "\n" + text(np.column_stack([t, a, g, a, g])))
    assert set(apply(table, found.mapping)) == {"bag", "rightwrist"}


@pytest.mark.parametrize("content", [b"", b"no figures here\nat all\n", bytes(range(256)) * 20])
def test_a_file_without_a_table_is_refused(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "odd.csv"
    path.write_bytes(content)
    with pytest.raises(BadFile, match=r"odd\.csv"):
        loose_table.read(path, "odd.csv")


def standing(seconds: float = 20.0, rate: float = 100.0) -> tuple[Rows, Rows]:
    """Time, and newtons under left heel, left forefoot, right heel, right forefoot of a student who sways."""
    t = np.arange(int(seconds * rate)) / rate
    lead = 0.5 + 0.2 * np.sin(t)
    parts = (0.45 * lead, 0.55 * lead, 0.45 * (1 - lead), 0.55 * (1 - lead))
    return t, 70.0 * G * np.column_stack(parts)


@pytest.mark.parametrize(("unit", "factor"), [("N", 1.0), ("kg", 1.0 / G), ("", 1.0)])
def test_soles_are_known_by_their_names_and_a_persons_weight(tmp_path: Path, unit: str, factor: float) -> None:
    t, loads = standing()
    said = f" ({unit})" if unit else ""
    names = [f"{side} {part} load{said}" for side in ("left", "right") for part in ("heel", "forefoot")]
    table, found = taken(
        tmp_path, "soles.csv", ",".join(["time_s", *names]) + "\n" + text(np.column_stack([t, factor * loads]))
    )
    units = apply(table, found.mapping)
    assert set(units) == {"leftsole", "rightsole"}
    for name, at in (("leftsole", 0), ("rightsole", 2)):
        sole = units[name].sole_n
        assert sole is not None
        assert np.abs(sole - loads[:, at : at + 2]).max() < 0.5
    assert physics(table, found.mapping) == []
    assert len(found.questions) <= 1


def test_a_file_that_calls_kilograms_newtons_is_found_out(tmp_path: Path) -> None:
    t, loads = standing()
    both = np.column_stack([t, loads[:, :2].sum(axis=1) / G, loads[:, 2:].sum(axis=1) / G])
    table, found = taken(tmp_path, "boards.csv", "time_s,left board (N),right board (N)\n" + text(both))
    assert {u.load_unit for u in found.mapping.units} == {"kgf"}
    assert any("nobody stands" in line for line in found.told)
    for unit in found.mapping.units:
        unit.load_unit = "N"
    assert "bear 7 kg" in physics(table, found.mapping)[0]


def test_force_plates_of_a_c3d_file_are_loads_and_the_feet_are_asked_for(tmp_path: Path) -> None:
    import ezc3d

    t, loads = standing(rate=1000.0)
    feet = (loads[:, :2].sum(axis=1), loads[:, 2:].sum(axis=1))
    file = ezc3d.c3d()
    file["parameters"]["POINT"]["RATE"]["value"] = [100.0]
    file["parameters"]["ANALOG"]["RATE"]["value"] = [1000.0]
    labels = [f"{kind}{plate}" for plate in (1, 2) for kind in ("Fx", "Fy", "Fz", "Mx", "My", "Mz")]
    file["parameters"]["ANALOG"]["LABELS"]["value"] = labels
    file.add_parameter("FORCE_PLATFORM", "USED", [2])
    file.add_parameter("FORCE_PLATFORM", "TYPE", [2, 2])
    file.add_parameter("FORCE_PLATFORM", "CHANNEL", np.arange(1.0, 13.0).reshape(2, 6).T)
    analogs = np.zeros((1, 12, len(t)))
    analogs[0, 2], analogs[0, 8] = -feet[0], -feet[1]
    file["data"]["points"] = np.zeros((4, 0, len(t) // 10))
    file["data"]["analogs"] = analogs
    path = tmp_path / "plates.c3d"
    file.write(str(path))
    table = c3d.read(path, "plates.c3d")
    told = document(units_in([(path, "plates.c3d")]))
    assert [(u["rate_hz"], len(u["load"]["indices"]), u["load"]["factor_n"]) for u in told["units"]] == [
        (1000.0, 1, 1.0)
    ] * 2
    assert [q["about"] for q in told["questions"]] == ["placement", "placement"]
    found = guess(table, "plates.c3d")
    assert [q.about for q in found.questions] == ["placement", "placement"]
    for unit, place in zip(found.mapping.units, ("leftsole", "rightsole"), strict=True):
        unit.placement = place
    units = apply(table, found.mapping)
    assert units["leftsole"].rate_hz == 1000.0
    for name, load in zip(("leftsole", "rightsole"), feet, strict=True):
        assert np.abs(units[name].under_foot_n - load).max() < 0.5
    assert physics(table, found.mapping) == []
