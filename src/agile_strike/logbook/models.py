"""What a coach writes down beside all that is measured."""

from django.conf import settings
from django.db import models
from django.db.models import Q

from agile_strike.gym.models import Gym, GymRows
from agile_strike.gym.words import words_index
from agile_strike.people.models import Student


class Notes(GymRows["Note"]):
    def standing(self) -> "Notes":
        """A note of the whole gym has no student that could have been removed."""
        return super().standing().filter(Q(student__isnull=True) | Q(student__removed_at__isnull=True))


class Note(models.Model):
    removed_paths = ("removed_at",)

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="+")
    student = models.ForeignKey(
        Student, on_delete=models.CASCADE, null=True, related_name="+", help_text="none: of the whole gym"
    )
    day = models.DateField()
    text = models.TextField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    version = models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")
    removed_at = models.DateTimeField(null=True)

    objects = Notes.as_manager()

    class Meta:
        ordering = ["-day", "-id"]
        indexes = [words_index("text", name="note_words"), models.Index(fields=["gym", "-day"], name="notes_by_day")]
        constraints = [models.CheckConstraint(condition=~Q(text=""), name="note_says_something")]

    def __str__(self) -> str:
        return self.text[:80]
