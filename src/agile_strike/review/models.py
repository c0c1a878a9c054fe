"""Strikes: measures as typed columns, each with its standard uncertainty."""

from typing import Self

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models import Q

from agile_strike.capture.models import AnalysisRun, Recording
from agile_strike.core.registry import NUMERIC, PROVISIONAL
from agile_strike.core.strikes import BAG, KINDS
from agile_strike.evening.models import PlannedSet
from agile_strike.gym.models import Gym, GymRows, finite
from agile_strike.gym.words import words_of
from agile_strike.playbook.models import School


class Strikes(GymRows["Strike"]):
    def counted(self) -> Self:
        """Strikes that the coach has not thrown out, and that are settled."""
        return self.filter(excluded_reason="").exclude(flags__contains=[PROVISIONAL])


class StrikeSet(models.Model):
    """What was thrown, and under what: strikes of one recording that belong together."""

    gym_path = "recording__gym"
    removed_paths = ("recording__removed_at", "recording__student__removed_at")
    measured_of = "recording__student"

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="sets")
    planned = models.ForeignKey(PlannedSet, on_delete=models.SET_NULL, null=True, related_name="thrown")
    began_s = models.FloatField(null=True, help_text="on the reference clock, where it was planned or called")
    ended_s = models.FloatField(null=True)
    code = models.CharField(max_length=60)
    limb = models.CharField(max_length=12, blank=True)
    level = models.CharField(max_length=6, blank=True)
    levels = models.JSONField(default=dict, help_text="factor to level")
    school = models.ForeignKey(School, on_delete=models.SET_NULL, null=True, related_name="+")
    gear = models.CharField(max_length=80, blank=True)
    by_coach = models.BooleanField(default=False)

    objects = GymRows["StrikeSet"].as_manager()

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=~Q(code=""), name="set_has_a_code"),
            finite("began_s", "ended_s"),
        ]

    def __str__(self) -> str:
        return self.value

    @property
    def value(self) -> str:
        """As in the recording's events: `code;limb;key=level,...`."""
        pairs = ({"level": self.level} if self.level else {}) | self.levels
        return f"{self.code};{self.limb};" + ",".join(f"{k}={v}" for k, v in pairs.items())


class MeasureColumns(models.Model):
    """A column and its standard uncertainty for every measure of the registry, filled in below."""

    class Meta:
        abstract = True


for _name in NUMERIC:
    MeasureColumns.add_to_class(_name, models.FloatField(null=True))
    MeasureColumns.add_to_class(f"{_name}_sd", models.FloatField(null=True))


