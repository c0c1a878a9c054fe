"""What loggers do besides: rows of several sensors in turn, pauses, coarse clocks, counts, odd letters, nonsense."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from makers import G
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from agile_strike.core.errors import BadFile, BadInput
from agile_strike.formats import c3d, loose_table
from agile_strike.formats.mapped import apply, physics
from agile_strike.formats.mapping import Guess, Mapping, UnitMap, layout_signature
from agile_strike.formats.mapping_guess import guess

Rows = NDArray[np.float64]
AXES = ["acc_x", "acc_y", "acc_z", "gyr_x", "gyr_y", "gyr_z"]


def turning(seconds: float = 20.0, rate: float = 200.0, seed: int = 2) -> tuple[Rows, Rows, Rows]:
    """Time, specific force (m/s2) and turn rate (rad/s) of a unit on somebody who turns about and stands still."""
    t = np.arange(int(seconds * rate)) / rate
    rng = np.random.default_rng(seed)
    angles = np.column_stack([0.9 * np.sin(2 * np.pi * f * t + p) for f, p in ((0.31, 0.0), (0.23, 1.0), (0.17, 2.0))])
    angles *= np.clip((t - 4.0) / 4.0, 0.0, 1.0)[:, None]
    attitude = Rotation.from_rotvec(angles)
    turn = np.vstack([(attitude[:-1].inv() * attitude[1:]).as_rotvec() * rate, np.zeros((1, 3))])
    accel = attitude.inv().apply([0.0, 0.0, G]) + 0.05 * rng.standard_normal((len(t), 3))
    return t, accel, turn + 0.003 * rng.standard_normal((len(t), 3))


def lines(rows: Rows, separator: str = ",") -> str:
    return "\n".join(separator.join(f"{x:.6g}" for x in row) for row in rows) + "\n"


def taken(folder: Path, name: str, content: str, encoding: str = "utf-8") -> tuple[loose_table.LooseTable, Guess]:
    path = folder / name
    path.write_text(content, encoding=encoding)
    table = loose_table.read(path, name)
    return table, guess(table, name)


def test_rows_of_several_sensors_in_turn_come_apart_by_the_column_that_names_them(tmp_path: Path) -> None:
    t, a, g = turning()
    rows = []
    for i, stamp in enumerate(t):
        for sensor, sign in (("left wrist", 1.0), ("chest", -1.0)):
            figures = ",".join(f"{x:.5f}" for x in (*(sign * a[i]), *(sign * g[i])))
            rows.append(f"{stamp:.4f},{sensor},{figures}")
    table, found = taken(tmp_path, "class.csv", ",".join(["time_s", "sensor", *AXES]) + "\n" + "\n".join(rows) + "\n")
    units = apply(table, found.mapping)
    assert set(units) == {"leftwrist", "torso"}
    assert found.questions == []
    for name, sign in (("leftwrist", 1.0), ("torso", -1.0)):
        assert units[name].rate_hz == pytest.approx(200.0, rel=1e-3)
        np.testing.assert_allclose(units[name].accel_m_s2, sign * a, atol=1e-4)


def test_a_pause_of_the_logger_leaves_a_hole_and_the_clock_goes_on(tmp_path: Path) -> None:
    t, a, g = turning()
    keep = (t < 6.0) | (t >= 7.0)
    content = ",".join(["time_s", *AXES]) + "\n" + lines(np.column_stack([t, a, g])[keep])
    table, found = taken(tmp_path, "pelvis.csv", content)
    unit = apply(table, found.mapping)["pelvis"]
    assert unit.rate_hz == pytest.approx(200.0, rel=2e-3)
    assert abs(len(unit.accel_m_s2) - len(t)) <= 2
    assert np.isnan(unit.accel_m_s2[1210:1390]).all()
    np.testing.assert_allclose(unit.accel_m_s2[-1000:], a[-1000:], atol=1e-3)


def test_a_clock_that_ticks_coarser_than_the_samples_still_gives_their_rate(tmp_path: Path) -> None:
    t, a, g = turning()
    coarse = np.floor(t / 0.02) * 0.02  # four samples a tick
    table, found = taken(
        tmp_path, "pelvis.csv", ",".join(["time_s", *AXES]) + "\n" + lines(np.column_stack([coarse, a, g]))
    )
    assert apply(table, found.mapping)["pelvis"].rate_hz == pytest.approx(200.0, rel=0.01)


@pytest.mark.parametrize(("encoding", "separator"), [("utf-16", ";"), ("latin-1", "\t"), ("utf-8-sig", "|")])
def test_letters_and_separators_of_any_logger_are_read(tmp_path: Path, encoding: str, separator: str) -> None:
    t, a, g = turning(8.0)
    head = separator.join(["Zeit (s)", *(f"Hüfte {x}" for x in AXES)])
    content = head + "\n" + lines(np.column_stack([t, a, g]), separator)
    table, found = taken(tmp_path, "hip.txt", content, encoding)
    assert len(table.layout.names) == 7
    np.testing.assert_allclose(apply(table, found.mapping)["pelvis"].gyro_rad_s, g, atol=1e-4)


def test_figures_parted_by_blanks_with_missing_ones_are_read(tmp_path: Path) -> None:
    t, a, g = turning(8.0)
    rows = lines(np.column_stack([t, a, g]), "  ").splitlines()
    cells = rows[300].split()
    rows[300] = "  ".join([*cells[:2], "nan", *cells[3:]])
    table, found = taken(tmp_path, "pelvis.dat", "  ".join(["time_s", *AXES]) + "\n" + "\n".join(rows) + "\n")
    unit = apply(table, found.mapping)["pelvis"]
    assert int(np.isnan(unit.accel_m_s2).sum()) == 1
    assert np.isnan(unit.accel_m_s2[300, 1])


@pytest.mark.parametrize(("unit", "factor"), [("rad/s", 1.0), ("deg/s", np.pi / 180), ("mdeg/s", np.pi / 180_000)])
def test_how_gravity_turns_tells_the_gyros_unit_where_nothing_else_does(
    tmp_path: Path, unit: str, factor: float
) -> None:
    t, a, g = turning()
    table, found = taken(
        tmp_path, "left wrist.csv", ",".join(["time_s", *AXES]) + "\n" + lines(np.column_stack([t, a, g / factor]))
    )
    (only,) = found.mapping.units
    assert only.gyro_unit == unit
    np.testing.assert_allclose(apply(table, found.mapping)["leftwrist"].gyro_rad_s, g, atol=1e-3)
    only.gyro_unit = "deg/s" if unit == "rad/s" else "rad/s"
    assert any("gravity turns" in said or "faster than a limb" in said for said in physics(table, found.mapping))


def test_counts_of_both_sensors_are_scaled_by_gravity_at_rest_and_in_turning(tmp_path: Path) -> None:
    t, a, g = turning()
    counts = np.column_stack([np.rint(a / G * 4096), np.rint(np.degrees(g) * 32.8)])
    content = ",".join(["time_s", *AXES]) + "\n" + lines(np.column_stack([t, counts]))
    table, found = taken(tmp_path, "right wrist.csv", content)
    unit = apply(table, found.mapping)["rightwrist"]
    np.testing.assert_allclose(unit.accel_m_s2, a, atol=0.02)
    assert np.median(np.abs(unit.gyro_rad_s - g)) < 0.02
    assert any("4096 a g" in said for said in found.told)


def test_an_axis_is_turned_round_by_a_minus_before_its_column(tmp_path: Path) -> None:
    t, a, g = turning(8.0)
    table, found = taken(tmp_path, "pelvis.csv", ",".join(["time_s", *AXES]) + "\n" + lines(np.column_stack([t, a, g])))
    found.mapping.units[0].accel[1] = "-acc_y"
    np.testing.assert_allclose(apply(table, found.mapping)["pelvis"].accel_m_s2[:, 1], -a[:, 1], atol=1e-4)


def test_a_signal_that_runs_into_its_range_tells_the_range(tmp_path: Path) -> None:
    t, a, g = turning()
    a[1000:1040, 0] = 300.0
    clipped = np.clip(a, -8 * G, 8 * G)
    table, found = taken(
        tmp_path, "left wrist.csv", ",".join(["time_s", *AXES]) + "\n" + lines(np.column_stack([t, clipped, g]))
    )
    unit = apply(table, found.mapping)["leftwrist"]
    assert unit.accel_full_scale_m_s2 == pytest.approx(8 * G, rel=1e-3)
    assert np.isinf(unit.gyro_full_scale_rad_s)


def test_a_smooth_peak_in_coarse_counts_is_no_end_of_a_range(tmp_path: Path) -> None:
    t, a, g = turning()
    coarse = np.column_stack([np.rint(a * 20) / 20, np.rint(np.degrees(g))])
    table, found = taken(
        tmp_path, "left wrist.csv", ",".join(["time_s", *AXES]) + "\n" + lines(np.column_stack([t, coarse]))
    )
    unit = apply(table, found.mapping)["leftwrist"]
    assert np.isinf([unit.accel_full_scale_m_s2, unit.gyro_full_scale_rad_s]).all()


def test_a_logger_without_a_gyro_is_told_of(tmp_path: Path) -> None:
    t, a, _ = turning(8.0)
    table, found = taken(
        tmp_path, "left wrist.csv", ",".join(["time_s", *AXES[:3]]) + "\n" + lines(np.column_stack([t, a]))
    )
    assert any("no turn rates were found" in said for said in found.told)
    assert not apply(table, found.mapping)["leftwrist"].feels_turning


def test_units_on_both_forearms_are_no_forefeet(tmp_path: Path) -> None:
    t, a, g = turning(8.0)
    names = [f"{side} forearm {axis}" for side in ("left", "right") for axis in AXES]
    content = ",".join(["time_s", *names]) + "\n" + lines(np.column_stack([t, a, g, a, g]))
    table, found = taken(tmp_path, "arms.csv", content)
    assert set(apply(table, found.mapping)) == {"leftforearm", "rightforearm"}


def test_two_files_of_one_logger_share_a_signature_and_those_of_another_do_not(tmp_path: Path) -> None:
    t, a, g = turning(6.0)
    rows = np.column_stack([t, a, g])
    head = ",".join(["time_s", *AXES])
    first = taken(tmp_path, "a.csv", head + "\n" + lines(rows))[0].layout
    again = taken(tmp_path, "b.csv", "# another evening\n" + head + "\n" + lines(rows[200:]))[0].layout
    other = taken(tmp_path, "c.csv", head.replace("gyr", "omega") + "\n" + lines(rows))[0].layout
    assert layout_signature(first) == layout_signature(again) != layout_signature(other)


NONSENSE: dict[str, tuple[Callable[[Mapping], None], str]] = {
    "nowhere": (lambda m: setattr(m.units[0], "placement", ""), "where each unit was worn"),
    "on the moon": (lambda m: setattr(m.units[0], "placement", "moon"), "one of the places"),
    "twice in one place": (lambda m: m.units.append(m.units[0]), "once"),
    "under a foot": (lambda m: setattr(m.units[0], "placement", "leftsole"), "nothing but load"),
    "load on a wrist": (lambda m: setattr(m.units[0], "load", ["acc_x"]), "nothing but load"),
    "three loads": (
        lambda m: m.units.__setitem__(0, UnitMap("leftsole", [], [], load=["acc_x", "acc_y", "acc_z"])),
        "two for heel and forefoot",
    ),
    "no units": (lambda m: m.units.clear(), "No unit is mapped"),
    "no such column": (lambda m: m.units[0].accel.__setitem__(0, "acc_q"), "no column of figures called “acc_q”"),
    "no such unit": (lambda m: setattr(m.units[0], "accel_unit", "furlong"), "“furlong” is no unit that is known"),
    "no such clock": (lambda m: setattr(m, "time", "hour"), "no column of figures called “hour”"),
    "a clock that stands": (lambda m: setattr(m, "time", "still"), "does not move on"),
    "a clock of years": (lambda m: setattr(m, "rate_hz", 1e6), "samples a second: check its unit"),
}


@pytest.mark.parametrize("case", NONSENSE)
def test_a_mapping_that_makes_no_sense_says_what_and_what_to_do(tmp_path: Path, case: str) -> None:
    t, a, g = turning(6.0)
    still = np.full((len(t), 1), 3.0)
    table, found = taken(
        tmp_path, "pelvis.csv", ",".join(["time_s", *AXES, "still"]) + "\n" + lines(np.column_stack([t, a, g, still]))
    )
    change, said = NONSENSE[case]
    change(found.mapping)
    with pytest.raises(BadInput, match=said):
        apply(table, found.mapping)


def plates(path: Path, kind: int = 2, labels: list[str] | None = None, channels: int = 6) -> Path:
    import ezc3d

    file = ezc3d.c3d()
    file["parameters"]["POINT"]["RATE"]["value"] = [100.0]
    file["parameters"]["ANALOG"]["RATE"]["value"] = [1000.0]
    file["parameters"]["ANALOG"]["LABELS"]["value"] = labels or [f"c{i}" for i in range(channels)]
    if labels is None:
        file.add_parameter("FORCE_PLATFORM", "USED", [1])
        file.add_parameter("FORCE_PLATFORM", "TYPE", [kind])
        file.add_parameter("FORCE_PLATFORM", "CHANNEL", np.arange(1.0, channels + 1.0).reshape(channels, 1))
    t, a, g = turning(6.0, 1000.0)
    file["data"]["points"] = np.zeros((4, 0, len(t) // 10))
    file["data"]["analogs"] = np.column_stack([a, g]).T[None] if labels else np.full((1, channels, len(t)), 90.0)
    file.write(str(path))
    return path


def test_inertial_channels_of_a_c3d_file_come_in_like_any_table(tmp_path: Path) -> None:
    labels = [f"left wrist {axis}" for axis in AXES]
    table = c3d.read(plates(tmp_path / "night.c3d", labels=labels), "night.c3d")
    found = guess(table, "night.c3d")
    unit = apply(table, found.mapping)["leftwrist"]
    assert unit.rate_hz == 1000.0
    np.testing.assert_allclose(unit.accel_m_s2, turning(6.0, 1000.0)[1], atol=1e-4)


def test_a_plate_of_eight_cells_adds_its_four_verticals(tmp_path: Path) -> None:
    table = c3d.read(plates(tmp_path / "eight.c3d", kind=3, channels=8), "eight.c3d")
    assert list(table.numbers) == ["plate 1 load (N)"]
    assert table.numbers["plate 1 load (N)"].max() == pytest.approx(360.0)


def test_a_plate_of_an_unknown_type_and_what_is_no_c3d_are_refused_with_a_remedy(tmp_path: Path) -> None:
    with pytest.raises(BadFile, match="plate 1 is of type 9"):
        c3d.read(plates(tmp_path / "nine.c3d", kind=9), "nine.c3d")
    (tmp_path / "words.c3d").write_text("no motion capture at all")
    with pytest.raises(BadFile, match=r"words\.c3d: this is not a C3D file"):
        c3d.read(tmp_path / "words.c3d", "words.c3d")
