"""What of the kit goes along when a person leaves, and what is thrown away after a while."""

import json
from collections.abc import Iterator
from typing import Any

from django.utils import timezone

from rapzel.kit import exchange
from rapzel.kit.kinds import KINDS
from rapzel.kit.models import FigureRevision, TableRevision
from rapzel.ui import housekeeping
from rapzel.ui.archive import Part


def tell(owner: Any) -> Iterator[Part]:
    """The kit as one JSON document, and each kind as CSV."""
    yield (
        "kit.json",
        json.dumps(exchange.document_of(owner), indent=2, ensure_ascii=False),
    )
    for slug, kind in KINDS.items():
        yield f"kit/{slug}.csv", exchange.kit_csv(kind, exchange.items_of(kind, owner))


def tidy() -> None:
    """Removed things for good, and histories that nobody undoes any more."""
    for kind in KINDS.values():
        housekeeping.purge(kind.model)
    for revision in (FigureRevision, TableRevision):
        revision.objects.filter(at__lt=timezone.now() - housekeeping.KEPT).delete()
