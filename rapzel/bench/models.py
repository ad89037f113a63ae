"""Recorded light: the file as it came, how it is read, and what was found in it."""

from django.conf import settings
from django.db import models
from django.utils import timezone

from rapzel.kit.models import Strobe
from rapzel.ui.owned import Deletable, Owned


def _place(trace: "Trace", filename: str) -> str:
    return f"bench/{trace.owner_id}/{timezone.now():%Y%m%d%H%M%S%f}-{filename[-60:]}"


class State(models.TextChoices):
    """How far the background is with something."""

    NEW = "new", "To be confirmed"
    QUEUED = "queued", "Waiting"
    RUNNING = "running", "Being measured"
    DONE = "done", "Measured"
    FAILED = "failed", "Not readable"
    CANCELLED = "cancelled", "Cancelled"


BUSY = (State.QUEUED, State.RUNNING)


class Measured(Deletable):
    """What a person brings to the bench and the background measures."""

    State = State

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+"
    )
    name = models.CharField(max_length=120)
    strobe = models.ForeignKey(
        Strobe, null=True, blank=True, on_delete=models.SET_NULL, related_name="+"
    )
    mode = models.CharField(max_length=200, blank=True)
    state = models.CharField(max_length=9, choices=State.choices, default=State.NEW)
    progress = models.PositiveSmallIntegerField(default=0)
    says = models.TextField(blank=True, max_length=1000)
    cancel_asked = models.BooleanField(default=False)
    result = models.JSONField(null=True, blank=True)
    asked_at = models.DateTimeField(
        "when the measuring was asked for", null=True, blank=True
    )
    at = models.DateTimeField(auto_now_add=True)

    objects = Owned.as_manager()

    class Meta:
        abstract = True
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def busy(self) -> bool:
        """Whether the background is still to answer."""
        return self.state in BUSY


class Trace(Measured):
    """One recording. `layout` is confirmed by its owner before `result` is worked out in the background."""

    file = models.FileField(upload_to=_place, max_length=300)
    size = models.PositiveBigIntegerField(default=0)
    layout = models.JSONField(default=dict)
    channel = models.PositiveSmallIntegerField(null=True, blank=True)
    power = models.FloatField(null=True, blank=True)
    samples_file = models.CharField(max_length=300, blank=True)
    # of the result, for lists: a result of many sweeps is long
    summary = models.JSONField(default=dict)


class ColourRun(Measured):
    """Frames of a grey card, one for each pop or power; judged together in the background."""

    white_balance_k = models.FloatField("white balance of the frames", default=5500.0)
    tolerance = models.FloatField("tolerance, ΔE00", default=1.0)
    # left, top, width, height as shares; none: found by itself
    patch = models.JSONField(null=True, blank=True)


class ColourFrame(models.Model):
    """One frame of a run, with the power it was taken at where that is known."""

    run = models.ForeignKey(ColourRun, on_delete=models.CASCADE, related_name="frames")
    file = models.FileField(upload_to="bench/frames", max_length=300)
    name = models.CharField(max_length=120)
    power = models.FloatField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name
