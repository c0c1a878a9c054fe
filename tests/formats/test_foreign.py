"""Any logger's table: what it holds is worked out right, or asked; never wrong in silence."""

import datetime as dt
import gzip
import json
import zipfile
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from formats.dialects import Drawn, Floats, drawn, evening

from agile_strike.cli import main
from agile_strike.core.analysis import analyse
from agile_strike.core.errors import BadFile
from agile_strike.core.recording import Recording
from agile_strike.core.target import GRAVITY_M_S2
from agile_strike.formats.foreign.document import document, units_in
from agile_strike.formats.motion_bids_write import strike_target

HEADS = "time (s),acc x (m/s2),acc y (m/s2),acc z (m/s2),gyr x (rad/s),gyr y (rad/s),gyr z (rad/s)"
RATE = 200.0


@pytest.fixture(scope="module")
def recording() -> Recording:
    return evening()


@pytest.fixture(scope="module")
def worn(recording: Recording) -> tuple[Floats, Floats]:
    unit = recording.units["rightwrist"]
    return unit.accel_m_s2[::5].astype(float), unit.gyro_rad_s[::5].astype(float)


def guess(*files: Path) -> dict[str, Any]:
    return document(units_in([(f, f.name) for f in files]))


def judged(told: dict[str, Any], of: Drawn) -> list[str]:
    """What is claimed wrongly: what is asked is not claimed."""
    asked = {q["about"] for q in told["questions"]}
    if len(told["units"]) != 1:
        return ["units"]
    unit = told["units"][0]
    accel, gyro, time = unit["accel"] or {}, unit["gyro"] or {}, unit["time"] or {}
    gap = of.gap or (0, 0.0)
    near = [g for g in unit["gaps"] if abs(g["line"] - gap[0]) <= 1 and abs(g["seconds"] - gap[1]) < 2.5 / of.rate_hz]
    right = {
        "accel.columns": accel.get("indices") == of.accel,
        "gyro.columns": gyro.get("indices") == of.gyro,
        "accel.unit": abs(accel.get("factor_m_s2", 0.0) / of.accel_factor - 1.0) < 0.03,
        "gyro.unit": abs(gyro.get("factor_rad_s", 0.0) / of.gyro_factor - 1.0) < 0.06,
        "accel.gravity": accel.get("gravity") is True,
        "time": time.get("kind", "") == of.kind,
        "rate": abs((unit["rate_hz"] or 0.0) / of.rate_hz - 1.0) < 0.01,
        "placement": unit["placement"] == of.placement,
        "clock": len(unit["gaps"]) == (of.gap is not None) and len(near) == len(unit["gaps"]),
    }
    wrong = [about for about, well in right.items() if not well and about not in asked]
    return wrong + ["label"] * bool(of.wrong and not told["objections"])


def test_drawn_tables_come_in_right_or_ask(recording: Recording, tmp_path: Path) -> None:
    """Seeds that nothing was set on; docs/foreign.md tells of many more."""
    asks = []
    for seed in range(5000, 5040):
        one = drawn(recording, seed)
        (tmp_path / one.name).write_bytes(one.content)
        told = guess(tmp_path / one.name)
        assert judged(told, one) == [], (seed, one.name, told["questions"])
        asks.append(0 if one.wrong else len(told["questions"]))
    assert np.mean(np.array(asks) <= 2) >= 0.97


def rows(*columns: Floats, times: str = "%.6f") -> list[str]:
    table = np.column_stack(columns)
    return [",".join([times % r[0], *(f"{v:.6g}" for v in r[1:])]) for r in table]


