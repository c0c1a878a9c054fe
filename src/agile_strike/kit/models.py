"""Bags; each change of mass, size or mount is a new version."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q

from agile_strike.core import bag as core
from agile_strike.gym.models import Gym, GymRows


class Bag(models.Model):
    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="bags")
    name = models.CharField(max_length=120)

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["gym", "name"], name="bag_name_once_a_gym")]

    def __str__(self) -> str:
        return self.name


class BagVersion(models.Model):
    """A bag as it hung from one moment on."""

    gym_path = "bag__gym"

    class MountKind(models.TextChoices):
        SWIVEL = "swivel"
        FIXED = "fixed"
        STANDING = "standing"
        WALL = "wall"
        HELD = "held"

    bag = models.ForeignKey(Bag, on_delete=models.CASCADE, related_name="versions")
    since = models.DateTimeField()
    mount = models.CharField(max_length=10, choices=MountKind.choices)
    mass_kg = models.FloatField()
    mass_sd_kg = models.FloatField(null=True)
    length_m = models.FloatField()
    diameter_m = models.FloatField()
    sensor_below_top_m = models.FloatField()
    pivot_to_top_m = models.FloatField(default=0.0)
    chain_m = models.FloatField(default=core.DEFAULT_CHAIN_M)
    inertia_cm_kg_m2 = models.FloatField(null=True)
    inertia_sd_kg_m2 = models.FloatField(null=True)
    com_from_top_m = models.FloatField(null=True)
    level_bands_m = ArrayField(models.FloatField(), size=2, null=True)

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-since", "-id"]
        constraints = [
            models.CheckConstraint(condition=Q(mass_kg__gte=1, mass_kg__lte=400), name="mass_of_a_bag"),
            models.CheckConstraint(condition=Q(sensor_below_top_m__lte=F("length_m")), name="unit_is_on_the_bag"),
        ]

    def __str__(self) -> str:
        return f"{self.bag} since {self.since:%Y-%m-%d}"

    def to_core(self) -> core.Bag:
        bands = self.level_bands_m
        return core.Bag(
            **{name: getattr(self, name) for name in FIELDS}, level_bands_m=(bands[0], bands[1]) if bands else None
        )


FIELDS = (
    "mount",
    "mass_kg",
    "length_m",
    "diameter_m",
    "sensor_below_top_m",
    "mass_sd_kg",
    "pivot_to_top_m",
    "chain_m",
    "inertia_cm_kg_m2",
    "com_from_top_m",
    "inertia_sd_kg_m2",
)
