"""The command line: `agile-strike analyse` and `agile-strike simulate`. No database and no server."""

import argparse
import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from agile_strike.core.errors import BadFile, BadInput

if TYPE_CHECKING:
    from agile_strike.core.target import Mount
    from agile_strike.hub.sources import Source

# heavy modules are imported by the command that needs them: `--help` and errors come at once


ASKS = 3  # exit status: something must be answered first


def main(arguments: list[str] | None = None) -> int:
    options = _parser().parse_args(arguments)
    try:
        return int(options.run(options))
    except BadInput as error:
        print(f"agile-strike: {error}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130
    except BrokenPipeError:  # the reader has had enough, as `head` does
        sys.stderr.close()
        return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="agile-strike", description="Strikes on a bag, measured from motion units.")
    commands = parser.add_subparsers(required=True)
    analyse = commands.add_parser("analyse", help="find and measure the strikes of a Motion-BIDS data set")
    analyse.add_argument("path", type=Path, help="the data set: a folder, or a zip of it; or any logger's table")
    analyse.add_argument("--bag", type=Path, metavar="FILE", help="of a table: JSON of the bag that was struck")
    form = analyse.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help="print one JSON document (the default)")
    form.add_argument("--csv", action="store_true", help="print the strikes as one flat table")
    analyse.set_defaults(run=_analyse)
    convert = commands.add_parser("convert", help="any logger's tables into a data set; --guess says what they hold")
    convert.add_argument(
        "files", nargs="+", metavar="FILE", help="tables, and last the folder to write, but with --guess"
    )
    convert.add_argument(
        "--guess", action="store_true", help="write nothing, print what the files hold and what is asked"
    )
    convert.add_argument("--answers", type=Path, metavar="FILE", help="JSON of answers to the questions, by their id")
    convert.add_argument("--bag", type=Path, metavar="FILE", help="JSON of the bag that was struck, as StrikeTarget")
    convert.set_defaults(run=_convert)
    compare = commands.add_parser("compare", help="compare two levels of a factor in a flat table of strikes")
    compare.add_argument(
        "table", type=Path, help="CSV with participant, session, block, order, the factor, the measure"
    )
    compare.add_argument("--factor", required=True, metavar="COLUMN")
    compare.add_argument("--measure", required=True, metavar="COLUMN")
    compare.add_argument("--levels", default="", metavar="FIRST,SECOND", help="their order (default: of appearance)")
    compare.add_argument("--by", metavar="COLUMN", help="each value of this column is a trial of its own")
    compare.add_argument("--also", default="", metavar="COLUMNS", help="further measures, with commas: what else moved")
    compare.add_argument("--worth", type=float, metavar="PERCENT", help="the smallest change worth having")
    compare.add_argument(
        "--only", action="append", default=[], metavar="COLUMN=VALUE", help="leave out all other rows; may be repeated"
    )
    compare.add_argument("--json", action="store_true", help="print JSON (the default)")
    compare.set_defaults(run=_compare)
    weeks = commands.add_parser("weeks", help="a student's evenings: means, the band of chance, what happened at marks")
    weeks.add_argument("table", type=Path, help="CSV with session (a day), block, the measure")
    weeks.add_argument("--measure", required=True, metavar="COLUMN")
    weeks.add_argument("--mark", action="append", default=[], metavar="DAY", help="something changed on it; repeatable")
    weeks.add_argument("--only", action="append", default=[], metavar="COLUMN=VALUE", help="leave out all other rows")
    weeks.add_argument("--json", action="store_true", help="print JSON (the default)")
    weeks.set_defaults(run=_weeks)
    simulate = commands.add_parser("simulate", help="write the data set of a made-up evening, and its truth beside it")
    simulate.add_argument("directory", type=Path)
    simulate.add_argument("--seed", type=int, default=1)
    simulate.add_argument("--strikes", type=int, default=40, help="how many (default 40)")
    simulate.add_argument("--participant", default="01")
    simulate.add_argument("--body-mass", type=float, default=70.0, metavar="KG")
    simulate.add_argument("--speed", type=float, default=6.5, metavar="M/S", help="typical hand speed")
    simulate.add_argument("--limb-mass", type=float, default=2.6, metavar="KG", help="typical mass behind a strike")
    simulate.add_argument("--burst", type=int, default=1, help="strikes in a burst (default 1: single strikes)")
    simulate.add_argument("--gap", type=float, default=3.0, metavar="S", help="between strikes or bursts")
    simulate.add_argument("--mount", choices=("swivel", "fixed", "standing"), default="swivel")
    simulate.add_argument("--declared-mount", choices=("swivel", "fixed", "standing"), help="what the sidecar says")
    simulate.add_argument("--bag-mass", type=float, default=50.0, metavar="KG")
    simulate.add_argument("--bag-length", type=float, default=1.2, metavar="M")
    simulate.add_argument("--bag-diameter", type=float, default=0.35, metavar="M")
    simulate.add_argument("--bumps", type=int, default=6, help="shoves, leans, taps and the like (default 6)")
    simulate.add_argument("--rate", type=float, default=1000.0, metavar="HZ")
    simulate.add_argument("--full-scale", type=float, default=32.0, metavar="G", help="accelerometer range")
    simulate.add_argument("--clean", action="store_true", help="a perfect unit: no noise, ringing, tilt or bias")
    simulate.add_argument("--missing", type=float, default=0.0, metavar="SHARE", help="samples lost singly")
    simulate.add_argument("--lost", type=float, default=0.0, metavar="S", help="one stretch lost half way")
    simulate.add_argument("--worn", action="store_true", help="units on the student as well")
    simulate.add_argument("--pads", action="store_true", help="no bag: half of them on pads, half in the air; all worn")
    simulate.set_defaults(run=_simulate)
    hub = commands.add_parser("hub", help="gather units by a bag and send what they measure: docs/gateway.md")
    hub.add_argument(
        "source", choices=("simulate", "replay", "serial"), help="a made-up student, a data set, or a port"
    )
    hub.add_argument("what", nargs="?", default="", help="the data set of replay, the port of serial")
    hub.add_argument("--server", default="http://127.0.0.1:8000", metavar="ADDRESS")
    hub.add_argument("--token", default="", help="of the station, as made under Kit (else AGILE_STRIKE_STATION_TOKEN)")
    hub.add_argument("--spool", type=Path, default=Path("spool"), metavar="DIR", help="where packets wait")
    hub.add_argument("--speed", type=float, default=1.0, help="of replay and simulate (default 1)")
    hub.add_argument("--seed", type=int, default=1, help="of simulate")
    hub.add_argument("--worn", default="leftwrist,rightwrist", help="units of simulate, with commas")
    hub.add_argument(
        "--fault", action="append", default=[], metavar="WHAT", help="drop=0.05, delay=30, flat=UNIT@S ..."
    )
    hub.set_defaults(run=_hub)
    return parser


