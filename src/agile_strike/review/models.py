"""Strikes: measures as typed columns, each with its standard uncertainty."""

from typing import Self

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q

from agile_strike.capture.models import Recording
from agile_strike.gym.models import GymRows


class Strikes(GymRows["Strike"]):
    def counted(self) -> Self:
        """Strikes that the coach has not thrown out."""
        return self.filter(excluded_reason="")


class Strike(models.Model):
    """One contact found in a recording."""

    gym_path = "recording__gym"

    class Limb(models.TextChoices):
        LEFT_HAND = "left_hand"
        RIGHT_HAND = "right_hand"
        LEFT_ELBOW = "left_elbow"
        RIGHT_ELBOW = "right_elbow"
        LEFT_KNEE = "left_knee"
        RIGHT_KNEE = "right_knee"
        LEFT_FOOT = "left_foot"
        RIGHT_FOOT = "right_foot"
        UNKNOWN = "unknown"

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="strikes")
    number = models.IntegerField(help_text="1 is the recording's first")
    contact_s = models.FloatField()
    limb = models.CharField(max_length=12, choices=Limb.choices, default=Limb.UNKNOWN)
    level = models.CharField(max_length=6, blank=True)
    planned = models.CharField(max_length=200, blank=True)
    flags = ArrayField(models.CharField(max_length=40), default=list)
    analysis_version = models.CharField(max_length=20)
    excluded_reason = models.CharField(max_length=120, blank=True)
    excluded_at = models.DateTimeField(null=True)
    excluded_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")

    peak_force_n = models.FloatField(null=True)
    peak_force_n_sd = models.FloatField(null=True)
    impulse_n_s = models.FloatField(null=True)
    impulse_n_s_sd = models.FloatField(null=True)
    contact_ms = models.FloatField(null=True)
    contact_ms_sd = models.FloatField(null=True)
    rise_ms = models.FloatField(null=True)
    rise_ms_sd = models.FloatField(null=True)
    push_index = models.FloatField(null=True)
    push_index_sd = models.FloatField(null=True)
    hit_below_top_m = models.FloatField(null=True)
    hit_below_top_m_sd = models.FloatField(null=True)
    off_centre_m = models.FloatField(null=True)
    off_centre_m_sd = models.FloatField(null=True)
    direction_deg = models.FloatField(null=True)
    direction_deg_sd = models.FloatField(null=True)
    bag_energy_j = models.FloatField(null=True)
    bag_energy_j_sd = models.FloatField(null=True)
    gap_ms = models.FloatField(null=True)
    gap_ms_sd = models.FloatField(null=True)

    objects = Strikes.as_manager()

    class Meta:
        ordering = ["recording", "number"]
        constraints = [
            models.UniqueConstraint(fields=["recording", "number"], name="strike_number_once"),
            models.CheckConstraint(
                condition=Q(impulse_n_s__isnull=True) | Q(impulse_n_s__gt=0), name="impulse_is_positive"
            ),
            models.CheckConstraint(
                condition=Q(excluded_reason="", excluded_at__isnull=True)
                | (~Q(excluded_reason="") & Q(excluded_at__isnull=False)),
                name="excluded_with_a_reason",
            ),
        ]

    def __str__(self) -> str:
        return f"strike {self.number} at {self.contact_s:.2f} s"
