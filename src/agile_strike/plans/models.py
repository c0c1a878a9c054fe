"""A planned week of a student, and the parts of its evenings."""

from django.db import models
from django.db.models import F, Q

from agile_strike.gym.models import GymRows, finite
from agile_strike.people.models import Student


class Week(models.Model):
    gym_path = "student__gym"
    removed_paths = ("student__removed_at",)

    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="planned_weeks")
    monday = models.DateField()
    wishes = models.JSONField(default=list, help_text="as core.plan.wishes.Wish, the first weighs most")
    free = models.JSONField(default=dict, help_text="day of the week, 0 to 6 -> minutes")
    bent = models.JSONField(default=dict, help_text="place of a wish -> what it had to bend to, as it was proposed")
    easy = models.BooleanField(default=False)
    proven = models.BooleanField(default=True, help_text="no better week exists; else the solver's time was over")
    unseen_hands = models.IntegerField(null=True, help_text="thrown without units, as the coach says; none: not asked")
    unseen_kicks = models.IntegerField(null=True)
    version = models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")

    objects = GymRows["Week"].as_manager()

    class Meta:
        ordering = ["monday"]
        constraints = [
            models.UniqueConstraint(fields=["student", "monday"], name="one_plan_a_week"),
            models.CheckConstraint(condition=Q(monday__iso_week_day=1), name="week_begins_on_a_monday"),
            models.CheckConstraint(
                condition=(Q(unseen_hands__isnull=True) | Q(unseen_hands__gte=0, unseen_hands__lte=5000))
                & (Q(unseen_kicks__isnull=True) | Q(unseen_kicks__gte=0, unseen_kicks__lte=5000)),
                name="unseen_strikes_are_a_count",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.student}, week of {self.monday}"


class Part(models.Model):
    """Something that is done on one of the week's evenings."""

    gym_path = "week__student__gym"
    removed_paths = ("week__student__removed_at",)

    week = models.ForeignKey(Week, on_delete=models.CASCADE, related_name="parts")
    day = models.IntegerField()
    place = models.IntegerField()
    kind = models.CharField(max_length=8)
    name = models.CharField(max_length=160)
    key = models.CharField(max_length=80, blank=True)
    minutes = models.FloatField(default=0.0)
    strikes = models.IntegerField(default=0)
    left = models.IntegerField(default=0)
    right = models.IntegerField(default=0)

    objects = GymRows["Part"].as_manager()

    class Meta:
        ordering = ["day", "place", "id"]
        constraints = [
            models.CheckConstraint(condition=Q(day__gte=0, day__lte=6), name="part_is_on_a_day_of_the_week"),
            models.CheckConstraint(
                condition=Q(left=0, right=0) | Q(strikes=F("left") + F("right")), name="part_sides_are_its_strikes"
            ),
            finite("minutes"),
        ]

    def __str__(self) -> str:
        return self.name
