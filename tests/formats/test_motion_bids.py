"""Data sets in and out, and what is said of bad ones."""

import json
import subprocess
import sys
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from makers import Played, data_set

from agile_strike.core.errors import BadFile
from agile_strike.core.recording import Recording
from agile_strike.formats.archive import opened
from agile_strike.formats.motion_bids_read import read_all

STEM = "sub-01/ses-01/motion/sub-01_ses-01_task-mixed_tracksys-bag_run-01"


@pytest.fixture
def made(clean: Played) -> Recording:
    """Ten seconds of a clean evening, with a hole in it."""
    whole = clean.simulated[0].recording
    unit = whole.units["bag"]
    accel = unit.accel_m_s2[:10_000].copy()
    accel[500:503] = np.nan
    return replace(whole, units={"bag": replace(unit, accel_m_s2=accel, gyro_rad_s=unit.gyro_rad_s[:10_000])})


@pytest.fixture
def folder(tmp_path: Path, made: Recording) -> Path:
    return data_set(tmp_path / "evening", made)


def read(path: Path) -> list[Recording]:
    with opened(path) as root:
        return list(read_all(root))


def zipped(folder: Path, target: Path) -> Path:
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        for file in sorted(folder.rglob("*")):
            archive.write(file, file.relative_to(folder.parent))
    return target


def test_what_is_written_reads_back_to_the_same_numbers(folder: Path, made: Recording) -> None:
    (back,) = read(folder)
    np.testing.assert_array_equal(back.units["bag"].accel_m_s2, made.units["bag"].accel_m_s2)
    np.testing.assert_array_equal(back.units["bag"].gyro_rad_s, made.units["bag"].gyro_rad_s)
    assert (back.bag, back.participant, back.events) == (made.bag, made.participant, made.events)
    assert back.acquired_at == made.acquired_at


def test_several_tracked_points_in_one_file_are_several_units(folder: Path, made: Recording) -> None:
    """As sets from elsewhere write them: one tracking system, each channel with the point that it tracks."""
    samples, channels = (folder / f"{STEM}_{part}.tsv" for part in ("motion", "channels"))
    rows = channels.read_text().splitlines()
    heads = rows[0].split("\t")
    place = heads.index("tracked_point")

    def at(point: str) -> list[str]:
        cells = [r.split("\t") for r in rows[1:]]
        return ["\t".join([f"{c[0]}_{point.replace(' ', '')}", *c[1:place], point, *c[place + 1 :]]) for c in cells]

    lines = samples.read_text().splitlines()
    system = Path(str(samples).replace("tracksys-bag", "tracksys-imus"))
    system.write_text("\n".join(f"{line}\t{line}" for line in lines) + "\n")
    both = [rows[0], *at("Right wrist"), *at("Sandsack")]
    Path(str(channels).replace("tracksys-bag", "tracksys-imus")).write_text("\n".join(both) + "\n")
    sidecar = json.loads((folder / f"{STEM}_motion.json").read_text())
    sidecar["MotionChannelCount"] = len(both) - 1
    system.with_suffix(".json").write_text(json.dumps(sidecar))
    for old in (samples, channels, samples.with_suffix(".json")):
        old.unlink()
    (scans,) = folder.glob("sub-01/ses-01/*_scans.tsv")
    scans.write_text(scans.read_text().replace("tracksys-bag", "tracksys-imus"))
    (back,) = read(folder)
    assert sorted(back.units) == ["bag", "rightwrist"]
    for unit in back.units.values():
        np.testing.assert_array_equal(unit.accel_m_s2, made.units["bag"].accel_m_s2)
    assert (back.bag, back.acquired_at) == (made.bag, made.acquired_at)
    assert back.units["rightwrist"].starts_s == 0.0


def test_a_zip_reads_as_its_folder(folder: Path, tmp_path: Path) -> None:
    (from_zip,) = read(zipped(folder, tmp_path / "evening.zip"))
    np.testing.assert_array_equal(from_zip.units["bag"].accel_m_s2, read(folder)[0].units["bag"].accel_m_s2)


def test_the_official_validator_finds_no_error(folder: Path) -> None:
    validator = Path(sys.executable).with_name("bids-validator-deno")
    said = subprocess.run([validator, folder, "--json"], capture_output=True, text=True, check=False, timeout=120)
    issues = json.loads(said.stdout)["issues"]["issues"]
    assert [i for i in issues if i["severity"] == "error"] == []


