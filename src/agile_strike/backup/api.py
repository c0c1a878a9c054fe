"""Backups: when the last one was made, and one more."""

import datetime as dt

from django.http import HttpRequest
from ninja import Router, Schema, Status

from agile_strike.backup import services
from agile_strike.gym.asking import gym
from agile_strike.gym.bodies import Changed
from agile_strike.intake.queue import ask_once

router = Router()


class BackupOut(Schema):
    made_at: dt.datetime
    size_bytes: int


@router.get("/backups", response=list[BackupOut])
def backups(request: HttpRequest) -> list[services.Backup]:
    gym(request)
    return services.backups()


@router.post("/backups", response={202: Changed})
def make(request: HttpRequest) -> Status[Changed]:
    """Asks the queue for one; one that waits already is enough."""
    gym(request)
    ask_once("make_backup", "backup")
    return Status(202, Changed(changed=1))
