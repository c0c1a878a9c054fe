"""Students and their body mass over time."""

from django.conf import settings
from django.db import models
from django.db.models import F, Q

from agile_strike.gym.models import Gym, GymRows, finite
from agile_strike.gym.words import words_index


class Student(models.Model):
    class Stance(models.TextChoices):
        ORTHODOX = "orthodox"
        SOUTHPAW = "southpaw"

    class Consent(models.TextChoices):
        NOT_NEEDED = "not_needed"
        KEPT = "kept"
        MISSING = "missing"
        WITHDRAWN = "withdrawn"

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="students")
    name = models.CharField(max_length=120)
    label = models.CharField(max_length=40, help_text="participant label in data sets: letters and digits")
    stance = models.CharField(max_length=10, choices=Stance.choices)
    birth_date = models.DateField(null=True, blank=True)
    consent = models.CharField(max_length=12, choices=Consent.choices, default=Consent.NOT_NEEDED)
    version = models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")
    left_on = models.DateField(null=True, help_text="trains here no more; all that was measured stays to be read")
    removed_at = models.DateTimeField(null=True)

    removed_paths = ("removed_at",)
    objects = GymRows.as_manager()

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["gym", "label"], name="student_label_once_a_gym"),
            models.CheckConstraint(condition=Q(label__regex=r"^[A-Za-z0-9]+$"), name="student_label_is_a_label"),
            models.CheckConstraint(condition=~Q(name=""), name="student_has_a_name"),
        ]

    def __str__(self) -> str:
        return self.name


class BodyMass(models.Model):
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="masses")
    measured_on = models.DateField()
    mass_kg = models.FloatField()

    class Meta:
        ordering = ["measured_on"]
        constraints = [
            models.UniqueConstraint(fields=["student", "measured_on"], name="one_mass_a_day"),
            models.CheckConstraint(condition=Q(mass_kg__gte=15, mass_kg__lte=300), name="mass_of_a_person"),
            finite("mass_kg"),
        ]

    def __str__(self) -> str:
        return f"{self.mass_kg:g} kg on {self.measured_on}"


class StanceChange(models.Model):
    """From which day on a student stood how."""

    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="stances")
    since = models.DateField()
    stance = models.CharField(max_length=10, choices=Student.Stance.choices)

    class Meta:
        ordering = ["-since"]
        constraints = [models.UniqueConstraint(fields=["student", "since"], name="one_stance_a_day")]

    def __str__(self) -> str:
        return f"{self.stance} since {self.since}"


class Mark(models.Model):
    """Something in a student's weeks that the figures should be read with: an injury, a break, anything else."""

    gym_path = "student__gym"
    removed_paths = ("student__removed_at",)

    class Kind(models.TextChoices):
        INJURY = "injury"
        BREAK = "break"
        OTHER = "other"

    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="marks")
    kind = models.CharField(max_length=8, choices=Kind.choices)
    since = models.DateField()
    until = models.DateField(null=True, blank=True)
    text = models.CharField(max_length=200)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")

    objects = GymRows["Mark"].as_manager()

    class Meta:
        ordering = ["since", "id"]
        indexes = [words_index("text", name="mark_words")]
        constraints = [
            models.CheckConstraint(
                condition=Q(until__isnull=True) | Q(until__gte=F("since")), name="mark_runs_forward"
            ),
            models.CheckConstraint(condition=~Q(text=""), name="mark_says_something"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} since {self.since}"


class Earlier(models.Model):
    """What was noted before somebody wrote over it, and who did so when. Rows are only ever added."""

    class Of(models.TextChoices):
        EVENING = "evening"
        MARK = "mark"
        NOTE = "note"

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="+")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, null=True, related_name="+")
    of = models.CharField(max_length=8, choices=Of.choices)
    key = models.BigIntegerField(help_text="of the row that was written over")
    said = models.TextField(blank=True, help_text="as it stood; nothing: it was not noted before")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    objects = GymRows["Earlier"].as_manager()

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["of", "key"], name="earlier_of_key")]

    def __str__(self) -> str:
        return f"{self.of} {self.key}, before {self.at}"
