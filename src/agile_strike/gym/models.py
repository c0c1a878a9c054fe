"""A gym and its members."""

import datetime as dt
from typing import Self, TypeVar
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db import models
from django.utils import timezone

from agile_strike.core.children import CONSENT, MAJORITY

LATEST_ZONE = dt.timedelta(hours=12)  # nobody is grown up before it is that day everywhere

Row = TypeVar("Row", bound=models.Model, covariant=True)


class GymRows(models.QuerySet[Row]):
    """Rows that belong to a gym: the one place where they are cut out.

    A model names the way to its gym in `gym_path`, and in `removed_paths` the ways to what it goes with: when any of
    them was removed, the row is not there for a gym until that is taken back. What was measured of a student names the
    way to them in `measured_of`: of a child without a guardian's consent it is not there until that is kept.
    """

    def for_gym(self, gym: "Gym") -> Self:
        return self.standing().with_removed_of(gym)

    def standing(self) -> Self:
        """Rows that were not removed, nor what they hang on, and that a child's guardian lets be seen."""
        removed = {f"{path}__isnull": True for path in getattr(self.model, "removed_paths", ())}
        measured = getattr(self.model, "measured_of", None)
        return self.filter(consented(f"{measured}__") if measured else models.Q(), **removed)

    def with_removed_of(self, gym: "Gym") -> Self:
        return self.filter(**{getattr(self.model, "gym_path", "gym"): gym})


def consented(way: str = "") -> models.Q:
    """Students of whom what was measured may be seen, as `core.children.no_consent` says it; `way` leads to them."""
    today = (timezone.now() - LATEST_ZONE).date()
    day = 28 if (today.month, today.day) == (2, 29) else today.day
    grown = today.replace(year=today.year - MAJORITY, day=day)
    return models.Q(**{f"{way}birth_date__lte": grown}) | models.Q(**{f"{way}consent__in": sorted(CONSENT)})


def finite(*names: str) -> models.CheckConstraint:
    """A constraint that none of these columns holds a NaN or an infinity, which break every page that shows them."""
    inside = models.Q()
    for name in names:
        within = models.Q(**{f"{name}__gt": float("-inf"), f"{name}__lt": float("inf")})  # NaN is above infinity here
        inside &= models.Q(**{f"{name}__isnull": True}) | within
    return models.CheckConstraint(condition=inside, name="%(app_label)s_%(class)s_finite")


class Gym(models.Model):
    name = models.CharField(max_length=120)
    time_zone = models.CharField(max_length=60, default="UTC")
    demo = models.BooleanField(default=False, db_default=False, help_text="made up, to look at")

    def __str__(self) -> str:
        return self.name

    @property
    def zone(self) -> ZoneInfo:
        return ZoneInfo(self.time_zone)

    def day(self, at: dt.datetime) -> dt.date:
        """The day on the gym's own calendar: an evening in the west is tomorrow in UTC."""
        return at.astimezone(self.zone).date()

    @property
    def today(self) -> dt.date:
        return self.day(timezone.now())


class Member(models.Model):
    """Who may sign in, and to which gym."""

    class Role(models.TextChoices):
        COACH = "coach"
        ASSISTANT = "assistant"

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="member")
    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="members")
    other = models.ForeignKey(
        Gym, on_delete=models.SET_NULL, null=True, related_name="+", help_text="the demo gym's coach has one besides"
    )
    name = models.CharField(max_length=120)
    role = models.CharField(max_length=20, choices=Role.choices, default=Role.COACH)

    def __str__(self) -> str:
        return self.name
