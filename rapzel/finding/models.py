"""A person's limits, and searches with what they found."""

from datetime import timedelta
from typing import Any, Self

from django.conf import settings
from django.db import models
from django.utils import timezone

from rapzel.shoots.models import Scene

PATIENCE = timedelta(seconds=30)  # with a search that says nothing any more
# with one that waits for its turn and is not asked for
IN_THE_QUEUE = timedelta(seconds=90)


class KeptLimits(models.Model):
    """The limits of a person's searches: for every scene, or with `scene` for that one alone."""

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+"
    )
    scene = models.ForeignKey(
        Scene, null=True, on_delete=models.CASCADE, related_name="limits"
    )
    document = models.JSONField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["owner", "scene"],
                name="one_limits_a_scene",
                nulls_distinct=False,
            )
        ]

    def __str__(self) -> str:
        return f"limits of {self.owner_id} for {self.scene_id or 'every scene'}"


class Findings(models.QuerySet):
    def visible_to(self, user: Any) -> Self:
        return self.filter(
            scene__shoot__owner_id=user.pk,
            scene__shoot__deleted_at__isnull=True,
            scene__deleted_at__isnull=True,
        )


class Finding(models.Model):
    """One search of a scene: what was asked, how far it is, and what it found."""

    class State(models.TextChoices):
        RUNNING = "running", "Searching"
        DONE = "done", "Searched"
        CANCELLED = "cancelled", "Stopped"
        FAILED = "failed", "Broken off"

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="findings")
    asked = models.CharField("fingerprint of the question", max_length=40)
    question = models.TextField("scene, kit and limits")
    state = models.CharField(max_length=9, choices=State.choices, default=State.RUNNING)
    progress = models.PositiveSmallIntegerField(default=0)
    says = models.CharField(max_length=400, blank=True)
    begun = models.BooleanField("whether the background works on it", default=False)
    patient = models.BooleanField(
        "whether it takes the time that it needs", default=False
    )
    cancel_asked = models.BooleanField(default=False)
    result = models.JSONField(null=True, blank=True)
    heard_at = models.DateTimeField("last sign of life", default=timezone.now)

    objects = Findings.as_manager()

    class Meta:
        ordering = ["-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["scene", "asked"], name="one_finding_a_question"
            )
        ]

    def __str__(self) -> str:
        return f"search of {self.scene_id}"

    @property
    def busy(self) -> bool:
        """Whether somebody is still searching, or will in turn."""
        if self.begun:
            patience = PATIENCE
        else:
            patience = IN_THE_QUEUE
        return (
            self.state == self.State.RUNNING
            and timezone.now() - self.heard_at < patience
        )

    @property
    def goes_on(self) -> bool:
        """Whether it is done, or somebody works on it: whoever waits for it need not ask anew."""
        return bool(self.busy or self.state == self.State.DONE)
