"""Drills: a person's own finger, measured on one day."""

from functools import cached_property

from django.conf import settings
from django.db import models
from django.utils import timezone

from rapzel.core.trigger.drill import Drilled, measure
from rapzel.ui.owned import Deletable, Owned


class Drill(Deletable):
    """Twelve tries or so: of each, press minus instant [s]."""

    class What(models.TextChoices):
        LEAP = "leap", "A figure leaps: press at the top"
        BALL = "ball", "A ball lands: press as it touches"
        LAMP = "lamp", "A lamp lights up: press when you see it"

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+"
    )
    what = models.CharField(max_length=4, choices=What.choices)
    sound = models.BooleanField(default=False)
    errors_s = models.JSONField()
    key = models.CharField(
        "the browser's own key of the drill", max_length=40, blank=True
    )
    at = models.DateTimeField(default=timezone.now)

    objects = Owned.as_manager()

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [models.Index(fields=["owner", "-at"])]
        constraints = [
            models.UniqueConstraint(
                fields=["owner", "key"],
                condition=~models.Q(key=""),
                name="one_drill_a_key",
            )
        ]

    def __str__(self) -> str:
        return f"{self.what} of {self.owner_id}"

    @property
    def way(self) -> str:
        """Whether the person reacted, or anticipated, in the chain's words."""
        if self.what == self.What.LAMP:
            return "reacts"
        return "anticipates"

    @cached_property
    def result(self) -> Drilled:
        """Bias and spread with their doubts."""
        return measure(self.errors_s)

    @property
    def tries(self) -> list[tuple[float, bool]]:
        """Each error [s], and whether it is set aside as an outlier."""
        return [
            (error, place in self.result.outliers)
            for place, error in enumerate(self.errors_s)
        ]
