"""From the demo gym to an empty one of one's own, and back; what a gym is called and when it lives."""

import zoneinfo

from django.db import transaction

from agile_strike.core.errors import BadInput
from agile_strike.gym.models import Gym, Member


@transaction.atomic
def cross_over(member: Member) -> Member:
    """From the demo gym to an empty one of the member's own, made at the first time, or back. Raises BadInput where
    there is no demo gym on either side."""
    row = Member.objects.select_for_update(of=("self",)).select_related("gym", "other").get(pk=member.pk)
    if row.other is None:
        if not row.gym.demo:
            raise BadInput("This gym is no demo gym: nothing is to be left.")
        row.other = Gym.objects.create(name=f"{row.name}'s gym", time_zone=row.gym.time_zone)
    row.gym, row.other = row.other, row.gym
    row.save(update_fields=["gym", "other"])
    return row


@transaction.atomic
def rename(gym: Gym, name: str, time_zone: str) -> Gym:
    if not name.strip():
        raise BadInput("A gym needs a name.")
    if gym.demo:
        raise BadInput("The demo gym keeps its name. Begin with a gym of your own first.")
    if time_zone not in zoneinfo.available_timezones():
        raise BadInput(f"{time_zone[:60]} is no time zone. Choose one as Europe/Oslo.")
    gym.name, gym.time_zone = name.strip(), time_zone
    gym.save(update_fields=["name", "time_zone"])
    return gym
