"""Bags; each change of mass, size or mount is a new version."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q

from agile_strike.core import target as core
from agile_strike.gym.models import Gym, GymRows, finite

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
    "impulse_gain",
    "impulse_gain_sd",
    "filling",
)


class Bag(models.Model):
    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="bags")
    name = models.CharField(max_length=120)
    version = models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")
    removed_at = models.DateTimeField(null=True)

    removed_paths = ("removed_at",)
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

    class Filling(models.TextChoices):
        PACKED = "packed"
        WATER = "water"

    class Why(models.TextChoices):
        CHANGED = "changed", "it hangs otherwise from then on"
        LEARNT = "learnt", "more is known of it: its inertia or its gain"
        CORRECTED = "corrected", "a figure was wrong: it was always so"

    bag = models.ForeignKey(Bag, on_delete=models.CASCADE, related_name="versions")
    since = models.DateTimeField()
    why = models.CharField(max_length=10, choices=Why.choices, default=Why.CHANGED)
    mount = models.CharField(max_length=10, choices=MountKind.choices)
    filling = models.CharField(max_length=10, choices=Filling.choices, default=Filling.PACKED)
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
    impulse_gain = models.FloatField(default=1.0)
    impulse_gain_sd = models.FloatField(default=0.0)
    level_bands_m = ArrayField(models.FloatField(), size=2, null=True)

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-since", "-id"]
        constraints = [
            models.CheckConstraint(condition=Q(mass_kg__gte=1, mass_kg__lte=400), name="mass_of_a_bag"),
            models.CheckConstraint(condition=Q(filling__in=core.FILLINGS), name="filling_of_a_bag"),
            models.CheckConstraint(condition=Q(sensor_below_top_m__lte=F("length_m")), name="unit_is_on_the_bag"),
            finite(*[f for f in FIELDS if f not in ("mount", "filling")]),
        ]

    def __str__(self) -> str:
        return f"{self.bag} since {self.since:%Y-%m-%d}"

    def to_core(self) -> core.Bag:
        bands = self.level_bands_m
        return core.Bag(
            **{name: getattr(self, name) for name in FIELDS}, level_bands_m=(bands[0], bands[1]) if bands else None
        )


class Unit(models.Model):
    """A motion unit: a thing, known by its serial, or only by its place where no file ever named it."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="units")
    serial = models.CharField(max_length=60, blank=True)
    place = models.CharField(max_length=40, blank=True, help_text="where it is worn, if that is all it is known by")
    name = models.CharField(max_length=60, blank=True, help_text="what the gym calls it")
    model_text = models.CharField(max_length=80, blank=True, help_text="as its files say it")
    last_place = models.CharField(max_length=40, blank=True)
    rate_hz = models.FloatField()
    accel_full_scale_m_s2 = models.FloatField(null=True)
    gyro_full_scale_rad_s = models.FloatField(null=True)
    last_seen = models.DateTimeField()
    battery_pct = models.FloatField(null=True, help_text="when last seen, where the unit said it")
    version = models.IntegerField(default=1, help_text="of its name, so that two coaches don't overwrite each other")

    objects = GymRows["Unit"].as_manager()

    class Meta:
        ordering = ["last_place", "serial", "id"]
        constraints = [
            models.UniqueConstraint(fields=["gym", "serial"], condition=~Q(serial=""), name="serial_once_a_gym"),
            models.UniqueConstraint(fields=["gym", "place"], condition=~Q(place=""), name="one_nameless_unit_a_place"),
            models.CheckConstraint(condition=Q(serial="") ^ Q(place=""), name="unit_known_by_serial_or_place"),
            finite("rate_hz", "accel_full_scale_m_s2", "gyro_full_scale_rad_s", "battery_pct"),
        ]

    def __str__(self) -> str:
        return self.name or self.serial or self.place


class Calibration(models.Model):
    """What a recording showed of a unit or a bag: the fit, its doubt, and until when it is trusted."""

    class Kind(models.TextChoices):
        RESTS = "rests"
        SWING = "swing"
        BALL = "ball"

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="calibrations")
    kind = models.CharField(max_length=6, choices=Kind.choices)
    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, null=True, related_name="calibrations")
    bag = models.ForeignKey(Bag, on_delete=models.CASCADE, null=True, related_name="calibrations")
    made_at = models.DateTimeField()
    expires_on = models.DateField()
    result = models.JSONField()
    drawn = models.JSONField(default=dict, help_text="the fit, for the eye")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-made_at", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(kind="rests", bag__isnull=True, unit__isnull=False)
                | Q(kind__in=["swing", "ball"], bag__isnull=False, unit__isnull=True),
                name="calibrates_a_unit_or_a_bag",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.kind} of {self.unit or self.bag}"
