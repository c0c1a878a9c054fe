"""Uploads, recordings and raw samples."""

from django.conf import settings
from django.db import models
from django.db.models import Q

from agile_strike.gym.models import Gym, GymRows
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student


class Upload(models.Model):
    """A file that a coach brought, and how far its import has come. The file is kept until the import has ended."""

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="uploads")
    student = models.ForeignKey(Student, on_delete=models.SET_NULL, null=True, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    file_name = models.CharField(max_length=255)
    size_bytes = models.BigIntegerField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    stage = models.CharField(max_length=120, default="Waiting")
    progress = models.FloatField(default=0.0)
    message = models.TextField(default="")
    cancel_asked = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(condition=Q(progress__gte=0, progress__lte=1), name="progress_is_a_share"),
        ]

    def __str__(self) -> str:
        return f"{self.file_name} ({self.state})"

    @property
    def ended(self) -> bool:
        return self.state in (self.State.DONE, self.State.FAILED, self.State.CANCELLED)


class Recording(models.Model):
    """What the units delivered in one run of a student's evening."""

    gym_path = "gym"

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="recordings")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="recordings")
    bag_version = models.ForeignKey(BagVersion, on_delete=models.PROTECT, related_name="recordings", null=True)
    upload = models.ForeignKey(Upload, on_delete=models.SET_NULL, null=True, related_name="recordings")
    session = models.CharField(max_length=60, blank=True)
    task = models.CharField(max_length=120)
    run = models.CharField(max_length=20, blank=True)
    acquired_at = models.DateTimeField()
    length_s = models.FloatField()
    rate_hz = models.FloatField()
    checksum = models.CharField(max_length=64)
    analysis_version = models.CharField(max_length=20)
    body_mass_kg = models.FloatField(null=True)
    flags = models.JSONField(default=list)
    not_measured = models.JSONField(default=list)
    events = models.JSONField(default=list)
    units = models.JSONField(default=list)
    clocks = models.JSONField(default=list)
    bursts = models.JSONField(default=list)
    mounting = models.JSONField(null=True)
    strike_count = models.IntegerField(default=0)
    revision = models.IntegerField(default=0, help_text="counts every change to what its strikes are or say")

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-acquired_at", "-id"]
        constraints = [models.UniqueConstraint(fields=["gym", "checksum"], name="recording_once_a_gym")]
        indexes = [models.Index(fields=["student", "acquired_at"], name="recording_of_an_evening")]

    def __str__(self) -> str:
        return f"{self.student}, {self.task}, {self.acquired_at:%Y-%m-%d}"


class Chunk(models.Model):
    """Some seconds of one unit's samples, as Parquet bytes. Never changed."""

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="chunks")
    unit = models.CharField(max_length=40)
    first_sample = models.BigIntegerField()
    samples = models.IntegerField()
    full_scale = models.JSONField(default=dict)
    rate_hz = models.FloatField()
    sha256 = models.CharField(max_length=64)
    parquet = models.BinaryField()

    class Meta:
        ordering = ["recording", "unit", "first_sample"]
        constraints = [
            models.UniqueConstraint(fields=["recording", "unit", "first_sample"], name="chunk_once"),
            models.CheckConstraint(condition=Q(samples__gt=0), name="chunk_has_samples"),
        ]

    def __str__(self) -> str:
        return f"{self.unit} from sample {self.first_sample}"