def _convert(options: argparse.Namespace) -> int:
    from agile_strike.formats.foreign.document import document, units_in

    if options.guess:
        units = units_in([(Path(name), name) for name in options.files])
        made = document(units)
        print(json.dumps(made, ensure_ascii=False, indent=1))
        return ASKS if made["questions"] or made["objections"] else 0
    from agile_strike.formats.foreign.convert import written

    if len(options.files) < 2:
        raise BadInput("Say which tables, and last the folder to write; or --guess.")
    *files, folder = options.files
    answers = _read_json(options.answers) if options.answers else {}
    bag = _read_json(options.bag) if options.bag else None
    written([(Path(name), name) for name in files], Path(folder), answers, bag)
    return 0


def _read_json(path: Path) -> dict[str, object]:
    try:
        said = json.loads(path.read_text())
    except (OSError, ValueError) as error:
        raise BadFile(str(path), "this is no JSON that can be read", 'Write an object, as {"q1": "g"}.') from error
    if not isinstance(said, dict):
        raise BadFile(str(path), "this is no JSON object", 'Write an object, as {"q1": "g"}.')
    return said


def _analyse(options: argparse.Namespace) -> int:
    from agile_strike.core.analysis import analyse
    from agile_strike.formats import results
    from agile_strike.formats.archive import is_data_set, opened
    from agile_strike.formats.foreign.convert import recording_of
    from agile_strike.formats.motion_bids_read import read_all
    from agile_strike.formats.motion_bids_unit import read_bag

    if is_data_set(options.path):
        with opened(options.path) as root:
            analyses = [analyse(recording) for recording in read_all(root)]
    else:
        bag = read_bag(_read_json(options.bag), str(options.bag)) if options.bag else None
        analyses = [analyse(recording_of([(options.path, str(options.path))], {}, bag))]
    if options.csv:
        sys.stdout.write(results.table(analyses))
    else:
        sys.stdout.write(json.dumps(results.document(analyses), allow_nan=False) + "\n")
    return 0


