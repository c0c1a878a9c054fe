"""Uploads, recordings and raw samples."""

from django.conf import settings
from django.db import models
from django.db.models import Q

from agile_strike.evening.models import Session
from agile_strike.gym.models import Gym, GymRows, finite
from agile_strike.kit.models import BagVersion, Unit
from agile_strike.people.models import Student


class StoredFile(models.Model):
    """A file that waits to be read, in the database: a second machine reaches it, and a backup holds it."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="stored_files")
    name = models.CharField(max_length=255)
    size_bytes = models.BigIntegerField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.name


class StoredPart(models.Model):
    """Some megabytes of a stored file, in order."""

    file = models.ForeignKey(StoredFile, on_delete=models.CASCADE, related_name="parts")
    place = models.IntegerField()
    content = models.BinaryField()

    class Meta:
        ordering = ["place"]
        constraints = [models.UniqueConstraint(fields=["file", "place"], name="stored_part_once")]

    def __str__(self) -> str:
        return f"part {self.place} of {self.file_id}"


class PassingPart(models.Model):
    """The same of a file that is handed on soon and is made of what is here, or goes in whole: no backup holds it."""

    file = models.ForeignKey(StoredFile, on_delete=models.CASCADE, related_name="passing_parts")
    place = models.IntegerField()
    content = models.BinaryField()

    class Meta:
        ordering = ["place"]
        constraints = [models.UniqueConstraint(fields=["file", "place"], name="passing_part_once")]

    def __str__(self) -> str:
        return f"part {self.place} of {self.file_id}"


class Work(models.Model):
    """Something that the queue does for a gym: it always ends, done, failed with a reason, or cancelled."""

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    message = models.TextField(default="")
    reference = models.CharField(max_length=12, blank=True, help_text="under which the server's log tells more")
    starts = models.IntegerField(default=0, help_text="how often a worker took it up: one that kills workers is ended")
    cancel_asked = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        abstract = True

    @property
    def ended(self) -> bool:
        return self.state in (self.State.DONE, self.State.FAILED, self.State.CANCELLED)


class Upload(Work):
    """A file that a coach brought, and how far its import has come. The file is kept until the import has ended."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="uploads")
    student = models.ForeignKey(Student, on_delete=models.SET_NULL, null=True, related_name="+")
    file = models.OneToOneField(StoredFile, on_delete=models.SET_NULL, null=True, related_name="+")
    tables = models.JSONField(null=True, help_text="where it comes from tables: which, and on which bag")
    file_name = models.CharField(max_length=255)
    size_bytes = models.BigIntegerField()
    stage = models.CharField(max_length=120, default="Waiting")
    progress = models.FloatField(default=0.0)

    objects = GymRows["Upload"].as_manager()

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(condition=Q(progress__gte=0, progress__lte=1), name="progress_is_a_share"),
        ]

    def __str__(self) -> str:
        return f"{self.file_name} ({self.state})"


class Recording(models.Model):
    """What the units delivered in one run of a student's evening. What was found in it is of its `analysis`."""

    removed_paths = ("removed_at", "student__removed_at")
    measured_of = "student"

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="recordings")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="recordings")
    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="recordings")
    bag_version = models.ForeignKey(BagVersion, on_delete=models.PROTECT, related_name="recordings", null=True)
    upload = models.ForeignKey(Upload, on_delete=models.SET_NULL, null=True, related_name="recordings")
    analysis = models.OneToOneField(
        "AnalysisRun", on_delete=models.SET_NULL, null=True, related_name="+", help_text="that its strikes show now"
    )
    session_label = models.CharField(max_length=60, blank=True, help_text="of the evening, in data sets")
    task = models.CharField(max_length=120)
    run = models.CharField(max_length=20, blank=True)
    acquired_at = models.DateTimeField()
    length_s = models.FloatField()
    rate_hz = models.FloatField()
    checksum = models.CharField(max_length=64)
    stated = models.JSONField(default=dict, help_text="of the student on that day, as the file itself said it")
    events = models.JSONField(default=list)
    removed_at = models.DateTimeField(null=True)
    open = models.BooleanField(default=False, db_default=False, help_text="still being recorded")
    revision = models.IntegerField(default=0, help_text="counts every change to what its strikes are or say")

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-acquired_at", "-id"]
        constraints = [
            models.UniqueConstraint(fields=["gym", "checksum"], name="recording_once_a_gym"),
            finite("length_s", "rate_hz"),
        ]
        indexes = [models.Index(fields=["student", "acquired_at"], name="recording_of_an_evening")]

    def __str__(self) -> str:
        return f"{self.student}, {self.task}, {self.acquired_at:%Y-%m-%d}"


class AnalysisRun(models.Model):
    """One analysis of a recording: what its figures rest on, and what it says of the whole. Never changed afterwards,
    but for whether more is known by now.

    The first five columns are its basis, see `capture.basis`.
    """

    gym_path = "recording__gym"
    removed_paths = ("recording__removed_at", "recording__student__removed_at")
    measured_of = "recording__student"

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="analyses")
    version = models.CharField(max_length=20)
    bag = models.JSONField(default=dict, help_text="its figures, with what was learnt of it; empty without a bag")
    calibrations = models.JSONField(default=dict, help_text="of units from six positions, by placement")
    body_mass_kg = models.FloatField(null=True)
    stance = models.CharField(max_length=10, choices=Student.Stance.choices, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    took_s = models.FloatField(null=True)
    flags = models.JSONField(default=list)
    not_measured = models.JSONField(default=list)
    clocks = models.JSONField(default=list)
    bursts = models.JSONField(default=list)
    bag_state = models.JSONField(null=True, help_text="how the unit sat on the bag: see core.bag.state")
    strike_count = models.IntegerField(default=0)
    asked_by = models.CharField(max_length=64, blank=True, help_text="what was known when `late` was asked last")
    late = models.BooleanField(default=False, help_text="more was known then than it rests on")

    objects = GymRows["AnalysisRun"].as_manager()

    class Meta:
        ordering = ["-made_at", "-id"]
        constraints = [finite("body_mass_kg", "took_s")]

    def __str__(self) -> str:
        return f"analysis {self.version} of {self.recording_id}"


class Wear(models.Model):
    """Where a unit was in a recording, and how it was set."""

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="wears")
    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="wears")
    placement = models.CharField(max_length=40)
    rate_hz = models.FloatField()
    accel_full_scale_m_s2 = models.FloatField(null=True)
    gyro_full_scale_rad_s = models.FloatField(null=True)
    battery_pct = models.FloatField(null=True, help_text="at its start, where the unit said it")
    starts_s = models.FloatField(null=True, help_text="its first sample after the bag's, by the hub that gathered both")

    class Meta:
        ordering = ["recording", "placement"]
        constraints = [
            models.UniqueConstraint(fields=["recording", "placement"], name="one_unit_a_place"),
            finite("rate_hz", "accel_full_scale_m_s2", "gyro_full_scale_rad_s", "battery_pct", "starts_s"),
        ]

    def __str__(self) -> str:
        return f"{self.unit} at {self.placement}"


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
