"""Reading a Motion-BIDS data set: its recordings, whose they are, what was planned in them and when each unit began."""

import datetime as dt
import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from agile_strike.core.errors import BadFile
from agile_strike.core.recording import Event, Participant, Recording, UnitSignal, reference_of
from agile_strike.core.target import Bag
from agile_strike.formats.foreign.words import place_of
from agile_strike.formats.motion_bids_files import read_json, read_rows, shown
from agile_strike.formats.motion_bids_unit import points_of, read_bag, read_unit
from agile_strike.formats.tables import MISSING

NAME = re.compile(
    r"sub-(?P<sub>[A-Za-z0-9]+)(?:_ses-(?P<ses>[A-Za-z0-9]+))?_task-(?P<task>[A-Za-z0-9]+)"
    r"(?:_acq-[A-Za-z0-9]+)?_tracksys-(?P<unit>[A-Za-z0-9]+)(?:_run-(?P<run>[0-9]+))?_motion\.tsv"
)
LONGEST_LABEL = 60  # of a participant, session, task or run: file systems and people's patience end near it
LONGEST_TEXT = 500  # of what an event says
FARTHEST_S = 10.0 * 86_400.0  # from a recording's start, of anything that was planned or said in it
FIRST_YEAR, LAST_YEAR = 1990, 2200  # of an acq_time: no unit is older, no calendar ends
MASS_KG, HEIGHT_M, AGE = (10.0, 400.0), (0.3, 2.6), (0.0, 120.0)


@dataclass(frozen=True, slots=True)
class RunFiles:
    """The files of one recording: every unit's samples of one participant, session, task and run."""

    participant: str
    session: str
    task: str
    run: str
    motion: dict[str, Path]

    @property
    def events(self) -> Path:
        one = next(iter(self.motion.values()))
        return one.with_name(re.sub(r"_tracksys-[A-Za-z0-9]+", "", one.name).replace("_motion.tsv", "_events.tsv"))


def runs(root: Path) -> list[RunFiles]:
    """All recordings of a data set, in order of name. Raises BadFile if there is none."""
    read_json(root / "dataset_description.json", root)
    found: dict[tuple[str, str, str, str], dict[str, Path]] = {}
    for path in sorted(root.rglob("*_motion.tsv")):
        if match := NAME.fullmatch(path.name):
            _labels_fit(path, root, match)
            key = (match["sub"], match["ses"] or "", match["task"], match["run"] or "")
            found.setdefault(key, {})[match["unit"]] = path
    if not found:
        raise BadFile(root.name, "the data set holds no _motion.tsv file", "Bring a data set with motion recordings.")
    return [RunFiles(*key, motion=units) for key, units in found.items()]


def _labels_fit(path: Path, root: Path, match: re.Match[str]) -> None:
    for part, label in match.groupdict().items():
        if label and len(label) > LONGEST_LABEL:
            raise BadFile(
                shown(path, root)[:80],
                f"the {part} label has {len(label)} letters",
                f"Give labels of at most {LONGEST_LABEL} letters and digits.",
            )


def read_all(root: Path) -> Iterator[Recording]:
    """Every recording of the data set, one at a time."""
    people = read_participants(root)
    for files in runs(root):
        yield read_run(root, files, people)


def read_run(root: Path, files: RunFiles, people: dict[str, Participant]) -> Recording:
    units: dict[str, UnitSignal] = {}
    system: dict[str, str] = {}  #: tracking system of each unit
    bag: Bag | None = None
    for unit, path in files.motion.items():
        sidecar_path = path.with_suffix(".json")
        if not sidecar_path.is_file():
            raise BadFile(shown(path, root), f"its sidecar {sidecar_path.name} is missing", "Bring the sidecar along.")
        sidecar = read_json(sidecar_path, root)
        points = points_of(root, path)
        for point in points if len(points) > 1 else [""]:
            label = _label(unit, point, units) if point else unit
            system[label] = unit
            units[label] = read_unit(root, path, label, sidecar, point)
        if "bag" in units and "StrikeTarget" in sidecar:
            bag = read_bag(sidecar["StrikeTarget"], shown(sidecar_path, root))
    person = people.get(files.participant, Participant(files.participant))
    stated = _acquired(root, files)
    acquired = {label: stated[unit] for label, unit in system.items() if unit in stated}
    return Recording(
        person,
        files.session,
        files.task,
        files.run,
        bag,
        _started(units, acquired),
        read_events(files.events, root),
        acquired_at=acquired.get(reference_of(units) or "") or next(iter(acquired.values()), None),
    )


