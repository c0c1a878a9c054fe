"""Trials of one factor, who is in them, the blocks that were called, the claims as they stand, and the decisions."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q

from agile_strike.evening.models import PlannedSet, Session
from agile_strike.gym.models import Gym, GymRows, finite
from agile_strike.gym.words import words_index
from agile_strike.kit.models import Bag
from agile_strike.people.models import Student

SCHOOL = "school"  # the factor whose levels are the gym's schools


class Trial(models.Model):
    """Two to four levels of one factor, the rest held, in counterbalanced blocks."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="trials")
    factor = models.CharField(max_length=60)
    levels = ArrayField(models.CharField(max_length=80))
    code = models.CharField(max_length=60)
    height = models.CharField(max_length=6, blank=True)
    measure = models.CharField(max_length=40)
    watch = ArrayField(models.CharField(max_length=40), default=list)
    worth_pct = models.FloatField(null=True, help_text="smallest change worth having, where the coach has said one")
    blocks_each = models.IntegerField(default=2)
    strikes = models.IntegerField(default=8)
    rest_s = models.FloatField(default=60.0)
    evenings = models.IntegerField(default=4)
    gear = models.CharField(max_length=80, blank=True)
    bag = models.ForeignKey(Bag, on_delete=models.SET_NULL, null=True, related_name="+", help_text="held throughout")
    started_on = models.DateField()
    ended_on = models.DateField(null=True)
    version = models.IntegerField(default=1, help_text="of the text, so that two coaches don't overwrite each other")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    students = models.ManyToManyField(Student, related_name="trials")
    removed_at = models.DateTimeField(null=True)

    removed_paths = ("removed_at",)

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-started_on", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(levels__len__gte=2) & Q(levels__len__lte=4), name="trial_has_two_to_four_levels"
            ),
            models.CheckConstraint(
                condition=Q(worth_pct__isnull=True) | Q(worth_pct__gt=0, worth_pct__lt=100), name="worth_is_a_share"
            ),
            models.CheckConstraint(
                condition=Q(ended_on__isnull=True) | Q(ended_on__gte=F("started_on")), name="trial_ends_after_it_starts"
            ),
            finite("worth_pct", "rest_s"),
        ]

    def __str__(self) -> str:
        return f"{self.factor}, {self.code}: {' against '.join(self.levels)}"


class CalledBlock(models.Model):
    """A planned set that a coach called from a trial's sheet: its times are the set's."""

    gym_path = "trial__gym"
    removed_paths = ("trial__removed_at", "session__student__removed_at")

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="called")
    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="called")
    planned = models.OneToOneField(PlannedSet, on_delete=models.CASCADE, related_name="called")
    place = models.IntegerField(help_text="0 is the trial's first of the evening")

    objects = GymRows["CalledBlock"].as_manager()

    class Meta:
        ordering = ["session__day", "place"]
        constraints = [
            models.UniqueConstraint(fields=["trial", "session", "place"], name="block_called_once"),
        ]

    def __str__(self) -> str:
        return f"block {self.place + 1} of {self.session}"


class KeptClaim(models.Model):
    """A comparison that is kept, with what it came from: as long as that is the same, it stands."""

    gym_path = "trial__gym"

    asked = models.CharField(max_length=500, help_text="measure, pair of levels, what it is narrowed to, worth")
    came_from = models.CharField(max_length=64)
    document = models.JSONField()

    objects = GymRows.as_manager()

    class Meta:
        abstract = True

    def __str__(self) -> str:
        return self.asked


class Claim(KeptClaim):
    """The comparison in a sentence with its figures: what lists and the class read."""

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="claims")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, null=True, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["trial", "student", "asked"], name="claim_once", nulls_distinct=False),
        ]


class ClaimPage(KeptClaim):
    """All that the compare screen shows of a comparison, every strike with it."""

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="pages")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, null=True, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["trial", "student", "asked"], name="claim_page_once", nulls_distinct=False),
        ]


class Decision(models.Model):
    """What a coach decided, when, why, and on what."""

    gym_path = "trial__gym"
    removed_paths = ("trial__removed_at", "student__removed_at")

    class What(models.TextChoices):
        KEEP = "keep"
        DROP = "drop"
        KEEP_TESTING = "keep_testing"

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="decisions")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="decisions")
    what = models.CharField(max_length=12, choices=What.choices)
    level = models.CharField(max_length=80, help_text="the level that it is about")
    reason = models.TextField()
    said = models.TextField(blank=True, help_text="the sentence as it stood then")
    decided_on = models.DateField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    objects = GymRows.as_manager()

    class Meta:
        ordering = ["-decided_on", "-id"]
        indexes = [words_index("reason", "level", name="decision_words")]
        constraints = [models.CheckConstraint(condition=~Q(reason=""), name="decided_for_a_reason")]

    def __str__(self) -> str:
        return f"{self.what} {self.level} on {self.decided_on}"