@pytest.mark.parametrize(
    "seen", ["restart", "bursts", "coarse", "every second", "header again", "long preamble", "thousands"]
)
def test_clocks_and_layouts_that_were_seen_to_go_wrong(worn: tuple[Floats, Floats], seen: str, tmp_path: Path) -> None:
    accel, gyro = worn
    n = len(accel)
    time, heads, rate, asks = np.arange(n) / RATE, HEADS, RATE, []
    if seen == "restart":
        time[3000:] -= time[3000]
        asks = ["clock"]
    if seen == "bursts":
        time, rate = np.floor(np.arange(n) / 16) * 16 / 256.0, 256.0
    if seen == "coarse":
        time, rate, heads = np.floor(np.arange(n) * 1000 / 256.0), 256.0, HEADS.replace("time (s)", "time (ms)")
    body = rows(time, accel, gyro)
    if seen == "every second":
        heads, body = HEADS.replace("time (s)", "packet"), rows(2.0 * np.arange(n), accel, gyro, times="%.0f")
        heads = f"Sample rate: 200 Hz\n{heads}"
    if seen == "header again":
        body = [*body[:2000], heads, *body[2000:]]
    if seen == "long preamble":
        heads = "\n".join([*(f"key {k}: value {k}" for k in range(700)), heads])
    if seen == "thousands":
        heads = heads.replace("time (s)", "time (us)").replace(",", ";")
        body = [
            f"{int(1e6 * t):,};{line.split(',', 1)[1].replace(',', ';')}" for t, line in zip(time, body, strict=True)
        ]
    file = tmp_path / "right wrist.csv"
    file.write_text("\n".join([heads, *body]))
    told = guess(file)
    (unit,) = told["units"]
    assert unit["rate_hz"] == pytest.approx(rate, rel=1e-4)
    assert (unit["placement"], unit["accel"]["indices"], unit["gyro"]["indices"]) == (
        "rightwrist",
        [1, 2, 3],
        [4, 5, 6],
    )
    assert [q["about"] for q in told["questions"]] == asks
    assert unit["gaps"] == []
    if seen == "header again":
        assert any("line 2002" in t for t in told["told"])
    if seen == "restart":
        assert "line 3002" in told["questions"][0]["text"]


def test_a_date_beside_a_clock_past_midnight_and_commas_in_quotes(worn: tuple[Floats, Floats], tmp_path: Path) -> None:
    accel = worn[0][:4000]
    began = dt.datetime(2026, 11, 24, 23, 59, 50)
    lines = ["Datum,Uhrzeit,Beschl. X [g],Beschl. Y [g],Beschl. Z [g]"]
    for k, row in enumerate(accel / GRAVITY_M_S2):
        at = began + dt.timedelta(seconds=k / RATE)
        figures = ",".join(f'"{v:.5f}"'.replace(".", ",") for v in row)
        lines.append(f"{at:%d.%m.%Y},{at:%H:%M:%S.%f},{figures}")
    file = tmp_path / "Sandsack.csv"
    file.write_bytes("\n".join(lines).encode("cp1252"))
    told = guess(file)
    (unit,) = told["units"]
    assert told["began"] == "2026-11-24T23:59:50.000000"
    assert (unit["placement"], unit["time"]["kind"], unit["rate_hz"], unit["gaps"]) == ("bag", "clock", 200.0, [])
    assert unit["accel"] == {
        "columns": lines[0].split(",")[2:],
        "indices": [2, 3, 4],
        "factor_m_s2": GRAVITY_M_S2,
        "gravity": True,
    }


def test_a_clock_that_begins_anew_at_a_full_minute_is_asked_and_one_that_wraps_is_carried_on(
    worn: tuple[Floats, Floats], tmp_path: Path
) -> None:
    accel, gyro = worn
    time = np.arange(len(accel)) / RATE
    for name, told, asks in (
        ("wraps", np.round(1000.0 * time) % 10_000.0, []),
        ("anew", np.concatenate([1000.0 * time[:1970], 1000.0 * time[:-1970]]), ["clock"]),
    ):
        file = tmp_path / f"{name} right wrist.csv"
        file.write_text("\n".join([HEADS.replace("time (s)", "time (ms)"), *rows(told, accel, gyro)]))
        found = guess(file)
        assert ([q["about"] for q in found["questions"]], found["units"][0]["gaps"]) == (asks, [])
        assert found["units"][0]["rate_hz"] == pytest.approx(RATE, rel=1e-4)


