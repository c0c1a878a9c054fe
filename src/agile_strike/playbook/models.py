"""A gym's schools and the checks that each makes."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q

from agile_strike.core.playbook import schools as core
from agile_strike.gym.models import Gym, GymRows, finite


class School(models.Model):
    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="schools")
    name = models.CharField(max_length=60)
    belief = models.TextField(blank=True)
    objects_to = ArrayField(models.CharField(max_length=40), default=list)
    version = models.IntegerField(default=1, help_text="so that two coaches don't overwrite each other")
    removed_at = models.DateTimeField(null=True)

    removed_paths = ("removed_at",)
    objects = GymRows.as_manager()

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["gym", "name"], name="school_name_once_a_gym"),
            models.CheckConstraint(condition=~Q(name=""), name="school_has_a_name"),
        ]

    def __str__(self) -> str:
        return self.name

    def to_core(self) -> core.School:
        """Checks must have been fetched along."""
        return core.School(
            self.name, self.belief, tuple(c.to_core() for c in self.checks.all()), tuple(self.objects_to)
        )


class Check(models.Model):
    """A target range for one measure; one edge may be open."""

    school = models.ForeignKey(School, on_delete=models.CASCADE, related_name="checks")
    name = models.CharField(max_length=80)
    measure = models.CharField(max_length=40)
    low = models.FloatField(null=True)
    high = models.FloatField(null=True)
    strikes = ArrayField(models.CharField(max_length=40), default=list)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(low__isnull=True) | Q(high__isnull=True) | Q(low__lt=F("high")), name="range_runs_upward"
            ),
            finite("low", "high"),
        ]

    def __str__(self) -> str:
        return self.name

    def to_core(self) -> core.Check:
        return core.Check(self.name, self.measure, self.low, self.high, tuple(self.strikes))


class CallWord(models.Model):
    """What a gym calls a strike by."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="call_words")
    word = models.CharField(max_length=12)
    code = models.CharField(max_length=40)
    place = models.IntegerField()

    objects = GymRows["CallWord"].as_manager()

    class Meta:
        ordering = ["place", "id"]
        constraints = [
            models.UniqueConstraint(fields=["gym", "word"], name="call_word_once_a_gym"),
            models.CheckConstraint(condition=~Q(word="") & ~Q(code=""), name="call_word_means_a_strike"),
        ]

    def __str__(self) -> str:
        return f"{self.word}: {self.code}"


class Written(models.Model):
    """What a school, or the gym's calls (no school), said from a day on. Rows are only added."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="+")
    school = models.ForeignKey(School, null=True, on_delete=models.CASCADE, related_name="written")
    version = models.IntegerField()
    content = models.JSONField(
        help_text="of a school as it is sent to be saved; of the calls word and strike, in their order"
    )
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    objects = GymRows["Written"].as_manager()

    class Meta:
        ordering = ["-version"]
        constraints = [
            models.UniqueConstraint(fields=["school", "version"], name="school_written_once"),
            models.UniqueConstraint(
                fields=["gym", "version"], condition=Q(school__isnull=True), name="calls_written_once"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.school or 'calls'}, version {self.version}"


class GymStrike(models.Model):
    """A strike of a gym's own, beside the shipped ones."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="own_strikes")
    code = models.CharField(max_length=60)
    name = models.CharField(max_length=60)

    objects = GymRows["GymStrike"].as_manager()

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.UniqueConstraint(fields=["gym", "code"], name="own_strike_once_a_gym"),
            models.CheckConstraint(condition=~Q(code="") & ~Q(name=""), name="own_strike_has_a_name"),
        ]

    def __str__(self) -> str:
        return self.name


class Entries(GymRows["Entry"]):
    def as_it_stands(self) -> "Entries":
        """The version of each entry that stands."""
        return self.order_by("kind", "key", "-version").distinct("kind", "key")


class Entry(models.Model):
    """A version of an entry of a gym's playbook. Rows are only added: what stands is the latest of its key."""

    class State(models.TextChoices):
        OWN = "own"
        OURS = "ours"  #: as it ships
        OFF = "off"

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="playbook")
    kind = models.CharField(max_length=10, help_text="of playbook.contents.SHIPPED")
    key = models.CharField(max_length=80)
    version = models.IntegerField()
    state = models.CharField(max_length=4, choices=State.choices)
    content = models.JSONField(null=True, help_text="as its kind has it; none: as it ships")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    objects = Entries.as_manager()

    class Meta:
        ordering = ["kind", "key", "version"]
        constraints = [
            models.UniqueConstraint(fields=["gym", "kind", "key", "version"], name="playbook_version_once"),
            models.CheckConstraint(condition=Q(version__gte=1) & ~Q(key=""), name="playbook_version_has_a_key"),
            models.CheckConstraint(
                condition=Q(state="ours", content__isnull=True) | Q(state__in=["own", "off"], content__isnull=False),
                name="playbook_own_has_content",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.key}, version {self.version}"