def _compare(options: argparse.Namespace) -> int:
    from agile_strike.core.trial.claim import claim
    from agile_strike.formats.tabular import narrowed, read_table
    from agile_strike.formats.trial_table import document, trials

    levels = tuple(w.strip() for w in options.levels.split(",") if w.strip())
    if options.worth is not None and not 0.0 < options.worth < 100.0:
        raise BadFile(
            "--worth", f"{options.worth:g} % is no change worth having", "Give per cent, above 0 and below 100."
        )
    name = options.table.name
    table = narrowed(read_table(options.table), options.only, name)
    found = trials(table, name, options.factor, options.measure, levels, options.by)
    told = [document(claim(strikes, options.worth)) for _, strikes in found]
    for also in (c.strip() for c in options.also.split(",") if c.strip()):
        moved = trials(table, name, options.factor, also, levels, options.by)
        for one, (_, strikes) in zip(told, moved, strict=True):
            one.setdefault("also", {})[also] = document(claim(strikes))
    if options.by:
        out: object = [{"group": group, **one} for (group, _), one in zip(found, told, strict=True)]
    else:
        out = told[0] if told else {"refused": "the table holds no strikes"}
    sys.stdout.write(json.dumps(out, allow_nan=False) + "\n")
    return 0


def _weeks(options: argparse.Namespace) -> int:
    import datetime as dt

    from agile_strike.formats.tabular import narrowed, read_table
    from agile_strike.formats.weeks_table import told

    try:
        marks = [dt.date.fromisoformat(m) for m in options.mark]
    except ValueError as error:
        raise BadFile("--mark", str(error), "Give a day, as 2026-11-24.") from None
    name = options.table.name
    table = narrowed(read_table(options.table), options.only, name)
    sys.stdout.write(json.dumps(told(table, name, options.measure, marks), allow_nan=False) + "\n")
    return 0


def _simulate(options: argparse.Namespace) -> int:
    from dataclasses import replace

    import numpy as np

    from agile_strike.core.recording import Participant
    from agile_strike.core.simulation.plan import Evening, SetPlan, simulate
    from agile_strike.core.simulation.score import truth
    from agile_strike.core.simulation.student import Body
    from agile_strike.core.simulation.unit import CLEAN, Mess
    from agile_strike.core.simulation.wear import WORN
    from agile_strike.core.target import Bag
    from agile_strike.formats.motion_bids_write import write

    target: Path = options.directory
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise BadFile(str(target), "the folder exists and is not empty", "Give a new folder.")
    if not 1 <= options.strikes <= 20_000:
        raise BadFile("--strikes", f"{options.strikes} can't be simulated", "Give 1 to 20000.")
    if options.pads:
        return _simulate_pads(options)
    mount: Mount = options.mount
    length = options.bag_length
    bag = Bag(
        mount,
        options.bag_mass,
        length,
        options.bag_diameter,
        0.25 * length,
        pivot_to_top_m=0.15 if mount == "fixed" or options.declared_mount == "fixed" else 0.0,
    )
    mess = replace(CLEAN if options.clean else Mess(), missing_share=options.missing, gap_s=options.lost)
    kinds = (
        ("rear-straight", "right_hand", "head"),
        ("lead-hook", "left_hand", "body"),
        ("lead-straight", "left_hand", "body"),
        ("rear-hook", "right_hand", "head"),
    )
    sets: list[SetPlan] = []
    left = options.strikes
    while left > 0:
        code, limb, level = kinds[len(sets) % len(kinds)]
        sets.append(
            SetPlan(
                code,
                limb,
                level,
                min(10, left),
                options.limb_mass,
                options.speed,
                gap_s=options.gap,
                burst=options.burst,
            )
        )
        left -= 10
    evening = Evening(
        bag,
        tuple(sets),
        Participant(options.participant, options.body_mass, None, None, "orthodox", "right"),
        bumps=options.bumps,
        mess=mess,
        rate_hz=options.rate,
        declared_mount=options.declared_mount,
        accel_full_scale_m_s2=options.full_scale * 9.80665,
        acquired_at="2026-11-03T18:30:00+00:00",
        worn=WORN if options.worn else (),
        body=Body(options.body_mass),
    )
    made = simulate(evening, np.random.default_rng(options.seed))
    write(target, [made.recording])
    beside = _write_truth(target, truth(made))
    print(f"{len(made.truths)} strikes, {len(made.bumps)} bumps: {target}, {beside}")
    return 0


