"""Adds a gym, or somebody who may sign in to one; the password is asked for and checked."""

import getpass
import zoneinfo
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from agile_strike.gym.models import Gym, Member


class Command(BaseCommand):
    help = "Let somebody sign in to a gym; the gym is made if there is none of that name."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("user", help="what to sign in with")
        parser.add_argument("--name", required=True, help="as the pages call them")
        parser.add_argument("--gym", required=True)
        parser.add_argument("--time-zone", default="UTC", help="of a new gym, as Europe/Oslo")
        parser.add_argument("--role", choices=Member.Role.values, default=Member.Role.COACH)
        parser.add_argument("--password", help="asked for where it is left out")

    def handle(self, *args: Any, **told: Any) -> None:
        if told["time_zone"] not in zoneinfo.available_timezones():
            raise CommandError(f"{told['time_zone']} is no time zone: give one as Europe/Oslo.")
        users = get_user_model()
        if users.objects.filter(username=told["user"]).exists():
            raise CommandError(f"{told['user']} can sign in already: choose another name.")
        user = users(username=told["user"])
        password = told["password"] or getpass.getpass("Password: ")
        try:
            validate_password(password, user)
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from error
        with transaction.atomic():
            user.set_password(password)
            user.save()
            gym, _ = Gym.objects.get_or_create(name=told["gym"], defaults={"time_zone": told["time_zone"]})
            Member.objects.create(user=user, gym=gym, name=told["name"], role=told["role"])
        self.stdout.write(f"{told['name']} may sign in to {gym.name} as {told['user']}.")
