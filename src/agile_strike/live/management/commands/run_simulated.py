"""Runs the hubs of simulated stations: a student who does what the server says is being done, through the same door as
any hub."""

import os
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import DatabaseError, InterfaceError, connection
from django.utils import timezone

from agile_strike.gym.ending import reason_logged
from agile_strike.live.models import Station

LOOK_S = 0.5
ENDS_S = 5.0


class Command(BaseCommand):
    help = "Run a hub for each simulated station, while one is asked for."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--server", default="http://127.0.0.1:8000")

    def handle(self, *args: Any, **options: Any) -> None:
        with reason_logged("the simulated stations"):
            self._run(options["server"])

    def _run(self, server: str) -> None:
        hubs: dict[int, tuple[float, subprocess.Popen[bytes]]] = {}
        try:
            while True:
                wanted = self._wanted()
                for key, (speed, hub) in list(hubs.items()):
                    if hub.poll() is not None or key not in wanted or wanted[key].simulated_speed != speed:
                        hub.terminate()
                        _ended(hub)
                        del hubs[key]
                for key, station in wanted.items():
                    if key not in hubs:
                        hubs[key] = (station.simulated_speed, _hub(station, server))
                time.sleep(LOOK_S)
        finally:
            for _, hub in hubs.values():
                hub.terminate()
            for _, hub in hubs.values():
                _ended(hub)

    _before: dict[int, Station] = {}

    def _wanted(self) -> dict[int, Station]:
        try:
            rows = Station.objects.standing().filter(simulated_token__gt="", simulated_until__gt=timezone.now())
            self._before = {s.pk: s for s in rows}
        except (DatabaseError, InterfaceError):
            connection.close()
        return self._before


def _ended(hub: "subprocess.Popen[bytes]") -> None:
    """Waits for a hub that was asked to end; one that does not is ended."""
    try:
        hub.wait(ENDS_S)
    except subprocess.TimeoutExpired:
        hub.kill()
        hub.wait()


def _hub(station: Station, server: str) -> "subprocess.Popen[bytes]":
    # the same folder at every start: where an older hub still runs, it holds the folder, and goes on
    spool = Path(settings.VAR) / "hubs" / f"{station.pk}-{station.token_hash[:8]}-{station.simulated_speed:g}"
    command = [sys.executable, "-m", "agile_strike.cli", "hub", "simulate", "--server", server, "--spool", str(spool)]
    return subprocess.Popen(
        [*command, "--speed", str(station.simulated_speed), "--seed", str(station.pk)],
        env={**os.environ, "AGILE_STRIKE_STATION_TOKEN": station.simulated_token},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
