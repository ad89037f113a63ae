"""The log of tries: each with the plan it followed, what was changed, and what came out."""

from typing import Any, Self

from django.db import models
from django.db.models import Func
from django.utils import timezone

from rapzel.shoots.documents import SceneDocumentField
from rapzel.shoots.models import Scene
from rapzel.takes import columns
from rapzel.ui.owned import Deletable


class Outcome(models.TextChoices):
    """What came out of a try. The first letter is its key on the keyboard."""

    KEEP = "keep", "Keep"
    EARLY = "early", "Early"
    LATE = "late", "Late"
    GHOST = "ghost", "Ghost"
    SMEAR = "smear", "Smear"
    BAND = "band", "Band"
    MISSED = "missed", "Missed"


class Takes(models.QuerySet):
    def visible_to(self, user: Any) -> Self:
        return self.filter(
            scene__shoot__owner_id=user.pk,
            scene__shoot__deleted_at__isnull=True,
            scene__deleted_at__isnull=True,
            deleted_at__isnull=True,
        )

    def put_away_by(self, user: Any) -> Self:
        return self.filter(scene__shoot__owner_id=user.pk, deleted_at__isnull=False)


def _column(expression: Func) -> models.GeneratedField:
    return models.GeneratedField(
        expression=expression, output_field=expression.output_field, db_persist=True
    )


class Take(Deletable):
    """One try on the set. `document` is the plan as it stood when the try was logged."""

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="takes")
    number = models.PositiveIntegerField()
    outcome = models.CharField(max_length=8, choices=Outcome.choices)
    changed = models.CharField("what was changed", max_length=400, blank=True)
    note = models.CharField(max_length=1000, blank=True)
    # Null where nobody said by how much: early and late without a figure are evidence, too.
    late_s = models.FloatField(
        "light late by [s], early negative", null=True, blank=True
    )
    document = SceneDocumentField()
    # so that none is logged twice
    key = models.CharField(
        "the browser's own key of the try", max_length=40, blank=True
    )
    at = models.DateTimeField(default=timezone.now)

    # Worked out by the database when a take is stored: a log of a thousand is read without its
    # plans.
    plan = _column(columns.plan_of_document())
    lateness = _column(columns.evidence_of_document("lateness"))
    landing = _column(columns.evidence_of_document("landing"))
    f_number = _column(columns.figure_of_document("exposure", "f_number"))
    iso = _column(columns.figure_of_document("exposure", "iso"))
    shutter_s = _column(columns.figure_of_document("exposure", "shutter_s"))
    method = _column(columns.text_of_document("exposure", "method"))
    light_names = _column(columns.of_lights("name"))
    light_powers = _column(columns.of_lights("power"))

    objects = Takes.as_manager()

    class Meta:
        ordering = ["-number"]
        indexes = [
            models.Index(
                fields=["scene", "outcome"],
                condition=models.Q(deleted_at=None),
                name="living_outcomes",
            ),
            models.Index(
                fields=["scene", "-number"],
                condition=models.Q(deleted_at=None),
                name="living_newest",
            ),
            models.Index(
                fields=["scene", "lateness", "-number"],
                condition=models.Q(deleted_at=None),
                name="living_of_a_lateness",
            ),
        ]
        constraints = [
            models.UniqueConstraint(
                fields=["scene", "number"], name="one_take_a_number"
            ),
            models.UniqueConstraint(
                fields=["scene", "key"],
                # Takes that were typed here and now have no key.
                condition=~models.Q(key=""),
                name="one_take_a_key",
            ),
        ]

    def __str__(self) -> str:
        return f"Take {self.number}: {self.outcome}"


class TakePicture(models.Model):
    """The frame of a take, small; computed ones as they came."""

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="picture")
    # Small enough for the row; so a take and its picture are stored, and go, together.
    image = models.BinaryField()
    content_type = models.CharField(max_length=40)

    def __str__(self) -> str:
        return f"Picture of {self.take}"
