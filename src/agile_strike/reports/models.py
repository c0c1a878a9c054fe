"""Reports that were handed out by a link."""

import secrets

from django.conf import settings
from django.db import models
from django.db.models import Q

from agile_strike.gym.models import Gym, GymRows
from agile_strike.people.models import Student

TOKEN_BYTES = 32


def new_token() -> str:
    return secrets.token_urlsafe(TOKEN_BYTES)


class Report(models.Model):
    """A report as its coach saw it, for whoever holds the link, until a day."""

    removed_paths = ("withdrawn_at", "student__removed_at")

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="+")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="reports")
    kind = models.CharField(max_length=8)
    about = models.CharField(max_length=80, help_text="the days that it tells of")
    token = models.CharField(max_length=50, unique=True, default=new_token)
    until = models.DateField(help_text="last day of the link")
    pdf = models.BinaryField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)

    objects = GymRows["Report"].as_manager()

    class Meta:
        ordering = ["-made_at", "-id"]
        constraints = [
            models.CheckConstraint(condition=Q(kind__in=["student", "season"]), name="report_of_the_students_own")
        ]

    def __str__(self) -> str:
        return f"{self.kind} of {self.student}, {self.about}"
