"""Stations and the tokens that their hubs show."""

import datetime as dt
import hashlib
import secrets

from django.db import IntegrityError, transaction
from django.utils import timezone

from agile_strike.core.errors import BadInput, NotYours
from agile_strike.gym.models import Gym
from agile_strike.kit.models import Bag
from agile_strike.live.models import Station
from agile_strike.live.taps.own import own_station
from agile_strike.live.taps.takes import end_open

TOKEN_BYTES = 24
MOST_STATIONS = 40
FASTEST = 20.0


def hashed(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def make_station(gym: Gym, name: str, bag_id: int) -> tuple[Station, str]:
    """A station, and the token that its hub shows: it is told this once."""
    bag = Bag.objects.for_gym(gym).filter(pk=bag_id).first()
    if bag is None:
        raise NotYours("bag")
    name = name.strip()
    if not name:
        raise BadInput("Say what the station is called, as the bag by the window.")
    if Station.objects.for_gym(gym).count() >= MOST_STATIONS:
        raise BadInput(f"A gym has at most {MOST_STATIONS} stations. Revoke one that is no longer used.")
    token = secrets.token_hex(TOKEN_BYTES)  # urlsafe ones may begin with a dash
    try:
        with transaction.atomic():
            return Station.objects.create(gym=gym, name=name[:60], bag=bag, token_hash=hashed(token)), token
    except IntegrityError as error:
        raise BadInput(f"There is a station called {name[:60]} already. Give this one another name.") from error


@transaction.atomic
def revoke(gym: Gym, station_id: int) -> Station:
    """The hub's token counts no more, and the station is gone; what was recorded there stays."""
    row = own_station(gym, station_id)
    end_open(row, timezone.now())
    row.revoked_at, row.simulated_until, row.simulated_token = timezone.now(), None, ""
    row.save(update_fields=["revoked_at", "simulated_until", "simulated_token"])
    return row


def station_of(token: str) -> Station | None:
    """Whose token it is; None where it is nobody's, or no longer."""
    if not token:
        return None
    return Station.objects.standing().select_related("gym").filter(token_hash=hashed(token)).first()


@transaction.atomic
def simulate(gym: Gym, bag_id: int, speed: float, minutes: float) -> Station:
    """A station at which a simulated student stands; the one that is there goes on."""
    if not 0.1 <= speed <= FASTEST:
        raise BadInput(f"A simulated evening runs at 0.1 to {FASTEST:g} times its speed.")
    row = Station.objects.for_gym(gym).select_for_update(of=("self",)).filter(simulated_token__gt="").first()
    if row is None:
        row, token = make_station(gym, "Simulated student", bag_id)
        row.simulated_token = token
    row.simulated_until, row.simulated_speed = timezone.now() + dt.timedelta(minutes=minutes), speed
    row.save(update_fields=["simulated_token", "simulated_until", "simulated_speed"])
    return row