def test_rows_with_more_cells_and_cells_that_are_no_figures_are_told_by_line(
    worn: tuple[Floats, Floats], tmp_path: Path
) -> None:
    accel, gyro = (v[:1000] for v in worn)
    body = rows(np.arange(1000) / RATE, accel, gyro)
    body[499] += ",7.5"
    body[299] = ",".join([*body[299].split(",")[:-1], "oops"])
    file = tmp_path / "right wrist.csv"
    file.write_text("\n".join([HEADS, *body]))
    told = guess(file)["told"]
    assert any("line 501" in t for t in told)
    assert any("line 301" in t and "oops" in t for t in told)


def test_one_table_in_whatever_it_is_packed_is_one_answer(worn: tuple[Floats, Floats], tmp_path: Path) -> None:
    accel, gyro = (v[:4000] for v in worn)
    time = np.arange(len(accel)) / RATE
    text = "\n".join([HEADS, *rows(time, accel, gyro)])
    names = HEADS.split(",")
    table = dict(zip(names, np.column_stack([time, accel, gyro]).T, strict=True))
    (tmp_path / "a right wrist.csv.gz").write_bytes(gzip.compress(text.encode()))
    with zipfile.ZipFile(tmp_path / "b.zip", "w") as archive:
        archive.writestr("right wrist.csv", text)
    instants = pa.array((1e9 * time).astype(np.int64) + 1, pa.timestamp("ns"))  # finer than a microsecond
    pq.write_table(pa.table({**table, names[0]: instants}), tmp_path / "c right wrist.parquet")
    objects = [dict(zip(names, map(float, r), strict=True)) for r in np.column_stack([time, accel, gyro])]
    (tmp_path / "d right wrist.json").write_text(json.dumps({"samples": objects}))
    (tmp_path / "e right wrist.jsonl").write_text("\n".join(map(json.dumps, objects)))
    (tmp_path / "f right wrist.json").write_text(json.dumps({k: v.tolist() for k, v in table.items()}))
    for file in sorted(tmp_path.iterdir()):
        told = guess(file)
        assert told["questions"] == [], file.name
        (unit,) = told["units"]
        found = unit["accel"]["indices"], unit["gyro"]["indices"], unit["rate_hz"], unit["placement"]
        assert found == ([1, 2, 3], [4, 5, 6], 200.0, "rightwrist"), file.name


def test_several_units_in_one_table_are_told_apart(recording: Recording, tmp_path: Path) -> None:
    units = [recording.units[p] for p in ("leftwrist", "rightwrist")]
    n = min(len(u.accel_m_s2) for u in units) // 5
    both = [np.column_stack([u.accel_m_s2[::5][:n], u.gyro_rad_s[::5][:n]]) for u in units]
    time = np.arange(n) / RATE
    heads = [
        "Time,Left wrist,,,,,,Right wrist,,,,,",
        "s" + ",Acc X,Acc Y,Acc Z,Gyr X,Gyr Y,Gyr Z" * 2,
        "," + ",".join([*["m/s^2"] * 3, *["rad/s"] * 3] * 2),
    ]
    (tmp_path / "side.csv").write_text("\n".join([*heads, *rows(time, *both)]))
    turns = [
        f"{name},{line}"
        for pair in zip(*(rows(time, b) for b in both), strict=True)
        for name, line in zip(("left wrist", "right wrist"), pair, strict=True)
    ]
    (tmp_path / "turns.csv").write_text("\n".join([f"sensor,{HEADS}", *turns]))
    side, turn = guess(tmp_path / "side.csv"), guess(tmp_path / "turns.csv")
    assert [(u["placement"], u["accel"]["indices"]) for u in side["units"]] == [
        ("leftwrist", [1, 2, 3]),
        ("rightwrist", [7, 8, 9]),
    ]
    assert [(u["placement"], u["only"]["value"], u["rate_hz"]) for u in turn["units"]] == [
        ("leftwrist", "left wrist", 200.0), ("rightwrist", "right wrist", 200.0),
    ]  # fmt: skip
    assert side["questions"] == turn["questions"] == []


