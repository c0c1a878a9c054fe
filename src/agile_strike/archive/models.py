"""A gym's archives: written or brought in by the queue."""

from django.db import models
from django.db.models import Q

from agile_strike.capture.models import StoredFile, Work
from agile_strike.gym.models import Gym, GymRows


class Archive(Work):
    """All of a gym in one file: on its way out, or on its way in."""

    class Way(models.TextChoices):
        OUT = "out"
        IN = "in"

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="archives")
    way = models.CharField(max_length=3, choices=Way.choices)
    file = models.OneToOneField(StoredFile, on_delete=models.SET_NULL, null=True, related_name="+")
    file_name = models.CharField(max_length=255)
    size_bytes = models.BigIntegerField(default=0)
    motion_bids = models.BooleanField(default=True, help_text="with every recording as Motion-BIDS besides")
    stage = models.CharField(max_length=120, default="Waiting")
    progress = models.FloatField(default=0.0)

    objects = GymRows["Archive"].as_manager()

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(condition=Q(progress__gte=0, progress__lte=1), name="archive_progress_is_a_share"),
            models.UniqueConstraint(
                fields=["gym"], condition=Q(state__in=["queued", "running"]), name="one_archive_at_a_time"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.file_name} ({self.state})"