def test_times_of_its_own_leave_holes_where_rows_are_missing(folder: Path) -> None:
    lines = (folder / f"{STEM}_motion.tsv").read_text().splitlines()
    keep = [i for i in range(len(lines)) if not 2000 <= i < 2050]
    (folder / f"{STEM}_motion.tsv").write_text("".join(f"{i / 1000:.4f}\t{lines[i]}\n" for i in keep))
    channels = (folder / f"{STEM}_channels.tsv").read_text().splitlines()
    channels.insert(1, "time\tn/a\tLATENCY\tbag\ts")
    (folder / f"{STEM}_channels.tsv").write_text("\n".join(channels) + "\n")
    sidecar = json.loads((folder / f"{STEM}_motion.json").read_text())
    (folder / f"{STEM}_motion.json").write_text(json.dumps({**sidecar, "MotionChannelCount": 7}))
    unit = read(folder)[0].units["bag"]
    assert len(unit.accel_m_s2) == 10_000
    assert np.isnan(unit.gyro_rad_s[2000:2050]).all()
    assert np.isfinite(unit.gyro_rad_s[2050:]).all()


def edit_line(suffix: str, number: int, change: Callable[[str], str]) -> Callable[[Path], None]:
    def edit(folder: Path) -> None:
        path = folder / f"{STEM}_{suffix}"
        lines = path.read_text().splitlines()
        lines[number - 1] = change(lines[number - 1])
        path.write_text("\n".join(lines) + "\n")

    return edit


def sidecar(**keys: object) -> Callable[[Path], None]:
    def edit(folder: Path) -> None:
        path = folder / f"{STEM}_motion.json"
        path.write_text(json.dumps({**json.loads(path.read_text()), **keys}))

    return edit


def target(**keys: object) -> Callable[[Path], None]:
    def edit(folder: Path) -> None:
        path = folder / f"{STEM}_motion.json"
        content = json.loads(path.read_text())
        content["StrikeTarget"].update(keys)
        path.write_text(json.dumps(content))

    return edit


def overwritten(suffix: str, text: str) -> Callable[[Path], None]:
    def edit(folder: Path) -> None:
        (folder / f"{STEM}_{suffix}").write_text(text)

    return edit


def in_bytes(suffix: str, content: bytes) -> Callable[[Path], None]:
    def edit(folder: Path) -> None:
        (folder / f"{STEM}_{suffix}").write_bytes(content)

    return edit


def beside(pattern: str, old: str | None, new: str) -> Callable[[Path], None]:
    """Another file of the data set, with a word replaced or all of it."""

    def edit(folder: Path) -> None:
        path = next(folder.rglob(pattern))
        path.write_text(new if old is None else path.read_text().replace(old, new))

    return edit


def all_missing(folder: Path) -> None:
    (folder / f"{STEM}_motion.tsv").write_text("\t".join(["n/a"] * 6) + "\n" + "\t".join(["n/a"] * 6) + "\n")


def clock_back(folder: Path) -> None:
    test_times_of_its_own_leave_holes_where_rows_are_missing(folder)
    edit_line("motion.tsv", 300, lambda line: "0.1000\t" + line.split("\t", 1)[1])(folder)


