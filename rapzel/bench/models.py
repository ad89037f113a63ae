"""Recorded light: the file as it came, how it is read, and what was found in it."""

from typing import Any, Self

from django.conf import settings
from django.db import models
from django.utils import timezone

from rapzel.kit.models import Strobe


class Owned(models.QuerySet):
    def visible_to(self, user: Any) -> Self:
        return self.filter(owner_id=user.pk, deleted_at__isnull=True)

    def put_away_by(self, user: Any) -> Self:
        return self.filter(owner_id=user.pk, deleted_at__isnull=False)


def _place(trace: "Trace", filename: str) -> str:
    return f"bench/{trace.owner_id}/{timezone.now():%Y%m%d%H%M%S%f}-{filename[-60:]}"


class Trace(models.Model):
    """One recording. `layout` is confirmed by its owner before `result` is worked out in the background."""

    class State(models.TextChoices):
        NEW = "new", "To be confirmed"
        QUEUED = "queued", "Waiting"
        RUNNING = "running", "Being measured"
        DONE = "done", "Measured"
        FAILED = "failed", "Not readable"
        CANCELLED = "cancelled", "Cancelled"

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=120)
    file = models.FileField(upload_to=_place, max_length=300)
    size = models.PositiveBigIntegerField(default=0)
    layout = models.JSONField(default=dict)
    channel = models.PositiveSmallIntegerField(null=True, blank=True)
    strobe = models.ForeignKey(Strobe, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    mode = models.CharField(max_length=40, blank=True)
    power = models.FloatField(null=True, blank=True)
    state = models.CharField(max_length=9, choices=State.choices, default=State.NEW)
    progress = models.PositiveSmallIntegerField(default=0)
    says = models.TextField(blank=True, max_length=1000)
    cancel_asked = models.BooleanField(default=False)
    samples_file = models.CharField(max_length=300, blank=True)
    result = models.JSONField(null=True, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = Owned.as_manager()

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def busy(self) -> bool:
        """Whether the background is still to answer."""
        return self.state in (self.State.QUEUED, self.State.RUNNING)

    def put_away(self) -> None:
        """Deletes the trace so that it can be taken back; its file stays."""
        self.deleted_at = timezone.now()
        self.save(update_fields=["deleted_at"])

    def take_back(self) -> None:
        """Undoes the deletion."""
        self.deleted_at = None
        self.save(update_fields=["deleted_at"])
