"""What a table says of itself is believed, unless it can't be; what can't be known is asked, one thing at a time."""

import tracemalloc
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from makers import Played, evening, logger_table, play
from numpy.typing import NDArray

from agile_strike.core.errors import BadInput
from agile_strike.core.recording import UnitSignal
from agile_strike.formats import loose_table
from agile_strike.formats.loose_columns import read_columns, write_columns
from agile_strike.formats.mapped import apply, way_up
from agile_strike.formats.mapping import Guess, Mapping, UnitMap, still_open
from agile_strike.formats.mapping_guess import guess

Rows = NDArray[np.float64]
UNIT = {"rad/s": 1.0, "deg/s": np.pi / 180.0}


@pytest.fixture(scope="module")
def strengths() -> dict[str, Played]:
    """An evening of hard strikes, and one of a child's taps."""
    hard = evening(strikes=10)
    sets = tuple(replace(s, mass_kg=0.4, speed_m_s=2.2) for s in hard.sets)
    return {"hard": play(hard, seed=3), "light": play(replace(hard, sets=sets), seed=4)}


def written(unit: UnitSignal, told: str, truly: str, every: int = 1) -> str:
    """A logger's table whose gyro counts in `truly` and is called `told`."""
    a, g = unit.accel_m_s2[::every].astype(np.float64), unit.gyro_rad_s[::every] / UNIT[truly]
    t = np.arange(len(a)) * every / unit.rate_hz
    label = f" [{told}]" if told else ""
    head = ",".join(["time [s]", *(f"acc{x} [m/s^2]" for x in "XYZ"), *(f"gyr{x}{label}" for x in "XYZ")])
    rows = "\n".join(",".join(f"{v:.6g}" for v in row) for row in np.column_stack([t, a, g]))
    return f"{head}\n{rows}\n"


def taken(folder: Path, content: str, name: str = "bag.csv") -> tuple[loose_table.LooseTable, Guess]:
    path = folder / name
    path.write_text(content)
    table = loose_table.read(path, name)
    return table, guess(table, name)


@pytest.mark.parametrize("strength", ["hard", "light"])
@pytest.mark.parametrize("truly", ["deg/s", "rad/s"])
@pytest.mark.parametrize("every", [1, 10])
def test_a_right_label_stands_however_light_the_strikes_are(
    strengths: dict[str, Played], tmp_path: Path, strength: str, truly: str, every: int
) -> None:
    unit = strengths[strength].simulated[0].recording.units["bag"]
    table, found = taken(tmp_path, written(unit, truly, truly, every))
    got = apply(table, found.mapping)["bag"]
    assert found.mapping.units[0].gyro_unit == truly
    assert np.abs(got.gyro_rad_s - unit.gyro_rad_s[::every]).max() < 1e-3
    assert [q for q in found.questions if q.about == "gyro"] == []


@pytest.mark.parametrize(("told", "truly"), [("rad/s", "deg/s"), ("deg/s", "rad/s"), ("", "deg/s"), ("", "rad/s")])
@pytest.mark.parametrize("strength", ["hard", "light"])
def test_how_a_struck_bag_turns_overrules_a_wrong_label_and_stands_in_for_none(
    strengths: dict[str, Played], tmp_path: Path, told: str, truly: str, strength: str
) -> None:
    unit = strengths[strength].simulated[0].recording.units["bag"]
    _, found = taken(tmp_path, written(unit, told, truly))
    assert found.mapping.units[0].gyro_unit == truly
    assert any("would not turn like that" in line for line in found.told) == bool(told)


def test_a_unit_upside_down_is_told_before_anything_is_saved(strengths: dict[str, Played], tmp_path: Path) -> None:
    unit = strengths["hard"].simulated[0].recording.units["bag"]
    for axes, said in (([1, -1, -1], "z axis points down"), (None, "")):
        shown = unit if axes is None else replace(unit, accel_m_s2=unit.accel_m_s2 * np.array(axes, np.float32))
        table, found = taken(tmp_path, written(shown, "rad/s", "rad/s", 5))
        assert said in " ".join(way_up(table, found.mapping))
        assert bool(said) == bool(way_up(table, found.mapping))


def test_a_gyro_that_is_not_there_is_absent_and_not_at_rest(strengths: dict[str, Played], tmp_path: Path) -> None:
    unit = strengths["hard"].simulated[0].recording.units["bag"]
    rows = logger_table(unit, 10).decode().splitlines()
    cut = "\n".join(",".join(row.split(",")[:4]) for row in rows)
    table, found = taken(tmp_path, cut)
    got = apply(table, found.mapping)["bag"]
    assert np.isnan(got.gyro_rad_s).all()
    assert not got.feels_turning