BAD: dict[str, tuple[Callable[[Path], None], str]] = {
    "no data set": (lambda f: (f / "dataset_description.json").unlink(), "this is not a data set"),
    "no sidecar": (lambda f: (f / f"{STEM}_motion.json").unlink(), "sidecar .* is missing"),
    "no channels": (lambda f: (f / f"{STEM}_channels.tsv").unlink(), "channel table .* is missing"),
    "broken json": (
        lambda f: (f / f"{STEM}_motion.json").write_text('{"a": \n1,,}') and None,
        "line 2: this is not valid JSON",
    ),
    "a word": (
        edit_line("motion.tsv", 7, lambda s: s.replace(s.split("\t")[2], "fast")),
        "line 7: “fast” in column ACCEL.z",
    ),
    "nan": (edit_line("motion.tsv", 9, lambda s: s.replace(s.split("\t")[0], "nan")), "line 9: “nan”"),
    "a blank": (edit_line("motion.tsv", 4, lambda s: "\t" + s.split("\t", 1)[1]), "line 4: an empty cell"),
    "ragged": (edit_line("motion.tsv", 12, lambda s: s + "\t1.0"), "line 12: 7 columns where channels.tsv names 6"),
    "truncated": (edit_line("motion.tsv", 10_000, lambda s: s[: len(s) // 3]), "line 10000: "),
    "channel count": (sidecar(MotionChannelCount=9), "6 channels where the sidecar's MotionChannelCount says 9"),
    "units": (edit_line("channels.tsv", 2, lambda s: s.replace("m/s^2", "furlong")), "line 2: units “furlong”"),
    "zero rate": (sidecar(SamplingFrequency=0), "SamplingFrequency is 0 Hz"),
    "negative rate": (sidecar(SamplingFrequency=-100), "SamplingFrequency is -100 Hz"),
    "a word for a rate": (sidecar(SamplingFrequency="fast"), "SamplingFrequency is “fast”"),
    "clock back": (clock_back, "line 300: the clock runs back"),
    "all missing": (all_missing, "every sample is missing"),
    "no samples": (overwritten("motion.tsv", ""), "no samples"),
    "a rate that is no one's": (sidecar(SamplingFrequency=1e6), "SamplingFrequency is 1e"),
    "a list for a sidecar": (overwritten("motion.json", "[1, 2]"), "a JSON object was expected"),
    "no text at all": (in_bytes("motion.json", b"\xff\xfe\x00\x01"), "this is not a JSON text"),
    "channels in bytes": (in_bytes("channels.tsv", b"\xff\xfe\x81\x8d"), "this is not a text file"),
    "empty channels": (overwritten("channels.tsv", ""), "the file is empty"),
    "no units column": (
        edit_line("channels.tsv", 1, lambda s: s.replace("units", "unit")),
        "the column units is missing",
    ),
    "a ragged channel": (edit_line("channels.tsv", 3, lambda s: s + "\tmore"), "line 3: .* cells under a header of"),
    "a channel twice": (edit_line("channels.tsv", 3, lambda s: s.replace("\ty\t", "\tx\t")), "line 3: .* listed twice"),
    "no turn about z": (edit_line("channels.tsv", 7, lambda s: s.replace("GYRO", "TEMP")), "no channel GYRO.z"),
    "battery": (sidecar(BatteryPercent=140), "BatteryPercent is 140"),
    "full scale": (sidecar(AccelFullScale="wide"), "AccelFullScale is “wide”"),
    "a strange filling": (target(filling="gravel"), "filling"),
    "one band": (target(level_bands_m=[0.3]), "level_bands_m must be two heights"),
    "a word for a bag": (sidecar(StrikeTarget="heavy"), "StrikeTarget must be an object"),
    "no mass": (target(mass_kg=None), "mass_kg is missing"),
    "a mass that is no number": (target(mass_kg=float("nan")), "mass_kg is “nan”"),
    "a person of words": (beside("participants.tsv", "70", "heavy"), "participants.tsv, line 2: mass_kg is “heavy”"),
    "an event without a time": (
        beside("*_events.tsv", None, "onset\tduration\nsoon\t1\n"),
        "onset or duration is no",
    ),
    "an event cut short": (beside("*_events.tsv", None, "onset\n1.0\n"), "the column duration is missing"),
    "impossible mass": (target(mass_kg=-3), "mass_kg is -3.0: it must be between"),
    "unknown mount": (target(mount="glued"), "mount is glued"),
    "unit off the bag": (target(sensor_below_top_m=9), "sensor_below_top_m is 9.0"),
}


@pytest.mark.parametrize("case", BAD)
def test_bad_input_is_one_clear_error(case: str, folder: Path) -> None:
    spoil, said = BAD[case]
    spoil(folder)
    with pytest.raises(BadFile, match=said) as error:
        read(folder)
    assert "\n" not in str(error.value)


def test_a_zip_with_a_path_outside_is_refused(tmp_path: Path) -> None:
    for name in ("../evil.json", "/etc/evil.json", "a\\..\\..\\evil.json", "C:/evil.json"):
        path = tmp_path / "bad.zip"
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr(name, "{}")
        with pytest.raises(BadFile, match="points outside"):
            read(path)


def test_a_zip_bomb_is_refused_before_it_is_unpacked(tmp_path: Path) -> None:
    path = tmp_path / "bomb.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("dataset_description.json", b"0" * 40_000_000)
    with pytest.raises(BadFile, match="times its size"):
        read(path)


def test_what_is_no_zip_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "notes.zip"
    path.write_text("not a zip")
    with pytest.raises(BadFile, match="neither a folder nor a zip"):
        read(path)


def test_a_damaged_zip_is_refused(folder: Path, tmp_path: Path) -> None:
    path = zipped(folder, tmp_path / "evening.zip")
    content = bytearray(path.read_bytes())
    content[200:4000] = bytes(3800)
    path.write_bytes(content)
    with pytest.raises(BadFile, match="damaged"):
        read(path)


def test_other_units_are_converted(folder: Path) -> None:
    before = read(folder)[0].units["bag"]
    table = folder / f"{STEM}_channels.tsv"
    table.write_text(table.read_text().replace("m/s^2", "g").replace("rad/s", "deg/s"))
    after = read(folder)[0].units["bag"]
    np.testing.assert_allclose(after.accel_m_s2, before.accel_m_s2 * 9.80665, rtol=1e-6)
    np.testing.assert_allclose(after.gyro_rad_s, np.radians(before.gyro_rad_s), rtol=1e-6)