def _simulate_pads(options: argparse.Namespace) -> int:
    import numpy as np

    from agile_strike.core.recording import Participant
    from agile_strike.core.simulation.bagless import FreeSet, simulate_free, truth
    from agile_strike.core.simulation.student import Body
    from agile_strike.core.simulation.wear import WORN
    from agile_strike.formats.motion_bids_write import write

    each = max(1, options.strikes // 4)
    sets = tuple(
        FreeSet(kind, limb, code, each, options.speed, options.gap)
        for code, limb in (("rear-straight", "right_hand"), ("lead-straight", "left_hand"))
        for kind in ("met", "air")
    )
    who = Participant(options.participant, options.body_mass, None, None, "orthodox", "right")
    body = Body(options.body_mass)
    made = simulate_free(sets, WORN, np.random.default_rng(options.seed), body, who=who, at="2026-11-03T18:30:00+00:00")
    write(options.directory, [made.recording])
    beside = _write_truth(options.directory, truth(made))
    print(f"{len(made.kinds)} strikes: {options.directory}, {beside}")
    return 0


def _write_truth(target: Path, true: dict[str, object]) -> str:
    beside = target.with_name(target.name + ".truth.json")
    beside.write_text(json.dumps({"recordings": [true]}, indent=1) + "\n", encoding="utf-8")
    return beside.name


def _hub(options: argparse.Namespace) -> int:
    import asyncio
    import os

    from agile_strike.hub.faults import faults_of
    from agile_strike.hub.run import Hub
    from agile_strike.hub.spool import Spool

    token = options.token or os.environ.get("AGILE_STRIKE_STATION_TOKEN", "")
    if not token:
        raise BadInput("Give the station's token with --token: the page Kit makes one.")
    if not 0.05 <= options.speed <= 50.0:
        raise BadFile("--speed", f"{options.speed:g} can't be played", "Give 0.05 to 50.")
    spool = Spool(options.spool)
    hub = Hub(_source(options), spool, options.server, token, faults_of(options.fault))
    print(f"Stream {spool.place.stream}, to {options.server}. Stop with Ctrl-C.")
    asyncio.run(hub.run())
    return 0


def _source(options: argparse.Namespace) -> "Source":
    if options.source == "replay":
        from agile_strike.hub.sources import replay

        return replay(Path(options.what), options.speed)
    if options.source == "serial":
        from agile_strike.hub.port import Port

        return Port.opened(options.what)
    from agile_strike.core.recording import UNITS
    from agile_strike.hub.student import SimulatedStudent

    worn = tuple(w for w in options.worn.split(",") if w)
    if any(w not in UNITS or w == "bag" for w in worn):
        raise BadFile(
            "--worn", f"{options.worn[:60]} names a place that is none", f"Choose from {', '.join(UNITS[1:])}."
        )
    return SimulatedStudent(seed=options.seed, speed=options.speed, worn=worn)


if __name__ == "__main__":
    sys.exit(main())