def test_a_rate_that_nobody_told_is_asked_and_never_made_up(tmp_path: Path) -> None:
    rows = "\n".join(f"{k % 5},0.1,9.8,0,0.1,{k % 7}" for k in range(600))
    table, found = taken(tmp_path, f"accX,accY,accZ,gyrX,gyrY,gyrZ\n{rows}\n", "left wrist.csv")
    assert "rate" in {q.about for q in found.questions}
    with pytest.raises(BadInput, match="does not say its rate"):
        apply(table, found.mapping)
    found.mapping.rate_hz = 200.0
    assert apply(table, found.mapping)["leftwrist"].rate_hz == 200.0


# --- one thing at a time


def asked() -> Guess:
    out = Guess(Mapping([UnitMap("", ["a", "b", "c"], ["d", "e", "f"]), UnitMap("bag", ["g", "h", "i"], [])]))
    out.ask("rate", None, "rate?")
    out.ask("placement", out.mapping.units[0], "where?")
    out.ask("gyro", out.mapping.units[0], "which unit?")
    out.ask("accel", out.mapping.units[1], "what is a count?")
    return out


def left(found: Guess, now: Mapping, answered: tuple[str, ...] = ()) -> list[str]:
    return [q.key for q in still_open(found.questions, found.mapping, now, frozenset(answered))]


def test_one_answer_leaves_the_other_questions_open() -> None:
    found, units = asked(), asked().mapping.units
    every = ["rate", "placement:0", "gyro:0", "accel:1"]
    assert left(found, Mapping(units)) == every
    assert left(found, Mapping(units, rate_hz=200.0)) == every[1:]
    assert left(found, Mapping(units), ("gyro:0",)) == ["rate", "placement:0", "accel:1"]
    placed = [replace(units[0], placement="pelvis"), units[1]]
    assert left(found, Mapping(placed)) == ["rate", "gyro:0", "accel:1"]


def test_nothing_said_is_no_answer_and_a_unit_that_is_gone_takes_its_questions_along() -> None:
    found, units = asked(), asked().mapping.units
    assert left(found, Mapping(units), ("rate", "placement:0")) == ["rate", "placement:0", "gyro:0", "accel:1"]
    assert left(found, Mapping(units[1:])) == ["rate", "accel:0"]  # the other's keep their own, at its new place
    more = [*units, UnitMap("torso", ["j", "k", "l"], [])]
    assert left(found, Mapping(more)) == ["rate", "placement:0", "gyro:0", "accel:1"]


# --- as large as the file, and no larger


def test_reading_takes_as_much_memory_as_the_figures(tmp_path: Path) -> None:
    path = tmp_path / "long.csv"
    rng = np.random.default_rng(1)
    block = "\n".join(",".join(f"{v:.5f}" for v in row) for row in rng.standard_normal((2000, 6)))
    with path.open("w") as file:
        file.write("accX,accY,accZ,gyrX,gyrY,gyrZ\n")
        for _ in range(100):
            file.write(block + "\n")
    tracemalloc.start()
    table = loose_table.read(path, "long.csv")
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert table.rows == 200_000
    assert peak < 3 * 200_000 * 6 * 8  # figures of eight bytes, once in parts and once as a whole


def test_columns_that_were_kept_are_those_that_were_read(tmp_path: Path) -> None:
    rows = "\n".join(f"{k / 100},{'left wrist' if k % 2 else 'chest'},{k},{-k},9.81,,0,{k % 3}" for k in range(400))
    table, _ = taken(tmp_path, f"time_s,sensor,ax,ay,az,gx,gy,gz\n{rows}\n", "class.csv")
    write_columns(table, tmp_path / "columns")
    back = read_columns(tmp_path / "columns", table.layout, table.preamble)
    assert set(back.numbers) == set(table.numbers)
    for name, values in table.numbers.items():
        np.testing.assert_array_equal(back.numbers[name], values)
    assert [back.words["sensor"].at(i) for i in (0, 1)] == ["chest", "left wrist"]


def test_a_column_of_too_many_words_is_for_the_eye_alone(tmp_path: Path) -> None:
    rows = "\n".join(f"{k / 100},note {k},0,0,9.81" for k in range(3000))
    table, found = taken(tmp_path, f"time_s,remark,ax,ay,az\n{rows}\n", "pelvis.csv")
    assert found.mapping.sensor_column == ""
    assert (table.words["remark"].at(5), table.words["remark"].at(2900)) == ("note 5", "…")