class Strike(MeasureColumns):
    """One contact found in a recording."""

    gym_path = "recording__gym"
    removed_paths = ("recording__removed_at", "recording__student__removed_at")
    measured_of = "recording__student"

    class Limb(models.TextChoices):
        LEFT_HAND = "left_hand"
        RIGHT_HAND = "right_hand"
        LEFT_ELBOW = "left_elbow"
        RIGHT_ELBOW = "right_elbow"
        LEFT_KNEE = "left_knee"
        RIGHT_KNEE = "right_knee"
        LEFT_FOOT = "left_foot"
        RIGHT_FOOT = "right_foot"
        UNKNOWN = "unknown"

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="strikes")
    analysis = models.ForeignKey(AnalysisRun, on_delete=models.CASCADE, related_name="strikes")
    number = models.IntegerField(help_text="1 is the recording's first")
    contact_s = models.FloatField()
    limb = models.CharField(max_length=12, choices=Limb.choices, default=Limb.UNKNOWN)
    kind = models.CharField(max_length=4, default=BAG, db_default=BAG, help_text="what it landed on")
    level = models.CharField(max_length=6, blank=True)
    set = models.ForeignKey(StrikeSet, on_delete=models.SET_NULL, null=True, related_name="strikes")
    relabelled_limb = models.CharField(max_length=12, choices=Limb.choices, blank=True)
    flags = ArrayField(models.CharField(max_length=40), default=list)
    excluded_reason = models.CharField(max_length=120, blank=True)
    excluded_at = models.DateTimeField(null=True)
    excluded_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")

    chain_order = models.CharField(max_length=20, blank=True)
    launch_ms = models.FloatField(null=True, help_text="from contact, negative")
    absent = models.JSONField(default=dict, help_text="measure of this strike alone that is not there -> why")
    note = models.TextField(blank=True)
    version = models.IntegerField(default=1, help_text="of what coaches say of it: label, note, thrown out or not")

    objects = Strikes.as_manager()

    class Meta:
        ordering = ["recording", "number"]
        indexes = [  # few strikes have a note
            models.Index(fields=["recording"], name="strike_notes", condition=~Q(note="")),
            GinIndex(words_of("note"), name="strike_words", condition=~Q(note="")),
        ]
        constraints = [
            models.UniqueConstraint(fields=["recording", "number"], name="strike_number_once"),
            models.CheckConstraint(
                condition=Q(impulse_n_s__isnull=True) | Q(impulse_n_s__gt=0), name="impulse_is_positive"
            ),
            models.CheckConstraint(condition=Q(kind__in=KINDS), name="strike_landed_on_something_known"),
            models.CheckConstraint(
                condition=Q(kind=BAG) | Q(impulse_n_s__isnull=True, effective_mass_kg__isnull=True),
                name="force_is_measured_by_a_bag",
            ),
            models.CheckConstraint(
                condition=~Q(kind=BAG)
                | Q(impulse_estimated_n_s__isnull=True, effective_mass_estimated_kg__isnull=True),
                name="nothing_estimated_on_a_bag",
            ),
            models.CheckConstraint(
                condition=Q(excluded_reason="", excluded_at__isnull=True)
                | (~Q(excluded_reason="") & Q(excluded_at__isnull=False)),
                name="excluded_with_a_reason",
            ),
            finite("contact_s", "launch_ms", *(c for n in NUMERIC for c in (n, f"{n}_sd"))),
        ]

    def __str__(self) -> str:
        return f"strike {self.number} at {self.contact_s:.2f} s"

    @property
    def limb_said(self) -> str:
        """The coach's word where there is one, else what the units found."""
        return self.relabelled_limb or self.limb


class Remark(models.Model):
    """What the coach saw of one strike: kept apart from what units measured."""

    strike = models.ForeignKey(Strike, on_delete=models.CASCADE, related_name="remarks")
    what = models.CharField(max_length=20, help_text="one of core.vocabulary.REMARKS")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["strike", "what"], name="remark_once_a_strike")]

    def __str__(self) -> str:
        return self.what


class StrikeLanes(models.Model):
    """The curves of one strike from the floor up, as Parquet: kept when raw samples have gone."""

    strike = models.OneToOneField(Strike, on_delete=models.CASCADE, primary_key=True, related_name="lanes")
    parquet = models.BinaryField()

    def __str__(self) -> str:
        return f"lanes of {self.strike_id}"


class Guess(models.Model):
    """What a strike that nobody has named looks like. Made anew whenever there is more to learn from."""

    strike = models.OneToOneField(Strike, on_delete=models.CASCADE, primary_key=True, related_name="guess")
    code = models.CharField(max_length=60)
    sure = models.FloatField()

    class Meta:
        constraints = [
            models.CheckConstraint(condition=~Q(code=""), name="guess_has_a_code"),
            models.CheckConstraint(condition=Q(sure__gte=0, sure__lte=1), name="guess_is_sure_by_a_share"),
        ]

    def __str__(self) -> str:
        return f"{self.code} ({self.sure:.2f})"


class NamesLearnt(models.Model):
    """How well a gym's names are told apart by courses, on students who were left out."""

    gym = models.OneToOneField(Gym, on_delete=models.CASCADE, related_name="+")
    made_at = models.DateTimeField(auto_now=True)
    known = models.CharField(max_length=80, help_text="what it was learnt from: see review.names")
    told = models.JSONField(default=dict, help_text="part of the body -> names, table, right, said, students")

    objects = GymRows["NamesLearnt"].as_manager()

    def __str__(self) -> str:
        return f"names of {self.gym}"
