"""What of dial-ins goes along when a person leaves, and what is thrown away after a while."""

from collections.abc import Iterator
from typing import Any

from django.utils import timezone

from rapzel.dialling.models import DialIn, Shot, Step
from rapzel.ui import housekeeping, tables
from rapzel.ui.leaving import Part

HEADER = ("scene", "knob", "begun", "take", "value", "outcome", "offset_s")


def tell(owner: Any) -> Iterator[Part]:
    """Every try of every dial-in as one CSV."""
    mine = DialIn.objects.visible_to(owner)
    steps = Step.objects.filter(dial_in__in=mine).select_related("dial_in__scene", "take")
    rows = (
        [each.dial_in.scene.name, each.dial_in.path, each.dial_in.at.isoformat(), each.take.number, each.value,
         each.outcome, each.offset_s]
        for each in steps
    )  # fmt: skip
    yield "dial-ins.csv", tables.to_csv(HEADER, rows)


def tidy() -> None:
    """Shots that nobody looks at any more."""
    Shot.objects.filter(at__lt=timezone.now() - housekeeping.KEPT).delete()
