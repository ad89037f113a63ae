"""What of practice goes along when a person leaves, and what is thrown away after a while."""

from collections.abc import Iterable, Iterator
from typing import Any

from django.utils import timezone

from rapzel.practice.models import Drill
from rapzel.ui import housekeeping, tables
from rapzel.ui.archive import Part

HEADER = ("at", "drill", "sound", "try", "error_s", "outlier")


def to_csv(drills: Iterable[Drill]) -> str:
    """Every try of every drill, a line each, errors in seconds, times on the person's clock with its offset."""
    rows = (
        [
            timezone.localtime(drill.at).isoformat(),
            drill.what,
            drill.sound,
            number,
            error,
            out,
        ]
        for drill in drills
        for number, (error, out) in enumerate(drill.tries, start=1)
    )
    return tables.to_csv(HEADER, rows)


def tell(owner: Any) -> Iterator[Part]:
    """All drills as one CSV."""
    yield "practice.csv", to_csv(Drill.objects.visible_to(owner))


def tidy() -> None:
    """Removed drills for good."""
    housekeeping.purge(Drill)
