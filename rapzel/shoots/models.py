"""Shoots hold scenes; a scene holds one document, its history and its pinned snapshots."""

from datetime import datetime, tzinfo
from typing import Any, Self
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db import models
from django.utils import timezone

from rapzel.shoots.documents import SceneDocumentField
from rapzel.ui import zones
from rapzel.ui.owned import Deletable, Owned


class Shoot(Deletable):
    """A job: client, place, time window, people, notes."""

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+"
    )
    name = models.CharField(max_length=120)
    client = models.CharField(max_length=120, blank=True)
    place = models.CharField(max_length=200, blank=True)
    starts_at = models.DateTimeField("from", null=True, blank=True)
    ends_at = models.DateTimeField("until", null=True, blank=True)
    # A shoot may lie in another zone than the person who plans it.
    zone = models.CharField(
        "time zone",
        max_length=zones.LONGEST_NAME,
        blank=True,
        validators=[zones.require_known],
    )
    people = models.CharField(max_length=400, blank=True)
    notes = models.TextField(blank=True, max_length=4000)
    changed_at = models.DateTimeField(auto_now=True)

    objects = Owned.as_manager()

    class Meta:
        ordering = ["-changed_at", "pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def clock(self) -> tzinfo:
        """The zone in which its times are written."""
        if self.zone:
            return ZoneInfo(self.zone)
        return timezone.get_current_timezone()

    def on_its_clock(self, at: datetime | None) -> str | None:
        """A moment in ISO 8601 with the offset of its zone."""
        if at is None:
            return None
        return timezone.localtime(at, self.clock).isoformat()


class Scenes(models.QuerySet):
    def visible_to(self, user: Any) -> Self:
        return self.filter(
            shoot__owner_id=user.pk,
            shoot__deleted_at__isnull=True,
            deleted_at__isnull=True,
        )

    def put_away_by(self, user: Any) -> Self:
        return self.filter(shoot__owner_id=user.pk, deleted_at__isnull=False)


class Scene(Deletable):
    """One set-up. `document` is the scene document; `revision` counts its changes."""

    shoot = models.ForeignKey(Shoot, on_delete=models.CASCADE, related_name="scenes")
    name = models.CharField(max_length=200)
    # The order of the day, as it is told by hand.
    position = models.PositiveIntegerField(default=0)
    document = SceneDocumentField()
    revision = models.PositiveIntegerField(default=1)
    changed_at = models.DateTimeField(auto_now=True)

    objects = Scenes.as_manager()

    class Meta:
        ordering = ["position", "pk"]

    def __str__(self) -> str:
        return self.name


class SceneRevision(models.Model):
    """What a scene was before a change, so that the change can be undone; or, with `redo`, before it was undone."""

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    document = SceneDocumentField()
    before = models.CharField("before which change", max_length=200)
    # Both directions in one table: what was undone waits beside what can be.
    redo = models.BooleanField(default=False)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(
                fields=["scene", "number"], name="one_revision_a_number"
            )
        ]

    def __str__(self) -> str:
        return f"{self.scene_id} before {self.before}"


class Snapshot(Deletable):
    """A scene as it was when it was pinned, for comparison."""

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="snapshots")
    name = models.CharField(max_length=120)
    document = SceneDocumentField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]

    def __str__(self) -> str:
        return self.name
