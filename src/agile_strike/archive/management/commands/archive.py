"""Writes a gym's archive to a file, or fills an empty gym from one: `archive out 3 FILE`, `archive in 4 FILE`."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from agile_strike.archive.bring import bring
from agile_strike.archive.out import write
from agile_strike.core.errors import BadInput
from agile_strike.gym.models import Gym


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("way", choices=("out", "in"))
        parser.add_argument("gym", type=int, help="its number; a new gym is made for 0")
        parser.add_argument("path", type=Path)
        parser.add_argument("--without-motion-bids", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        gym = Gym.objects.filter(pk=options["gym"]).first()
        if gym is None and not (options["way"] == "in" and options["gym"] == 0):
            gyms = ", ".join(f"{g.pk} {g.name}" for g in Gym.objects.order_by("pk")) or "none"
            raise CommandError(f"There is no gym {options['gym']}. Here are: {gyms}.")
        try:
            if options["way"] == "out":
                assert gym is not None
                write(gym, options["path"], not options["without_motion_bids"], self._tell)
                self.stdout.write(f"{options['path']}: {options['path'].stat().st_size / 1e6:.1f} MB.")
            else:
                if not options["path"].is_file():
                    raise CommandError(f"There is no file {options['path']}.")
                made = gym or Gym.objects.create(name="Brought in", time_zone="UTC")
                self.stdout.write(f"Gym {made.pk}: {bring(made, options['path'], self._tell)}")
        except BadInput as error:
            raise CommandError(str(error)) from error

    def _tell(self, progress: float, stage: str) -> None:
        self.stderr.write(f"{100 * progress:3.0f} % {stage}")
