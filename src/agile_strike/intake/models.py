"""Foreign files on their way in, and the profiles by which the next ones of their kind are read."""

from django.db import models
from django.db.models import Q

from agile_strike.capture.models import StoredFile, Work
from agile_strike.gym.models import Gym, GymRows
from agile_strike.people.models import Student


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


class ForeignFile(Work):
    """A table that was brought, with what its columns are taken for. Gone once it is imported.

    A worker reads it once; from then on its columns are at hand and the text is not read again. It is `queued` while
    something about it is asked of the queue, and `done` when the page can show it.
    """

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="foreign_files")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, null=True, related_name="+")
    file = models.OneToOneField(StoredFile, on_delete=models.SET_NULL, null=True, related_name="+")
    columns = models.OneToOneField(StoredFile, on_delete=models.SET_NULL, null=True, related_name="+")
    file_name = models.CharField(max_length=255)
    progress = models.FloatField(default=0.0)
    layout = models.JSONField(default=dict, help_text="how the text was laid out, and what stood above the figures")
    mapping = models.JSONField(default=dict)
    questions = models.JSONField(default=list)
    told = models.JSONField(default=list)
    seen = models.JSONField(default=dict, help_text="first rows, signals for the eye, and what physics says")
    version = models.IntegerField(default=1, help_text="of the mapping, so that two coaches don't overwrite each other")
    profile = models.ForeignKey(Profile, on_delete=models.SET_NULL, null=True, related_name="+")

    objects = GymRows["ForeignFile"].as_manager()

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.file_name


class Reanalysis(Work):
    """Recordings to be analysed again, how far it has come, and what came of each. A recording is done whole or not."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="reanalyses")
    recordings = models.JSONField(help_text="ids, in the order in which they are done")
    results = models.JSONField(default=list, help_text="one of each that is done")
    about_s = models.FloatField(default=0.0, help_text="how long all of them should take")

    objects = GymRows["Reanalysis"].as_manager()

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{len(self.recordings)} recordings again ({self.state})"

    @property
    def progress(self) -> float:
        return len(self.results) / max(len(self.recordings), 1)