def test_tables_become_the_data_set_that_they_were(
    recording: Recording, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """By the command line: asked, answered, written; and the strikes are those of the evening itself."""
    for place in ("bag", "rightwrist"):
        unit = recording.units[place]
        n = len(unit.accel_m_s2)
        time = 1.7e9 + (unit.starts_s or 0.0) + np.arange(n) / unit.rate_hz
        heads = HEADS.replace("time (s)", "timestamp").replace(" (rad/s)", "")
        (tmp_path / f"{place if place == 'bag' else 'unit'}.csv").write_text(
            "\n".join([heads, *rows(time, unit.accel_m_s2, unit.gyro_rad_s)])
        )
    files = [str(tmp_path / f"{name}.csv") for name in ("bag", "unit")]
    (tmp_path / "target.json").write_text(json.dumps(strike_target(recording.bag)))  # type: ignore[arg-type]
    assert main(["convert", *files, "--guess"]) == 3
    told = json.loads(capsys.readouterr().out)
    assert [q["about"] for q in told["questions"]] == ["placement"]
    out = ["convert", *files, str(tmp_path / "out"), "--bag", str(tmp_path / "target.json")]
    assert main(out) == 2
    assert "q1" in capsys.readouterr().err
    assert not (tmp_path / "out").exists()
    (tmp_path / "answers.json").write_text(json.dumps({"q1": "rightwrist"}))
    assert main([*out, "--answers", str(tmp_path / "answers.json")]) == 0
    assert main(["analyse", str(tmp_path / "out")]) == 0
    (found,) = json.loads(capsys.readouterr().out)["recordings"]
    wanted = analyse(recording).strikes
    assert [s["contact_s"] for s in found["strikes"]] == pytest.approx([s.contact_s for s in wanted], abs=1e-3)
    impulses = [s.measures["impulse_n_s"].value for s in wanted]
    assert [s["measures"]["impulse_n_s"] for s in found["strikes"]] == pytest.approx(impulses, rel=5e-3)


DAMAGED: dict[str, bytes] = {
    "empty.csv": b"",
    "words.csv": b"\n".join(b"this is a letter, and no table" for _ in range(50)),
    "picture.csv": bytes(range(256)) * 40,
    "cut.csv.gz": gzip.compress(b"1,2,3\n" * 5000)[:-200],
    "cut.zip": b"PK\x03\x04" + bytes(300),
    "cut.parquet": b"PAR1" + bytes(100),
    "cut.json": b'[{"a": 1, "b": 2}, {"a": 1',
    "deep.json": b"[" * 200_000,
    "huge.json": json.dumps([{"a": 10**400, "b": k} for k in range(9)]).encode(),
    "quoted.csv": b'a,b,c\n"' + b"x" * 150_000 + b'",1,2\n',
    "wide.csv": (",".join(map(str, range(4000))) + "\n").encode() * 8,
    "still.csv": b"a,b,c\n" + b"1,1,1\n" * 500,
    "bomb.csv.gz": gzip.compress(bytes(40_000_000)),
    "long.csv": b"1," * 300_000,
    "rising.csv": b"n,m,k\n" + b"".join(b"%d,%d,%d\n" % (k, 2 * k, 3 * k) for k in range(500)),
}


@pytest.mark.parametrize("name", sorted(DAMAGED))
def test_what_is_no_table_is_refused_with_its_name_and_a_remedy(
    name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / name).write_bytes(DAMAGED[name])
    with pytest.raises(BadFile):
        guess(tmp_path / name)
    assert main(["convert", str(tmp_path / name), "--guess"]) == 2
    printed = capsys.readouterr()
    assert printed.out == ""
    assert len(printed.err.strip().splitlines()) == 1
    assert name in printed.err


def test_what_is_drawn_is_as_it_is_described(recording: Recording) -> None:
    one = asdict(drawn(recording, 5000))
    assert one == asdict(drawn(recording, 5000))
    assert one != asdict(drawn(recording, 5001))