def _label(unit: str, point: str, taken: dict[str, UnitSignal]) -> str:
    """What a tracked point's unit is called: by the place that its name tells, else by its name."""
    place = place_of(point) or re.sub(r"[^a-z0-9]", "", point.lower()) or unit
    return place if place not in taken else f"{unit}{place}"


def read_participants(root: Path) -> dict[str, Participant]:
    path = root / "participants.tsv"
    if not path.is_file():
        return {}
    people = {}
    for line, row in read_rows(path, root, ("participant_id",)):
        label = row["participant_id"].removeprefix("sub-")

        def number(key: str, limits: tuple[float, float], row: dict[str, str] = row, line: int = line) -> float | None:
            cell = row.get(key, MISSING)
            if cell == MISSING:
                return None
            try:
                value = float(cell)
            except ValueError as error:
                raise BadFile(
                    "participants.tsv",
                    f"{key} is “{cell[:40]}”, which is no number",
                    f"Write a number or {MISSING}.",
                    line,
                ) from error
            if not limits[0] <= value <= limits[1]:
                raise BadFile(
                    "participants.tsv",
                    f"{key} is {cell[:40]}, which is no person's",
                    f"Give {limits[0]:g} to {limits[1]:g}, or {MISSING}.",
                    line,
                )
            return value

        def word(key: str, row: dict[str, str] = row) -> str | None:
            cell = row.get(key, MISSING)
            return None if cell == MISSING else cell

        people[label] = Participant(
            label,
            number("mass_kg", MASS_KG),
            number("height_m", HEIGHT_M),
            number("age", AGE),
            word("stance"),
            word("handedness"),
        )
    return people


def read_events(path: Path, root: Path) -> tuple[Event, ...]:
    if not path.is_file():
        return ()
    name, events = shown(path, root), []
    for line, row in read_rows(path, root, ("onset", "duration")):
        try:
            onset = float(row["onset"])
            duration = 0.0 if row["duration"] == MISSING else float(row["duration"])
        except ValueError as error:
            raise BadFile(name, "onset or duration is no number", "Give seconds on the bag's clock.", line) from error
        if not (abs(onset) <= FARTHEST_S and 0.0 <= duration <= FARTHEST_S):  # nor is nan
            raise BadFile(name, "onset or duration is no time of a recording", "Give seconds on the bag's clock.", line)
        value = row.get("value", "")
        if len(value) > LONGEST_TEXT:
            raise BadFile(name, f"the value has {len(value)} letters", f"Write at most {LONGEST_TEXT}.", line)
        events.append(Event(onset, duration, row.get("trial_type", ""), "" if value == MISSING else value))
    return tuple(sorted(events, key=lambda e: e.onset_s))


def _acquired(root: Path, files: RunFiles) -> dict[str, str]:
    """Stated time of each unit's first sample, by unit, as written."""
    one = next(iter(files.motion.values()))
    by_name = {path.name: unit for unit, path in files.motion.items()}
    out = {}
    for table in one.parent.parent.glob("*_scans.tsv"):
        for line, row in read_rows(table, root, ("filename",)):
            unit, when = by_name.get(row["filename"].rsplit("/", 1)[-1]), row.get("acq_time", MISSING)
            if not unit or when == MISSING:
                continue
            at = stated_time(when)
            if at is None or not FIRST_YEAR <= at.year <= LAST_YEAR:
                raise BadFile(
                    shown(table, root),
                    f"acq_time “{when[:40]}” is no ISO 8601 time of a recording",
                    "Write it as 2026-11-24T18:30:00.",
                    line,
                )
            out[unit] = when
    return out


def _started(units: dict[str, UnitSignal], acquired: dict[str, str]) -> dict[str, UnitSignal]:
    """Units with their stated start against the reference's, where both are told."""
    times = {unit: at for unit, text in acquired.items() if (at := stated_time(text)) is not None}
    reference = reference_of(units)
    zero = times.get(reference or "")
    if zero is None:
        return units

    def after(at: dt.datetime) -> float:
        """Written times without a zone are of one clock on the wall, whatever this machine's own zone is."""
        if at.tzinfo is None or zero.tzinfo is None:
            return (at.replace(tzinfo=None) - zero.replace(tzinfo=None)).total_seconds()
        return (at - zero).total_seconds()

    told = times.keys() & units.keys() - {reference}
    return {n: replace(u, starts_s=after(times[n])) if n in told else u for n, u in units.items()}


def stated_time(text: str) -> dt.datetime | None:
    """An `acq_time` as written, with its zone or without one; None where it is no time."""
    try:
        return dt.datetime.fromisoformat(text)
    except ValueError:
        return None
