"""What stands by a bag and what it sends: stations, their hubs' streams and packets, and the takes cut of them."""

import secrets

from django.db import models
from django.db.models import Q

from agile_strike.capture.models import Recording
from agile_strike.evening.models import PlannedSet, Session
from agile_strike.gym.models import Gym, GymRows, finite
from agile_strike.kit.models import Bag

KEY_BYTES = 6


def new_key() -> str:
    return secrets.token_hex(KEY_BYTES)


class Station(models.Model):
    """A bag with a hub by it. The hub shows a token, of which only the hash is kept."""

    gym = models.ForeignKey(Gym, on_delete=models.CASCADE, related_name="stations")
    name = models.CharField(max_length=60)
    bag = models.ForeignKey(Bag, on_delete=models.PROTECT, related_name="stations")
    token_hash = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
    revoked_at = models.DateTimeField(null=True)
    simulated_until = models.DateTimeField(null=True, help_text="until then a simulated student stands there")
    simulated_token = models.CharField(max_length=80, blank=True, help_text="of a simulated hub, which runs here")
    simulated_speed = models.FloatField(default=1.0)

    removed_paths = ("revoked_at",)
    objects = GymRows["Station"].as_manager()

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.UniqueConstraint(
                fields=["gym", "name"], condition=Q(revoked_at__isnull=True), name="station_name_once_a_gym"
            ),
            finite("simulated_speed"),
        ]

    def __str__(self) -> str:
        return self.name


class Stream(models.Model):
    """What one hub sends from one start of its spool on. Samples and packets are numbered through it."""

    gym_path = "station__gym"
    removed_paths = ("station__revoked_at",)

    station = models.ForeignKey(Station, on_delete=models.CASCADE, related_name="streams")
    key = models.CharField(max_length=40)
    opening = models.JSONField(help_text="its units and its speed, as the hub said them")
    began_at = models.DateTimeField(auto_now_add=True)
    clock = models.JSONField(null=True, help_text="the server's clock minus the hub's, and its doubt, seconds")
    battery = models.JSONField(default=dict, help_text="per cent, by placement")

    objects = GymRows["Stream"].as_manager()

    class Meta:
        ordering = ["-id"]
        constraints = [models.UniqueConstraint(fields=["station", "key"], name="stream_once_a_station")]

    def __str__(self) -> str:
        return f"stream {self.key} of {self.station}"


class Packet(models.Model):
    """What a hub sent, as it came. Acknowledged once it is here; dropped once its samples are in chunks for good."""

    gym_path = "stream__station__gym"

    stream = models.ForeignKey(Stream, on_delete=models.CASCADE, related_name="packets")
    number = models.BigIntegerField()
    content = models.BinaryField()
    received_at = models.DateTimeField(help_text="by the server's clock, before it was committed")
    gathered_s = models.FloatField(help_text="the hub's clock when its last sample had come")

    objects = GymRows["Packet"].as_manager()

    class Meta:
        ordering = ["stream", "number"]
        constraints = [
            models.UniqueConstraint(fields=["stream", "number"], name="packet_once"),
            models.CheckConstraint(condition=Q(number__gte=0), name="packet_is_numbered"),
            finite("gathered_s"),
        ]

    def __str__(self) -> str:
        return f"packet {self.number}"


class Take(models.Model):
    """A stretch of a stream in which one student strikes: it becomes one recording."""

    gym_path = "station__gym"
    removed_paths = ("session__student__removed_at", "recording__removed_at")

    station = models.ForeignKey(Station, on_delete=models.CASCADE, related_name="takes")
    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="takes")
    recording = models.OneToOneField(Recording, on_delete=models.CASCADE, related_name="take")
    key = models.CharField(max_length=20, default=new_key)
    began_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    stood_at = models.DateTimeField(null=True, help_text="when a tap last said that this student stands there")
    stream = models.ForeignKey(Stream, on_delete=models.PROTECT, related_name="takes", null=True)
    first_packet = models.BigIntegerField(null=True)
    last_packet = models.BigIntegerField(null=True)
    firsts = models.JSONField(default=dict, help_text="number of each unit's first sample, by placement")
    starts = models.JSONField(default=dict, help_text="each unit's first sample after the bag's, seconds, by the hub")
    clock = models.JSONField(null=True, help_text="the reference clock against the server's: see live.reference")
    packed_packet = models.BigIntegerField(default=0, help_text="all samples of packets before it are in chunks")
    state = models.JSONField(null=True, help_text="all that is slow, as it was learnt last: see core.analysis.State")
    settled_s = models.FloatField(default=0.0, help_text="of it, that the batch has measured")
    settled_at = models.DateTimeField(null=True)
    failed = models.CharField(
        max_length=8, default="", db_default="", help_text="why it can't be settled: the reference in the log"
    )
    stamped_at = models.DateTimeField(null=True, help_text="when stamps were asked for last")

    objects = GymRows["Take"].as_manager()

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.UniqueConstraint(fields=["station", "key"], name="take_key_once"),
            models.UniqueConstraint(fields=["station"], condition=Q(ended_at__isnull=True), name="one_take_a_station"),
            finite("settled_s"),
        ]

    def __str__(self) -> str:
        return f"{self.session} at {self.station}"


class Mark(models.Model):
    """Something that was begun or called in a take, by the server's clock: a set, a round, a cue, stamps."""

    gym_path = "take__station__gym"
    removed_paths = ("take__session__student__removed_at",)

    class Kind(models.TextChoices):
        SET = "set"
        ROUND = "round"
        CUE = "cue"
        STAMPS = "stamps"

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="marks")
    kind = models.CharField(max_length=8, choices=Kind.choices)
    key = models.CharField(max_length=20, default=new_key, help_text="made by the tablet, so that it counts once")
    value = models.CharField(max_length=300, blank=True)
    words = models.CharField(max_length=80, blank=True, help_text="as a cue is spoken")
    planned = models.ForeignKey(PlannedSet, on_delete=models.SET_NULL, null=True, related_name="marks")
    at = models.DateTimeField()
    doubt_ms = models.FloatField(default=0.0, help_text="of that instant: half the way to the server, and the sound's")
    until = models.DateTimeField(null=True)
    sounded = models.BooleanField(default=True, help_text="a cue that was planned counts once it has been heard")

    objects = GymRows["Mark"].as_manager()

    class Meta:
        ordering = ["at", "id"]
        constraints = [
            models.UniqueConstraint(fields=["take", "key"], name="mark_once"),
            models.UniqueConstraint(
                fields=["take"], condition=Q(kind="set", until__isnull=True), name="one_set_at_a_time"
            ),
            models.CheckConstraint(
                condition=Q(until__isnull=True) | Q(until__gte=models.F("at")), name="mark_ends_later"
            ),
            finite("doubt_ms"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} at {self.at:%H:%M:%S}"
