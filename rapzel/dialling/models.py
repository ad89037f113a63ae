"""Knobs that are dialled in, their tries, and the shots of a trigger unit."""

import secrets
from datetime import timedelta
from typing import Any, Self

from django.conf import settings
from django.db import models
from django.utils import timezone

from rapzel.core.trigger.dial import DialOutcome, Try
from rapzel.shoots.documents import SceneDocumentField
from rapzel.shoots.models import Scene
from rapzel.takes.models import Take

OUTCOMES: tuple[DialOutcome, ...] = ("early", "late", "on")
# after which nothing of a shot comes any more: its process is gone
GIVEN_UP = timedelta(seconds=40)


class OfScenes(models.QuerySet):
    """Rows of scenes, for the scene's owner alone."""

    def visible_to(self, user: Any) -> Self:
        return self.filter(
            scene__shoot__owner_id=user.pk,
            scene__shoot__deleted_at__isnull=True,
            scene__deleted_at__isnull=True,
        )


class DialIn(models.Model):
    """One knob of a scene being dialled in. `document` is the plan that all else must stay as in."""

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="dial_ins")
    path = models.CharField(max_length=200)
    name = models.CharField(max_length=200)
    by_eye = models.BooleanField(default=False)
    document = SceneDocumentField()
    at = models.DateTimeField(default=timezone.now)
    ended_at = models.DateTimeField(null=True, blank=True)

    objects = OfScenes.as_manager()

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["scene"],
                condition=models.Q(ended_at=None),
                name="one_knob_at_a_time",
            )
        ]

    def __str__(self) -> str:
        return f"{self.name} of {self.scene}"


class DialStep(models.Model):
    """A try of a dial-in: a take of the log, what was set, how it came out, and how late it was [s], early negative."""

    dial_in = models.ForeignKey(DialIn, on_delete=models.CASCADE, related_name="steps")
    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="step")
    value = models.FloatField()
    outcome = models.CharField(
        max_length=5, choices=[(each, each) for each in OUTCOMES]
    )
    offset_s = models.FloatField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.value:g} {self.outcome}"

    @property
    def tried(self) -> Try:
        """The try in the core's words."""
        outcome = next(each for each in OUTCOMES if each == self.outcome)
        return Try(self.value, outcome, self.offset_s)


def new_token() -> str:
    """A name for a shot that no other has had."""
    return f"shot-{secrets.token_hex(6)}"


class Shot(models.Model):
    """One conversation with the trigger unit: what was sent, how far it is, and what the unit reported."""

    class State(models.TextChoices):
        TALKING = "talking", "talking to the unit"
        ARMED = "armed", "armed, waiting for the event"
        FIRED = "fired", "fired"
        FAILED = "failed", "failed"
        DONE = "done", "done"  # a conversation without a shot

    UNDER_WAY = (State.TALKING, State.ARMED)

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="shots")
    token = models.CharField(max_length=40, default=new_token, unique=True)
    wakes = models.BooleanField(default=False)  # only wakes the unit up
    state = models.CharField(max_length=8, choices=State.choices, default=State.TALKING)
    # that the stand-in shall have
    fault = models.CharField(max_length=12, default="none")
    problem = models.CharField(max_length=12, blank=True)  # what kind of failure it was
    says = models.CharField(max_length=400, blank=True)
    sent = models.JSONField(default=dict)
    report = models.JSONField(default=dict)
    document = SceneDocumentField()
    at = models.DateTimeField(default=timezone.now)

    objects = OfScenes.as_manager()

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.token} {self.state}"

    @property
    def under_way(self) -> bool:
        """Whether something may still come of it."""
        return self.state in self.UNDER_WAY and timezone.now() - self.at < GIVEN_UP

    @property
    def fired(self) -> bool:
        return self.state == self.State.FIRED

    @property
    def tells(self) -> bool:
        """Whether its picture can be judged: it fired once, and the flash is not known to have stayed dark."""
        return (
            self.fired
            and self.report.get("pulses", "1") == "1"
            and self.report.get("answered") != "no"
        )


class UnitHold(models.Model):
    """Whose turn it is with a trigger unit; rapzel.dialling.holding keeps it. Without a token it is nobody's."""

    unit = models.CharField(max_length=200, unique=True)
    token = models.CharField(max_length=40, blank=True)  # of the shot
    scene = models.ForeignKey(
        Scene, on_delete=models.SET_NULL, null=True, related_name="+"
    )
    since = models.DateTimeField(default=timezone.now)
    until = models.DateTimeField(default=timezone.now)

    def __str__(self) -> str:
        return f"{self.unit}: {self.token or 'free'}"


class UnitUser(models.Model):
    """An account that was given the trigger unit, by `manage.py unit_users`."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+"
    )
    at = models.DateTimeField(default=timezone.now)

    def __str__(self) -> str:
        return f"{self.user} since {self.at:%Y-%m-%d}"
