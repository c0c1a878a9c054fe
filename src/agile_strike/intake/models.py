"""Foreign files on their way in, and the profiles by which the next ones of their kind are read."""

from django.conf import settings
from django.db import models
from django.db.models import Q

from agile_strike.capture.models import Upload
from agile_strike.gym.models import Gym, GymRows


class Profile(models.Model):
    """How one logger's files are read, under a name."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="profiles")
    name = models.CharField(max_length=80)
    signature = models.TextField(help_text="separator and column names")
    mapping = models.JSONField()

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["gym", "name"], name="profile_name_once_a_gym"),
            models.CheckConstraint(condition=~Q(name=""), name="profile_has_a_name"),
        ]

    def __str__(self) -> str:
        return self.name


class ForeignFile(models.Model):
    """A table that was brought, with what its columns are taken for. Gone once it is imported."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="foreign_files")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    file_name = models.CharField(max_length=255)
    mapping = models.JSONField()
    questions = models.JSONField(default=list)
    told = models.JSONField(default=list)
    profile = models.ForeignKey(Profile, on_delete=models.SET_NULL, null=True, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.file_name


class Reanalysis(models.Model):
    """Recordings to be analysed again, how far it has come, and what came of each. A recording is done whole or not."""

    State = Upload.State

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="reanalyses")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    recordings = models.JSONField(help_text="ids, in the order in which they are done")
    results = models.JSONField(default=list, help_text="one of each that is done")
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    message = models.TextField(default="")
    cancel_asked = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{len(self.recordings)} recordings again ({self.state})"

    @property
    def progress(self) -> float:
        return len(self.results) / max(len(self.recordings), 1)
