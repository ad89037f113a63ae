"""What of dial-ins goes along when a person leaves, and what is thrown away after a while."""

from collections.abc import Iterator
from typing import Any

from django.utils import timezone

from rapzel.dialling.models import DialIn, DialStep, Shot
from rapzel.ui import housekeeping, tables
from rapzel.ui.archive import Part

HEADER = ("scene", "knob", "begun", "take", "value", "outcome", "offset_s")


def tell(owner: Any) -> Iterator[Part]:
    """Every try of every dial-in as one CSV."""
    mine = DialIn.objects.visible_to(owner)
    steps = DialStep.objects.filter(dial_in__in=mine).select_related(
        "dial_in__scene__shoot", "take"
    )
    yield "dial-ins.csv", tables.to_csv(HEADER, map(_row, steps))


def _row(step: DialStep) -> list[Any]:
    """One try; its dial-in's beginning is told on the clock of the shoot, with the offset from UTC."""
    dial_in = step.dial_in
    begun = dial_in.scene.shoot.on_its_clock(dial_in.at)
    tried = [step.take.number, step.value, step.outcome, step.offset_s]
    return [dial_in.scene.name, dial_in.path, begun, *tried]


def tidy() -> None:
    """Shots that nobody looks at any more."""
    Shot.objects.filter(at__lt=timezone.now() - housekeeping.KEPT).delete()
