"""A gym and its members."""

import datetime as dt
from typing import Self, TypeVar
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db import models
from django.utils import timezone

Row = TypeVar("Row", bound=models.Model, covariant=True)


class GymRows(models.QuerySet[Row]):
    """Rows that belong to a gym: the one place where they are cut out."""

    def for_gym(self, gym: "Gym") -> Self:
        return self.filter(**{getattr(self.model, "gym_path", "gym"): gym})


class Gym(models.Model):
    name = models.CharField(max_length=120)
    time_zone = models.CharField(max_length=60, default="UTC")

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
    name = models.CharField(max_length=120)
    role = models.CharField(max_length=20, choices=Role.choices, default=Role.COACH)

    def __str__(self) -> str:
        return self.name
