"""A student's evening, and the sets that are to be thrown in it."""

import secrets

from django.db import models
from django.db.models import F, Q

from agile_strike.gym.models import GymRows
from agile_strike.gym.words import words_index
from agile_strike.people.models import Student
from agile_strike.playbook.models import School

KEY_BYTES = 5


def new_key() -> str:
    return secrets.token_hex(KEY_BYTES)


class Session(models.Model):
    """One student's evening, by the gym's calendar. Recordings and planned sets hang on it."""

    gym_path = "student__gym"
    removed_paths = ("student__removed_at",)

    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="sessions")
    day = models.DateField()
    gear = models.CharField(max_length=80, blank=True)
    soreness = models.CharField(max_length=300, blank=True, help_text="sore where, in the student's words")
    notes = models.TextField(blank=True)
    here = models.BooleanField(default=True, db_default=True, help_text="the student came")
    version = models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")

    objects = GymRows["Session"].as_manager()

    class Meta:
        ordering = ["-day", "-id"]
        indexes = [
            words_index("gear", "soreness", "notes", name="evening_words"),
            models.Index(fields=["-day"], name="evenings_by_day"),
        ]
        constraints = [models.UniqueConstraint(fields=["student", "day"], name="one_evening_a_day")]

    def __str__(self) -> str:
        return f"{self.student} on {self.day}"


class Volume(models.Model):
    """A total that is chipped off through the evening, lead and rear strikes of one family alike."""

    gym_path = "session__student__gym"
    removed_paths = ("session__student__removed_at",)

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="volumes")
    family = models.CharField(max_length=50, help_text="a strike code without its side, as round")
    total = models.IntegerField()
    size = models.IntegerField(help_text="strikes of a set")

    objects = GymRows["Volume"].as_manager()

    class Meta:
        ordering = ["session", "id"]
        constraints = [
            models.UniqueConstraint(fields=["session", "family"], name="one_volume_a_family"),
            models.CheckConstraint(condition=Q(total__gte=1, size__gte=1), name="volume_counts_up"),
        ]

    def __str__(self) -> str:
        return f"{self.total} {self.family} on {self.session}"


class Looked(models.Model):
    """What a coach saw of one point of the set-up check, where nobody else sees it."""

    gym_path = "session__student__gym"
    removed_paths = ("session__student__removed_at",)

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="looked")
    point = models.CharField(max_length=80, help_text="key of the playbook's point")
    name = models.CharField(max_length=80, help_text="what it was called then")
    good = models.BooleanField()

    objects = GymRows["Looked"].as_manager()

    class Meta:
        ordering = ["session", "id"]
        constraints = [models.UniqueConstraint(fields=["session", "point"], name="point_once_an_evening")]

    def __str__(self) -> str:
        return f"{self.name}: {'good' if self.good else 'off'}"


class Drilled(models.Model):
    """A drill that was worked on in an evening."""

    gym_path = "session__student__gym"
    removed_paths = ("session__student__removed_at",)

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="drilled")
    drill = models.CharField(max_length=80, help_text="key of the playbook's drill")
    name = models.CharField(max_length=80, help_text="what it was called then")

    objects = GymRows["Drilled"].as_manager()

    class Meta:
        ordering = ["session", "id"]
        constraints = [models.UniqueConstraint(fields=["session", "drill"], name="drill_once_an_evening")]

    def __str__(self) -> str:
        return f"{self.name} on {self.session}"


class PlannedSet(models.Model):
    """What is to be thrown: which strike, how often, under which levels. A block that is called is one with its times.

    Its `key` goes into what a recording says of its sets, so that the two find each other whatever the clocks say.
    """

    gym_path = "session__student__gym"
    removed_paths = ("session__student__removed_at",)

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="planned")
    key = models.CharField(max_length=20, default=new_key)
    place = models.IntegerField(help_text="0 is the evening's first")
    code = models.CharField(max_length=60)
    limb = models.CharField(max_length=12, blank=True)
    level = models.CharField(max_length=6, blank=True)
    levels = models.JSONField(default=dict, help_text="factor to level")
    school = models.ForeignKey(School, on_delete=models.SET_NULL, null=True, related_name="+")
    strikes = models.IntegerField(null=True, help_text="how many, where that was said")
    gear = models.CharField(max_length=80, blank=True, help_text="where it is not the evening's")
    began_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    objects = GymRows["PlannedSet"].as_manager()

    class Meta:
        ordering = ["session", "place"]
        constraints = [
            models.UniqueConstraint(fields=["session", "key"], name="planned_set_key_once"),
            models.CheckConstraint(condition=~Q(code=""), name="planned_set_has_a_code"),
            models.CheckConstraint(
                condition=Q(ended_at__isnull=True) | Q(began_at__isnull=False, ended_at__gt=F("began_at")),
                name="planned_set_ends_after_it_begins",
            ),
            models.CheckConstraint(
                condition=Q(strikes__isnull=True) | Q(strikes__gte=1, strikes__lte=1000), name="planned_strikes_count"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.code}, set {self.place + 1} of {self.session}"

    @property
    def value(self) -> str:
        """As in a recording's events: `code;limb;key=level,...`, with what it is known by."""
        pairs = ({"level": self.level} if self.level else {}) | self.levels | {"plan": self.key}
        return f"{self.code};{self.limb};" + ",".join(f"{k}={v}" for k, v in pairs.items())
